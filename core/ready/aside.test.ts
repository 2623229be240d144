import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { PlanBeam, PlanNode } from '../contract'
import { leanOf, prepareMesh, type Vec3 } from '../mesh'
import { GAUGES, gaugeOf, PlanDraft, PlanIndex, rowsOfStilt, Surface } from '../stilts'
import { uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { asThick, movedAside } from './aside'
import { roomAround } from './grown-rows'

const GAUGE = gaugeOf('medium'), WEB_MM = 0.5, LOW: Vec3 = [0.9, -20, 5], HIGH: Vec3 = [4, 20, 18]
/** A wall, and a stilt that comes down past it over some joints; all its beams as thick as told. */
function beside(path: readonly Vec3[], thickMm: number): { readonly draft: PlanDraft; readonly surface: Surface; readonly shaft: string } {
  const surface = new Surface(prepareMesh(box([...LOW], [...HIGH])).mesh), rows = rowsOfStilt(uprightShape(0, { gauge: 'medium', anchor: { point: path[0], normal: [0, 0, -1] }, path: [...path] }), { part: 'part', number: 1 })
  const beams = rows.beams.map((b): PlanBeam => (b.kind === 'cone' ? b : { ...b, fromDiameterMm: thickMm, toDiameterMm: thickMm }))
  const index = new PlanIndex(new Map(rows.nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
  return { draft: new PlanDraft(index, rows.nodes.map(n => n.id)), surface, shaft: rows.beams[2].id }
}
/** How far a beam keeps from the wall: from its axis, point by point, to a box in closed form. */
function gapOf({ nodes }: PlanIndex, { from, to }: PlanBeam, thickMm: number): number {
  const a = (nodes.get(from) as PlanNode).at, b = (nodes.get(to) as PlanNode).at
  return Array.from({ length: 401 }, (_, i) => Math.hypot(...[0, 1, 2].map(n => {
    const v = a[n] + ((b[n] - a[n]) * i) / 400
    return Math.max(LOW[n] - v, 0, v - HIGH[n])
  }))).reduce((least, mm) => Math.min(least, mm), Infinity) - thickMm / 2
}
const moved = ({ draft, surface, shaft }: ReturnType<typeof beside>, times: number, mine = (_: string): boolean => true): number => movedAside(draft, 'part', [asThick(draft.index.beams.get(shaft) as PlanBeam, times)], GAUGES, mine, () => roomAround(surface, draft.index, 'part', GAUGES, WEB_MM))
const WAY: readonly Vec3[] = [[0, 0, 30], [0, 0, 27], [0, 0, 20], [0, 0, 4], [0, 0, 0]]

describe('a beam without room', () => {
  it('gets some where its joints go aside, and they go no farther than they have to', () => {
    const scene = beside(WAY, 0.9), { draft: { index }, shaft } = scene, beam = (): PlanBeam => index.beams.get(shaft) as PlanBeam
    expect(gapOf(index, beam(), 0.9 * 1.6)).toBeLessThan(GAUGE.gapMm)
    expect(moved(scene, 1.6)).toBe(1)
    expect(gapOf(index, beam(), 0.9 * 1.6)).toBeGreaterThanOrEqual(GAUGE.gapMm)
    // what was missing, in steps of a quarter of a millimetre or less
    const away = index.stiltsOf('part')[0].path.map(p => Math.hypot(p[0], p[1]))
    expect(Math.max(...away)).toBeLessThanOrEqual(GAUGE.gapMm + 0.8 * 0.9 - 0.9 + 0.25 + 0.05)
    expect([away[0], away[4]]).toEqual([0, 0])
  })
  it('stays where its rows are not to be changed, and where it has none anywhere near', () => {
    for (const [times, isMine] of [[1.6, false], [12, true]] as const) {
      const scene = beside(WAY, 0.9), { index } = scene.draft, before = JSON.stringify([...index.nodes.values()])
      expect(moved(scene, times, id => isMine || id !== scene.shaft)).toBe(0)
      expect(JSON.stringify([...index.nodes.values()])).toBe(before)
    }
  })
  it('keeps its gap and leans no more than it may, whatever the way', () => {
    const at = fc.double({ min: -1, max: 0, noNaN: true }), across = fc.double({ min: -1.5, max: 1.5, noNaN: true }), thick = fc.double({ min: 0.5, max: 0.8, noNaN: true })
    fc.assert(fc.property(at, across, at, across, thick, fc.double({ min: 1.1, max: 2, noNaN: true }), (x1, y1, x2, y2, thickMm, times) => {
      const scene = beside([[x1, y1, 30], [x1, y1, 27], [x1, y1, 21], [x2, y2, 4], [x2, y2, 0]], thickMm), { draft: { index } } = scene, beams = [...index.beams.values()]
      const leans = (): number[] => beams.map(b => leanOf((index.nodes.get(b.from) as PlanNode).at, (index.nodes.get(b.to) as PlanNode).at)), gaps = (): number[] => beams.map(b => (b.kind === 'cone' ? 0 : gapOf(index, b, thickMm))), before = { leans: leans(), gaps: gaps() }
      moved(scene, times)
      leans().forEach((deg, i) => expect(deg).toBeLessThanOrEqual(Math.max(GAUGE.leanLimitDeg, before.leans[i]) + 1e-6))
      gaps().forEach((mm, i) => expect(mm).toBeGreaterThanOrEqual(Math.min(beams[i].kind === 'cone' ? 0 : GAUGE.gapMm, before.gaps[i]) - 1e-3))
      const [{ path: [tip, knee], sizes }] = index.stiltsOf('part')
      if (knee[0] !== x1 || knee[1] !== y1) expect(sizes.coneLengthMm).toBeCloseTo(Math.hypot(...[0, 1, 2].map(n => tip[n] - knee[n])), 6)
    }), { numRuns: 60, endOnFailure: true })
  })
})
