import type { FootNode, PlanBeam, PlanNode, TipNode } from '../contract'
import { distance, type Vec3 } from '../mesh'
import { loadedBy, swayEnergies, type Loaded, type Proven } from '../proof'
import { Clearance, GAP_FLOOR_MM, LEAST_RIM_MM, neckOf, thicknessAt, type PlanIndex, type PlanRows, type Surface } from '../stilts'

/** Rounds of loading and growing at the most. */
const MOST_ROUNDS = 8
/** What is grown is brought to this share of what it may bear, so that one round is mostly enough; and by so much in one round at the most. */
const AIM = 0.9, MOST_AT_ONCE = 1.6
/** A tip is never thicker than that, mm, nor than this share of what it holds; and its cone opens by this at least. */
const THICKEST_TIP_MM = 1, SHARE_OF_PART = 0.9, OPENS = 1.25
/** No shaft is thicker than that, mm. */
const THICKEST_MM = 5
/** Of what sways, this share of the beams that store most for their volume is grown, by so much. */
const SOFT_SHARE = 0.12, STIFFER = 1.15
/** Growing goes on as long as a round leaves no more than this share of the sway. */
const STILL_HELPS = 0.95

/**
 * Grows what bears more than it may: tips by their area, sections by the cube, slender ones by the fourth power of what they bear too much;
 * then what is softest, until the part sways no more than it may; each as far as there is room. Yields between steps.
 * @param draft the plan as it is changed: gives its index, and takes rows
 * @param mine whether a row may be changed
 */
export function* strengthened(of: Pick<Proven, 'scan' | 'part' | 'surface' | 'resin'>, draft: { readonly index: PlanIndex; put(rows: PlanRows): void }, mine: (id: string) => boolean): Generator<string, Loaded, void> {
  const { resin, surface, part } = of, limit = 1 / resin.margin
  let loaded = yield* loadedBy({ ...of, index: draft.index }), swayed = Infinity
  for (let round = 0; round < MOST_ROUNDS; round++) {
    yield 'Making thicker what bears too much'
    const tips = new Map<string, number>(), grow = new Map<string, number>(), by = (id: string, times: number): void => void grow.set(id, Math.max(grow.get(id) ?? 1, Math.min(MOST_AT_ONCE, times)))
    for (const { id, share } of loaded.ends) if (share > limit && mine(id)) tips.set(id, Math.min(MOST_AT_ONCE, Math.sqrt(share / (limit * AIM))))
    for (const { id, share } of loaded.beams) if (share > limit && mine(id)) by(id, Math.cbrt(share / (limit * AIM)))
    for (const { beams, share } of loaded.stretches) if (share > limit) for (const id of beams) if (mine(id)) by(id, (share / (limit * AIM)) ** 0.25)
    // where it sways hardly less than a round ago, thicker beams are no help: what is soft is above them
    const sways = loaded.lanes.swayMm.reduce((most, mm) => (mm > most ? mm : most), 0)
    if (sways <= swayed * STILL_HELPS) for (const id of softest(loaded, draft.index, resin.swayMm)) if (mine(id)) by(id, STIFFER)
    swayed = Math.min(swayed, sways)
    const shapes = new Map(draft.index.stiltsOf(part).map(s => [s.id, s]))
    const thickest = (id: string): number => {
      const shape = shapes.get(id)
      return shape ? SHARE_OF_PART * thicknessAt(surface, shape) : Infinity
    }
    const rows = grownRows(draft.index, part, tips, grow, thickest, roomAround(surface, draft.index, part, resin.webMm))
    if (rows.nodes.length + rows.beams.length === 0) break
    draft.put(rows)
    loaded = yield* loadedBy({ ...of, index: draft.index })
  }
  return loaded
}

/** The beams that store most of the side pull for their volume, in the layer in which the part sways most; none where that is within its limit. */
function softest({ supports, pieces, film, middle, lanes: { swayMm } }: Loaded, index: PlanIndex, limitMm: number): string[] {
  let layer = -1
  swayMm.forEach((mm, k) => {
    if (mm > limitMm && (layer < 0 || mm > swayMm[layer])) layer = k
  })
  if (layer < 0) return []
  const stored = [...swayEnergies(supports, pieces, film, middle, layer)].filter(([, e]) => e > 0), perVolume = stored.map(([id, e]): [string, number] => {
    const b = index.beams.get(id) as PlanBeam, length = distance((index.nodes.get(b.from) as PlanNode).at, (index.nodes.get(b.to) as PlanNode).at), d = (b.fromDiameterMm + b.toDiameterMm) / 2
    return [id, e / (length * d * d + 1e-9)]
  })
  // cones are judged by their tips
  return perVolume.filter(([id]) => index.beams.get(id)?.kind !== 'cone').sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).slice(0, Math.ceil(perVolume.length * SOFT_SHARE)).map(([id]) => id)
}

