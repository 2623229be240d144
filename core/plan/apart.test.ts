import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, NO_RAFT } from '../contract'
import { distance, joinMeshes, prepareMesh } from '../mesh'
import { AS_IS } from '../pose'
import { planned, type Ready } from '../ready'
import { ModelScan } from '../scan'
import { GAUGES, judgeTips, PlanIndex, Surface } from '../stilts'
import { box, curtain } from '../testing/shapes'
import { TipsApart } from './apart'

describe('tips', () => {
  it('are apart where the resin keeps open between them, taken where one stands or found no way, and else near', () => {
    const tips = new TipsApart(0.5, [{ at: [0, 0, 5], diameterMm: 0.4 }], [[9, 0, 5]])
    // marks of 0.4 and 0.6 mm touch at 0.5 mm, and web up to 1 mm
    expect([1.01, 0.99, 0.51, 0.26, 0.24, 0].map(x => tips.look([x, 0, 5], 0.6))).toEqual(['apart', 'near', 'near', 'near', 'taken', 'taken'])
    expect([8.81, 8.79].map(x => tips.look([x, 0, 5], 0.6))).toEqual(['refused', 'apart'])
    tips.add([5, 0, 5], 0.6)
    expect([tips.look([5, 0.9, 5], 0.2), tips.look([5, 0.89, 5], 0.2)]).toEqual(['apart', 'near'])
  })
  it('of a plan do not stand where another does, nor so near that they are one mark where there is room beside', () => {
    // a ring of bars at one height, as a lattice begins, and a wavy sheet whose low points lie near each other
    const ring = joinMeshes(Array.from({ length: 6 }, (_, i) => box([3 * i - 9, -0.4 - (i % 2), 9], [3 * i - 5.6, 0.4 - (i % 2), 9.8]))), sheet = curtain([-9, -7, -5, -3, -1, 1, 3, 5, 7, 9], [12, 10, 12, 10, 12, 10, 12, 10, 12, 10], Array.from({ length: 10 }, () => 14), 4, 5)
    for (const mesh of [ring, sheet]) {
      const skin = prepareMesh(mesh).mesh, part = { scan: new ModelScan(skin, { pixelMm: 0.05, layerMm: 0.05 }, AS_IS), surface: new Surface(skin), part: 'part', index: new PlanIndex(new Map(), new Map()), raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] }, steps = planned(part)
      let step = steps.next()
      while (!step.done) step = steps.next()
      const { proven: { index }, notHeld }: Ready = step.value, stilts = index.stiltsOf('part')
      expect(notHeld).toEqual([])
      expect(stilts.length).toBeGreaterThan(4)
      expect(judgeTips(stilts, DEFAULT_RESIN.webMm)).toEqual([])
      // pair by pair, without the judge
      for (const a of stilts) for (const b of stilts) if (a !== b) expect(distance(a.path[0], b.path[0])).toBeGreaterThan((a.sizes.tipDiameterMm + b.sizes.tipDiameterMm) / 2)
    }
  })
})
