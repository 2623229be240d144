import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import Module from 'manifold-3d'
import { DEFAULT_PRINTER } from '../core/contract'
import { joinMeshes, prepareMesh, readModel, volumeOf, wholeOf, type Mesh, type Vec3 } from '../core/mesh'
import { holdOpenIslands } from '../core/plan'
import { motionOfPose, standOf, moveMesh, UNSHAPED } from '../core/pose'
import { firstLook, layerPicture, ModelScan, type GraphChunk } from '../core/scan'
import { gaugeOf, GAUGES, routeStilt, solidOfStilt, Surface, type StiltShape } from '../core/stilts'
import { knot, lathe, moved } from '../core/testing/shapes'
import { DEMO_JOBS } from '../demo'
import { demoStl } from '../server'
import { median, timed } from './timing'

// Every figure has its reference beside it, made in the same run. Medians of five after a warm-up; one core.
const RUNS = 5
const raster = { pixelMm: 0.05, layerMm: 0.05 }

const wasm = await Module()
wasm.setup()

const ms = (values: readonly number[]): string => `${median(values).toFixed(0)} ms (${Math.min(...values).toFixed(0)} to ${Math.max(...values).toFixed(0)})`

/** The same planes cut by a general-purpose geometry library. */
function cutAll(solid: InstanceType<typeof wasm.Manifold>, layerCount: number): number {
  let contours = 0
  for (let k = 0; k < layerCount; k++) {
    const cut = solid.slice((k + 0.5) * raster.layerMm)
    contours += cut.numContour()
    cut.delete()
  }
  return contours
}

function compare(name: string, mesh: Mesh, aims = ['0.50', '1.00']): void {
  const graphs: number[] = [], alls: number[] = [], cuts: number[] = []
  // the scan alone first, so that its memory is its own
  for (let run = 0; run <= RUNS; run++) {
    const start = performance.now()
    let graph = 0
    for (const step of new ModelScan(mesh, raster).run()) if (step.stage === 'graph' && step.result) graph = performance.now() - start
    const all = performance.now() - start
    if (run > 0) {
      graphs.push(graph)
      alls.push(all)
    }
  }
  const memory = process.resourceUsage().maxRSS / 1024
  const result = new ModelScan(mesh, raster).runToEnd()
  const layerCount = result.layerCount
  const facts = `${layerCount} layers, ${result.islands.length} islands, ${result.ledges.length} ledges, ${result.cups.length + result.smallCups} cups`
  const [solid, build] = timed(() => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })))
  for (let r = 0; r <= RUNS; r++) {
    const [, cut] = timed(() => cutAll(solid, layerCount))
    if (r > 0) cuts.push(cut)
  }
  solid.delete()
  console.log(`${name}: ${(mesh.triangles.length / 3).toLocaleString('en')} triangles, ${volumeOf(mesh).toFixed(0)} mm³, ${facts}`)
  console.log(`  islands, suction, signals      ${ms(graphs)}; process memory so far ${memory.toFixed(0)} MB at most`)
  console.log(`  everything, ledges and vents   ${ms(alls)}`)
  console.log(`  manifold-3d, same planes       ${ms(cuts)}, after ${build.toFixed(0)} ms to build its mesh`)
  console.log(`  islands … to the cuts ${(median(graphs) / median(cuts)).toFixed(2)} (aim ${aims[0]}); everything to build and cuts ${(median(alls) / (median(cuts) + build)).toFixed(2)} (aim ${aims[1]})`)
}

/** Supports that are moved in turn, spread over all. */
const MOVED = 6

/** One support of some moved by half a millimetre, some in turn, the slowest counts: what that costs beside the full scan of the same stage. */
function moveOne(name: string, mesh: Mesh, supports: readonly Mesh[]): void {
  const fulls: number[] = [], moves: number[] = [], ordinary: number[] = []
  let renewed = 0
  for (let run = 0; run <= RUNS; run++) {
    const [scan, full] = timed(() => {
      const s = new ModelScan(mesh, raster)
      s.setStilts(supports)
      s.runTo('graph')
      return s
    })
    let slowest = 0
    const each: number[] = []
    for (let n = 0; n < Math.min(MOVED, supports.length); n++) {
      const which = Math.floor((n * supports.length) / Math.min(MOVED, supports.length))
      scan.setStilts(supports.map((p, i) => (i === which ? moved(p, [0.5, 0.2, 0]) : p)))
      const [, move] = timed(() => scan.runTo('graph'))
      slowest = Math.max(slowest, move)
      each.push(move)
      renewed = Math.max(renewed, scan.renewedLayers)
      scan.setStilts(supports)
      scan.runTo('graph')
    }
    if (run > 0) {
      fulls.push(full)
      moves.push(slowest)
      ordinary.push(median(each))
    }
  }
  console.log(`  one of ${supports.length} ${name} moved, of ${MOVED} the middle: ${ms(ordinary)}, the slowest: ${ms(moves)}, up to ${renewed} layers renewed; ratio to the full scan with them, ${median(fulls).toFixed(0)} ms: ${(median(ordinary) / median(fulls)).toFixed(3)} and ${(median(moves) / median(fulls)).toFixed(3)}`)
}

