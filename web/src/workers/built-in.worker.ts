import { expose } from 'comlink'
import type { Gauge, Role, ScanSettings } from '@oak-stilts/core/contract'
import { findSupports, liftOut, type BuiltIn, type LiftedOut } from '@oak-stilts/core/built-in'
import { decodeMesh, writeStl } from '@oak-stilts/core/mesh'
import { ROLE_BY_LOAD } from '@oak-stilts/core/plan'
import { standOf } from '@oak-stilts/core/pose'
import { solidsOfPart } from '@oak-stilts/core/raft'
import { ModelScan, type Raster } from '@oak-stilts/core/scan'
import { PlanIndex } from '@oak-stilts/core/stilts'

/** What a part arrived with; and whether it had grown into the part, so that there may be more of it. */
export type Arrived = Pick<BuiltIn, 'supports' | 'braces' | 'raft'> & { readonly fused: boolean }

/** What the part is called while nothing else is there. */
const PART = 'part'
let known: ReturnType<typeof findSupports> | null = null

const builtInWorker = {
  /** The supports that a mesh arrived with. */
  find(buffer: ArrayBuffer): Arrived {
    known = findSupports(decodeMesh(buffer))
    const { found, fused } = known
    return { supports: found.supports, braces: found.braces, raft: found.raft, fused }
  },

  /** What hangs on each of them, by a scan of the model alone with them as stilts; null for one that makes no stilt. */
  roles(gauges: readonly Gauge[], raster: Raster, settings: ScanSettings): (Role | null)[] {
    if (!known) return []
    const { model, pose, nodes, beams, raft } = liftOut(known.mesh, known.found, gauges, raster.pixelMm, PART), index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
    const scan = new ModelScan(model, raster, standOf(model.positions, pose, raster.pixelMm), settings)
    scan.setStilts(solidsOfPart(index, PART, raft))
    const stilts = index.stiltsOf(PART), on = scan.hangsOn(stilts.map(s => s.path[0]), scan.runToEnd())
    // they are numbered in their order
    const roles = new Map(stilts.map((s, i) => [s.number, ROLE_BY_LOAD[on[i]]]))
    return known.found.supports.map((_, i) => roles.get(i + 1) ?? null)
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
