import { describe, expect, it } from 'vitest'
import type { ScanResult } from '@oak-stilts/core/scan'
import { joinMeshes } from '../../../core/mesh'
import { box, sphere } from '../../../core/testing/shapes'
import type { ScanListener } from '../workers/scan.worker'
import { fakeBench, scanned, settle } from './bench-context.fake'
import { createScanning } from './scanning'

const mesh = joinMeshes([box([-4, -4, 0], [-1, 4, 8]), sphere([4, 0, 5], 2, 24)])
const result = scanned(mesh)

/** A scan worker that does nothing until it is told to. */
function scanner() {
  const asked: { listener: ScanListener; answer: (r: ScanResult | null) => void; fail: (message: string) => void }[] = []
  let cancelled = 0
  return {
    asked, cancelled: () => cancelled,
    worker: {
      scan: (...args: unknown[]) => new Promise<ScanResult | null>((resolve, reject) => asked.push({ listener: args[5] as ScanListener, answer: resolve, fail: m => reject(new Error(m)) })),
      cancel: () => {
        cancelled++
        for (const a of asked) a.answer(null)
        return Promise.resolve()
      },
      roles: () => Promise.resolve([['tip-1', 'carrier']]),
      picture: (layer: number) => Promise.resolve({ layer, spans: new Int32Array(0), pieces: 0, enclosed: 0, freshPixels: 0, hangingPixels: 0 }),
      outline: (labels: readonly number[], island: unknown) => Promise.resolve(Float32Array.from(island ? [1] : labels)),
      contour: (layer: number) => Promise.resolve(Float32Array.from([layer])),
    },
  }
}

describe('scanning on the bench', () => {
  it('shows progress, a first look, then what is found, and is fresh at the end', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    const { state } = context
    const done = rescan()
    await settle()
    expect([state.scanState, s.asked.length]).toEqual(['scanning', 1])
    s.asked[0].listener.firstLook({ islands: 2, cups: 0, at: [] })
    s.asked[0].listener.progress('layers', 3, 12)
    expect([state.firstLook?.islands, state.stage, state.progress]).toEqual([2, 'layers', 0.25])
    s.asked[0].listener.found({ ...result, stage: 'layers', covered: 40 })
    expect([state.result?.stage, state.openIslands.length]).toEqual(['layers', 1])
    s.asked[0].listener.found({ ...result, stage: 'graph' })
    expect(state.firstLook).toBeNull()
    s.asked[0].answer(result)
    await done
    // the layer picture opens where most hangs
    const { hangingMm2 } = result.signals, telling = hangingMm2.indexOf(Math.max(...hangingMm2))
    expect([...state.roles]).toEqual([['tip-1', 'carrier']])
    expect([state.scanState, state.result === result, state.playhead, context.picture.value?.layer]).toEqual(['fresh', true, telling, telling])
  })

  it('is one scan where several are asked for at once, and none while the worker holds', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    void rescan()
    void rescan()
    void rescan()
    await settle()
    expect(s.asked).toHaveLength(1)
    let holding = true
    const other = createScanning(context, () => holding)
    void other.rescan()
    await settle()
    expect(s.asked).toHaveLength(1)
    holding = false
    void other.rescan()
    await settle()
    expect(s.asked).toHaveLength(2)
  })

  it('takes no answer to a question that an edit has overtaken', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    const first = rescan()
    await settle()
    context.scanVersion.value++
    const second = rescan()
    await settle()
    s.asked[0].listener.found(result)
    s.asked[0].answer(result)
    await first
    expect([context.state.result, context.state.scanState]).toEqual([null, 'scanning'])
    s.asked[1].answer(result)
    await second
    expect([context.state.result === result, context.state.scanState]).toEqual([true, 'fresh'])
  })

  it('goes on where an edit changes nothing of the scan', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    const first = rescan()
    await settle()
    context.store.apply({ label: 'rename', set: { name: 'Another name' } })
    s.asked[0].answer(result)
    await first
    expect(context.state.scanState).toBe('fresh')
  })

  it('keeps a whole result of before until the new one says more', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    const first = rescan()
    await settle()
    s.asked[0].answer(result)
    await first
    context.state.setPlayhead(20)
    void rescan()
    await settle()
    s.asked[1].listener.found({ ...result, stage: 'layers', islands: [] })
    expect(context.state.openIslands).toHaveLength(1)
    s.asked[1].listener.found({ ...result, stage: 'graph', islands: [] })
    expect(context.state.openIslands).toHaveLength(0)
    // the person looks at layer 21 and goes on doing so
    expect(context.state.playhead).toBe(20)
  })

  it('says that it was cancelled, and what the list is then', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan, cancel } = createScanning(context, () => false)
    void rescan()
    await settle()
    await cancel()
    expect([context.state.scanState, context.state.message, s.cancelled()]).toEqual(['cancelled', 'The scan was cancelled.', 1])
    void rescan()
    await settle()
    s.asked[1].listener.found({ ...result, stage: 'graph' })
    await cancel()
    expect(context.state.message).toBe('The scan was cancelled; the list is from before.')
  })

  it('says why it failed', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    const done = rescan()
    await settle()
    s.asked[0].fail('The model reaches 1800 mm up. Scale it.')
    await done
    expect([context.state.scanState, context.state.scanProblem, context.state.message]).toEqual(['failed', 'The model reaches 1800 mm up. Scale it.', 'The scan failed: The model reaches 1800 mm up. Scale it.'])
  })

  it('drops the selection of what is no longer there', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan } = createScanning(context, () => false)
    context.state.selectedFinding = 'island-77'
    const done = rescan()
    await settle()
    s.asked[0].answer(result)
    await done
    expect(context.state.selectedFinding).toBeNull()
  })

  it('outlines the first layer of an open island, and what still hangs of one that is partly held', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { rescan, showOutline } = createScanning(context, () => false)
    const done = rescan()
    await settle()
    s.asked[0].answer(result)
    await done
    await showOutline()
    expect(context.outline.value).toBeNull()
    context.state.selectedFinding = context.state.openIslands[0].key
    await showOutline()
    expect(Array.from(context.outline.value ?? [])).toEqual([1])
    const partly = result.islands.map(i => ({ ...i, state: 'partly' as const, hanging: [7, 8] }))
    context.state.result = { ...result, islands: partly }
    await showOutline()
    expect(Array.from(context.outline.value ?? [])).toEqual([7, 8])
  })

  it('follows the pointer with one contour at a time', async () => {
    const s = scanner(), context = await fakeBench(mesh, { scan: s.worker })
    const { contourAt } = createScanning(context, () => false)
    const [first, second] = await Promise.all([contourAt(5), contourAt(6)])
    expect([first, second]).toEqual([Float32Array.of(5), null])
    expect(await contourAt(7)).toEqual(Float32Array.of(7))
  })
})