/** Distance between the ways of stilts that stand free of each other, mm. */
const FREE_MM = 6

/** Stilts as they are placed, and posts that run through the part, which no plan has. */
function moveSupports(mesh: Mesh): void {
  const scan = new ModelScan(mesh, raster)
  const steps = holdOpenIslands(scan, new Surface(mesh), [], { gauges: GAUGES, plate: DEFAULT_PRINTER })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const placed = step.value.added
  // such as stand free of each other from tip to foot
  const free: StiltShape[] = []
  for (const s of placed) if (free.every(o => s.path.every(p => o.path.every(q => Math.hypot(p[0] - q[0], p[1] - q[1]) > FREE_MM)))) free.push(s)
  moveOne('stilts that stand free (aim 0.020)', mesh, free.map(solidOfStilt))
  moveOne('stilts of the whole plan, most of which touch others,', mesh, placed.map(solidOfStilt))
  const post = (x: number, y: number, top: number): Mesh => lathe([[0, 0], [2, 0], [2, 0.6], [0.7, 0.8], [0.5, top - 2], [0.2, top], [0, top]], 16, [x, y, 0])
  moveOne('posts, some of them through the part,', mesh, [[24, 0], [-20, 5], [0, 25], [10, -20], [3, 3]].map(([x, y], i) => post(x, y, 20 + 4 * i)))
}

/** Bands between two messages. */
const BATCH = 3

/** The first stage on one core and on two: bands are made in worker threads, only graphs travel. */
async function twoCores(mesh: Mesh): Promise<void> {
  const shared = { positions: new Float32Array(new SharedArrayBuffer(mesh.positions.byteLength)), triangles: new Uint32Array(new SharedArrayBuffer(mesh.triangles.byteLength)) }
  shared.positions.set(mesh.positions)
  shared.triangles.set(mesh.triangles)
  const workers = [0, 1].map(() => new Worker(new URL('./band-thread.mjs', import.meta.url), { workerData: { ...shared, raster } }))
  const ask = (worker: Worker, message: object): Promise<{ chunks: [number, GraphChunk][]; bands: number }> => new Promise(resolve => {
    worker.once('message', resolve)
    worker.postMessage(message)
  })
  const timeFor = async (count: number): Promise<number> => {
    const start = performance.now()
    let low = 0, high = Infinity
    // as the page does: one from below, the other from above, until they meet
    await Promise.all(workers.slice(0, count).map(async (w, fromAbove) => {
      const { bands } = await ask(w, { prepare: true })
      high = Math.min(high, bands)
      while (low < high) {
        const list: number[] = []
        while (list.length < BATCH && low < high) list.push(fromAbove ? --high : low++)
        await ask(w, { list })
      }
    }))
    return performance.now() - start
  }
  // the reference: the same work twice, whole, on two cores at once, with nothing to share out
  const alone = async (worker: Worker): Promise<void> => {
    const { bands } = await ask(worker, { prepare: true })
    for (let b = 0; b < bands; b++) await ask(worker, { list: [b] })
  }
  const side = async (): Promise<number> => {
    const start = performance.now()
    await Promise.all(workers.map(alone))
    return performance.now() - start
  }
  const one: number[] = [], two: number[] = [], gains: number[] = []
  for (let run = 0; run <= RUNS; run++) {
    const a = await timeFor(1), b = await timeFor(2), p = (2 * a) / (await side())
    if (run > 0) {
      gains.push(p)
      one.push(a)
      two.push(b)
    }
  }
  for (const w of workers) await w.terminate()
  console.log(`  graphs on one core ${ms(one)}, on two ${ms(two)}: ${(median(one) / median(two)).toFixed(2)} times as fast (aim 1.80; two whole stages side by side gain ${median(gains).toFixed(2)} from the second core in the same run)`)
}

/** A plate full of copies, tall and dense: what it takes in memory. */
function fullPlate(): void {
  const copies: Mesh[] = []
  for (let i = 0; i < 5; i++) for (let j = 0; j < 2; j++) copies.push(moved(knot(2500, 100, 10, 4, 2.2, [0, 0, 0], 2, 3), [-60 + 30 * i, -20 + 40 * j, 0]))
  // each copy is drawn out to the whole height of the printer
  const mesh = joinMeshes(copies)
  const positions = mesh.positions.slice()
  let low = Infinity, high = -Infinity
  for (let i = 2; i < positions.length; i += 3) {
    low = Math.min(low, positions[i])
    high = Math.max(high, positions[i])
  }
  for (let i = 2; i < positions.length; i += 3) positions[i] = 5 + ((positions[i] - low) / (high - low)) * 159.9
  const [result, time] = timed(() => new ModelScan({ positions, triangles: mesh.triangles }, raster).runToEnd())
  console.log(`full plate: ${(mesh.triangles.length / 3).toLocaleString('en')} triangles, ${result.layerCount} layers, ${(result.areaMm2.reduce((a, b) => a + b, 0) * raster.layerMm / 1000).toFixed(0)} cm³, ${result.islands.length} islands: everything in ${(time / 1000).toFixed(1)} s; process memory ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB at most (aim under 1024)`)
}

