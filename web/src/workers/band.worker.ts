import { expose, transfer } from 'comlink'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import type { Stand } from '@oak-stilts/core/pose'
import { buffersOf, ModelScan, type BandSpans, type GraphChunk, type Raster } from '@oak-stilts/core/scan'
import { holdLife } from './supervised'

export interface BandAnswer {
  readonly band: number
  readonly chunk: GraphChunk
  readonly spans: BandSpans
}

let mesh: Mesh | null = null
let scan: ModelScan | null = null

/** Makes bands of layers for the scan worker, so that all cores work on the first stage. */
const bandWorker = {
  load(buffer: ArrayBuffer): void {
    mesh = decodeMesh(buffer)
    scan = null
  },

  prepare(raster: Raster, stand: Stand): void {
    if (mesh) scan = new ModelScan(mesh, raster, stand)
  },

  /** Graph and spans of some bands; handed over, not copied. */
  bands(list: readonly number[]): BandAnswer[] {
    const current = scan
    if (!current) return []
    // from below, while the spans of the band before are still here: its last layer is looked at again
    const made = [...list].sort((a, b) => a - b).map(band => ({ band, chunk: current.makeBand(band) }))
    const answers = made.map(m => ({ ...m, spans: current.handOverSpans(m.band) }))
    return transfer(answers, answers.flatMap(a => [...buffersOf(a.chunk), a.spans.starts.buffer as ArrayBuffer, a.spans.pairs.buffer as ArrayBuffer]))
  },
}

export type BandWorker = typeof bandWorker
expose(bandWorker)
holdLife()
