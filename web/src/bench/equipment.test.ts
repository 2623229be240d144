import { describe, expect, it } from 'vitest'
import { BUILT_IN_PRINTERS, BUILT_IN_RESINS, listsOf, pixelMmOf } from '@oak-stilts/core/contract'
import { encodeMesh } from '@oak-stilts/core/mesh'
import { standOf, movePointBack } from '@oak-stilts/core/pose'
import { uprightShape } from '../../../core/testing/jobs'
import { sphere } from '../../../core/testing/shapes'
import { api } from '../api/client'
import { fakeBench } from './bench-context.fake'
import { createEditing } from './editing'
import { createEquipment } from './equipment'

const mesh = sphere([3.33, 1.21, 5], 4, 24)
async function bench() {
  const context = await fakeBench(mesh)
  api.mesh = () => Promise.resolve(encodeMesh(mesh).buffer as ArrayBuffer)
  return { ...context, ...createEditing(context), ...createEquipment(context) }
}

describe('other equipment', () => {
  it('on another pixel: the stilts stand under the part as before, copies where they stood to a pixel, and undo takes all back', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(1), uprightShape(2)])
    b.store.apply({ label: 'move', put: { copies: [{ ...b.store.copies[0], xPixels: 123, yPixels: -45 }] } })
    const before = JSON.stringify(listsOf(b.store.snapshot().tables)), pose = b.store.part?.pose ?? { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }
    const onPart = (pixelMm: number): number[] => b.store.stilts.flatMap(s => s.path.flatMap(p => [...movePointBack(standOf(mesh.positions, pose, pixelMm), p)]))
    const was = onPart(0.1)
    await b.equip({ printer: BUILT_IN_PRINTERS[1] })
    const pixelMm = pixelMmOf(BUILT_IN_PRINTERS[1])
    expect([b.store.raster?.pixelMm, b.store.job?.layerMm]).toEqual([pixelMm, 0.1])
    onPart(pixelMm).forEach((v, i) => expect(v).toBeCloseTo(was[i], 9))
    expect(Math.abs((b.store.copy?.xPixels ?? 0) * pixelMm - 12.3)).toBeLessThanOrEqual(pixelMm / 2 + 1e-9)
    expect(b.state.message).toBe('Harbour 35: pixel 0.035 mm. All layers are scanned again.')
    b.store.undo()
    expect([JSON.stringify(listsOf(b.store.snapshot().tables)), b.store.raster?.pixelMm]).toEqual([before, 0.1])
  })
  it('says what is scanned again, and what is not', async () => {
    const b = await bench()
    await b.equip({ resin: BUILT_IN_RESINS[1] })
    expect([b.store.job?.resin.webMm, b.state.message]).toEqual([0.8, 'Clear: loads are estimated anew; no layer is scanned again.'])
    await b.equip({ layerMm: 0.025 })
    expect([b.store.raster?.layerMm, b.state.message]).toEqual([0.025, 'Now layer height 0.025 mm. All layers are scanned again.'])
    // a printer that does not offer the layer height: the nearest one it has
    await b.equip({ printer: BUILT_IN_PRINTERS[2] })
    expect([0.02, 0.03]).toContain(b.store.job?.layerMm)
  })
  it('changes nothing where a model cannot be read', async () => {
    const b = await bench()
    api.mesh = () => Promise.reject(new Error('no answer'))
    await b.equip({ printer: BUILT_IN_PRINTERS[1] })
    expect([b.store.raster?.pixelMm, b.state.message]).toEqual([0.1, 'Nothing was changed: no answer'])
  })
})