/** Whether a beam of a plan keeps clear of the part and of all that it does not hang together with, as thick as it is to be. */
function roomAround(surface: Surface, index: PlanIndex, part: string, webMm: number): (beam: PlanBeam) => boolean {
  const field = new Clearance(index).field(part), own = new Map<string, ReadonlySet<string>>()
  return ({ from, to, fromDiameterMm, toDiameterMm, kind }) => {
    const a = index.nodes.get(from) as PlanNode, b = index.nodes.get(to) as PlanNode, structure = index.structureAt(from), key = structure?.nodes[0] ?? from
    let but = own.get(key)
    if (!but) own.set(key, (but = new Set(structure?.nodes ?? [])))
    const end: Vec3 = b.kind === 'foot' && b.on.kind === 'plate' ? [b.at[0], b.at[1], b.fitted.footHeightMm] : b.at
    // a cone comes near to the skin that it touches: its knee has to keep clear
    if (kind === 'cone' && surface.distance(b.at) - toDiameterMm / 2 < GAP_FLOOR_MM) return false
    if (kind !== 'cone' && !(b.kind === 'foot' && b.on.kind === 'model') && surface.gapOfBeam(a.at, end, fromDiameterMm / 2, toDiameterMm / 2, GAP_FLOOR_MM) < GAP_FLOOR_MM) return false
    return !field.isNear([{ from: a.at, to: end, fromRadius: fromDiameterMm / 2, toRadius: toDiameterMm / 2 }], webMm, but)
  }
}

/** The rows of what grows, and of what it leads to: on its way down nothing gets thinner. */
function grownRows(index: PlanIndex, part: string, tips: ReadonlyMap<string, number>, grow: ReadonlyMap<string, number>, mostAt: (tip: string) => number, hasRoom: (beam: PlanBeam) => boolean): PlanRows {
  const beams = new Map<string, PlanBeam>(), nodes = new Map<string, PlanNode>(), beamOf = (id: string): PlanBeam => beams.get(id) ?? (index.beams.get(id) as PlanBeam)
  const widen = (id: string, fromMm: number, toMm: number): void => {
    const b = beamOf(id), from = Math.min(THICKEST_MM, Math.max(b.fromDiameterMm, fromMm)), to = Math.min(THICKEST_MM, Math.max(b.toDiameterMm, toMm))
    if (from <= b.fromDiameterMm + 1e-6 && to <= b.toDiameterMm + 1e-6) return
    // as much as there is room for, or half of it
    for (const share of [1, 0.5]) {
      const wider: PlanBeam = { ...b, fromDiameterMm: b.fromDiameterMm + share * (from - b.fromDiameterMm), toDiameterMm: b.toDiameterMm + share * (to - b.toDiameterMm) }
      if (!hasRoom(wider)) continue
      beams.set(id, wider)
      return
    }
  }
  for (const stilt of index.stiltsOf(part)) {
    const tip = (nodes.get(stilt.nodes[0]) ?? index.nodes.get(stilt.nodes[0])) as TipNode, [cone] = stilt.beams, own = grow.get(cone) ?? 1, times = tips.get(tip.id) ?? 1
    const tipMm = times > 1 ? Math.max(tip.fitted.tipDiameterMm, Math.min(tip.fitted.tipDiameterMm * times, THICKEST_TIP_MM, mostAt(tip.id))) : tip.fitted.tipDiameterMm
    const wantedMm = Math.min(THICKEST_MM, Math.max(tip.fitted.kneeDiameterMm * own, tipMm * OPENS)), kneeMm = [wantedMm, (wantedMm + tip.fitted.kneeDiameterMm) / 2].find(mm => hasRoom({ ...beamOf(cone), toDiameterMm: mm })) ?? tip.fitted.kneeDiameterMm, fitted = { ...tip.fitted, tipDiameterMm: Math.min(tipMm, Math.max(tip.fitted.tipDiameterMm, kneeMm)), kneeDiameterMm: kneeMm > tip.fitted.kneeDiameterMm + 1e-6 ? kneeMm : tip.fitted.kneeDiameterMm }
    if (fitted.tipDiameterMm > tip.fitted.tipDiameterMm + 1e-6 || fitted.kneeDiameterMm > tip.fitted.kneeDiameterMm) {
      nodes.set(tip.id, { ...tip, own: { ...tip.own, tipDiameterMm: fitted.tipDiameterMm, kneeDiameterMm: fitted.kneeDiameterMm }, fitted })
      beams.set(cone, { ...beamOf(cone), fromDiameterMm: neckOf(fitted), toDiameterMm: fitted.kneeDiameterMm })
    }
    for (const id of stilt.beams.slice(1)) {
      const b = index.beams.get(id) as PlanBeam, times = grow.get(id) ?? 1
      if (times > 1) widen(id, b.fromDiameterMm * times, b.toDiameterMm * times)
    }
    // on the way down nothing gets thinner
    let above = fitted.kneeDiameterMm
    for (const id of stilt.beams.slice(1, stilt.foot === 'model' ? -1 : undefined)) {
      if (grow.size + tips.size > 0) widen(id, Math.min(above, beamOf(id).kind === 'branch' ? above : Infinity), above)
      above = Math.max(beamOf(id).fromDiameterMm, beamOf(id).toDiameterMm)
    }
    const last = stilt.beams[stilt.beams.length - 1], foot = index.nodes.get(stilt.nodes[stilt.nodes.length - 1]) as FootNode
    if (stilt.foot === 'plate' && beams.has(last)) {
      const shaftFootDiameterMm = beamOf(last).toDiameterMm, footDiameterMm = Math.max(foot.fitted.footDiameterMm, shaftFootDiameterMm + LEAST_RIM_MM)
      nodes.set(foot.id, { ...foot, own: { ...foot.own, shaftFootDiameterMm, footDiameterMm }, fitted: { ...foot.fitted, shaftFootDiameterMm, footDiameterMm } })
    }
  }
  for (const [id, times] of grow) {
    const b = index.beams.get(id)
    if (b?.kind === 'brace') widen(id, b.fromDiameterMm * times, b.toDiameterMm * times)
  }
  return { nodes: [...nodes.values()], beams: [...beams.values()] }
}
