import { expose } from 'comlink'
import type { Gauge } from '@oak-stilts/core/contract'
import { findSupports, liftOut, type BuiltIn, type LiftedOut } from '@oak-stilts/core/built-in'
import { decodeMesh, writeStl, type Mesh } from '@oak-stilts/core/mesh'

let known: { readonly mesh: Mesh; readonly found: BuiltIn } | null = null

const builtInWorker = {
  /** The supports that a mesh arrived with. */
  find(buffer: ArrayBuffer): Pick<BuiltIn, 'supports' | 'braces' | 'raft'> {
    known = findSupports(decodeMesh(buffer))
    const { found } = known
    return { supports: found.supports, braces: found.braces, raft: found.raft }
  },

  /** Takes them out: the model alone as a file, and they as stilts of a part. */
  liftOut(gauges: readonly Gauge[], pixelMm: number, part: string, name: string): Omit<LiftedOut, 'model'> & { readonly file: Uint8Array } {
    if (!known) throw new Error('Nothing was looked for yet.')
    const { model, ...rest } = liftOut(known.mesh, known.found, gauges, pixelMm, part)
    return { ...rest, file: writeStl(model, name) }
  },
}
export type BuiltInWorker = typeof builtInWorker
expose(builtInWorker)
