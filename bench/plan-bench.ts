import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { DEFAULT_PRINTER, DEFAULT_RESIN, loadsOf, NO_RAFT } from '../core/contract'
import { prepareMesh, readModel, wholeOf, type Mesh } from '../core/mesh'
import { standOf, UNSHAPED } from '../core/pose'
import { verdictOf } from '../core/proof'
import { measuresOf, planned, type Ready } from '../core/ready'
import { ModelScan } from '../core/scan'
import { Clearance, GAUGES, PlanIndex, Surface } from '../core/stilts'
import { bunnyMesh } from '../core/testing/bunny'
import { knot } from '../core/testing/shapes'
import { demoStl } from '../server'
import { timed } from './timing'

// What a plan for all that hangs comes to and takes, beside one full scan of the same part in the same run, on the printer's raster. One core. Names of models: only these;
// a tilt about x, and then y, after an @, degrees: heron@35, kelp@-20,10. The knot has a million triangles.
const raster = { pixelMm: 0.05, layerMm: 0.05 }
const MODELS = ['heron', 'kelp', 'bell', 'bracket', 'lamp', 'bunny', 'knot'] as const, asked = process.argv.slice(2)
async function modelOf(name: (typeof MODELS)[number]): Promise<Mesh> {
  if (name === 'bunny') return bunnyMesh()
  if (name === 'knot') return knot(2500, 200, 16, 6, 2.5, [0, 0, 0])
  return wholeOf(await readModel(readFileSync(await demoStl(name))))
}
// each in a process of its own, as a page has a worker of its own
if (asked.length !== 1) for (const name of asked.length > 0 ? asked : MODELS) spawnSync(process.execPath, [...process.execArgv, fileURLToPath(import.meta.url), name], { stdio: 'inherit' })
else for (const wanted of asked) {
  const [given, tilt = '0'] = wanted.split('@'), [tiltXDeg, tiltYDeg = 0] = tilt.split(',').map(Number), name = MODELS.find(m => m === given)
  if (!name) throw new Error(`There is no model ${given}. There are: ${MODELS.join(', ')}.`)
  const mesh = prepareMesh(await modelOf(name)).mesh, stand = standOf(mesh.positions, { tiltXDeg, tiltYDeg, liftMm: 5 }, raster.pixelMm), scan = new ModelScan(mesh, raster, stand)
  scan.setLoads(loadsOf(DEFAULT_RESIN))
  const [alone, scanMs] = timed(() => scan.runToEnd()), steps = new Map<string, number>()
  const [ready, planMs] = timed((): Ready => {
    const run = planned({ scan, surface: new Surface(mesh, { shape: UNSHAPED, stand }), part: 'part', index: new PlanIndex(new Map(), new Map()), raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] })
    let step = run.next(), since = performance.now()
    for (let last = ''; !step.done; step = run.next()) {
      const now = performance.now()
      if (last) steps.set(last, (steps.get(last) ?? 0) + now - since)
      since = now
      last = step.value.replace(/:.*/, '')
    }
    return step.value
  })
  const { proof, proven: { index }, notHeld } = ready, m = measuresOf(proof, ready.proven, alone.areaMm2), near = new Clearance(index).nearer('part', DEFAULT_RESIN.webMm)
  console.log(`${wanted}: full scan ${(scanMs / 1000).toFixed(1)} s, planned and proved in ${(planMs / 1000).toFixed(1)} s; ${index.stiltsOf('part').length} tips on ${[...index.nodes.values()].filter(n => n.kind === 'foot').length} feet, ${(m.resinMm3 / 1000).toFixed(2)} cm³, scars ${Object.values(m.scarMm2).reduce((a, b) => a + b, 0).toFixed(0)} mm², ${notHeld.length} findings left, ${near.length} pairs too near, sway ${m.swayMm?.toFixed(2) ?? '–'} mm`)
  console.log(`  ${[...steps].map(([step, ms]) => `${step} ${(ms / 1000).toFixed(1)}`).join(', ')} s`)
  console.log(`  ${verdictOf(proof.checks).verdict}`)
}
