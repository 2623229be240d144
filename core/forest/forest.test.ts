import bunny from 'bunny'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { distance, joinMeshes, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { gaugeOf, Surface } from '../stilts'
import { BeamField } from '../stilts/clearance'
import { between, random } from '../testing/random'
import { box, sphere } from '../testing/shapes'
import { meeting } from './forks'
import { grown, headAt, Room, slimSizes, Ways, type Head } from './index'
import { LEAN_TAN } from './twig'

const PLATE = { widthMm: 150, depthMm: 80 }, HALF = [75, 40] as const

describe('room', () => {
  it('around a ball is what its closed form says', () => {
    const room = new Room(sphere([0, 0, 12], 5, 96)), r = random(4)
    for (let i = 0; i < 400; i++) {
      const p: Vec3 = [between(r, -8, 8), between(r, -8, 8), between(r, 4, 20)], d = Math.abs(distance(p, [0, 0, 12]) - 5)
      if (d < 2.2) expect(Math.abs(room.distanceAt(...p) - d)).toBeLessThan(0.25)
      else expect(room.distanceAt(...p)).toBeGreaterThan(1.9)
    }
    expect(room.distanceAt(200, 0, 0)).toBe(2.4)
  })
  it('around the Stanford bunny is within 0.13 mm for nearly all points (Reference library: three-mesh-bvh; open data set: npm bunny)', () => {
    const at = bunny.positions.flat(), low = bunny.positions.reduce((z, p) => Math.min(z, p[1]), Infinity)
    const mesh = prepareMesh({ positions: Float32Array.from(at, (_, i) => (i % 3 === 0 ? at[i] * 3 : i % 3 === 1 ? -at[i + 1] * 3 : (at[i - 1] - low) * 3 + 5)), triangles: Uint32Array.from(bunny.cells.flat()) }).mesh, surface = new Surface(mesh), room = new Room(mesh), r = random(2), errors: number[] = []
    for (let i = 0; i < 4000; i++) {
      const p: Vec3 = [between(r, -18, 18), between(r, -18, 18), between(r, 1, 36)], d = surface.distance(p, 2.3)
      if (d > 0.4 && d < 2.2) errors.push(Math.abs(room.distanceAt(...p) - d))
    }
    errors.sort((a, b) => a - b)
    expect(errors.length).toBeGreaterThan(200)
    expect(errors[Math.floor(errors.length * 0.99)]).toBeLessThan(0.15)
  })
  it('lets a beam through where it is clear of all, and nowhere else; and says how high a shaft can stand', () => {
    const room = new Room(joinMeshes([box([-10, -1, 10], [10, 1, 12])]))
    expect([room.isClear([0, 6, 0], [0, 6, 30], 0.5, 0.5, 0.35), room.isClear([0, 0, 2], [0, 0, 30], 0.5, 0.5, 0.35), room.isClear([0, 0, 2], [0, 0, 8.9], 0.5, 0.5, 0.35), room.isClear([0, 1.6, 2], [0, 1.6, 30], 0.5, 0.5, 0.35)]).toEqual([true, false, true, false])
    expect(room.heightAt(0, 0, 0.85)).toBeGreaterThan(8)
    expect(room.heightAt(0, 0, 0.85)).toBeLessThan(9.3)
  })
})

describe('ways', () => {
  const shelf = joinMeshes([box([-10, -10, 10], [10, 10, 11]), box([-3, -3, 11], [3, 3, 25]), box([-8, -8, 22], [8, 8, 25])]), room = new Room(shelf), ways = new Ways(room, 0.85, HALF), surface = new Surface(prepareMesh(shelf).mesh)
  it('go straight down where nothing is in the way, and around what is, always falling and clear of it (second opinion: distances of the mesh)', () => {
    expect(ways.from([16, 0, 20])).toEqual([[16, 0, 20], [expect.closeTo(16, 0), expect.closeTo(0, 0), 0]])
    const way = ways.from([6, 6, 20.5]) as Vec3[]
    expect(way.length).toBeGreaterThan(2)
    for (let i = 1; i < way.length; i++) {
      const [a, b] = [way[i - 1], way[i]]
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThanOrEqual((a[2] - b[2]) * (1 + 1e-6))
      for (let t = i === 1 ? 0.2 : 0; t <= 1; t += 0.05) expect(surface.distance([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t])).toBeGreaterThan(0.6)
    }
  })
  it('lead nowhere out of a cup, nor beyond the plate', () => {
    const cup = joinMeshes([box([-8, -8, 5], [8, 8, 6]), box([-8, -8, 5], [-6, 8, 15]), box([6, -8, 5], [8, 8, 15]), box([-8, -8, 5], [8, -6, 15]), box([-8, 6, 5], [8, 8, 15])]), within = new Ways(new Room(cup), 0.85, HALF)
    expect([within.costFrom([0, 0, 10]), within.from([0, 0, 10]), within.costFrom([0, 0, 2])]).toEqual([Infinity, null, expect.closeTo(2, 0)])
    const narrow = new Ways(room, 0.85, [5, 5])
    expect(narrow.from([15, 0, 12])).toBeNull()
  })
})

describe('a fork', () => {
  it('lies between what it joins, and both lean alike', () => {
    fc.assert(fc.property(fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: 15, max: 22, noNaN: true })), fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: 15, max: 22, noNaN: true })), (a, b) => {
      const at = meeting(a, b)
      if (!at) return
      for (const p of [a, b]) {
        const across = Math.hypot(p[0] - at[0], p[1] - at[1])
        expect(across).toBeCloseTo((p[2] - at[2]) * LEAN_TAN, 6)
      }
    }))
    expect(meeting([0, 0, 20], [0.1, 0, 5])).toBeNull()
  })
})

