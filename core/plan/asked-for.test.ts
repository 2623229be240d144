import { describe, expect, it } from 'vitest'
import { joinMeshes, NO_SOURCE, type Mesh } from '../mesh'
import { Surface } from '../stilts'
import { box } from '../testing/shapes'
import { isEnclosed } from './asked-for'

// Known answers: walls, a floor and a ceiling of boxes, with a brim outside and a narrow gap behind an outer wall.
const walls = (from: number, to: number, z0: number, z1: number): Mesh[] => [box([-to, -to, z0], [-from, to, z1]), box([from, -to, z0], [to, to, z1]), box([-from, -to, z0], [from, -from, z1]), box([-from, from, z0], [from, to, z1])]
const lidded = joinMeshes([box([-12, -12, 0], [12, 12, 1]), ...walls(6, 7, 1, 9), ...walls(7.6, 9, 1, 9), box([-14, -14, 9], [14, 14, 10])])
const bellJar = joinMeshes([...walls(6, 7, 0, 9), box([-7, -7, 9], [7, 7, 10])])

describe('skin that has the part all around it', () => {
  it('is the ceiling of a hollow, and not the underside of a brim or of a gap', () => {
    const surface = new Surface(lidded), is = (x: number, z = 9): boolean => isEnclosed(surface, [x, 0, z], false)
    expect([is(0), is(5), is(7.3), is(12), is(0, 0)]).toEqual([true, true, false, false, false])
  })
  it('is not the ceiling of what is open below', () => {
    expect(isEnclosed(new Surface(bellJar), [0, 0, 9], false)).toBe(false)
  })
  it('still is where a hole leads out', () => {
    // a hole of 2 mm in the middle of a wall, made of four pieces around it
    const holed = joinMeshes([box([-12, -12, 0], [12, 12, 1]), box([-7, -7, 1], [-6, 7, 9]), box([-6, -7, 1], [6, -6, 9]), box([-6, 6, 1], [6, 7, 9]), box([6, -7, 1], [7, -1, 9]), box([6, 1, 1], [7, 7, 9]), box([6, -1, 1], [7, 1, 4]), box([6, -1, 6], [7, 1, 9]), box([-7, -7, 9], [7, 7, 10])])
    expect(isEnclosed(new Surface(holed), [-1, 0, 9], false)).toBe(true)
  })
  it('is only what was made where the part was hollowed here', () => {
    const count = lidded.triangles.length / 3, inside = Uint32Array.from({ length: count }, (_, i) => i), within = (i: number): boolean => [0, 1, 2].every(c => [0, 1].every(a => Math.abs(lidded.positions[3 * lidded.triangles[3 * i + c] + a]) <= 14))
    const made = new Surface({ ...lidded, from: inside.map(i => (i >= count - 12 && within(i) ? NO_SOURCE : i)) }), came = new Surface({ ...lidded, from: inside })
    expect([isEnclosed(made, [0, 0, 9], true), isEnclosed(came, [0, 0, 9], true), isEnclosed(came, [0, 0, 9], false)]).toEqual([true, false, true])
  })
})
