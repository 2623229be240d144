import { readFileSync } from 'node:fs'
import { DEFAULT_PRINTER, DEFAULT_RESIN, loadsOf, NO_RAFT, type PlanBeam, type PlanNode } from '../core/contract'
import { prepareMesh, readModel, wholeOf, type Vec3 } from '../core/mesh'
import { holdOpenIslands } from '../core/plan'
import { scanPlate, type ScannedPart, type StandingCopy } from '../core/plate'
import { standOf, UNSHAPED } from '../core/pose'
import { prove, verdictOf, type Proven } from '../core/proof'
import { ALL, bucklingFactor, Frame, FrameFactor, type FrameBeam } from '../core/proof/frame'
import { solidsOfPart } from '../core/raft'
import { makeReady } from '../core/ready'
import { ModelScan } from '../core/scan'
import { GAUGES, PlanIndex, rowsOfStilt, Surface } from '../core/stilts'
import { between, random } from '../core/testing/random'
import { demoStl } from '../server'
import { median, timed } from './timing'

/** Goes through all steps. */
function run<T>(steps: Generator<unknown, T, void>): T {
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value
}

// What a proof costs, beside the full scan of the same part in the same run. One core.
const raster = { pixelMm: 0.05, layerMm: 0.05 }, RUNS = 3
const mesh = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron'))))).mesh, stand = standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, raster.pixelMm)
const surface = new Surface(mesh, { shape: UNSHAPED, stand }), scanned = (): ModelScan => {
  const scan = new ModelScan(mesh, raster, stand)
  scan.setLoads(loadsOf(DEFAULT_RESIN))
  return scan
}
const fullMs = median(Array.from({ length: RUNS }, () => timed(() => scanned().runToEnd())[1]))
console.log(`heron, ${mesh.triangles.length / 3} triangles: full scan ${fullMs.toFixed(0)} ms`)

const scan = scanned()
scan.runToEnd()
const rows = run(holdOpenIslands(scan, surface, [], { gauges: GAUGES, plate: { widthMm: 153.35, depthMm: 77.75 } })).added.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 })), nodes: PlanNode[] = rows.flatMap(r => r.nodes), beams: PlanBeam[] = rows.flatMap(r => r.beams)
const index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
const of: Proven = { scan, result: scan.runToEnd(), index, part: 'part', surface, raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, roleOf: () => 'detail', onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] }
/** One proof, and how long each of its steps took. */
function proof(what = of): { ms: number; steps: Map<string, number> } {
  const began = new Map<string, number>(), start = performance.now(), run = prove(what)
  let last = '', since = start
  for (let at = run.next(); ; at = run.next()) {
    const now = performance.now()
    if (last) began.set(last, (began.get(last) ?? 0) + now - since)
    since = now
    if (at.done) return { ms: now - start, steps: began }
    last = at.value
  }
}
proof()
const runs = Array.from({ length: RUNS }, proof), wholeMs = median(runs.map(r => r.ms))
console.log(`  ${index.stiltsOf('part').length} stilts proved in ${wholeMs.toFixed(0)} ms, ${(wholeMs / fullMs).toFixed(2)} of the full scan (aim 0.50)`)
for (const name of runs[0].steps.keys()) console.log(`    ${name}: ${median(runs.map(r => r.steps.get(name) ?? 0)).toFixed(0)} ms`)

// hundreds of stilts: one under every ledge as well
{
  const fresh = scanned()
  fresh.runToEnd()
  const every = run(holdOpenIslands(fresh, surface, [], { gauges: GAUGES, plate: { widthMm: 153.35, depthMm: 77.75 }, ledges: true })).added, made = every.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
  const many = new PlanIndex(new Map(made.flatMap(r => r.nodes.map((n): [string, PlanNode] => [n.id, n]))), new Map(made.flatMap(r => r.beams.map((b): [string, PlanBeam] => [b.id, b]))))
  scan.setStilts(solidsOfPart(many, 'part', NO_RAFT))
  const all = { ...of, result: scan.runToEnd(), index: many }
  proof(all)
  const runs = Array.from({ length: RUNS }, () => proof(all))
  console.log(`  ${every.length} stilts proved in ${median(runs.map(r => r.ms)).toFixed(0)} ms (aim 2000), each of them let go in ${median(runs.map(r => r.steps.get('Letting each stilt go') ?? 0)).toFixed(0)} ms`)
  scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
}

