import fc from 'fast-check'
import { Matrix3, Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { AS_MADE, type Recipe } from '../contract'
import { boundsOf, cross, distance, dot, sizeOf, sub, unit, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { box, moved, sphere } from '../testing/shapes'
import { fromSource, guessUnits, mirroredTilt, moveMesh, normalFromSource, normalToSource, shapedMesh, shapedSize, shapeOf, standOf, toSource, UNSHAPED, type Standing, type StandPose } from './index'

const angle = fc.double({ min: -180, max: 180, noNaN: true }), factor = fc.double({ min: 0.05, max: 20, noNaN: true })
const tilt = fc.record<StandPose>({ tiltXDeg: angle, tiltYDeg: angle, liftMm: fc.double({ min: 0, max: 20, noNaN: true }) })
const recipe = fc.record<Recipe>({ mended: fc.constant(true), unitMm: fc.constantFrom(1, 10, 25.4), scale: fc.tuple(factor, factor, factor), mirrored: fc.boolean(), hollow: fc.constant(null), holes: fc.constant([]), cuts: fc.constant([]), plug: fc.constant(null) })
const coordinate = fc.double({ min: -50, max: 50, noNaN: true }), point = fc.tuple(coordinate, coordinate, coordinate)
// nothing of it is the same left and right
const odd: Mesh = moved(box([0, 0, 0], [10, 4, 3]), [7, -2, 5])
const standing = (mesh: Mesh, r: Recipe, pose: StandPose): Standing => ({ shape: shapeOf(r), stand: standOf(shapedMesh(mesh, shapeOf(r)).positions, pose, 0.05) })

describe('what a recipe makes of a source', () => {
  it('is the very same mesh where nothing is changed', () => {
    expect(shapedMesh(odd, shapeOf(AS_MADE)).positions).toBe(odd.positions)
    expect(shapeOf(AS_MADE)).toEqual(UNSHAPED)
  })

  it('has the volume and size of the source times its factors, and faces outward, mirrored or not', () => {
    const ball = sphere([3, 1, 2], 2, 24)
    fc.assert(fc.property(recipe, r => {
      const shape = shapeOf(r), mesh = shapedMesh(ball, shape), by = Math.abs(shape[0] * shape[1] * shape[2])
      expect(volumeOf(mesh) / (by * volumeOf(ball))).toBeCloseTo(1, 4)
      sizeOf(boundsOf(mesh.positions)).forEach((v, c) => expect(v / shapedSize(sizeOf(boundsOf(ball.positions)), shape)[c]).toBeCloseTo(1, 5))
    }))
  })

  it('takes points and normals to the stand as a general matrix does (reference library: three 0.187), and back', () => {
    fc.assert(fc.property(recipe, tilt, point, point, (r, pose, p, n) => {
      fc.pre(Math.hypot(...n) > 1e-3)
      const to = standing(odd, r, pose), m = to.stand
      const whole = new Matrix4().set(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], 0, 0, 0, 1).multiply(new Matrix4().makeScale(...to.shape))
      const there = new Vector3(...p).applyMatrix4(whole), normal = new Vector3(...n).applyNormalMatrix(new Matrix3().getNormalMatrix(whole))
      expect(distance(fromSource(to, p), there.toArray())).toBeLessThan(1e-8 * (1 + there.length()))
      expect(distance(toSource(to, fromSource(to, p)), p)).toBeLessThan(1e-8)
      expect(distance(normalFromSource(to, n), normal.toArray())).toBeLessThan(1e-9)
      expect(distance(normalToSource(to, normalFromSource(to, n)), unit(n))).toBeLessThan(1e-9)
    }))
  })

  it('keeps normals across the faces they belong to', () => {
    fc.assert(fc.property(recipe, tilt, (r, pose) => {
      const ball = sphere([3, 1, 2], 2, 12), to = standing(ball, r, pose), mesh = moveMesh(shapedMesh(ball, to.shape), to.stand)
      const corner = (of: Mesh, i: number): Vec3 => [0, 1, 2].map(c => of.positions[3 * of.triangles[i] + c]) as unknown as Vec3
      for (let i = 30; i < 60; i += 3) {
        const across = (of: Mesh): Vec3 => unit(cross(sub(corner(of, i + 1), corner(of, i)), sub(corner(of, i + 2), corner(of, i))))
        expect(dot(normalFromSource(to, across(ball)), across(mesh))).toBeCloseTo(1, 3)
      }
    }), { numRuns: 40 })
  })
})

describe('a mirrored part', () => {
  it('stands as the mirror image of what it was, left for right', () => {
    fc.assert(fc.property(recipe, tilt, point, point, (r, pose, p, q) => {
      const before = standing(odd, r, pose), now = standing(odd, { ...r, mirrored: !r.mirrored }, mirroredTilt(pose))
      const [a, b, c, d] = [fromSource(before, p), fromSource(now, p), fromSource(before, q), fromSource(now, q)]
      // every point is at its image: where the mirror stands is the same for all, to a pixel in the middle
      expect(a[0] + b[0]).toBeCloseTo(c[0] + d[0], 6)
      expect(Math.abs(a[0] + b[0])).toBeLessThan(0.0501 + 1e-4 * Math.abs(a[0]))
      expect([b[1] - a[1], b[2] - a[2]]).toEqual([expect.closeTo(0, 3), expect.closeTo(0, 3)])
    }))
  })
})

describe('sizes that make one doubt the unit', () => {
  it('are taken for inches first, then for what else would be a usual print', () => {
    expect(guessUnits([1.2, 1.1, 2.1]).map(g => [g.unit, Number(g.largestMm.toFixed(2))])).toEqual([['inches', 53.34], ['centimetres', 21]])
    expect(guessUnits([0.02, 0.05, 0.075]).map(g => g.unit)).toEqual(['metres'])
    expect(guessUnits([40000, 20000, 1000]).map(g => g.unit)).toEqual(['microns'])
  })
  it('are none between a charm and a large printer', () => {
    for (const size of [6, 22, 60, 300, 1000]) expect(guessUnits([size, 1, 1])).toEqual([])
  })
})
