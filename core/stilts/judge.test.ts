import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { StiltVerdict } from '../contract'
import { OFF_LIMITS, PRIZED } from '../marks'
import { joinMeshes, type Mesh, type Vec3 } from '../mesh'
import { box } from '../testing/shapes'
import { forcedRoute, freeStretches, gaugeOf, hasCutterRoom, judgeStilt, judgeTips, leastForFree, PlanIndex, routeStilt, rowsOfStilt, sizesOf, Surface, type Stilt, type StiltShape } from './index'

const medium = gaugeOf('medium'), plate = { widthMm: 100, depthMm: 100 }
const slab = box([-20, -20, 20], [20, 20, 23])
const shape = (path: Vec3[], more: Partial<StiltShape> = {}): StiltShape => ({ gauge: 'medium', role: 'detail', sizes: sizesOf(medium), own: {}, anchor: { point: [...path[0]] as [number, number, number], normal: [0, 0, -1] }, foot: 'plate', footPinned: false, path, ...more })
const upright = (x: number, y = 0, z = 20, more: Partial<StiltShape> = {}): StiltShape => shape([[x, y, z], [x, y, z - 3], [x, y, 0]], more)
const judged = (mesh: Mesh, s: StiltShape, worth?: number): StiltVerdict[] => {
  const surface = new Surface(mesh)
  if (worth) surface.setWorths(new Uint8Array(mesh.triangles.length / 3).fill(worth))
  return judgeStilt(surface, s, { gauge: medium })
}
const kinds = (list: readonly StiltVerdict[]): string[] => list.map(v => v.kind)
function stilts(...shapes: StiltShape[]): { index: PlanIndex; all: readonly Stilt[] } {
  const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
  const index = new PlanIndex(new Map(rows.flatMap(r => r.nodes.map(n => [n.id, n]))), new Map(rows.flatMap(r => r.beams.map(b => [b.id, b]))))
  return { index, all: index.stiltsOf('part') }
}

describe('a stilt as it stands', () => {
  it('has nothing to be said about it where all is well', () => {
    expect(judged(slab, upright(0))).toEqual([])
    expect(judged(slab, upright(0, 0, 20, { foot: 'lost' }))).toEqual([])
  })
  it('is too near to the part: by how much', () => {
    const wall = joinMeshes([slab, box([1, -5, 4], [2, 5, 15])])
    expect(judged(wall, upright(0))).toMatchObject([{ kind: 'gap', gapMm: expect.closeTo(0.29, 1) as number, limitMm: 0.4 }])
    expect(judged(joinMeshes([slab, box([-5, -5, 5], [5, 5, 6])]), upright(0))).toMatchObject([{ kind: 'gap', gapMm: expect.any(Number) as number }])
  })
  it('is thicker than what it holds: 0.5 on a film of 0.3', () => {
    expect(judged(box([-5, -5, 20], [5, 5, 20.3]), upright(0))).toMatchObject([{ kind: 'thick', tipMm: 0.5, thicknessMm: expect.closeTo(0.3, 3) as number }])
    expect(kinds(judged(box([-5, -5, 20], [5, 5, 20.6]), upright(0)))).toEqual([])
    // a bar across; a blade that stands on its edge, which widens by 1 mm a mm
    expect(judged(box([-5, -0.2, 20], [5, 0.2, 25]), upright(0))).toMatchObject([{ kind: 'thick', thicknessMm: expect.closeTo(0.4, 3) as number }])
    const blade = (widensBy: number): Mesh => ({ positions: Float32Array.from([-5, 0, 20, 5, 0, 20, -5, -2 * widensBy, 24, 5, -2 * widensBy, 24, -5, 2 * widensBy, 24, 5, 2 * widensBy, 24]), triangles: Uint32Array.from([0, 1, 2, 1, 3, 2, 0, 4, 1, 1, 4, 5, 2, 3, 4, 3, 5, 4, 0, 2, 4, 1, 5, 3]) })
    expect(judged(blade(0.5), upright(0, 0.0001))).toMatchObject([{ kind: 'thick', thicknessMm: expect.closeTo(0.25, 2) as number }])
    expect(kinds(judged(blade(1.2), upright(0, 0.0001)))).toEqual([])
  })
  it('leaves a scar on prized skin, and may not touch what is off limits', () => {
    expect(judged(slab, upright(0), PRIZED)).toMatchObject([{ kind: 'scar', worth: 'prized', areaMm2: expect.closeTo(Math.PI * 0.25 ** 2, 4) as number }])
    expect(judged(slab, upright(0), OFF_LIMITS)).toMatchObject([{ kind: 'scar', worth: 'off-limits' }])
  })
  it('leans more than its gauge allows', () => {
    expect(judged(slab, shape([[0, 0, 20], [0, 0, 17], [18, 0, 0]]))).toMatchObject([{ kind: 'lean', leanDeg: expect.closeTo(46.6, 1) as number, limitDeg: 45 }])
    expect(kinds(judged(slab, shape([[0, 0, 20], [0, 0, 17], [16.9, 0, 0]])))).toEqual([])
    // a bead in a crevice fuses with both of its faces
    const within = joinMeshes([slab, box([-5, -5, 10], [5, 5, 19.7])]), leans = (by: number): string[] => kinds(judged(within, shape([[0, 0, 20], [by / 2, 0, 19.85], [by, 0, 19.7]], { foot: 'model' }))).filter(k => k === 'lean')
    expect([leans(0.6), leans(3)]).toEqual([[], ['lean']])
  })
  it('is slender where nothing holds it for longer than its gauge allows; a brace in between cuts the length', () => {
    const high = box([-20, -20, 60], [20, 20, 63]), long = shape([[0, 0, 60], [0, 0, 57], [0, 0, 28], [0, 0, 0]])
    expect(judged(high, long)).toMatchObject([{ kind: 'slender', freeMm: 57, limitMm: 30, at: [0, 0, 28.5] }])
    const { index, all } = stilts(long), surface = new Surface(high), joint = all[0].nodes[2]
    expect(judgeStilt(surface, all[0], { gauge: medium, isHeld: node => node === joint && index.nodes.has(node) })).toEqual([])
    // as slender as a shaft of the gauge at its limit: one that is thicker in the same measure longer
    const thick = (mm: number): StiltVerdict[] => judgeStilt(surface, all[0], { gauge: medium, diameters: [[0.5, mm], [mm, mm], [mm, mm]] })
    expect(thick((57 / medium.longestMm) * medium.kneeDiameterMm + 0.01)).toEqual([])
    expect(thick(57 / medium.longestMm * medium.kneeDiameterMm - 0.01)).toMatchObject([{ kind: 'slender', freeMm: 57 }])
    expect(thick(0.4)).toMatchObject([{ limitMm: medium.longestMm }])
    // and so thick it has to be
    expect([kinds(thick(leastForFree(medium, 57) + 1e-6)), kinds(thick(leastForFree(medium, 57) - 1e-3)), leastForFree(medium, medium.longestMm)]).toEqual([[], ['slender'], 0])
    expect(freeStretches(index, all[0])).toMatchObject([{ from: 1, to: 3, lengthMm: 57 }])
  })
  it('that was forced says why it should not stand', () => {
    expect(judged(slab, upright(0, 0, 20, { forced: 'It runs through the part.' }))).toMatchObject([{ kind: 'forced', because: 'It runs through the part.' }])
  })
})

