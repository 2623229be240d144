import type { Gauge, PlanBeam, TipNode } from '../contract'
import { slimSizes } from '../forest'
import { normalFromSource } from '../pose'
import type { EndStrength } from '../proof'
import { contactOf, gapVerdict, gaugeFor, neckOf, slantOf, thicknessAt, type PlanIndex, type PlanRows, type Stilt, type Surface } from '../stilts'

/** No tip is made thinner than what leaves it this share of the margin, for what it bears changes a little with it. */
const KEPT = 0.8
/** Less than that is not worth it, mm. */
const LITTLE_MM = 0.01
/** What a tip holds is measured as far in as it is thick, so it is measured again for a thinner one. */
const TRIES = 4
/** A tip is that much thinner than what it holds. */
const THINNER = 0.97

/**
 * The rows of tips that are thicker than they have to be: as thin as their gauge has them, or as what they hold where that is thinner, if
 * they still bear what they have to; never thinner than the finest gauge. A tip that is bent bears with the cube of its diameter. What carries the part stays as thick as its
 * gauge has it, and so does what would then come too near to the part.
 * @param ends what each bears @param limit the share of what it can that it may bear @param mine whether a row may be changed
 */
export function slimTips(index: PlanIndex, part: string, surface: Surface, gauges: readonly Gauge[], ends: readonly EndStrength[], limit: number, mine: (id: string) => boolean): PlanRows {
  const shares = new Map(ends.map(e => [e.id, e.share])), nodes: TipNode[] = [], beams: PlanBeam[] = [], finestMm = Math.min(...gauges.map(g => g.tipDiameterMm))
  for (const stilt of index.stiltsOf(part)) {
    const tip = index.nodes.get(stilt.id) as TipNode, share = shares.get(stilt.id) ?? 0, own = stilt.sizes.tipDiameterMm
    if (stilt.foot === 'lost' || share >= limit || !mine(stilt.id)) continue
    const usual = slimSizes(gaugeFor(stilt, gauges), stilt.role).tipDiameterMm, thin = stilt.role === 'carrier' ? usual : Math.max(finestMm, Math.min(usual, thinEnough(surface, stilt, finestMm)))
    const tipDiameterMm = Math.max(thin, own * Math.cbrt(share / (KEPT * limit)))
    if (tipDiameterMm >= own - LITTLE_MM) continue
    // less of a thinner tip's cone counts as its touch: what opens widely may come too near to the skin then
    if (gapVerdict(surface, { ...stilt, sizes: { ...stilt.sizes, tipDiameterMm } }, gaugeFor(stilt, gauges), index.diametersOf(stilt))) continue
    const fitted = { ...tip.fitted, tipDiameterMm }, cone = index.beams.get(stilt.beams[0]) as PlanBeam
    nodes.push({ ...tip, own: { ...tip.own, tipDiameterMm }, fitted })
    beams.push({ ...cone, fromDiameterMm: neckOf(fitted) })
  }
  return { nodes, beams }
}

/** How thick a tip may be to be no thicker than what it holds, mm. @param leastMm thinner than that is not looked for */
function thinEnough(surface: Surface, stilt: Stilt, leastMm: number): number {
  const slant = slantOf(stilt.path, normalFromSource(surface, stilt.anchor.normal))
  let tipDiameterMm = stilt.sizes.tipDiameterMm
  for (let i = 0; i < TRIES; i++) {
    const sizes = { ...stilt.sizes, tipDiameterMm }, { diameterMm } = contactOf(sizes, slant), thicknessMm = thicknessAt(surface, { path: stilt.path, sizes })
    if (diameterMm <= thicknessMm || tipDiameterMm <= leastMm) break
    tipDiameterMm *= (THINNER * thicknessMm) / diameterMm
  }
  return tipDiameterMm
}
