import { describe, expect, it } from 'vitest'
import { prepareMesh, volumeOf } from '../mesh'
import { bowl, box, curtain, joinMeshes, knot, lathe, moved, reversed, sphere } from './shapes'

// What tests and benchmarks are made of has to be what it says: closed, outward, of known volume.

describe('shapes to test with', () => {
  const tube = 2 * Math.PI ** 2 * 6 * 1.5 ** 2
  it.each([
    // Published: Pappus's centroid theorem (torus); elementary solids otherwise
    ['a box', box([1, 2, 3], [4, 6, 8]), 60, 1e-6],
    ['a sphere', sphere([3, 1, 2], 4, 128), (4 / 3) * Math.PI * 64, 0.003],
    ['a cone', lathe([[0, 0], [3, 0], [0, 5]], 256), Math.PI * 15, 0.001],
    ['a bowl', bowl(5, 1, 6, 1.5, 0, 256), Math.PI * (25 * 6 - 16 * 4.5), 0.001],
    ['a curtain', curtain([0, 1, 4], [0, 1, 1], [3, 3, 5], 0, 2), 2 * (2.5 + 9), 1e-5],
    // with nothing to wind around, the tube closes to a torus after its turns
    ['a torus', knot(400, 64, 6, 0, 1.5, [0, 0, 0], 1, 0), tube, 0.005],
  ] as const)('%s is closed, faces outward and has its volume', (_, mesh, volume, tolerance) => {
    expect(Math.abs(volumeOf(mesh) / volume - 1)).toBeLessThan(tolerance)
    expect(prepareMesh(mesh).report).toMatchObject({ unclosedEdges: 0, turnedShells: 0, shells: 1 })
  })

  it('a knot faces outward too', () => {
    const mesh = knot(200, 24, 8, 4, 1.2, [0, 0, 8])
    expect(volumeOf(mesh)).toBeGreaterThan(0)
    expect(prepareMesh(mesh).report).toMatchObject({ unclosedEdges: 0, turnedShells: 0, shells: 1 })
  })

  it('move, turn inside out and join as they should', () => {
    const one = box([0, 0, 0], [1, 2, 3])
    expect(volumeOf(moved(one, [5, 5, 5]))).toBeCloseTo(6, 5)
    expect(volumeOf(reversed(one))).toBeCloseTo(-6, 5)
    expect(volumeOf(joinMeshes([one, moved(one, [9, 0, 0])]))).toBeCloseTo(12, 5)
  })
})
