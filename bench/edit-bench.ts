import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { applyChange, contentOf, newId, type Change, type Edit, type JobContent } from '../core/contract'
import { prepareMesh, readModel, wholeOf, type Mesh } from '../core/mesh'
import { standOf, UNSHAPED } from '../core/pose'
import { ModelScan } from '../core/scan'
import { changeOfStilts, Clearance, gaugeOf, PlanIndex, reseatStilts, rowsOfStilt, routeStilt, shapeOfRoute, solidOfStilt, solidOfStructure, Surface, GAUGES, type StiltShape } from '../core/stilts'
import { between, random } from '../core/testing/random'
import { jobRow } from '../core/testing/jobs'
import { demoStl } from '../server'
import { migrate } from '../server/database/migrations'
import { openDatabase } from '../server/database/sqlite'
import { JobStore } from '../server/store/jobs'
import { median, timed } from './timing'

// What one edit costs among thousands of stilts, beside making everything anew in the same run. Medians of RUNS; one core.
const STILTS = 5000, RUNS = 9
const raster = { pixelMm: 0.05, layerMm: 0.05 }, plate = { widthMm: 153.35, depthMm: 77.75 }

const each = (work: (run: number) => void): string => {
  const times: number[] = []
  for (let run = 0; run <= RUNS; run++) {
    const [, time] = timed(() => work(run))
    if (run > 0) times.push(time)
  }
  return `${median(times).toFixed(2)} ms (up to ${Math.max(...times).toFixed(2)})`
}

const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron')))))
const stand = standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, raster.pixelMm), surface = new Surface(mesh, { shape: UNSHAPED, stand })

/** Stilts under points of the skin that a ray from below meets first, whatever stands beside them. */
function stiltsUnder(count: number): StiltShape[] {
  const r = random(5), out: StiltShape[] = [], gauge = gaugeOf('fine')
  while (out.length < count) {
    const hit = surface.cast([between(r, -60, 60), between(r, -35, 35), 0.01], [0, 0, 1])
    const route = hit && routeStilt(surface, hit.point, hit.normal, gauge, plate)
    if (hit && route?.ok) out.push(shapeOfRoute(surface, gauge, 'detail', route, hit.normal))
  }
  return out
}
const shapes = stiltsUnder(STILTS)
const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
const nodes = rows.flatMap(r => r.nodes), beams = rows.flatMap(r => r.beams)
console.log(`${STILTS} stilts on the heron: ${nodes.length} nodes, ${beams.length} beams`)

const content: JobContent = contentOf(jobRow('job', { nodes, beams }))
const index = new PlanIndex(content.tables.nodes, content.tables.beams)
index.stiltsOf('part')
function commit(change: Change): Change {
  const { inverse, touched } = applyChange(content, change)
  index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
  index.stiltsOf('part')
  return inverse
}
/** The change that moves a foot by a little. */
function nudge(n: number): Change {
  const stilt = index.stiltsOf('part')[n], path = stilt.path.map((p, i) => (i === stilt.path.length - 1 ? ([p[0] + 0.01, p[1], p[2]] as const) : p))
  return changeOfStilts(index, 'part', 'nudge', { put: [{ stilt, shape: { ...stilt, path } }] })
}

console.log('page: from a change to the new list of stilts')
let undo: Change = { label: 'none' }
console.log(`  one stilt edited ${each(run => (undo = commit(nudge(run * 37))))}; taken back ${each(() => (undo = commit(undo)))}`)
console.log(`  everything made anew ${each(() => new PlanIndex(content.tables.nodes, content.tables.beams).stiltsOf('part'))}`)

console.log('worker: solids of all structures after one edit')
const solids = new Map<string, { version: number; solid: Mesh }>()
const solidsNow = (): Mesh[] => [...index.structures().values()].map(s => {
  let known = solids.get(s.id)
  if (known?.version !== s.version) solids.set(s.id, (known = { version: s.version, solid: solidOfStructure(index, s) }))
  return known.solid
})
solidsNow()
console.log(`  those touched ${each(run => {
  commit(nudge(run * 41))
  solidsNow()
})}; all anew ${each(() => {
  solids.clear()
  solidsNow()
})}`)

console.log('clearance: stilts nearer than 0.5 mm to each other')
const [clearance, build] = timed(() => new Clearance(index)), [pairs, measure] = timed(() => clearance.nearer('part', 0.5).length)
console.log(`  ${pairs} pairs of all, ${(build + measure).toFixed(0)} ms; after one edit ${each(run => {
  const { touched } = applyChange(content, nudge(run * 43))
  clearance.touch(index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? []))
  clearance.nearer('part', 0.5)
})}`)

