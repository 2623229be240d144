import { expose, transfer } from 'comlink'
import { PlateSlicer, type PlateToSlice, type SlicedLayer } from '@oak-stilts/core/print'
import { holdLife } from './supervised'

let slicer: PlateSlicer | null = null

/** Makes layers of a plate as pictures; several of these share the bands among them. */
const sliceWorker = {
  load(plate: PlateToSlice): { layerCount: number; bands: number } {
    slicer = new PlateSlicer(plate)
    return { layerCount: slicer.layerCount, bands: slicer.bands }
  },

  /** The layers of a band; handed over, not copied. */
  band(band: number): SlicedLayer[] {
    const layers = slicer ? [...slicer.band(band)] : []
    return transfer(layers, layers.map(l => l.png.buffer as ArrayBuffer))
  },
}

export type SliceWorker = typeof sliceWorker
expose(sliceWorker)
holdLife()