describe('tips too near to each other', () => {
  it('are those whose marks leave less than the resin keeps open, as found by trying all pairs', () => {
    fc.assert(fc.property(fc.array(fc.tuple(fc.double({ min: -8, max: 8, noNaN: true }), fc.double({ min: -8, max: 8, noNaN: true })), { maxLength: 40 }), places => {
      const { all } = stilts(...places.map(([x, y]) => upright(x, y)))
      let pairs = 0
      for (const [i, a] of all.entries()) for (const b of all.slice(0, i)) if (Math.hypot(a.path[0][0] - b.path[0][0], a.path[0][1] - b.path[0][1]) - 0.5 < 0.6 - 1e-6) pairs++
      expect(judgeTips(all, 0.6)).toHaveLength(pairs)
    }), { numRuns: 50 })
    expect(judgeTips(stilts(upright(0), upright(0.9), upright(3)).all, 0.5)).toMatchObject([{ kind: 'tips', gapMm: expect.closeTo(0.4, 6) as number, at: [0.45, 0, 20] }])
  })
})

describe('room for the cutter', () => {
  it('is there in the open, and not in a narrow pit', () => {
    const pit = joinMeshes([slab, box([-4, -4, 14], [-2, 4, 20]), box([2, -4, 14], [4, 4, 20]), box([-4, 2, 14], [4, 4, 20]), box([-4, -4, 14], [4, -2, 20])])
    expect([hasCutterRoom(new Surface(slab), upright(0).path), hasCutterRoom(new Surface(pit), upright(0).path)]).toEqual([true, false])
    // open to one side is enough
    expect(hasCutterRoom(new Surface(joinMeshes([slab, box([-4, -4, 14], [-2, 4, 20])])), upright(0).path)).toBe(true)
  })
})

describe('a stilt by force', () => {
  it('stands where routing refuses, with its gap as it is, and never on what is off limits', () => {
    // a floor wall to wall, and too low under it for a stick
    const blocked = new Surface(joinMeshes([slab, box([-45, -45, 1], [45, 45, 2]), ...[[-45, -45, -44, 45], [44, -45, 45, 45], [-45, -45, 45, -44], [-45, 44, 45, 45]].map(([a, b, c, d]) => box([a, b, 1], [c, d, 60]))]))
    expect(routeStilt(blocked, [0, 0, 20], [0, 0, -1], { ...medium, preferredLeanDeg: 0, leanLimitDeg: 0 }, plate).ok).toBe(true)
    const forced = forcedRoute(blocked, [0, 0, 20], [0, 0, -1], medium, plate)
    expect(forced).toMatchObject({ ok: true, foot: 'plate', path: [[0, 0, 20], [0, 0, 17], [0, 0, 0]] })
    expect(forced.ok && forced.gapMm).toBeLessThan(0)
    const surface = new Surface(slab)
    expect(forcedRoute(surface, [0, 0, 23], [0, 0, 1], medium, plate).ok).toBe(true)
    surface.setWorths(new Uint8Array(slab.triangles.length / 3).fill(OFF_LIMITS))
    expect(forcedRoute(surface, [0, 0, 20], [0, 0, -1], medium, plate)).toMatchObject({ ok: false, problem: 'off-limits' })
  })
  it('fits under what is low, and says where nothing does', () => {
    const low = new Surface(box([-5, -5, 1.4], [5, 5, 4])), r = forcedRoute(low, [0, 0, 1.4], [0, 0, -1], medium, plate)
    if (!r.ok) throw new Error(r.reason)
    expect([r.path[1][2] > r.sizes.footHeightMm, r.path[2][2]]).toEqual([true, 0])
    expect(forcedRoute(new Surface(box([-5, -5, 0.3], [5, 5, 4])), [0, 0, 0.3], [0, 0, -1], medium, plate)).toMatchObject({ ok: false, problem: 'too-low' })
    expect(forcedRoute(low, [60, 0, 20], [0, 0, -1], medium, plate)).toMatchObject({ ok: false, problem: 'off-plate' })
  })
})