describe('a forest', () => {
  const gauge = gaugeOf('light'), headsUnder = (mesh: Mesh, points: readonly (readonly [number, number])[]): { heads: Head[]; room: Room; ways: Ways; surface: Surface } => {
    const skin = prepareMesh(mesh).mesh, surface = new Surface(skin), room = new Room(skin), ways = new Ways(room, 0.85, HALF)
    const heads = points.map(([x, y]) => {
      const hit = surface.cast([x, y, -1], [0, 0, 1])
      if (!hit) throw new Error('nothing there')
      return headAt(surface, room, ways, { point: hit.point, normal: hit.normal, gauges: [gauge], role: 'detail' })
    })
    return { heads: heads.filter(h => typeof h !== 'string'), room, ways, surface }
  }
  const forest = (mesh: Mesh, points: readonly (readonly [number, number])[]) => {
    const { heads, room, ways, surface } = headsUnder(mesh, points)
    return { heads, ...grown(heads, { room, ways, plate: PLATE, gapMm: 0.35, shared: true, reachMm: 9, isOff: (from, to, radiusMm, gapMm) => surface.gapOfBeam(from, to, radiusMm, radiusMm, gapMm) >= gapMm, others: { field: new BeamField(), limitMm: 0.5 } }) }
  }
  const teeth = Array.from({ length: 10 }, (_, i): [number, number] => [2 * i - 9, 0]), comb = joinMeshes([box([-10, -1, 30], [10, 1, 32]), ...teeth.map(([x]) => box([x - 0.4, -0.4, 24], [x + 0.4, 0.4, 31]))])
  it('carries ten teeth of a comb on two trunks at the most, one tip alone on one', () => {
    const { heads, trees, left } = forest(comb, teeth)
    expect([heads.length, left.length]).toEqual([10, 0])
    expect(trees.length).toBeLessThanOrEqual(2)
    expect(trees.reduce((sum, t) => sum + t.hangs.reduce((n, h) => n + h.twig.tips, 0), 0)).toBe(10)
    const one = forest(box([-1, -1, 20], [1, 1, 22]), [[0, 0]])
    expect([one.trees.length, one.trees[0].way.length]).toEqual([1, 2])
  })
  it('falls all the way, leans no more than allowed, and stands clear of itself', () => {
    const { trees } = forest(box([-20, -10, 25], [20, 10, 27]), Array.from({ length: 60 }, (_, i): [number, number] => [4 * (i % 10) - 18, 4 * Math.floor(i / 10) - 10]))
    const leans = (a: Vec3, b: Vec3): void => {
      expect(a[2]).toBeGreaterThan(b[2])
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThanOrEqual((a[2] - b[2]) * (1 + 1e-6))
    }
    for (const { way, hangs } of trees) {
      for (let i = 1; i < way.length; i++) leans(way[i - 1], way[i])
      for (const h of hangs) leans(h.twig.at, way[h.at])
    }
    const feet = trees.map(t => t.way[t.way.length - 1])
    trees.forEach((a, i) => trees.forEach((b, j) => j > i && expect(distance(feet[i], feet[j])).toBeGreaterThan((a.diameterMm + b.diameterMm) / 2 + 0.4)))
    expect(trees.length).toBeLessThan(30)
  })
  it('has no tip where none may touch, and none without room', () => {
    const { surface, room, ways } = headsUnder(box([-5, -5, 20], [5, 5, 25]), [])
    expect(headAt(surface, room, ways, { point: [0, 0, 25], normal: [0, 0, 1], gauges: [gauge], role: 'detail' })).toMatch(/looks up/)
    const shut = headsUnder(joinMeshes([box([-5, -5, 20], [5, 5, 25]), box([-5, -5, 16], [5, 5, 19.5])]), [])
    expect(headAt(shut.surface, shut.room, shut.ways, { point: [0, 0, 20], normal: [0, 0, -1], gauges: [gauge], role: 'detail' })).toMatch(/no way leads/)
    expect([slimSizes(gauge, 'detail'), slimSizes(gauge, 'structural')].map(s => [s.tipDiameterMm, s.kneeDiameterMm])).toEqual([[0.35, 0.7], [0.4, 0.8]])
  })
})
