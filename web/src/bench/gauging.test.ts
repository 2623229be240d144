import { describe, expect, it } from 'vitest'
import { BUILT_IN_GAUGES, type Gauge } from '@oak-stilts/core/contract'
import { keepSizes, regaugeStilt, Surface, type Stilt } from '@oak-stilts/core/stilts'
import { uprightShape } from '../../../core/testing/jobs'
import { box } from '../../../core/testing/shapes'
import { api } from '../api/client'
import { useKitStore } from '../stores/kit'
import { fakeBench } from './bench-context.fake'
import { createEditing } from './editing'
import { createGauging } from './gauging'

const [, light] = BUILT_IN_GAUGES, plate = { widthMm: 150, depthMm: 70 }

/** A bench over a block 4 mm above the plate, with real fitting and no server. */
async function bench() {
  const part = box([-20, -20, 4], [20, 20, 9]), surface = new Surface(part)
  const context = await fakeBench(part, { surface: {
    setGauges: () => Promise.resolve(),
    refit: (stilts: readonly Stilt[], before: Gauge, now: Gauge) => Promise.resolve(stilts.map(s => {
      const edited = regaugeStilt(surface, s, now, plate)
      return edited.ok ? { shape: edited.shape, fits: true } : { shape: keepSizes(s, before, now), fits: false }
    })),
  } })
  api.putKit = () => Promise.resolve()
  const gauging = createGauging(context), editing = createEditing(context, gauging.gaugeRows)
  const sizes = (): number[][] => context.store.stilts.map(s => [s.sizes.tipDiameterMm, s.sizes.footDiameterMm])
  return { ...context, ...gauging, ...editing, sizes, kit: useKitStore() }
}
const thicker: Gauge = { ...light, tipDiameterMm: 0.45, footDiameterMm: 3.6 }

describe('gauges on the bench', () => {
  it('are changed for the job: stilts follow, sizes set by hand stay, and one step takes it back', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(0), uprightShape(8, { own: { footDiameterMm: 2.9 }, sizes: { ...uprightShape(8).sizes, footDiameterMm: 2.9 } })])
    await b.changeGauge(thicker, true)
    expect(b.sizes()).toEqual([[0.45, 3.6], [0.45, 2.9]])
    expect([b.store.gauges, b.state.message]).toEqual([[thicker], 'Light was changed; 2 stilts follow.'])
    b.store.undo()
    expect([b.sizes(), b.store.gauges, b.gauges.value[1]]).toEqual([[[0.35, 3.2], [0.35, 2.9]], [], light])
  })
  it('are changed and stilts stay: what differs counts as set by hand', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(0)])
    await b.changeGauge(thicker, false)
    expect([b.sizes(), b.store.stilts[0].own]).toEqual([[[0.35, 3.2]], { tipDiameterMm: 0.35, footDiameterMm: 3.2 }])
  })
  it('say which stilts have no room for the change', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(0)])
    await b.changeGauge({ ...light, coneShortestMm: 6, coneLengthMm: 6 }, true)
    expect([b.sizes(), b.state.message]).toEqual([[[0.35, 3.2]], 'Light was changed; 1 of 1 stilt has no room for it and stays as it is.'])
  })
  it('of the workshop are copied into a job that uses them, in the same step', async () => {
    const b = await bench()
    await b.kit.putGauge({ ...light, id: 'pegs', name: 'Pegs', order: 5, tipDiameterMm: 1.2 })
    expect([b.gauges.value.map(g => g.id), b.store.gauges]).toEqual([['pegs', 'fine', 'light', 'medium', 'heavy'], []])
    b.chooseGaugeAt(0)
    expect([b.gauge.value.name, b.state.message]).toEqual(['Pegs', 'Pegs gauge, tip 1.20 mm.'])
    b.addStilts('place', [uprightShape(0, { gauge: 'pegs' })])
    // what the workshop does with it later is no matter of this job
    await b.kit.putGauge({ ...light, id: 'pegs', name: 'Pegs', order: 5, tipDiameterMm: 1.5 })
    expect(b.gauges.value[0].tipDiameterMm).toBe(1.2)
    b.store.undo()
    expect([b.store.gauges, b.gauges.value[0].tipDiameterMm]).toEqual([[], 1.5])
  })
  it('are made from a stilt, and are chosen then', async () => {
    const b = await bench()
    const [s] = b.addStilts('place', [uprightShape(0, { sizes: { ...uprightShape(0).sizes, tipShape: 'ball', tipDiameterMm: 0.6 } })])
    const made = b.gaugeFromStilt(s)
    expect([made.name, made.tipShape, made.tipDiameterMm, made.gapMm, b.gauge.value.id === made.id]).toEqual(['Light (2)', 'ball', 0.6, light.gapMm, true])
    b.chooseGaugeAt(7)
    expect(b.state.message).toBe('There are 5 gauges.')
  })
})
