import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MarkSchema, WORTHS, type Mark } from '../contract'
import { areaOf, prepareMesh, type Mesh } from '../mesh'
import { shapedMesh } from '../pose'
import { sphere } from '../testing/shapes'
import { areasByWorth, facesOf, runsOf, runsOnMesh, worthOfFaces, worthsOf } from './index'

const ball = sphere([0, 0, 0], 5, 24), count = ball.triangles.length / 3
const mark = (worth: Mark['worth'], faces: readonly number[], id = 'a'): Mark => MarkSchema.parse({ id, part: 'part', worth, runs: runsOf(faces) })
const someFaces = fc.uniqueArray(fc.nat(count - 1), { maxLength: 200 })

describe('runs of faces', () => {
  it('give the faces back, whatever order they came in', () => {
    fc.assert(fc.property(someFaces, faces => {
      expect([...facesOf(runsOf(faces))]).toEqual([...faces].sort((a, b) => a - b))
    }))
    expect(runsOf([3, 4, 5, 9])).toEqual([3, 3, 3, 1])
  })
})

describe('the worth of faces', () => {
  it('is that of the mark that was made last', () => {
    fc.assert(fc.property(fc.array(fc.tuple(fc.constantFrom(...WORTHS), someFaces), { maxLength: 6 }), marks => {
      const worths = worthsOf(marks.map(([w, f], i) => mark(w, f, String(i))), count), expected = new Map<number, number>()
      for (const [w, faces] of marks) for (const f of faces) expected.set(f, WORTHS.indexOf(w))
      worths.forEach((w, f) => expect(w).toBe(expected.get(f) ?? 0))
    }), { numRuns: 40 })
  })

  it('stays with the faces of the file when the mesh is mended, scaled and mirrored', () => {
    // one hole, a repeat at the start: nothing has its number any more
    const file: Mesh = { positions: ball.positions, triangles: Uint32Array.from([...ball.triangles.subarray(0, 3), ...ball.triangles.filter((_, i) => Math.floor(i / 3) !== 100)]) }
    const top = [...Array(file.triangles.length / 3).keys()].filter(i => [0, 1, 2].every(c => file.positions[3 * file.triangles[3 * i + c] + 2] > 3))
    const worths = worthsOf([mark('prized', top)], file.triangles.length / 3), { mesh } = prepareMesh(file)
    const part = shapedMesh(mesh, [-2, 1, 1.5]), of = worthOfFaces(part, worths)
    let marked = 0
    of.forEach((w, i) => {
      const high = [0, 1, 2].every(c => part.positions[3 * part.triangles[3 * i + c] + 2] > 4.5)
      expect(w).toBe(high ? 1 : 0)
      marked += w
    })
    // written as a file of its own, the marks lie on the same faces
    const again = worthsOf([{ ...mark('prized', []), runs: runsOnMesh(runsOf(top), mesh.from) }], mesh.triangles.length / 3)
    expect([...again]).toEqual([...of])
    // the repeat is one face now
    expect(marked).toBe(new Set(top.map(i => [0, 1, 2].map(c => file.triangles[3 * i + c]).join())).size)
    const areas = areasByWorth(part, of)
    expect(areas[0] + areas[1]).toBeCloseTo(areaOf(part), 6)
    expect(areas[1]).toBeGreaterThan(0)
  })
})
