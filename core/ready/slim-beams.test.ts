import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, NO_RAFT, type PlanBeam, type PlanNode } from '../contract'
import type { Vec3 } from '../mesh'
import { loadedBy, swaysFrom, type Loaded } from '../proof'
import { solidsOfPart } from '../raft'
import { gaugeOf, PlanIndex, rowsOfStilt } from '../stilts'
import { heldScene } from '../testing/held-scene'
import { uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { resinSaved, slimBeams, tooLongOf } from './slim-beams'

const raster = { pixelMm: 0.1, layerMm: 0.1 }, LIMIT = 1 / DEFAULT_RESIN.margin
const all = <T>(steps: Generator<string, T, void>): T => {
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value
}
const indexOf = (nodes: readonly PlanNode[], beams: readonly PlanBeam[]): PlanIndex => new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
const withRows = (index: PlanIndex, rows: ReturnType<typeof slimBeams>): PlanIndex => indexOf([...new Map([...index.nodes.values(), ...rows.nodes].map(n => [n.id, n])).values()], [...new Map([...index.beams.values(), ...rows.beams].map(b => [b.id, b])).values()])
const resinOf = (index: PlanIndex): number => [...index.beams.values()].reduce((sum, b) => {
  const [p, q] = [b.from, b.to].map(id => (index.nodes.get(id) as PlanNode).at)
  return sum + Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) * (b.fromDiameterMm + b.toDiameterMm) ** 2
}, 0)

/** A stilt down a way of points on a foot, its beams as thick as that. */
function stilt(path: readonly Vec3[], thickMm: number): PlanIndex {
  const rows = rowsOfStilt(uprightShape(0, { gauge: 'light', anchor: { point: path[0], normal: [0, 0, -1] }, path: [...path] }), { part: 'part', number: 1 })
  return indexOf(rows.nodes, rows.beams.map((b): PlanBeam => (b.kind === 'cone' ? b : { ...b, fromDiameterMm: thickMm, toDiameterMm: thickMm })))
}
const BEARS_NOTHING: Pick<Loaded, 'beams' | 'stretches'> = { beams: [], stretches: [] }

describe('what bears little', () => {
  const path: Vec3[] = [[0, 0, 20], [0, 0, 17.5], [0, 0, 10], [0, 0, 0]]
  it('is made thinner by and by, down to what still prints, and its foot with it', () => {
    let index = stilt(path, 2)
    const thin: number[] = []
    for (let n = 0; n < 6; n++) {
      index = withRows(index, slimBeams(index, 'part', BEARS_NOTHING, [], LIMIT, 0.1, () => true))
      thin.push(Math.min(...[...index.beams.values()].filter(b => b.kind !== 'cone').map(b => b.toDiameterMm)))
    }
    expect(thin[0]).toBeCloseTo(1.4, 6)
    expect(thin[5]).toBeCloseTo(0.7, 2)
    const [{ beams, nodes, sizes }] = index.stiltsOf('part'), shaft = index.beams.get(beams[1]) as PlanBeam, foot = index.nodes.get(nodes[3])
    // no thinner than its knee where that leads into it; cones are as they were
    expect(shaft.fromDiameterMm).toBeGreaterThanOrEqual(sizes.kneeDiameterMm - 1e-9)
    expect(index.beams.get(beams[0])?.toDiameterMm).toBe(sizes.kneeDiameterMm)
    expect(foot?.kind === 'foot' && foot.fitted.shaftFootDiameterMm).toBe((index.beams.get(beams[2]) as PlanBeam).toDiameterMm)
  })
  it('stays as thick as its gauge asks for where nothing holds it for long', () => {
    const high = stilt([[0, 0, 50], [0, 0, 47.5], [0, 0, 10], [0, 0, 0]], 3), { kneeDiameterMm, longestMm } = gaugeOf('light'), wantedMm = (kneeDiameterMm * 47.5) / longestMm
    let index = high
    for (let n = 0; n < 6; n++) index = withRows(index, slimBeams(index, 'part', BEARS_NOTHING, [], LIMIT, 0.1, () => true))
    expect(Math.min(...[...index.beams.values()].filter(b => b.kind !== 'cone').map(b => b.toDiameterMm)) / wantedMm).toBeCloseTo(1.02, 3)
    expect(tooLongOf(index, 'part', [gaugeOf('light')]).size).toBe(0)
    expect([...tooLongOf(stilt([[0, 0, 50], [0, 0, 47.5], [0, 0, 10], [0, 0, 0]], 1), 'part', [gaugeOf('light')]).values()]).toEqual([wantedMm, wantedMm])
  })
  it('is told by what it saves: half as thick takes a quarter', () => {
    const index = stilt(path, 2), beams = [...index.beams.values()].filter(b => b.kind !== 'cone'), halved = beams.map((b): PlanBeam => ({ ...b, fromDiameterMm: 1, toDiameterMm: 1 })), without = withRows(index, { nodes: [], beams: halved })
    const cone = (resinOf(index) - 17.5 * 16) / resinOf(index)
    expect(resinSaved(indexOf([...index.nodes.values()], beams), 'part', halved)).toBeCloseTo(0.75, 9)
    expect(resinSaved(index, 'part', halved)).toBeGreaterThan(0.75 * (1 - 2 * cone))
    expect(resinSaved(without, 'part', [])).toBe(0)
  })
  it('stays as it is where it is not to be changed', () => {
    expect(slimBeams(stilt(path, 2), 'part', BEARS_NOTHING, [], LIMIT, 0.1, () => false)).toEqual({ nodes: [], beams: [] })
  })
  it('is as thick as its strength asks for: by the cube of what a section bears, by the fourth power of what bends it out, by its length', () => {
    const index = stilt(path, 2), [, top, below] = index.stiltsOf('part')[0].beams, borne = { alongN: 0, acrossN: 0, bentNmm: 0 }
    const thickOf = (of: Pick<Loaded, 'beams' | 'stretches'>): number[] => {
      const rows = new Map(slimBeams(index, 'part', of, [], LIMIT, 0.1, () => true).beams.map(b => [b.id, b.toDiameterMm]))
      return [top, below].map(id => rows.get(id) ?? 2)
    }
    // half of 60 % of what it may: the cube root of a half, 0.79
    const bent = thickOf({ beams: [{ id: top, share: 0.3 * LIMIT, layer: 3, borne }], stretches: [] })
    expect(bent[0]).toBeCloseTo(2 * Math.cbrt(0.5), 6)
    expect(bent[1]).toBeCloseTo(1.4, 6)
    const stretch = { beams: [0, 1], lengthMm: 17.5, thinMm: 2, thickMm: 2, ends: ['model', 'plate'] as const }, pressed = (share: number, lengthMm = 17.5): number[] => thickOf({ beams: [], stretches: [{ beams: [top, below], stretch: { ...stretch, lengthMm }, share, layer: 3, pressedN: 1, criticalN: 1 }] })
    expect(pressed(0.3 * LIMIT)).toEqual([expect.closeTo(2 * 0.5 ** 0.25, 6), expect.closeTo(2 * 0.5 ** 0.25, 6)])
    // 110 times a quarter of the diameter, and 2 % to spare
    expect(pressed(0, 45)).toEqual([expect.closeTo((4 * 45 * 1.02) / 110, 6), expect.closeTo((4 * 45 * 1.02) / 110, 6)])
  })
})

