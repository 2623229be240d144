import Flatbush from 'flatbush'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../mesh'
import { after, moveMesh, plateOf, standOf, type PlateShift } from '../pose'
import { between, random } from '../testing/random'
import { bowl, box, sphere } from '../testing/shapes'
import { Body, checkPlate, convexHull, footprintOf, freePlace, outlineOnPlate, outlinesMeet, type StandingPart } from './index'

const flat = { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }
const printer = { widthMm: 100, depthMm: 60, heightMm: 50 }
function standing(id: string, mesh: Mesh, stilts?: Mesh, liftMm = 0): StandingPart {
  const stand = standOf(mesh.positions, { ...flat, liftMm }, 0.05), still = standOf(new Float32Array(3), flat, 0.05)
  return { id, stand, model: new Body(mesh), stilts: stilts ? new Body(stilts) : null, footprint: footprintOf([{ mesh, motion: stand }, ...(stilts ? [{ mesh: stilts, motion: still }] : [])]) }
}
const at = (xMm: number, yMm: number, turnDeg = 0): PlateShift => ({ xMm, yMm, turnDeg })

describe('a footprint', () => {
  it('is the convex outline of all points, and as high as the highest (definition: no point lies outside, every corner is a point)', () => {
    const r = random(3)
    for (let n = 0; n < 20; n++) {
      const mesh = sphere([between(r, -5, 5), between(r, -5, 5), 8], between(r, 1, 5), 24)
      const stand = standOf(mesh.positions, { tiltXDeg: between(r, -90, 90), tiltYDeg: between(r, -90, 90), liftMm: 3 }, 0.05)
      const { outline, topMm } = footprintOf([{ mesh, motion: stand }]), placed = moveMesh(mesh, stand).positions
      let top = 0
      for (let i = 0; i < placed.length; i += 3) {
        top = Math.max(top, placed[i + 2])
        for (const [k, a] of outline.entries()) {
          const b = outline[(k + 1) % outline.length]
          expect((b[0] - a[0]) * (placed[i + 1] - a[1]) - (b[1] - a[1]) * (placed[i] - a[0])).toBeGreaterThan(-1e-4)
        }
      }
      expect(topMm).toBeCloseTo(top, 4)
      expect(outline.length).toBeGreaterThan(5)
    }
    expect(convexHull([[0, 0], [2, 0], [1, 0.5], [2, 2], [0, 2], [1, 0]])).toEqual([[0, 0], [2, 0], [2, 2], [0, 2]])
  })
  it('meets another one where they share area (second opinion: sampled points of both)', () => {
    const r = random(11)
    let met = 0
    for (let n = 0; n < 200; n++) {
      const outline = (): [number, number][] => convexHull(Array.from({ length: 6 }, () => [between(r, -3, 3), between(r, -3, 3)] as const)) as [number, number][]
      const a = outline(), shift = [between(r, -5, 5), between(r, -5, 5)], b = outline().map(([x, y]): [number, number] => [x + shift[0], y + shift[1]])
      const within = (p: readonly [number, number], o: readonly (readonly [number, number])[]): boolean => o.every((c, i) => {
        const d = o[(i + 1) % o.length]
        return (d[0] - c[0]) * (p[1] - c[1]) - (d[1] - c[1]) * (p[0] - c[0]) > 0
      })
      let shares = false
      for (let x = -3; x <= 3 && !shares; x += 0.05) for (let y = -3; y <= 3 && !shares; y += 0.05) shares = within([x, y], a) && within([x, y], b)
      if (shares) met++
      // a sliver may lie between the samples, never the other way round
      if (shares) expect(outlinesMeet(a, b)).toBe(true)
      else if (outlinesMeet(a, b)) expect(outlinesMeet(a, b.map(([x, y]): [number, number] => [x + Math.sign(shift[0]) * 0.1, y + Math.sign(shift[1]) * 0.1]))).toBe(false)
    }
    expect(met).toBeGreaterThan(30)
  })
})

