import { pixelMmOf, type Change, type JobFields, type PlanNode } from '@oak-stilts/core/contract'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { standOf } from '@oak-stilts/core/pose'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

export type Equipment = Partial<Pick<JobFields, 'printer' | 'resin' | 'layerMm'>>

/** Printer, resin and layer height of the job. */
export function createEquipment({ store, meshOf, say }: BenchContext) {
  /** Chooses other equipment; says what is scanned again for it. One step of undo. */
  async function equip(wanted: Equipment): Promise<void> {
    // read before the job is looked at, so that nothing changes in between
    const positions = new Map<string, Float32Array>()
    try {
      for (const part of store.parts) positions.set(meshKeyOf(part), decodeMesh(await meshOf(part)).positions)
    } catch (error) {
      say(`Nothing was changed: ${(error as Error).message}`)
      return
    }
    const { job, raster } = store
    if (!job || !raster) return
    const printer = wanted.printer ?? job.printer, resin = wanted.resin ?? job.resin
    const layerMm = wanted.layerMm ?? nearest(printer.layersMm, job.layerMm), pixelMm = pixelMmOf(printer)
    const change: Change = { label: wanted.printer ? 'choose a printer' : wanted.resin ? 'choose a resin' : 'choose a layer height', set: { printer, resin, layerMm } }
    if (pixelMm !== raster.pixelMm) {
      // a part is centred by whole pixels, and stands on whole pixels: what stands under it goes along
      const shifts = new Map(store.parts.flatMap(part => {
        const p = positions.get(meshKeyOf(part))
        if (!p) return []
        const before = standOf(p, part.pose, raster.pixelMm), now = standOf(p, part.pose, pixelMm)
        return [[part.id, [now[3] - before[3], now[7] - before[7]] as const] as const]
      }))
      const nodes = [...store.plan().nodes.values()].flatMap((n): PlanNode[] => {
        const [dx, dy] = shifts.get(n.part) ?? [0, 0]
        return dx === 0 && dy === 0 ? [] : [{ ...n, at: [n.at[0] + dx, n.at[1] + dy, n.at[2]] }]
      })
      const scale = raster.pixelMm / pixelMm
      change.put = { nodes, copies: store.copies.map(c => ({ ...c, xPixels: Math.round(c.xPixels * scale) || 0, yPixels: Math.round(c.yPixels * scale) || 0 })) }
    }
    store.apply(change)
    const news = [...(pixelMm !== raster.pixelMm ? [`pixel ${pixelMm} mm`] : []), ...(layerMm !== raster.layerMm ? [`layer height ${layerMm} mm`] : [])]
    say(news.length > 0 ? `${wanted.printer ? `${printer.name}: ` : 'Now '}${news.join(', ')}. All layers are scanned again.` : wanted.resin ? `${resin.name}: loads are estimated anew; no layer is scanned again.` : `${printer.name}: the plate is ${printer.widthMm} × ${printer.depthMm} mm now. Pixel and layers stay as they are, and nothing is scanned again.`)
  }

  return { equip }
}

/** The value itself where it is offered, else the one nearest to it. */
function nearest(offered: readonly number[], value: number): number {
  return offered.reduce((a, b) => (Math.abs(b - value) < Math.abs(a - value) ? b : a))
}
