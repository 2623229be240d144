import { expose, transfer } from 'comlink'
import type { Printer } from '@oak-stilts/core/contract'
import { PlateSlicer, writeSlices3mf, type PlateToSlice, type SlicedLayer } from '@oak-stilts/core/print'
import { breathe } from './breathe'
import { holdLife } from './supervised'

/** What has gathered goes to where the browser keeps it, bytes. */
const PIECE = 4 << 20

let slicer: PlateSlicer | null = null

/** Makes layers of a plate as pictures; several of these share the bands among them. */
const sliceWorker = {
  load(plate: PlateToSlice): { layerCount: number; bands: number } {
    slicer = new PlateSlicer(plate)
    return { layerCount: slicer.layerCount, bands: slicer.bands }
  },

  /** The contours of all layers as 3MF with slices. @throws CarveError `not-sound` */
  async contours(plate: PlateToSlice & { readonly printer: Printer }, name: string, told: (share: number) => void): Promise<Blob> {
    const pieces: Blob[] = []
    let gathered: Uint8Array[] = [], bytes = 0, last = performance.now()
    const steps = writeSlices3mf(plate, name, piece => {
      gathered.push(piece.slice())
      bytes += piece.length
      if (bytes < PIECE) return
      pieces.push(new Blob(gathered as BlobPart[]))
      gathered = []
      bytes = 0
    })
    for (let step = await steps.next(); !step.done; step = await steps.next()) {
      if (performance.now() - last < 100) continue
      last = performance.now()
      told(step.value)
      await breathe()
    }
    return new Blob([...pieces, ...(gathered as BlobPart[])], { type: 'model/3mf' })
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
