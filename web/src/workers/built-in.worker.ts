import { expose } from 'comlink'
import type { Gauge } from '@oak-stilts/core/contract'
import { liftOut, recognise, type BuiltIn, type LiftedOut } from '@oak-stilts/core/built-in'
import { decodeMesh, writeStl } from '@oak-stilts/core/mesh'

let known: { readonly buffer: ArrayBuffer; readonly found: BuiltIn } | null = null

const builtInWorker = {
  /** The supports that a mesh arrived with. */
  find(buffer: ArrayBuffer): Pick<BuiltIn, 'supports' | 'braces' | 'raft'> {
    const found = recognise(decodeMesh(buffer))
    known = { buffer, found }
    return { supports: found.supports, braces: found.braces, raft: found.raft }
  },

  /** Takes them out: the model alone as a file, and they as stilts of a part. */
  liftOut(gauges: readonly Gauge[], pixelMm: number, part: string, name: string): Omit<LiftedOut, 'model'> & { readonly file: Uint8Array } {
    if (!known) throw new Error('Nothing was looked for yet.')
    const { model, ...rest } = liftOut(decodeMesh(known.buffer), known.found, gauges, pixelMm, part)
    return { ...rest, file: writeStl(model, name) }
  },
}
export type BuiltInWorker = typeof builtInWorker
expose(builtInWorker)
