import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, NO_RAFT, type Change, type Resin } from '../contract'
import { joinMeshes, prepareMesh, type Mesh } from '../mesh'
import { AS_IS } from '../pose'
import { verdictOf } from '../proof'
import { ModelScan } from '../scan'
import { besideStilt, gapVerdict, gaugeOf, GAUGES, PlanIndex, rowsOfStilt, sizesOf, Surface, type PlanRows, type Stilt } from '../stilts'
import { uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { makeReady, type Ready } from './index'
import { braced, narrowedFeet } from './repair'

const raster = { pixelMm: 0.1, layerMm: 0.1 }, plate = { widthMm: 120, depthMm: 70 }
const slab = (): Mesh => prepareMesh(box([-9, -6, 14], [9, 6, 16])).mesh
const indexOf = ({ nodes, beams }: PlanRows): PlanIndex => new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
function ready(mesh: Mesh, rows: PlanRows = { nodes: [], beams: [] }, resin: Partial<Resin> = {}): Ready & { readonly sentences: readonly string[]; readonly after: PlanIndex } {
  const scan = new ModelScan(mesh, raster, AS_IS), sentences: string[] = []
  const steps = makeReady({ scan, surface: new Surface(mesh), part: 'part', index: indexOf(rows), raft: NO_RAFT, resin: { ...DEFAULT_RESIN, ...resin }, gauges: GAUGES, plate, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] })
  let step = steps.next()
  for (; !step.done; step = steps.next()) sentences.push(step.value)
  return { ...step.value, sentences, after: indexOf(applied(rows, step.value.change)) }
}
function applied(rows: PlanRows, { put, drop }: Change): PlanRows {
  const gone = new Set([...(drop?.nodes ?? []), ...(drop?.beams ?? []), ...(put?.nodes ?? []).map(n => n.id), ...(put?.beams ?? []).map(b => b.id)])
  return { nodes: [...rows.nodes.filter(n => !gone.has(n.id)), ...(put?.nodes ?? [])], beams: [...rows.beams.filter(b => !gone.has(b.id)), ...(put?.beams ?? [])] }
}
const braceCount = (index: PlanIndex): number => [...index.beams.values()].filter(b => b.kind === 'brace').length

describe('making ready', () => {
  it('brings a slab that nothing holds to a proof that passes, and says what it does', () => {
    const { proof, change, placed, notHeld, after, sentences } = ready(slab())
    expect([verdictOf(proof.checks), notHeld]).toEqual([{ ready: true, verdict: 'Ready to print.' }, []])
    expect([placed, after.stiltsOf('part').length, change.label]).toEqual([placed, placed, 'make ready'])
    expect(placed).toBeGreaterThan(10)
    expect(['Bracing what is slender', 'Loading every layer', 'Letting each stilt go'].every(s => sentences.includes(s))).toBe(true)
  })
  it('keeps the stilts that are there, and adds what is missing', () => {
    const rows = rowsOfStilt(uprightShape(0, { gauge: 'heavy', anchor: { point: [0, 0, 14], normal: [0, 0, -1] }, path: [[0, 0, 14], [0, 0, 11], [0, 0, 0]] }), { part: 'part', number: 7 })
    const { after, placed } = ready(slab(), rows)
    const own = after.stiltsOf('part').find(s => s.number === 7) as Stilt
    expect([own.path[0], own.gauge]).toEqual([[0, 0, 14], 'heavy'])
    expect(after.stiltsOf('part')).toHaveLength(placed + 1)
  })
  it('makes thinner what comes too near to the part, where that still bears it', () => {
    const { kneeDiameterMm, shaftFootDiameterMm } = gaugeOf('medium'), edge = 0.3 + Math.max(kneeDiameterMm, shaftFootDiameterMm) / 2
    const walled = prepareMesh(joinMeshes([box([-9, -6, 14], [9, 6, 16]), box([edge, -6, 3], [edge + 1, 6, 14.5])])).mesh, medium = gaugeOf('medium')
    const rows = rowsOfStilt(uprightShape(0, { gauge: 'medium', sizes: sizesOf(medium), anchor: { point: [0, 0, 14], normal: [0, 0, -1] }, path: [[0, 0, 14], [0, 0, 14 - medium.coneLengthMm], [0, 0, 0]] }), { part: 'part', number: 1 })
    const before = indexOf(rows).stiltsOf('part')[0], own = ready(walled, rows).after.stiltsOf('part').find(x => x.number === 1) as Stilt, surface = new Surface(walled)
    expect(gapVerdict(surface, before, medium)).toMatchObject({ gapMm: expect.closeTo(0.3, 1) as number })
    expect([own.gauge !== 'medium', gapVerdict(surface, own, gaugeOf(own.gauge))]).toEqual([true, null])
  })
  it('makes thicker what bears too much: a resin that is ten times weaker asks for thicker tips, and more of them', () => {
    const usual = ready(slab()), weak = ready(slab(), undefined, { greenStrengthNMm2: DEFAULT_RESIN.greenStrengthNMm2 / 10 })
    const area = (r: Ready): number => r.proof.ends.reduce((sum, e) => sum + e.contactMm2, 0)
    expect(weak.thickened).toBeGreaterThan(0)
    expect(area(weak)).toBeGreaterThan(area(usual))
    expect(weak.proof.ends[0].share).toBeLessThan(10 * usual.proof.ends[0].share)
  })
  it('braces a wall that sways like a sail, and makes it stiffer', () => {
    const wall = prepareMesh(box([-7, -0.6, 22], [7, 0.6, 44])).mesh, { braces, proof, after } = ready(wall)
    expect(braces).toBeGreaterThan(0)
    expect(braceCount(after)).toBe(braces)
    expect(proof.checks.find(c => c.kind === 'slender')?.state).toBe('good')
  })
  it('ends with what is left to do where it cannot help', () => {
    // a pan with its mouth up is a cup, whatever stands under it
    const pan = prepareMesh(joinMeshes([box([-6, -6, 12], [6, 6, 13]), box([-6, -6, 13], [-5, 6, 18]), box([5, -6, 13], [6, 6, 18]), box([-5, -6, 13], [5, -5, 18]), box([-5, 5, 13], [5, 6, 18])])).mesh
    expect(verdictOf(ready(pan).proof.checks)).toMatchObject({ ready: false, verdict: 'Not ready: 1 space pulls or is shut.' })
  })
})

