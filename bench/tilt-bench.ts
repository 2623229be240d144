import { readFileSync } from 'node:fs'
import { DEFAULT_RESIN, DEFAULT_SETTINGS } from '../core/contract'
import { lighterMesh, prepareMesh, readModel, wholeOf, type Mesh } from '../core/mesh'
import { standOf, tiltOfUp } from '../core/pose'
import { ModelScan } from '../core/scan'
import { Surface } from '../core/stilts'
import { random } from '../core/testing/random'
import { spearman } from '../core/testing/ranks'
import { knot } from '../core/testing/shapes'
import { cellOf, DEFAULT_WEIGHTS, localMeter, measureCoarsely, measureFully, scoreOf, SkinTable, symmetryOf, TiltSearch, type TiltBasis, type TiltMeasures } from '../core/tilts'
import { DEMO_JOBS } from '../demo'
import { demoStl } from '../server'
import { median, timed } from './timing'

// The search over tilts beside full scans of the same part in the same run; one core. Ranks of coarse measures beside those of the
// real scan. Strokes on a million triangles.
const raster = { pixelMm: 0.05, layerMm: 0.05 }
const RANKED = 40

function full(mesh: Mesh, tilt: Parameters<typeof measureFully>[1], basis: TiltBasis): TiltMeasures {
  for (const steps = measureFully(mesh, tilt, raster.pixelMm, basis); ;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}

async function searchOf(name: string, mesh: Mesh, ranks: boolean): Promise<void> {
  const scans = Array.from({ length: 3 }, () => timed(() => new ModelScan(mesh, raster, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.05)).runToEnd())[1]), one = median(scans)
  const start = performance.now()
  const skin = new SkinTable(mesh), light = await lighterMesh(mesh, 40000), symmetry = symmetryOf(light), ready = performance.now() - start
  const basis: TiltBasis = { liftMm: 5, settings: DEFAULT_SETTINGS, resin: DEFAULT_RESIN, layerMm: raster.layerMm, skin }
  const search = new TiltSearch({ tiltXDeg: 0, tiltYDeg: 0 }, { symmetry, cellMm: cellOf(light) })
  let first = 0, done = 0, map = 0
  const meter = localMeter((tilt, mm) => {
    const m = measureCoarsely(light, tilt, mm, basis)
    if (++done === 24) first = performance.now() - start
    if (done === search.total) map = performance.now() - start
    return m
  }, tilt => full(mesh, tilt, basis))
  await search.look(meter, DEFAULT_WEIGHTS)
  await search.refine(meter, DEFAULT_WEIGHTS)
  const whole = performance.now() - start
  const best = search.offered(DEFAULT_WEIGHTS)[0]?.measures, slanted = full(mesh, { tiltXDeg: 45, tiltYDeg: 0 }, basis), score = (m: TiltMeasures): string => scoreOf(m, search.scales, DEFAULT_WEIGHTS).toFixed(3)
  console.log(`${name}: ${(mesh.triangles.length / 3).toLocaleString('en')} triangles; a full scan ${one.toFixed(0)} ms`)
  console.log(`  cells of ${cellOf(light).toFixed(2)} mm; ready after ${ready.toFixed(0)} ms, 24 tilts after ${first.toFixed(0)} ms; ${search.total} tilts ${(map / one).toFixed(1)} full scans (aim 4); all with cards ${(whole / one).toFixed(1)} (aim 12)`)
  console.log(`  score of the best ${best ? score(best) : '–'}, of a fixed 45° about x ${score(slanted)} (less is better)`)
  if (!ranks) return
  const r = random(5), tilts = Array.from({ length: RANKED }, () => {
    const z = 2 * r() - 1, a = 2 * Math.PI * r(), s = Math.sqrt(1 - z * z)
    return tiltOfUp([s * Math.cos(a), s * Math.sin(a), z])
  })
  const fine = tilts.map(t => full(mesh, t, basis)), coarse = tilts.map(t => measureCoarsely(light, t, cellOf(light), basis))
  const agree = (f: (m: TiltMeasures) => number): string => spearman(fine.map(f), coarse.map(f)).toFixed(3)
  console.log(`  ranks of ${RANKED} random tilts, coarse against full: weight on islands ${agree(m => m.hangingMm2)}, pull ${agree(m => m.peelN)}, height ${agree(m => m.heightMm)}`)
}

for (const { model } of DEMO_JOBS.filter(j => !j.again)) await searchOf(model, prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(model))))).mesh, true)
const million = knot(5000, 100, 24, 14, 4.4, [0, 0, 40])
await searchOf('knot', million, false)

// a stroke: what a brush of 2 mm reaches, and the marks drawn anew with it
const surface = new Surface(million), worths = new Uint8Array(million.triangles.length / 3), strokes: number[] = []
for (let i = 0; i < 120; i++) {
  const a = (2 * Math.PI * i) / 120, hit = surface.cast([60 * Math.cos(a), 60 * Math.sin(a), 40], [-Math.cos(a), -Math.sin(a), 0])
  if (!hit) continue
  strokes.push(timed(() => {
    for (const f of surface.facesWithin(hit, 2)) worths[f] = 1
    let count = 0
    for (const w of worths) if (w === 1) count++
    const index = new Uint32Array(3 * count)
    for (let f = 0, at = 0; f < worths.length; f++) if (worths[f] === 1) for (let c = 0; c < 3; c++) index[at++] = million.triangles[3 * f + c]
  })[1])
}
console.log(`marks on ${(million.triangles.length / 3).toLocaleString('en')} triangles: ${median(strokes).toFixed(1)} ms a move of the brush, ${Math.max(...strokes).toFixed(1)} at most (a frame at 60 a second: 16.7)`)