describe('copies on the plate', () => {
  const block = standing('block', box([0, 0, 0], [20, 10, 10]))
  it('reach over its edge by what sticks out, turned or not, and above what can be printed (closed form)', () => {
    const { outside, boxes } = checkPlate([block], [{ id: 'in', part: 'block', shift: at(40, 0) }, { id: 'out', part: 'block', shift: at(-45, 0) }, { id: 'turned', part: 'block', shift: at(0, 25, 90) }], printer)
    expect(outside.map(o => [o.copy, o.overMm])).toEqual([['out', expect.closeTo(5, 4)], ['turned', expect.closeTo(5, 4)]])
    expect(boxes[2]).toMatchObject({ copy: 'turned', min: [expect.closeTo(-5, 4), expect.closeTo(15, 4)], max: [expect.closeTo(5, 4), expect.closeTo(35, 4)] })
    expect(checkPlate([standing('tall', box([0, 0, 0], [2, 2, 51.5]))], [{ id: 'tall', part: 'tall', shift: at(0, 0) }], printer).outside).toMatchObject([{ overMm: 0, aboveMm: expect.closeTo(1.5, 4) }])
  })
  it('count their stilts in', () => {
    const wide = standing('wide', box([0, 0, 0], [20, 10, 10]), box([10, -1, 0], [14, 1, 3]), 5)
    expect(checkPlate([wide], [{ id: 'a', part: 'wide', shift: at(38, 0) }], printer).outside).toMatchObject([{ overMm: expect.closeTo(2, 4) }])
    expect(checkPlate([wide, block], [{ id: 'a', part: 'wide', shift: at(0, 0) }, { id: 'b', part: 'block', shift: at(23, 0) }], printer).overlaps).toHaveLength(1)
  })
  it('run into each other where their bodies do, not where only their outlines meet', () => {
    // a ball in a bowl: within the outline, clear of the wall
    const cup = standing('cup', bowl(12, 1, 10, 1, 0, 48)), ball = standing('ball', sphere([0, 0, 0], 4, 24), undefined, 4), low = standing('low', sphere([0, 0, 0], 4, 24), undefined, 0.5)
    const pair = (other: StandingPart): number => checkPlate([cup, other], [{ id: 'a', part: 'cup', shift: at(3, 4, 30) }, { id: 'b', part: other.id, shift: at(3, 4) }], printer).overlaps.length
    expect([outlinesMeet(outlineOnPlate(cup.footprint, at(0, 0)), outlineOnPlate(ball.footprint, at(0, 0))), pair(ball), pair(low)]).toEqual([true, 0, 1])
    // wholly inside another one
    const inner = standing('inner', box([0, 0, 0], [2, 2, 2]), undefined, 4)
    expect(checkPlate([block, inner], [{ id: 'a', part: 'block', shift: at(0, 0) }, { id: 'b', part: 'inner', shift: at(1, 1) }], printer).overlaps).toMatchObject([{ copies: ['a', 'b'] }])
  })
  it('agree with an exact intersection (Reference library: manifold-3d) on 60 random poses', async () => {
    const wasm = await Module()
    wasm.setup()
    const mesh = joinMeshes([box([0, 0, 0], [14, 5, 6]), box([0, 0, 0], [5, 16, 4])]), solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: box([0, 0, 0], [14, 5, 6]).positions, triVerts: box([0, 0, 0], [14, 5, 6]).triangles })).add(new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: box([0, 0, 0], [5, 16, 4]).positions, triVerts: box([0, 0, 0], [5, 16, 4]).triangles })))
    const part = standing('l', mesh), r = random(5)
    let met = 0
    for (let n = 0; n < 60; n++) {
      const shifts = [at(0, 0, between(r, -180, 180)), at(between(r, -16, 16), between(r, -16, 16), between(r, -180, 180))]
      const [a, b] = shifts.map(s => {
        const m = after(plateOf(s), part.stand)
        return solid.transform([m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1])
      })
      const volume = a.intersect(b).volume(), { overlaps } = checkPlate([part], shifts.map((shift, i) => ({ id: `${i}`, part: 'l', shift })), { widthMm: 200, depthMm: 200, heightMm: 200 })
      if (volume > 1e-3) met++
      expect(overlaps.length, `pose ${n}: ${volume.toFixed(4)} mm³ shared`).toBe(volume > 1e-3 ? 1 : 0)
    }
    expect(met).toBeGreaterThan(15)
  })
})

describe('a free place', () => {
  it('is on the plate and clear of all that stands there (second opinion: flatbush)', () => {
    const r = random(8)
    for (let n = 0; n < 40; n++) {
      const taken = Array.from({ length: 5 }, () => {
        const x = between(r, -50, 40), y = between(r, -30, 20)
        return { min: [x, y] as const, max: [x + between(r, 2, 18), y + between(r, 2, 18)] as const }
      })
      const size = [between(r, 4, 30), between(r, 4, 30)] as const, place = freePlace(size, taken, printer)
      if (!place) continue
      const tree = new Flatbush(taken.length)
      for (const t of taken) tree.add(t.min[0], t.min[1], t.max[0], t.max[1])
      tree.finish()
      expect(tree.search(place[0] - size[0] / 2, place[1] - size[1] / 2, place[0] + size[0] / 2, place[1] + size[1] / 2)).toEqual([])
      expect(Math.abs(place[0]) + size[0] / 2).toBeLessThanOrEqual(50)
      expect(Math.abs(place[1]) + size[1] / 2).toBeLessThanOrEqual(30)
    }
    expect(freePlace([101, 2], [], printer)).toBeNull()
    expect(freePlace([10, 10], [], printer)).toEqual([0, 0])
  })
})
