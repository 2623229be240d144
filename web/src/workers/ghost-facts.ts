import type { Gauge } from '@oak-stilts/core/contract'
import { distance } from '@oak-stilts/core/mesh'
import { contactOf, gaugeFor, hasCutterRoom, judgeStilt, slantOf, thicknessAt, type Stilt, type StiltShape, type Surface, type SurfacePoint } from '@oak-stilts/core/stilts'

/** What there is to know about a stilt before it stands. */
export interface GhostFacts {
  readonly gapMm: number
  /** The gap is under what the gauge asks for where that counts. */
  readonly tight: boolean
  /** What the skin is worth where it touches, as core/marks counts it; and what it leaves there, mm². */
  readonly worth: number
  readonly scarMm2: number
  /** Width of its mark, and how thick the part is there, mm. */
  readonly tipMm: number
  readonly thicknessMm: number
  /** Estimate: of the load that all tips carry, by contact area. */
  readonly share: number
  /** What it leaves between its tip and the nearest other one, mm; Infinity where there is none. */
  readonly nearTipMm: number
  readonly cutterRoom: boolean
}

/** Finds the facts of a shape that touches the skin at a point, for stilts of every kind. */
export function createGhostFacts(ground: { surface(): Surface; gauges(): readonly Gauge[]; stilts(): readonly Stilt[] }) {
  /** Contact area of all tips that stand, for the stilts as they were last seen. */
  let contacts: { readonly of: readonly Stilt[]; readonly areaMm2: number } = { of: [], areaMm2: 0 }
  function contactOfAll(): number {
    const of = ground.stilts()
    if (contacts.of !== of) contacts = { of, areaMm2: of.reduce((sum, s) => sum + (s.foot === 'lost' ? 0 : contactOf(s.sizes).areaMm2), 0) }
    return contacts.areaMm2
  }

  return (shape: StiltShape, at: SurfacePoint, gapMm: number): GhostFacts => {
    const own = ground.surface(), contact = contactOf(shape.sizes, slantOf(shape.path, at.normal))
    const nearTipMm = ground.stilts().reduce((least, s) => (s.foot === 'lost' ? least : Math.min(least, distance(s.path[0], at.point) - contactOf(s.sizes).diameterMm / 2)), Infinity) - contact.diameterMm / 2
    const tight = judgeStilt(own, shape, { gauge: gaugeFor(shape, ground.gauges()) }).some(v => v.kind === 'gap')
    return { gapMm, tight, worth: own.worthOf(at.face), scarMm2: contact.areaMm2, tipMm: contact.diameterMm, thicknessMm: thicknessAt(own, shape), share: contact.areaMm2 / (contactOfAll() + contact.areaMm2), nearTipMm, cutterRoom: hasCutterRoom(own, shape.path) }
  }
}