describe('what sways', () => {
  /** A wall on stilts in two rows, loaded with its stilts as they are. */
  const scene = (): { readonly load: (index: PlanIndex) => Loaded; readonly index: PlanIndex } => {
    const { index, scan, surface } = heldScene(box([-9, -3, 30], [9, 3, 50]), [[-8, -2], [0, -2], [8, -2], [-8, 2], [0, 2], [8, 2]], gaugeOf('heavy'), raster)
    scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
    scan.runToEnd()
    return { index, load: of => all(loadedBy({ scan, index: of, part: 'part', surface, resin: DEFAULT_RESIN })) }
  }
  it('sways no farther than it may when what bears little is thinner, and nothing breaks', () => {
    const { index, load } = scene(), before = load(index), farthest = (of: Loaded): number => of.lanes.swayMm.reduce((most, mm) => (mm > most ? mm : most), 0), swayMm = 1.5 * farthest(before)
    let now = index, loaded = before
    for (let n = 0; n < 4; n++) {
      now = withRows(now, slimBeams(now, 'part', loaded, swaysFrom(loaded, DEFAULT_RESIN, 0, 12), LIMIT, swayMm, () => true))
      loaded = load(now)
      expect(farthest(loaded)).toBeLessThanOrEqual(swayMm * 1.01)
    }
    // it is used that there is room to sway, and resin is saved by that
    expect(farthest(loaded)).toBeGreaterThan(1.25 * farthest(before))
    expect(resinOf(now)).toBeLessThan(0.9 * resinOf(index))
    for (const { share } of loaded.beams) expect(share).toBeLessThanOrEqual(Math.max(LIMIT, ...before.beams.map(b => b.share)))
  })
  it('is left alone where it sways as far as it may', () => {
    const { index, load } = scene(), before = load(index), farthest = before.lanes.swayMm.reduce((most, mm) => (mm > most ? mm : most), 0)
    const now = withRows(index, slimBeams(index, 'part', before, swaysFrom(before, DEFAULT_RESIN, 0, 12), LIMIT, farthest, () => true))
    expect(load(now).lanes.swayMm.reduce((most, mm) => (mm > most ? mm : most), 0) / farthest).toBeLessThan(1.015)
  })
})
