import { describe, expect, it } from 'vitest'
import { contentOf, DEFAULT_RESIN, NO_RAFT, stateOfPart, type CheckWaiver, type Gauge, type Job, type ProofCheck, type ProofCheckKind, type Raft, type Resin } from '../contract'
import { OFF_LIMITS } from '../marks'
import { joinMeshes, type Mesh } from '../mesh'
import { solidsOfPart } from '../raft'
import { GAUGES, gaugeOf, PlanIndex, rowsOfStilt, Surface } from '../stilts'
import { heldScene, type HeldScene } from '../testing/held-scene'
import { jobRow, partRow, uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { barestSkin, beyondLimit, prove, sideName, verdictOf, type Proof, type Proven } from './index'
import { writtenCheck } from './written'

const raster = { pixelMm: 0.1, layerMm: 0.1 }, GRID: [number, number][] = [-4, -2, 0, 2, 4].flatMap(x => [-2, 0, 2].map((y): [number, number] => [x, y]))
const slab = (): Mesh => box([-5, -3, 12], [5, 3, 15])
function proven(mesh: Mesh, points: readonly (readonly [number, number])[], gauge: Gauge = gaugeOf('medium'), more: { resin?: Partial<Resin>; raft?: Raft; mark?: (scene: HeldScene) => void; overMm?: number; meets?: number | null } = {}): Proof {
  const scene = heldScene(mesh, points, gauge, raster), { index, surface, scan } = scene
  more.mark?.(scene)
  const raft = more.raft ?? NO_RAFT
  scan.setStilts(solidsOfPart(index, 'part', raft))
  const steps = prove({ scan, result: scan.runToEnd(), index, part: 'part', surface, raft, resin: { ...DEFAULT_RESIN, ...more.resin }, gauges: [...GAUGES, gauge], roleOf: () => 'carrier', onPlate: { overMm: more.overMm ?? 0, meets: more.meets === undefined ? 0 : more.meets, cups: 0 }, waivers: [] })
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value
}
const of = (p: Proof, kind: ProofCheckKind): ProofCheck => p.checks.find(c => c.kind === kind) as ProofCheck

describe('a proof', () => {
  it('of a slab on a field of stilts is ready, and says what was looked at', () => {
    const p = proven(slab(), GRID)
    expect([verdictOf(p.checks), p.checks.filter(c => c.state === 'bad')]).toEqual([{ ready: true, verdict: 'Ready to print.' }, []])
    expect(of(p, 'scars')).toMatchObject({ state: 'good', figure: expect.closeTo(15 * Math.PI * 0.25 * 0.25, 3) })
    expect(p.ends).toHaveLength(15)
    // none of them is missed, and each bears its part
    expect([p.needed, p.idle]).toEqual([[], []])
    const total = p.ends.reduce((sum, e) => sum + e.borne.alongN, 0)
    expect(total).toBeGreaterThan(60 * DEFAULT_RESIN.releaseStressNMm2 * 0.9)
  })
  it('of a slab on one thin stilt says what is to be seen to first', () => {
    const p = proven(slab(), [[0, 0]], gaugeOf('fine'))
    expect(verdictOf(p.checks)).toEqual({ ready: false, verdict: expect.stringMatching(/^Not ready: 1 (island|ledge)[^.]* still hangs\. 1 tip carries more than it can[^.]*\. \d more checks are not as they should be\.$/) as string })
    expect(of(p, 'tips')).toMatchObject({ state: 'bad', count: 1, unit: '%', sentence: expect.stringMatching(/^1 tip carries more than it can; the weakest is that of stilt 1 in layer \d+/) })
    expect(p.needed).toEqual([p.ends[0].id])
    expect(p.ends[0].share).toBeGreaterThan(1)
  })
  it('judges a raft by what all of it has on the plate', () => {
    const p = proven(slab(), GRID, gaugeOf('medium'), { raft: { ...NO_RAFT, kind: 'plate' } }), area = of(p, 'first-layer').figure ?? 0, pulledN = (of(p, 'feet').figure ?? 0) / 100 * area * DEFAULT_RESIN.greenStrengthNMm2
    expect(of(p, 'feet')).toMatchObject({ state: 'good', sentence: expect.stringMatching(/^The raft is pulled by \d+ % of what holds it on the plate\.$/) as string })
    // 60 mm² of slab and some for what tilts it, rounded to a hundredth of what the raft can
    expect(pulledN).toBeLessThan(60 * DEFAULT_RESIN.releaseStressNMm2 * 2.5 + area * DEFAULT_RESIN.greenStrengthNMm2 * 0.005)
    expect(area).toBeGreaterThan(100)
  })
  it('asks of what carries the part 0.40 mm, where a hundredth does not matter (common practice)', () => {
    const thick = (mm: number): ProofCheck => of(proven(slab(), GRID, { ...gaugeOf('light'), id: 'own', tipDiameterMm: mm }), 'carriers')
    expect([thick(0.25), thick(0.39), thick(0.4)].map(c => [c.state, c.count])).toEqual([['bad', 15], ['good', 0], ['good', 0]])
  })
  it('is weaker in a weaker resin, and asks for its margin', () => {
    const usual = proven(slab(), GRID), weak = proven(slab(), GRID, gaugeOf('medium'), { resin: { greenStrengthNMm2: DEFAULT_RESIN.greenStrengthNMm2 / 4 } }), careful = proven(slab(), GRID, gaugeOf('medium'), { resin: { margin: 10 } })
    expect((of(weak, 'tips').figure ?? 0) / (of(usual, 'tips').figure ?? 1)).toBeCloseTo(4, 0)
    expect([of(usual, 'tips').limit, of(careful, 'tips').limit]).toEqual([50, 10])
  })
  it('finds tips on what is off limits, what is beyond the plate, and what begins in the air', () => {
    const off = proven(slab(), GRID, gaugeOf('medium'), { overMm: 1.25, meets: 2, mark: ({ surface }) => surface.setWorths(new Uint8Array(surface.faces.triangles.length / 3).fill(OFF_LIMITS)) })
    expect(of(off, 'scars')).toMatchObject({ state: 'bad', count: 15, sentence: '15 tips touch what is off limits.' })
    expect(of(off, 'plate')).toMatchObject({ state: 'bad', figure: 1.25, sentence: 'On the plate it reaches 1.3 mm beyond what the printer can print, it runs into 2 other copies.' })
    expect(of(proven(slab(), GRID, gaugeOf('medium'), { meets: null }), 'plate')).toMatchObject({ state: 'note', sentence: 'All of it is on the plate; whether it is clear of other copies was not looked at.' })
    const loose = proven(joinMeshes([slab(), box([20, -1, 12], [22, 1, 14])]), GRID)
    expect(of(loose, 'hangs')).toMatchObject({ state: 'bad', count: 1, places: [{ at: [expect.closeTo(21, 0), expect.closeTo(0, 0), expect.closeTo(12, 0)], stilts: [] }] })
  })
  it('names the sides of what is soft, and finds a wall on one row to be a sail', () => {
    expect([0, 90, -90, 180, 45, -45, 135].map(sideName)).toEqual(['left and right', 'front and back', 'front and back', 'left and right', 'front left and back right', 'front right and back left', 'front right and back left'])
    const sail = proven(box([-8, -0.6, 12], [8, 0.6, 45]), [-6, -2, 2, 6].map((x): [number, number] => [x, 0]), gaugeOf('light'))
    expect(of(sail, 'sway')).toMatchObject({ state: 'bad', unit: 'mm', limit: 0.1, sentence: expect.stringMatching(/: stiff from left and right, soft from front and back\.$/) })
  })
  it('lets the vacuum of a cup pull at the piece around it, whatever larger stands beside', () => {
    const cup = joinMeshes([box([-5, -5, 13], [-4, 5, 17]), box([4, -5, 13], [5, 5, 17]), box([-4, -5, 13], [4, -4, 17]), box([-4, 4, 13], [4, 5, 17]), box([-5, -5, 12], [5, 5, 13])]), corners: [number, number][] = [[-4.5, -4.5], [4.5, -4.5], [4.5, 4.5], [-4.5, 4.5]]
    const alone = proven(cup, corners), beside = proven(joinMeshes([cup, box([12, -9, 12], [40, 9, 17])]), [...corners, ...[15, 26, 37].flatMap(x => [-6, 6].map((y): [number, number] => [x, y]))])
    const share = (p: Proof): number => Math.max(...p.ends.filter(e => e.at[0] < 6).map(e => e.share))
    expect(share(alone)).toBeGreaterThan(0)
    expect(share(beside) / share(alone)).toBeCloseTo(1, 3)
  })
  it('tells the skin that is farthest from a tip', () => {
    const mesh = joinMeshes([box([-1, -1, 10], [1, 1, 12]), box([19, -1, 10], [21, 1, 12])]), surface = new Surface(mesh)
    expect(barestSkin(surface, [[0, 0, 10]])?.mm).toBeGreaterThan(19)
    expect(barestSkin(surface, [[0, 0, 10], [20, 0, 10]])?.mm).toBeLessThan(1.5)
    expect([barestSkin(surface, []), barestSkin(new Surface(box([-1, -1, 0], [1, 1, 2])), [[0, 0, 5]])]).toEqual([null, null])
  })
})

describe('a verdict', () => {
  const bad = (kind: ProofCheckKind, count: number, figure: number, limit: number): ProofCheck => ({ kind, state: 'bad', count, figure, limit, unit: '%', places: [], sentence: `It is ${kind}.` })
  const waive = (check: ProofCheck): CheckWaiver => ({ id: 'w', part: 'part', check: check.kind, count: check.count, beyond: beyondLimit(check), reason: 'a test piece' })
  it('leaves out what was waived, for as long as it is no worse', () => {
    const tips = bad('tips', 2, 80, 50), sway = bad('sway', 1, 0.3, 0.1)
    expect(verdictOf([tips, sway], [waive(sway)])).toEqual({ ready: false, verdict: 'Not ready: it is tips. One check is left as it is.' })
    expect(verdictOf([tips, sway], [waive(sway), waive(tips)])).toEqual({ ready: true, verdict: 'Ready to print. 2 checks are left as they are.' })
    for (const worse of [bad('tips', 3, 80, 50), bad('tips', 2, 90, 50)]) expect(verdictOf([worse], [waive(tips)]).ready).toBe(false)
    for (const better of [bad('tips', 1, 80, 50), bad('tips', 2, 60, 50)]) expect(verdictOf([better], [waive(tips)]).ready).toBe(true)
  })
  it('is of a state of the part: another one after every edit of it, the same whoever wrote its rows down', () => {
    const rows = rowsOfStilt(uprightShape(0), { part: 'part', number: 1 }), state = (more: Partial<Job>): string => stateOfPart(contentOf(jobRow('job', { parts: [partRow(), partRow('other')], ...rows, ...more })), 'part')
    const before = state({}), turned = <T extends object>(row: T): T => Object.fromEntries(Object.entries(row).reverse()) as T
    expect([state({ name: 'Another' }), state({ parts: [partRow('part', { name: 'Renamed' })] }), state({ nodes: rows.nodes.map(turned) }), state({ checkWaivers: [waive(bad('tips', 1, 1, 1))] })]).toEqual([before, before, before, before])
    const others = [state({ nodes: rows.nodes.slice(1) }), state({ resin: { ...DEFAULT_RESIN, margin: 3 } }), state({ parts: [partRow('part', { pose: { tiltXDeg: 1, tiltYDeg: 0, liftMm: 5 } })] }), state({ marks: [{ id: 'm', part: 'part', worth: 'prized', runs: [0, 1] }] })]
    expect(new Set([before, ...others]).size).toBe(others.length + 1)
  })
})

describe('what is written', () => {
  it('has the layers that were proved, and is found out where it has not', async () => {
    const scene = heldScene(slab(), GRID, gaugeOf('medium'), raster), { index, surface, scan } = scene
    scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
    const of: Proven = { scan, result: scan.runToEnd(), index, part: 'part', surface, raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, roleOf: () => 'carrier', onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] }
    expect(await writtenCheck(of)).toMatchObject({ state: 'good', count: 0, sentence: 'Written to a file and read again it has the same layers; 48 were compared.' })
    // a stilt that is in the plan and was not scanned
    const one = index.stiltsOf('part')[0], less = new PlanIndex(new Map([...index.nodes].filter(([id]) => !one.nodes.includes(id))), new Map([...index.beams].filter(([id]) => !one.beams.includes(id))))
    const found = await writtenCheck({ ...of, index: less }), area = Math.PI * (one.sizes.footDiameterMm / 2) ** 2
    expect([found.state, found.places[0].layer]).toEqual(['bad', 0])
    // the feet of its neighbours cover a part of what it had
    expect(found.figure).toBeGreaterThan(1)
    expect(found.figure).toBeLessThan(area)
  })
})