describe('repairs', () => {
  const row = (n: number, apart: number): PlanIndex => indexOf(Array.from({ length: n }, (_, i) => rowsOfStilt(uprightShape(i * apart, { anchor: { point: [i * apart, 0, 40], normal: [0, 0, -1] }, path: [[i * apart, 0, 40], [i * apart, 0, 37], [i * apart, 0, 0]] }), { part: 'part', number: i + 1 })).reduce((a, b) => ({ nodes: [...a.nodes, ...b.nodes], beams: [...a.beams, ...b.beams] })))
  const ground = { surface: new Surface(prepareMesh(box([-50, -5, 40], [90, 5, 42])).mesh), part: 'part', gauges: GAUGES, plate: { widthMm: 300, depthMm: 70 }, resin: DEFAULT_RESIN }
  it('brace a few and a few, never more together than four', () => {
    const index = row(10, 5), { change, braces } = braced(ground, index, index.stiltsOf('part'), () => ({ field: { nearest: () => null } as never, limitMm: 0.5 }))
    const after = indexOf(applied({ nodes: [...index.nodes.values()], beams: [...index.beams.values()] }, change as Change)), sizes = [...after.structures().values()].map(s => s.nodes.filter(id => after.nodes.get(id)?.kind === 'tip').length)
    expect(Math.max(...sizes)).toBe(4)
    expect([sizes.reduce((a, b) => a + b, 0), braces > 10]).toEqual([10, true])
    expect(braced(ground, index, [], () => ({ field: { nearest: () => null } as never, limitMm: 0.5 })).braces).toBe(0)
  })
  it('narrow feet that would close a space between them, and leave the others', () => {
    const index = row(4, 2.4), all = index.stiltsOf('part'), wide = all[0].sizes.footDiameterMm, { put } = narrowedFeet(ground, index, new Set(all.map(s => s.id)))
    const feet = (put?.nodes ?? []).flatMap(n => (n.kind === 'foot' ? [n.fitted.footDiameterMm] : []))
    expect(feet).toHaveLength(4)
    for (const mm of feet) expect([mm < wide, mm <= 2.4 - 0.9 + 1e-9 || mm <= all[0].sizes.shaftFootDiameterMm + 0.4 + 1e-9]).toEqual([true, true])
    const apart = row(4, 12)
    expect(narrowedFeet(ground, apart, new Set(apart.stiltsOf('part').map(s => s.id))).put?.nodes ?? []).toEqual([])
  })
  it('stand one more beside, on the same face and apart from the others; or say why not', () => {
    const surface = new Surface(slab()), stilt = uprightShape(0, { anchor: { point: [0, 0, 14], normal: [0, 0, -1] }, path: [[0, 0, 14], [0, 0, 11], [0, 0, 0]] }), made = besideStilt(surface, stilt, gaugeOf('light'), plate, [[0, 0, 14], [3, 0, 14]])
    if ('ok' in made) throw new Error(made.reason)
    const [x, y, z] = made.path[0]
    expect([z, Math.hypot(x, y) > 1, Math.hypot(x - 3, y) > Math.hypot(x, y)]).toEqual([14, true, true])
    const needle = new Surface(prepareMesh(box([-0.3, -0.3, 14], [0.3, 0.3, 20])).mesh)
    expect(besideStilt(needle, stilt, gaugeOf('light'), plate, [[0, 0, 14]])).toMatchObject({ ok: false, reason: expect.any(String) as string })
  })
})
