import { readFileSync } from 'node:fs'
import { DEFAULT_RESIN, loadsOf, NO_RAFT } from '../core/contract'
import { prepareMesh, readModel, wholeOf } from '../core/mesh'
import { standOf, UNSHAPED } from '../core/pose'
import { verdictOf } from '../core/proof'
import { makeReady } from '../core/ready'
import { ModelScan } from '../core/scan'
import { GAUGES, PlanIndex, Surface } from '../core/stilts'
import { demoStl } from '../server'
for (const [name, tx] of (process.argv[2] ? process.argv[2].split(',').map(n => n.split(':')) : [['bracket', 0], ['bell', 155], ['lamp', 0], ['heron', 0], ['kelp', 0]]) as [string, number][]) {
  const raster = { pixelMm: +(process.argv[3] ?? 0.05), layerMm: +(process.argv[3] ?? 0.05) }
  const mesh = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(name as never))))).mesh, stand = standOf(mesh.positions, { tiltXDeg: +tx, tiltYDeg: 0, liftMm: 5 }, raster.pixelMm)
  const t0 = performance.now(), surface = new Surface(mesh, { shape: UNSHAPED, stand }), scan = new ModelScan(mesh, raster, stand)
  scan.setLoads(loadsOf(DEFAULT_RESIN))
  const steps = makeReady({ scan, index: new PlanIndex(new Map(), new Map()), part: 'part', surface, raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: { widthMm: 153.35, depthMm: 77.75 }, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] })
  let last = ''
  let step = steps.next()
  for (; !step.done; step = steps.next()) { const s = step.value.replace(/[\d].*/, '#').replace(/^Placing stilts.*|^Scanning with.*/, 'Placing'); if (s !== last) { console.log(`   ${((performance.now() - t0) / 1000).toFixed(1)} s ${s}`); last = s } }
  const { proof, placed, braces, thickened, notHeld } = step.value
  console.log(name, ((performance.now() - t0) / 1000).toFixed(1), 's', { placed, braces, thickened, notHeld: notHeld.length }, verdictOf(proof.checks).verdict)
  for (const c of proof.checks) if (c.state === 'bad') console.log('     -', c.sentence, c.figure, c.limit)
}
