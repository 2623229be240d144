import { readFileSync } from 'node:fs'
import Module from 'manifold-3d'
import { DEFAULT_PRINTER } from '../core/contract'
import { prepareMesh, readStl, volumeOf, type Mesh, type Vec3 } from '../core/mesh'
import { holdOpenIslands } from '../core/plan'
import { placementOf, placeMesh } from '../core/pose'
import { ModelScan } from '../core/scan'
import { gaugeOf, GAUGES, routeStilt, Surface } from '../core/stilts'
import { knot } from '../core/testing/shapes'
import { DEMO_JOBS } from '../demo'
import { demoStl } from '../server'

// Every figure has its reference beside it, made in the same run. Medians of five after a warm-up; one core.
const RUNS = 5
const raster = { pixelMm: 0.05, layerMm: 0.05 }

const wasm = await Module()
wasm.setup()

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
}
function timed<T>(work: () => T): [T, number] {
  const start = performance.now()
  const value = work()
  return [value, performance.now() - start]
}
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

function compare(name: string, mesh: Mesh): void {
  const scans: number[] = [], cuts: number[] = []
  // the scan alone first, so that its memory is its own
  for (let run = 0; run <= RUNS; run++) {
    const [result, time] = timed(() => new ModelScan(mesh, raster).runToEnd())
    if (run > 0) scans.push(time)
    if (run === RUNS) {
      const facts = `${result.layerCount} layers, ${result.islands.length} islands, ${result.cups.length + result.smallCups} cups`
      const memory = process.resourceUsage().maxRSS / 1024
      const [solid, build] = timed(() => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })))
      for (let r = 0; r <= RUNS; r++) {
        const [, cut] = timed(() => cutAll(solid, result.layerCount))
        if (r > 0) cuts.push(cut)
      }
      solid.delete()
      console.log(`${name}: ${(mesh.triangles.length / 3).toLocaleString('en')} triangles, ${volumeOf(mesh).toFixed(0)} mm³, ${facts}`)
      console.log(`  scan, islands and suction  ${ms(scans)}; process memory so far ${memory.toFixed(0)} MB at most`)
      console.log(`  manifold-3d, same planes   ${ms(cuts)}, after ${build.toFixed(0)} ms to build its mesh`)
      console.log(`  ratio to the cuts          ${(median(scans) / median(cuts)).toFixed(2)}`)
    }
  }
}

compare('torus knot', prepareMesh(knot(5000, 100, 24, 15, 4.5, [0, 0, 27.5])).mesh)

const paths = new Map(await Promise.all(DEMO_JOBS.map(async j => [j.model, await demoStl(j.model)] as const)))
let largest: { name: string; mesh: Mesh; pose: (typeof DEMO_JOBS)[number]['pose'] } | null = null
for (const job of DEMO_JOBS) {
  const [prepared, prepareMs] = timed(() => prepareMesh(readStl(readFileSync(paths.get(job.model) ?? ''))))
  console.log(`${job.name}: read and prepared in ${prepareMs.toFixed(0)} ms`)
  compare(job.name, placeMesh(prepared.mesh, placementOf(prepared.mesh.positions, job.pose, raster.pixelMm)))
  if (!largest || prepared.mesh.triangles.length > largest.mesh.triangles.length) largest = { name: job.name, mesh: prepared.mesh, pose: job.pose }
}

if (largest) {
  const { mesh, name, pose } = largest
  const placement = placementOf(mesh.positions, pose, raster.pixelMm)
  const [surface, build] = timed(() => new Surface(mesh, placement))
  const scan = new ModelScan(mesh, raster, placement)
  const before = scan.runToEnd()
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
    const steps = holdOpenIslands(scan, before, surface, [], { gauges: GAUGES, plate: DEFAULT_PRINTER })
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  })
  console.log(`hold open islands on ${name}: ${held.added.length} stilts in ${(holdMs / 1000).toFixed(1)} s with its scans; ${held.notHeld.length} not held`)
}