console.log('server: saving')
const db = openDatabase(join(mkdtempSync(join(tmpdir(), 'oak-stilts-bench-')), 'bench.sqlite'))
await migrate(db, () => null)
const store = new JobStore(db), job = await store.create({ name: 'bench', parts: [{ part: jobRow().parts[0], places: [[0, 0]] }], turnDeg: 0, picture: 'x' })
const { parts: [part] } = (await store.get(job)) as NonNullable<Awaited<ReturnType<JobStore['get']>>>
const own = <R extends { part: string }>(list: readonly R[]): R[] => list.map(r => ({ ...r, part: part.id }))
let revision = 0
const save = async (change: Change): Promise<number> => {
  const edit: Edit = { ...change, step: newId(), way: 'do' }, start = performance.now()
  revision = (await store.edit(job, { batch: newId(), baseRevision: revision, edits: [edit] })) as number
  return performance.now() - start
}
/** Runs work and tells the longest time in which nothing else could run. */
async function withGaps(work: () => Promise<number>): Promise<{ time: number; gap: number }> {
  let last = performance.now(), gap = 0
  const tick = setInterval(() => {
    const now = performance.now()
    gap = Math.max(gap, now - last)
    last = now
  }, 1)
  const time = await work()
  await new Promise(resolve => setTimeout(resolve, 5))
  clearInterval(tick)
  return { time, gap }
}
const placed = await withGaps(() => save({ label: 'place', put: { nodes: own(nodes), beams: own(beams) } }))
console.log(`  all ${STILTS} at once ${placed.time.toFixed(0)} ms, longest silence ${placed.gap.toFixed(0)} ms`)
const ones: number[] = []
for (let run = 0; run <= RUNS; run++) ones.push(await save({ label: 'one', put: { nodes: own(rows[run * 53].nodes), beams: own(rows[run * 53].beams) } }))
console.log(`  one stilt ${median(ones.slice(1)).toFixed(2)} ms (up to ${Math.max(...ones.slice(1)).toFixed(2)}); deleted ${(await save({ label: 'drop', drop: { nodes: rows[7].nodes.map(n => n.id), beams: rows[7].beams.map(b => b.id) } })).toFixed(2)} ms`)
const seated: { time: number; gap: number }[] = []
for (let run = 0; run < RUNS; run++) seated.push(await withGaps(() => save({ label: 'tilt', put: { nodes: own(nodes), beams: own(beams) } })))
console.log(`  all ${STILTS} seated anew ${median(seated.map(s => s.time)).toFixed(0)} ms (up to ${Math.max(...seated.map(s => s.time)).toFixed(0)}; aim 1000), longest silence ${Math.max(...seated.map(s => s.gap)).toFixed(0)} ms`)
const start = performance.now()
await store.get(job)
console.log(`  read whole ${(performance.now() - start).toFixed(0)} ms`)
await db.destroy()

console.log('pose: all stilts routed anew')
console.log(`  ${timed(() => reseatStilts(surface, shapes.slice(0, 1000), GAUGES, plate))[1].toFixed(0)} ms for 1000 of them`)

console.log('scan: what touches what')
const scan = new ModelScan(mesh, raster, stand)
const toGraph = (): number => timed(() => scan.runTo('graph'))[1]
const alone = toGraph()

/** What it costs to take supports, and to move one of some by a little; beside the full scan, the model's own layers included. */
function takeAndMove(name: string, solids: readonly Mesh[], which: readonly number[]): void {
  scan.setStilts(solids)
  const full = alone + toGraph()
  const moves = which.map(at => {
    const positions = Float32Array.from(solids[at].positions)
    for (let i = 0; i < positions.length; i += 3) positions[i] += 0.2
    scan.setStilts(solids.map((s, i) => (i === at ? { positions, triangles: s.triangles } : s)))
    return toGraph()
  })
  const middle = median(moves), most = Math.max(...moves)
  console.log(`  ${name}: ${solids.length} scanned in ${full.toFixed(0)} ms; one of them moved ${middle.toFixed(0)} ms, up to ${most.toFixed(0)}; ratio ${(middle / full).toFixed(3)}, up to ${(most / full).toFixed(3)}`)
}

/** Whether the ways of two stilts stay this far apart, mm, seen from above. */
const apart = (a: StiltShape, b: StiltShape, mm: number): boolean => a.path.every(p => b.path.every(q => Math.hypot(p[0] - q[0], p[1] - q[1]) > mm))
// a plan as it should be: no two shafts nearer than a resin allows
const clear: StiltShape[] = []
for (const s of shapes) if (clear.every(o => apart(s, o, 1.4))) clear.push(s)
takeAndMove('stilts that keep clear of each other', clear.map(solidOfStilt), [0, 7, 20, 41, 60, 83])
// and one beyond all reason: thousands through each other, but for the first, which stands free
const crowd = shapes.filter((s, i) => i === 0 || apart(s, shapes[0], 5))
takeAndMove('stilts through each other, one that stands free', crowd.map(solidOfStilt), [0, 0, 0, 0])
console.log(`memory ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB`)
