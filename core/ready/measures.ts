import type { PlanMeasures } from '../contract'
import type { Proof, Proven } from '../proof'

/** Diameters of tips are told in steps of this, mm. */
const STEP_MM = 0.05

/** What a plan comes to. @param alone areas of the layers of the part without supports, mm² */
export function measuresOf({ ends, lanes }: Proof, { result, scan, index, part }: Pick<Proven, 'result' | 'scan' | 'index' | 'part'>, alone: ArrayLike<number>): PlanMeasures {
  const open = (list: readonly { readonly state: string }[]): number => list.filter(f => f.state === 'open' || f.state === 'partly').length, scarMm2: Record<string, number> = {}, openByClass: Record<string, number> = {}, sizes = new Map<number, number>()
  for (const e of ends) scarMm2[e.worth] = (scarMm2[e.worth] ?? 0) + e.contactMm2
  for (const { sizes: { tipDiameterMm } } of index.stiltsOf(part)) {
    const mm = Math.round(tipDiameterMm / STEP_MM) * STEP_MM, key = Number(mm.toFixed(2))
    sizes.set(key, (sizes.get(key) ?? 0) + 1)
  }
  for (const i of result.islands) if (i.state === 'open' || i.state === 'partly') openByClass[i.class] = (openByClass[i.class] ?? 0) + 1
  const feet = [...index.nodes.values()].filter(n => n.part === part && n.kind === 'foot' && n.on.kind !== 'lost').length
  let addedMm2 = 0
  for (let k = 0; k < result.areaMm2.length; k++) addedMm2 += result.areaMm2[k] - (k < alone.length ? alone[k] : 0)
  const sway = lanes.swayMm.reduce((most, mm) => (mm > most ? mm : most), -1)
  return {
    openIslands: open(result.islands), openLedges: open(result.ledges), openByClass, openCups: result.cups.length, tips: index.stiltsOf(part).length, feet, scarMm2, resinMm3: addedMm2 * scan.raster.layerMm, tipsBySize: [...sizes].sort((a, b) => a[0] - b[0]).map(([mm, count]) => ({ mm, count })),
    weakest: ends.length > 0 ? ends[0].share : null, swayMm: sway < 0 ? null : sway,
  }
}
