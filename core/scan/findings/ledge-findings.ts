import type { Ledge } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { LedgeRecord } from '../reach/join-ledges'
import { selfSupporting, type Belonging, type Hanging } from './belonging'
import type { Evidence } from './types'

/** More than this share has to be within reach for a ledge to count as held in part. */
const LEAST_HELD = 0.01

/**
 * The ledges: those of the model alone, each with what supports leave hanging of it, so that a ledge stays what it is and where
 * it is while stilts come and go; and those that only hang since a support stands where it does.
 */
export function ledgesOf(e: Evidence, { ledges, others }: Belonging): Ledge[] {
  const list = [...ledges.map(({ record, rest }, id) => ledgeOf(e, record, id, rest)), ...others.map((r, i) => ledgeOf(e, r, ledges.length + i, null))]
  return list.sort((a, b) => Number(a.state === 'noted') - Number(b.state === 'noted') || b.areaMm2 - a.areaMm2 || a.id - b.id)
}

function pointOf({ raster: { pixelMm, layerMm } }: Evidence, pixel: number, row: number, layer: number): Vec3 {
  return [(pixel + 0.5) * pixelMm, (row + 0.5) * pixelMm, (layer + 0.5) * layerMm]
}

/** @param rest what still hangs of it; null where all of it does */
function ledgeOf(e: Evidence, r: LedgeRecord, id: number, rest: Hanging | null): Ledge {
  const { pixelMm } = e.raster, pixelArea = pixelMm * pixelMm
  const selfHeld = selfSupporting(r, e), spanMm = r.span * pixelMm
  const pixels = selfHeld ? r.pixels : r.pixels - r.bridged
  const at = pointOf(e, r.pixel, r.row, r.layer)
  const left = selfHeld ? 0 : (rest?.pixels ?? pixels)
  const all = selfHeld || !rest || left >= pixels * (1 - LEAST_HELD)
  // what is as small as a flake does not count, here as for islands
  const held = left * pixelArea <= e.settings.flakeAreaMm2
  const worst = rest?.farthest
  return {
    id, kind: selfHeld ? 'bridge' : 'ledge', firstLayer: r.firstLayer, lastLayer: r.lastLayer,
    reachMm: r.reach * pixelMm, areaMm2: pixels * pixelArea, spanMm: r.span > 0 ? spanMm : null, wide: !selfHeld && spanMm > e.settings.spanMm,
    state: selfHeld ? 'noted' : held ? 'held' : all ? 'open' : 'partly',
    heldShare: Math.max(0, 1 - left / Math.max(1, pixels)), hangingMm2: left * pixelArea, hangingReachMm: selfHeld ? 0 : (rest ? rest.reach : r.reach) * pixelMm,
    at, worst: worst ? pointOf(e, worst.piece.pixel, worst.piece.row, worst.layer) : at,
    hanging: rest && !selfHeld ? rest.labels : r.pieces.filter(p => selfHeld || p.hanging > 0).map(p => p.label),
  }
}
