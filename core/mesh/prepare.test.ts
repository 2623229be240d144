import { describe, expect, it } from 'vitest'
import { bowl, box, reversed, sphere } from '../testing/shapes'
import { joinMeshes, prepareMesh, volumeOf, weldVertices, type Mesh } from './index'

const soup = (m: Mesh): Mesh => ({ positions: Float32Array.from([...m.triangles].flatMap(v => [...m.positions.subarray(3 * v, 3 * v + 3)])), triangles: Uint32Array.from(m.triangles, (_, i) => i) })
const without = (m: Mesh, ...gone: number[]): Mesh => ({ positions: m.positions, triangles: m.triangles.filter((_, i) => !gone.includes(Math.floor(i / 3))) })

describe('preparing a mesh', () => {
  it('welds a soup and takes −0 for 0', () => {
    expect(weldVertices(soup(box([0, 0, 0], [1, 1, 1]))).positions.length).toBe(24)
    const m = box([0, 0, 0], [1, 1, 1])
    const minus = { positions: Float32Array.from([...m.positions, ...m.positions.map(v => (v === 0 ? -0 : v))]), triangles: Uint32Array.from([...m.triangles, ...m.triangles.map(v => v + 8)]) }
    expect(weldVertices(minus).positions.length).toBe(24)
  })

  it('knows volumes (closed forms: box, sphere inscribed in its facets within half a percent)', () => {
    expect(prepareMesh(box([0, 0, 0], [2, 3, 4])).report.volumeMm3).toBeCloseTo(24, 5)
    expect(prepareMesh(sphere([5, 5, 5], 3, 128)).report.volumeMm3 / (36 * Math.PI)).toBeCloseTo(1, 2)
  })

  it('counts unclosed edges and closes the holes without a change of volume where they are flat', () => {
    const b = box([0, 0, 0], [2, 2, 2])
    const { mesh, report } = prepareMesh(without(b, 0, 1))
    expect([report.unclosedEdges, report.cappedLoops]).toEqual([4, 1])
    expect(volumeOf(mesh)).toBeCloseTo(8, 5)
    expect(prepareMesh(mesh).report.unclosedEdges).toBe(0)
  })

  it('closes several holes that share a vertex', () => {
    const s = sphere([0, 0, 0], 5, 16)
    const { mesh, report } = prepareMesh(without(s, 20, 21, 24, 25, 60, 100))
    expect(report.unclosedEdges).toBeGreaterThan(8)
    expect(prepareMesh(mesh).report.unclosedEdges).toBe(0)
  })

  it('turns inverted shells outward, keeps cavities, and tells them apart', () => {
    const outer = sphere([0, 0, 0], 5, 32), inner = reversed(sphere([0, 0, 0], 3, 32))
    expect(prepareMesh(joinMeshes([outer, inner])).report).toMatchObject({ cavities: 1, turnedShells: 0, shells: 2 })
    expect(prepareMesh(reversed(outer)).report).toMatchObject({ cavities: 0, turnedShells: 1 })
    // overlapping, not inside: an inverted solid
    expect(prepareMesh(joinMeshes([outer, reversed(sphere([5, 0, 0], 3, 32))])).report).toMatchObject({ cavities: 0, turnedShells: 1 })
  })

  it('says where a mesh is too damaged to trust', () => {
    const s = sphere([0, 0, 0], 5, 32)
    const some = Array.from({ length: 60 }, (_, i) => 40 + i * 14)
    expect(prepareMesh(without(s, ...some)).report.tooDamaged).toBe(true)
    expect(prepareMesh(without(s, 40)).report.tooDamaged).toBe(false)
  })

  it('drops triangles without an area and repeats', () => {
    const b = bowl(5, 1, 10, 2, 0, 16)
    const messy = { positions: b.positions, triangles: Uint32Array.from([...b.triangles, 0, 0, 1, ...b.triangles.subarray(0, 3)]) }
    const { report } = prepareMesh(messy)
    expect([report.degenerateTriangles, report.duplicateTriangles, report.unclosedEdges]).toEqual([1, 1, 0])
  })
})
