import { readFileSync } from 'node:fs'
import { DEFAULT_RESIN, DEFAULT_SETTINGS } from '../core/contract'
import { lighterMesh, prepareMesh, readModel, wholeOf } from '../core/mesh'
import { DEFAULT_WEIGHTS, localMeter, measureCoarsely, measureFully, SkinTable, symmetryOf, TiltSearch, whyOf } from '../core/tilts'
import { demoStl } from '../server'
for (const name of ['heron', 'bell', 'kelp'] as const) {
  const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(name)))))
  let t = performance.now(); const lap = (s: string) => { console.log(s, (performance.now() - t).toFixed(0)); t = performance.now() }
  const light = await lighterMesh(mesh, 40000); lap('light')
  const sym = symmetryOf(light); lap('sym ' + JSON.stringify(sym))
  const skin = new SkinTable(mesh); lap('skin')
  const basis = { liftMm: 5, settings: DEFAULT_SETTINGS, resin: DEFAULT_RESIN, layerMm: 0.05, skin }
  const full = (tilt: any) => { const g = measureFully(mesh, tilt, 0.05, basis); for (;;) { const s = g.next(); if (s.done) return s.value } }
  const search = new TiltSearch({ tiltXDeg: 0, tiltYDeg: 0 }, sym)
  const meter = localMeter((tilt, mm) => measureCoarsely(light, tilt, mm, basis), full)
  await search.look(meter, DEFAULT_WEIGHTS); lap(`look ${search.total}`)
  await search.refine(meter, DEFAULT_WEIGHTS); lap('refine')
  const now = search.fullOf(search.now)!.measures
  console.log(now)
  for (const c of search.offered(DEFAULT_WEIGHTS)) console.log(c.tilt, whyOf(c.measures, now, false), c.measures.hangingMm2.toFixed(0), c.measures.scarMm2.toFixed(0), c.measures.peelN.toFixed(2), c.measures.cupMm3.toFixed(1), c.measures.ledgesMm2?.toFixed(1), c.measures.stiltMl.toFixed(2))
}