if (process.argv.includes('--cores')) {
  await twoCores(prepareMesh(knot(5000, 100, 24, 15, 4.5, [0, 0, 27.5])).mesh)
  process.exit(0)
}
if (process.argv.includes('--plate')) {
  fullPlate()
  process.exit(0)
}
const big = prepareMesh(knot(5000, 100, 24, 15, 4.5, [0, 0, 27.5])).mesh
compare('torus knot', big, ['0.35', '0.55'])
moveSupports(big)
await twoCores(big)
// in a process of its own, so that its memory is its own
console.log(execFileSync(process.execPath, ['--import', 'tsx', fileURLToPath(import.meta.url), '--plate']).toString().trim())

const paths = new Map(await Promise.all(DEMO_JOBS.filter(j => !j.again).map(async j => [j.model, await demoStl(j.model)] as const)))
let largest: { name: string; mesh: Mesh; pose: (typeof DEMO_JOBS)[number]['pose'] } | null = null
for (const job of DEMO_JOBS.filter(j => !j.again)) {
  const bytes = readFileSync(paths.get(job.model) ?? ''), from = performance.now()
  const prepared = prepareMesh(wholeOf(await readModel(bytes))), prepareMs = performance.now() - from
  console.log(`${job.name}: read and prepared in ${prepareMs.toFixed(0)} ms`)
  const stand = motionOfPose(prepared.mesh.positions, job.pose, raster.pixelMm)
  const looks = Array.from({ length: RUNS + 1 }, () => timed(() => firstLook(prepared.mesh, stand))[1]).slice(1)
  console.log(`${job.name}: first look at 0.3 mm, warm, ${ms(looks)} (aim 100 ms)`)
  compare(job.name, moveMesh(prepared.mesh, stand))
  if (!largest || prepared.mesh.triangles.length > largest.mesh.triangles.length) largest = { name: job.name, mesh: prepared.mesh, pose: job.pose }
}

if (largest) {
  const { mesh, name, pose } = largest
  const stand = standOf(mesh.positions, pose, raster.pixelMm)
  const [surface, build] = timed(() => new Surface(mesh, { shape: UNSHAPED, stand }))
  const scan = new ModelScan(mesh, raster, stand)
  scan.runToEnd()
  // a pointer that wanders over the model: rays from all sides, the same every time
  const rays: [Vec3, Vec3][] = []
  for (let i = 0; i < 600; i++) {
    const a = i * 2.39996, h = 8 + (55 * i) / 600
    rays.push([[Math.cos(a) * 120, Math.sin(a) * 120, h - 12], [-Math.cos(a), -Math.sin(a), 0.1]])
  }
  const times: number[] = [], casts: number[] = []
  let stands = 0
  for (let run = 0; run < 2; run++) {
    for (const [o, d] of rays) {
      const [hit, cast] = timed(() => surface.cast(o, d))
      if (!hit) continue
      const [route, time] = timed(() => routeStilt(surface, hit.point, hit.normal, gaugeOf('medium'), DEFAULT_PRINTER))
      if (run === 0) continue
      times.push(time + cast)
      casts.push(cast)
      if (route.ok) stands++
    }
  }
  times.sort((a, b) => a - b)
  console.log(`hover ghost on ${name}: ${times.length} points, ${stands} can stand; median ${median(times).toFixed(2)} ms, 95 % within ${times[Math.floor(times.length * 0.95)].toFixed(1)} ms, longest ${times[times.length - 1].toFixed(1)} ms; budget 16 ms; the ray cast alone (three-mesh-bvh) ${median(casts).toFixed(3)} ms; tree built in ${build.toFixed(0)} ms`)
  const [held, holdMs] = timed(() => {
    const steps = holdOpenIslands(scan, surface, [], { gauges: GAUGES, plate: DEFAULT_PRINTER })
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  })
  console.log(`hold open islands on ${name}: ${held.added.length} stilts in ${(holdMs / 1000).toFixed(1)} s with its scans; ${held.notHeld.length} not held`)
  const pictures: number[] = []
  for (let k = 0; k < held.result.layerCount; k += 5) pictures.push(timed(() => layerPicture(scan, held.result, k))[1])
  pictures.sort((a, b) => a - b)
  console.log(`layer picture with them: median ${median(pictures).toFixed(1)} ms, 95 % within ${pictures[Math.floor(pictures.length * 0.95)].toFixed(1)} ms; budget 16 ms`)
}
