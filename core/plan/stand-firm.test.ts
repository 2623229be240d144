import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, type PlanBeam, type PlanNode } from '../contract'
import { Room, Ways } from '../forest'
import { distance, joinMeshes, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { AS_IS } from '../pose'
import { ModelScan } from '../scan'
import { Clearance, GAUGES, gaugeOf, placeAtHeight, PlanIndex, routeStilt, rowsOfStilt, shapeOfRoute, Surface, type Joint, type Others, type Stilt } from '../stilts'
import { box } from '../testing/shapes'
import { besideWeak } from './beside'
import { legsUnder } from './legs'
import { strutsTo } from './struts'
import { bracesOfTrunks, topOf } from './trunk-braces'

/** A part on stilts that stand straight at some places under it. */
function standing(mesh: Mesh, places: readonly (readonly [number, number])[]): { surface: Surface; index: PlanIndex; stilts: readonly Stilt[]; others: Others; skin: Mesh } {
  const skin = prepareMesh(mesh).mesh, surface = new Surface(skin), nodes = new Map<string, PlanNode>(), beams = new Map<string, PlanBeam>()
  places.forEach(([x, y], i) => {
    const hit = surface.cast([x, y, 1], [0, 0, 1]), route = hit && routeStilt(surface, hit.point, hit.normal, gaugeOf('medium'), DEFAULT_PRINTER)
    if (!hit || !route?.ok) throw new Error('no way')
    const rows = rowsOfStilt(shapeOfRoute(surface, gaugeOf('medium'), 'structural', route, hit.normal), { part: 'part', number: i + 1 })
    for (const n of rows.nodes) nodes.set(n.id, n)
    for (const b of rows.beams) beams.set(b.id, b)
  })
  const index = new PlanIndex(nodes, beams)
  return { surface, index, stilts: index.stiltsOf('part'), others: { field: new Clearance(index).field('part'), limitMm: DEFAULT_RESIN.webMm }, skin }
}
const slab = (z: number): Mesh => box([-22, -8, z], [22, 8, z + 2])
const all = { mine: () => true, asks: () => true }

describe('braces between trunks', () => {
  it('tie tall ones to near neighbours, at 45°, below the top of both', () => {
    const { surface, index, stilts, others } = standing(slab(40), [[-4, 0], [4, 0], [21, 0]]), braces = bracesOfTrunks(surface, index, 'part', GAUGES, all, others)
    expect(braces.length).toBeGreaterThan(1)
    for (const b of braces) {
      // the third is too far away
      for (const { host } of [b.lower, b.upper]) expect(Math.abs(host.path[0][0])).toBeCloseTo(4, 1)
      expect(b.lower.host.id).not.toBe(b.upper.host.id)
      expect(b.riseDeg).toBeCloseTo(45, 0)
      expect(b.upper.at[2]).toBeLessThanOrEqual(stilts.reduce((least, s) => Math.min(least, topOf(s)), Infinity))
    }
  })
  it('are left out between low ones, and where nothing may be changed', () => {
    const low = standing(slab(20), [[-4, 0], [4, 0]]), high = standing(slab(40), [[-4, 0], [4, 0]])
    expect(bracesOfTrunks(low.surface, low.index, 'part', GAUGES, all, low.others)).toEqual([])
    for (const none of [{ mine: () => false }, { asks: () => false }]) expect(bracesOfTrunks(high.surface, high.index, 'part', GAUGES, { ...all, ...none }, high.others)).toEqual([])
  })
})

describe('struts', () => {
  it('come up to a place from what stands near, to two sides, the soft one first, and clear of all else', () => {
    const { surface, index, stilts, others } = standing(slab(40), [[0, 0], [8, 0], [0, 7], [-9, -2]]), host = stilts[0], upper = placeAtHeight(host, 34) as Joint
    for (const [softDeg, first] of [[0, 1], [90, 2]]) {
      const struts = strutsTo(surface, upper, stilts, softDeg, others, { mayTie: () => true, hangingWith: s => [s] })
      expect(struts).toHaveLength(2)
      expect(struts[0].lower.host.id).toBe(stilts[first].id)
      const sides = struts.map(s => Math.atan2(s.lower.at[1], s.lower.at[0]))
      // sine of the angle between them: as lines, whichever way they point
      expect(Math.abs(Math.sin(sides[0] - sides[1]))).toBeGreaterThanOrEqual(Math.sin((55 * Math.PI) / 180))
      for (const s of struts) {
        expect(s.upper.at).toEqual(upper.at)
        expect(s.riseDeg).toBeGreaterThan(30)
        // no more than 110 times its radius of gyration, a quarter of its diameter (rule of the trade for columns)
        expect((4 * s.lengthMm) / s.diameterMm).toBeLessThanOrEqual(110 + 1e-9)
        expect(others.field.isNear([{ from: s.lower.at, to: s.upper.at, fromRadius: s.diameterMm / 2, toRadius: s.diameterMm / 2 }], others.limitMm, new Set([host.id, s.lower.host.id]))).toBe(false)
      }
    }
    expect(strutsTo(surface, upper, stilts, 0, others, { mayTie: s => s.id !== stilts[1].id, hangingWith: s => [s] }).every(s => s.lower.host.id !== stilts[1].id)).toBe(true)
    expect(index.stiltsOf('part')).toHaveLength(4)
  })
  it('are none where nothing stands within reach', () => {
    const { surface, stilts, others } = standing(slab(40), [[-10, 0], [10, 0]])
    expect(strutsTo(surface, placeAtHeight(stilts[0], 34) as Joint, stilts, 0, others, { mayTie: () => true, hangingWith: s => [s] })).toEqual([])
  })
})

describe('legs', () => {
  const legs = (mesh: Mesh): { found: ReturnType<typeof legsUnder> extends Generator<infer P> ? P[] : never; stilt: Stilt; surface: Surface } => {
    const { surface, index, stilts: [stilt], others, skin } = standing(mesh, [[0, 0]])
    return { found: [...legsUnder(surface, new Room(skin), stilt, topOf(stilt), gaugeOf('medium'), DEFAULT_PRINTER, { ...others, but: new Set(index.structureAt(stilt.id)?.nodes) }, [stilt.path[stilt.path.length - 1]])], stilt, surface }
  }
  it('lean against a trunk from two sides, no flatter than 45°, and stand on the plate clear of its foot', () => {
    const { found, stilt } = legs(slab(40)), foot = stilt.path[stilt.path.length - 1]
    expect(found).toHaveLength(2)
    const sides = found.map(({ at, foot: f, sizes }) => {
      expect(Math.hypot(f[0] - at.at[0], f[1] - at.at[1])).toBeLessThanOrEqual(at.at[2])
      expect([f[2], at.at[2] < topOf(stilt)]).toEqual([0, true])
      expect(distance(f, foot)).toBeGreaterThan(sizes.footDiameterMm)
      // no more than 110 times its radius of gyration, a quarter of its diameter (rule of the trade for columns)
      expect((4 * distance(f, at.at)) / sizes.shaftFootDiameterMm).toBeLessThanOrEqual(110 + 1e-9)
      return Math.atan2(f[1], f[0])
    })
    const apart = Math.abs(((((sides[0] - sides[1]) * 180) / Math.PI + 540) % 360) - 180)
    expect(apart).toBeGreaterThanOrEqual(60 - 1e-6)
    expect(apart).toBeLessThanOrEqual(150 + 1e-6)
  })
  it('keep clear of the part: a wall on one side leaves the other', () => {
    const { found, surface } = legs(joinMeshes([slab(40), box([1.6, -8, 0], [20, 8, 40.5])]))
    for (const { at, foot, sizes } of found) {
      expect(foot[0]).toBeLessThan(1.6)
      expect(surface.gapOfBeam(at.at, [foot[0], foot[1], sizes.footHeightMm], sizes.shaftFootDiameterMm / 2, sizes.shaftFootDiameterMm / 2)).toBeGreaterThanOrEqual(0.25)
    }
  })
})

describe('more beside a weak tip', () => {
  it('stands on the same piece, away from it and from each other, and on skin that looks down', () => {
    const mesh = joinMeshes([box([-3, -3, 14], [3, 3, 20]), box([4, -3, 14], [9, 3, 20])]), { surface, skin } = standing(mesh, [[2, 0]]), scan = new ModelScan(skin, { pixelMm: 0.1, layerMm: 0.1 }, AS_IS)
    scan.runToEnd()
    const room = new Room(skin), ways = new Ways(room, 0.85, [60, 40]), at: Vec3 = [2, 0, 14], heads = besideWeak(scan, surface, room, ways, [{ at, wanted: 2 }], [at], () => [gaugeOf('light')])
    expect(heads).toHaveLength(2)
    for (const h of heads) {
      // the other block begins in the same layer, and is another island
      expect(h.point[0]).toBeLessThanOrEqual(3)
      expect(h.normal[2]).toBeLessThan(-0.2)
      expect(distance(h.point, at)).toBeGreaterThanOrEqual(1.2)
    }
    expect(distance(heads[0].point, heads[1].point)).toBeGreaterThanOrEqual(1.2)
    expect(besideWeak(scan, surface, room, ways, [{ at, wanted: 1 }], [at], () => [])).toEqual([])
  })
})
