import { describe, expect, it } from 'vitest'
import { box, lathe, sphere } from '../testing/shapes'
import { areaOf, Patches, type Mesh } from './index'

const of = (m: Mesh, faces: readonly number[]): Mesh => ({ positions: m.positions, triangles: Uint32Array.from(faces.flatMap(f => [...m.triangles.subarray(3 * f, 3 * f + 3)])) })
const length = (s: Float32Array): number => {
  let sum = 0
  for (let i = 0; i < s.length; i += 6) sum += Math.hypot(s[i + 3] - s[i], s[i + 4] - s[i + 1], s[i + 5] - s[i + 2])
  return sum
}

describe('a flat', () => {
  it('is the side of a box that a face is part of, with its border', () => {
    const m = box([0, 0, 0], [2, 3, 4]), patches = new Patches(m)
    for (let f = 0; f < 12; f++) {
      const { faces, normal } = patches.flatAt(f)
      expect(faces).toHaveLength(2)
      expect(normal).toEqual(patches.normalOf(f))
      const [a, b] = [2, 3, 4].filter((_, c) => normal[c] === 0)
      expect([areaOf(of(m, faces)), length(patches.borderOf(faces))]).toEqual([a * b, 2 * (a + b)])
    }
  })
  it('is the whole end of a rod, and does not creep around what is round', () => {
    const rod = lathe([[0, 0], [3, 0], [3, 10], [0, 10]], 48), patches = new Patches(rod), end = patches.flatAt(0)
    expect([end.faces.length, end.normal]).toEqual([48, [0, 0, -1]])
    expect(new Patches(sphere([0, 0, 0], 5, 96)).flatAt(3000).faces.length).toBeLessThan(12)
  })
})

describe('a crease', () => {
  it('is the edge nearest to a point, with the faces that meet there', () => {
    const m = box([0, 0, 0], [2, 3, 4]), patches = new Patches(m)
    const top = [...Array(12).keys()].find(f => patches.normalOf(f)[2] > 0.9) as number
    const crease = patches.creaseAt(top, [1.9, 1.5, 4])
    expect([crease?.from, crease?.to].map(p => p?.[0])).toEqual([2, 2])
    expect(crease?.normals).toEqual([[0, 0, 1], [1, 0, 0]])
  })
  it('is none on what is smooth', () => {
    expect(new Patches(sphere([0, 0, 0], 5, 96)).creaseAt(3000, [0, 0, 5])).toBe(null)
  })
})
