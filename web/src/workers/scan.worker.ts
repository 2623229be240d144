import { expose } from 'comlink'
import type { Gauge } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { holdOpenIslands, type NotHeld } from '@oak-stilts/core/plan'
import type { Placement } from '@oak-stilts/core/pose'
import { layerPicture, ModelScan, type LayerPicture, type Raster, type ScanResult } from '@oak-stilts/core/scan'
import { solidOfStilts, Surface, type Plate, type Stilt } from '@oak-stilts/core/stilts'

export interface HoldAnswer {
  readonly added: Stilt[]
  readonly notHeld: NotHeld[]
}

/** Lets messages in between two bands, so that a newer request can end this one. */
function breathe(): Promise<void> {
  return new Promise(resolve => {
    const channel = new MessageChannel()
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })
}

let mesh: Mesh | null = null
let surface: Surface | null = null
let scan: ModelScan | null = null
let placed = ''
let result: ScanResult | null = null
let newest = 0

const scanWorker = {
  load(buffer: ArrayBuffer): void {
    mesh = decodeMesh(buffer)
    surface = null
    scan = null
    result = null
    placed = ''
    newest++
  },

  /** Scans model and stilts; null where a newer request or `cancel` ended it. */
  async scan(raster: Raster, placement: Placement, stilts: readonly Stilt[], progress: (done: number, total: number) => void): Promise<ScanResult | null> {
    const ticket = ++newest
    const current = prepare(raster, placement)
    current.setStilts(solidOfStilts(stilts))
    let shown = performance.now()
    const steps = current.run()
    for (;;) {
      const step = steps.next()
      if (step.done) {
        result = step.value
        return step.value
      }
      if (performance.now() - shown > 60) {
        progress(step.value.done, step.value.total)
        shown = performance.now()
        await breathe()
        if (ticket !== newest) {
          result = null
          return null
        }
      }
    }
  },

  /** Ends whatever is under way. */
  cancel(): void {
    newest++
  },

  /** The picture of one layer of the last scan; null while there is none. */
  picture(layer: number): LayerPicture | null {
    return scan && result && layer < result.layerCount ? layerPicture(scan, result, layer) : null
  },

  /** Holds open islands; null where it was ended. Stilts of the plan come in, new ones go out. */
  async hold(raster: Raster, placement: Placement, stilts: readonly Stilt[], gauges: readonly Gauge[], plate: Plate, only: number[] | null, progress: (sentence: string) => void): Promise<HoldAnswer | null> {
    const ticket = ++newest
    const current = prepare(raster, placement)
    current.setStilts(solidOfStilts(stilts))
    if (!surface) surface = new Surface(mesh as Mesh, placement)
    surface.setPlacement(placement)
    const before = current.runToEnd()
    const steps = holdOpenIslands(current, before, surface, stilts, { gauges, plate, only: only ? new Set(only) : undefined })
    let shown = 0
    for (;;) {
      const step = steps.next()
      if (step.done) {
        result = step.value.result
        return { added: step.value.added, notHeld: step.value.notHeld }
      }
      if (performance.now() - shown > 60) {
        progress(step.value)
        shown = performance.now()
        await breathe()
        if (ticket !== newest) {
          result = null
          return null
        }
      }
    }
  },
}

function prepare(raster: Raster, placement: Placement): ModelScan {
  if (!mesh) throw new Error('No model is loaded.')
  const key = JSON.stringify([raster, placement])
  if (!scan || placed !== key) {
    scan = new ModelScan(mesh, raster, placement)
    placed = key
  }
  return scan
}

export type ScanWorker = typeof scanWorker
expose(scanWorker)