// the plate with ten copies: each copy stands by what its part was proved for, and the plate is scanned for what only several of them do
{
  const part: ScannedPart = { id: 'part', mesh, stand, solids: solidsOfPart(index, 'part', NO_RAFT), result: of.result }, copies = Array.from({ length: 10 }, (_, i): StandingCopy => ({ id: `copy ${i}`, part: 'part', shift: { xMm: 110 * (i % 5), yMm: 50 * Math.floor(i / 5), turnDeg: 0 } }))
  const plateMs = median(Array.from({ length: RUNS }, () => timed(() => {
    const run = scanPlate([part], copies, raster, scan.settings, loadsOf(DEFAULT_RESIN))
    while (!run.next().done);
  })[1]))
  console.log(`  ten copies of it on the plate: ${plateMs.toFixed(0)} ms more, together ${((wholeMs + plateMs) / fullMs).toFixed(2)} of the full scan of one (aim 2.00)`)
}

// from nothing to a proof, on the printer's raster
{
  const bracket = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('bracket'))))).mesh, at = standOf(bracket.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, raster.pixelMm)
  const alone = median(Array.from({ length: RUNS }, () => timed(() => new ModelScan(bracket, raster, at).runToEnd())[1]))
  const [{ placed, braces, thickened, proof }, readyMs] = timed(() => {
    const steps = makeReady({ scan: new ModelScan(bracket, raster, at), surface: new Surface(bracket, { shape: UNSHAPED, stand: at }), part: 'part', index: new PlanIndex(new Map(), new Map()), raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: of.onPlate, waivers: [] })
    let step = steps.next()
    while (!step.done) step = steps.next()
    return step.value
  })
  console.log(`bracket made ready in ${(readyMs / 1000).toFixed(1)} s, full scan ${alone.toFixed(0)} ms: ${placed} stilts, ${braces} braces, ${thickened} made thicker. ${verdictOf(proof.checks).verdict}`)
}

// a forest of trees with braces between neighbours: 250 trunks of fourteen beams
const r = random(3), points: Vec3[] = [], made: FrameBeam[] = [], held = new Map<number, number>(), crowns: number[] = []
const join = (a: number, b: number, from: number, to: number): void => void made.push({ a, b, from: points[a], to: points[b], fromRadiusMm: from, toRadiusMm: to })
for (let i = 0; i < 250; i++) {
  const x = 4 * (i % 20), y = 4 * Math.floor(i / 20), foot = points.push([x, y, 0]) - 1
  held.set(foot, ALL)
  let below = foot
  for (let k = 1; k <= 4; k++) {
    const node = points.push([x, y, 8 * k]) - 1
    join(node, below, 0.5, 0.55)
    below = node
  }
  crowns.push(below)
  for (let k = 0; k < 5; k++) {
    const knee = points.push([x + between(r, -1.5, 1.5), y + between(r, -1.5, 1.5), 35 + between(r, 0, 2)]) - 1, tip = points.push([points[knee][0], points[knee][1], 39 + between(r, 0, 3)]) - 1
    join(knee, below, 0.25, 0.4)
    join(tip, knee, 0.12, 0.25)
  }
  if (i % 20 > 0) join(crowns[i], crowns[i - 1], 0.35, 0.35)
}
const build = (): FrameFactor => new FrameFactor(new Frame(points, made, held, { modulusNMm2: 400, poisson: 0.4 }))
build()
const frameMs = median(Array.from({ length: RUNS }, () => timed(build)[1])), factor = build(), along = made.map(() => -0.05)
bucklingFactor(factor, along)
console.log(`frame of ${made.length} beams built and factored in ${frameMs.toFixed(0)} ms (aim 300); its buckling factor in ${median(Array.from({ length: RUNS }, () => timed(() => bucklingFactor(factor, along))[1])).toFixed(0)} ms (aim 500)`)
