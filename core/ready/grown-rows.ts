import type { FootNode, Gauge, PlanBeam, PlanNode, TipNode } from '../contract'
import { degrees, distance, radians, type Vec3 } from '../mesh'
import { beamsOfShape, GAP_FLOOR_MM, Clearance, gapOfCone, gapOfLeg, gapVerdict, gaugeFor, LEAST_RIM_MM, neckOf, type Beam, type PlanIndex, type PlanRows, type Stilt, type StiltSizes, type Surface } from '../stilts'

/** A tip is never thicker than that, mm, and its cone opens by this at least. */
const THICKEST_TIP_MM = 1.6, OPENS = 1.25
/** No cone opens by more than this to each side, degrees: wider ones grow into each other, and are no stiffer at their tips. */
const CONE_DEG = 18
/** No shaft is thicker than that, mm. */
const THICKEST_MM = 5
/** On the way down a stilt gets thinner at a joint by no more than that, mm: a step that a layer or two bridge. */
const MOST_STEP_MM = 0.2
/** And along a beam so that its sides lean out by no more than this, degrees; less where the beam itself leans, so that it prints without a ledge. */
const SIDES_DEG = 12, LEANS_DEG = 44
/** What grows keeps so much more than the gap of its gauge, mm. */
const GAP_SPARE_MM = 0.02
/** A leg begins on the plate, not in the air: it may be so many times as thick as what it leads to. */
const LEG_SHARE = 1.5
/** Where something has no room for all that it should grow by, it grows by the first of these shares that it has room for. */
const STEPS = [1, 0.75, 0.5, 0.25, 0.1]

/** The room that beams have to grow. */
export interface Space {
  /** Whether a beam of the plan keeps clear of the part and of all that it does not hang together with, as thick as it is to be. @param tip what it is to begin at, where that changes as well @param moved where nodes are to be that are somewhere else yet */
  hasRoom(beam: PlanBeam, tip?: TipNode['fitted'], moved?: ReadonlyMap<string, Vec3>): boolean
  /** Whether a stick from the part to the part keeps clear of all with such sizes; what is so short that it fuses with its faces does of those. */
  hasRoomAsStick(stick: Stilt, sizes: Pick<StiltSizes, 'tipDiameterMm' | 'kneeDiameterMm'>): boolean
  /** Takes the room of a beam that grew. */
  take(beam: PlanBeam): void
}

export function roomAround(surface: Surface, index: PlanIndex, part: string, gauges: readonly Gauge[], webMm: number): Space {
  const field = new Clearance(index).field(part), own = new Map<string, ReadonlySet<string>>(), gaps = new Map<string, number>()
  for (const s of index.stiltsOf(part)) for (const id of s.beams) gaps.set(id, Math.max(gaps.get(id) ?? 0, gaugeFor(s, gauges).gapMm))
  const nodeOf = (id: string, moved?: ReadonlyMap<string, Vec3>): PlanNode => {
    const node = index.nodes.get(id) as PlanNode, at = moved?.get(id)
    return at ? { ...node, at: [at[0], at[1], at[2]] } : node
  }
  const solidOf = ({ from, to, fromDiameterMm, toDiameterMm }: PlanBeam, moved?: ReadonlyMap<string, Vec3>): Beam => {
    const a = nodeOf(from, moved), b = nodeOf(to, moved)
    return { from: a.at, to: b.kind === 'foot' && b.on.kind === 'plate' ? [b.at[0], b.at[1], b.fitted.footHeightMm] : b.at, fromRadius: fromDiameterMm / 2, toRadius: toDiameterMm / 2 }
  }
  const hasRoom: Space['hasRoom'] = (beam, tip, moved) => {
    const { from, to, fromDiameterMm, toDiameterMm } = beam, solid = solidOf(beam, moved), a = nodeOf(from, moved), b = nodeOf(to, moved), structure = index.structureAt(from), key = structure?.nodes[0] ?? from
    let but = own.get(key)
    if (!but) own.set(key, (but = new Set(structure?.nodes ?? [])))
    if (a.kind === 'tip') {
      // a cone comes near to the skin that it touches
      if (gapOfCone(surface, a.at, b.at, { ...(tip ?? a.fitted), kneeDiameterMm: toDiameterMm }, GAP_FLOOR_MM, GAP_FLOOR_MM) < GAP_FLOOR_MM) return false
    } else if (b.kind === 'foot' && b.on.kind === 'model') {
      // the cone of a foot on the model is a tip of its own
      if (gapOfLeg(surface, a.at, b.at, fromDiameterMm, toDiameterMm) < GAP_FLOOR_MM) return false
    } else {
      const gapMm = (gaps.get(beam.id) ?? GAP_FLOOR_MM) + GAP_SPARE_MM
      if (surface.gapOfBeam(a.at, solid.to, fromDiameterMm / 2, toDiameterMm / 2, gapMm, gapMm) < gapMm) return false
    }
    return !field.isNear([solid], webMm, but)
  }
  const hasRoomAsStick: Space['hasRoomAsStick'] = (stick, sizes) => {
    const wide = { ...stick, sizes: { ...stick.sizes, ...sizes } }
    return gapVerdict(surface, wide, { gapMm: GAP_FLOOR_MM }) === null && !field.isNear(beamsOfShape(wide), webMm, new Set(index.structureAt(stick.id)?.nodes))
  }
  return { hasRoom, hasRoomAsStick, take: beam => field.put(`wider ${beam.id}`, [{ owner: beam.from, beam: solidOf(beam) }]) }
}

/** What is to grow, by node or beam of the plan. */
export interface Growth {
  /** How many times as thick tips and beams are to be. */
  readonly tips: ReadonlyMap<string, number>
  readonly times: ReadonlyMap<string, number>
  /** How thick beams have to be everywhere, mm. */
  readonly least: ReadonlyMap<string, number>
  /** No beam gets thicker than that, mm; as thick as any may be where left out. */
  readonly mostMm?: number
}

/** The rows of what grows, and of what it leads to: on its way down nothing gets thinner all at once. */
export function grownRows(index: PlanIndex, part: string, { tips, times: grow, least, mostMm = THICKEST_MM }: Growth, mostAt: (tip: string) => number, { hasRoom, hasRoomAsStick, take }: Space): PlanRows {
  const beams = new Map<string, PlanBeam>(), nodes = new Map<string, PlanNode>(), beamOf = (id: string): PlanBeam => beams.get(id) ?? (index.beams.get(id) as PlanBeam)
  /** A beam as wide as it is wanted, or as there is room for. */
  const wider = (id: string, fromMm: number, toMm: number): PlanBeam => {
    const b = beamOf(id), from = Math.max(b.fromDiameterMm, Math.min(mostMm, fromMm)), to = Math.max(b.toDiameterMm, Math.min(mostMm, toMm))
    if (from <= b.fromDiameterMm + 1e-6 && to <= b.toDiameterMm + 1e-6) return b
    return STEPS.map((share): PlanBeam => ({ ...b, fromDiameterMm: b.fromDiameterMm + share * (from - b.fromDiameterMm), toDiameterMm: b.toDiameterMm + share * (to - b.toDiameterMm) })).find(wide => hasRoom(wide)) ?? b
  }
  const widen = (id: string, fromMm: number, toMm: number): void => {
    const now = wider(id, fromMm, toMm)
    if (now === beamOf(id)) return
    beams.set(id, now)
    take(now)
  }
  const lengthOf = ({ from, to }: PlanBeam): number => distance((index.nodes.get(from) as PlanNode).at, (index.nodes.get(to) as PlanNode).at)
  const opensBy = (cone: PlanBeam): number => 2 * lengthOf(cone) * Math.tan(radians(CONE_DEG))
  const asked = grow.size + tips.size + least.size > 0
  for (const stilt of index.stiltsOf(part)) {
    const tip = (nodes.get(stilt.nodes[0]) ?? index.nodes.get(stilt.nodes[0])) as TipNode, [cone] = stilt.beams, own = grow.get(cone) ?? 1, times = tips.get(tip.id) ?? 1
    const { tipDiameterMm: nowTipMm, kneeDiameterMm: nowMm } = tip.fitted, wantedTipMm = times > 1 ? Math.max(nowTipMm, Math.min(nowTipMm * times, THICKEST_TIP_MM, mostAt(tip.id))) : nowTipMm
    const fits = (tipDiameterMm: number, kneeDiameterMm: number): boolean => {
      const sizes = { ...tip.fitted, tipDiameterMm, kneeDiameterMm }
      return stilt.foot === 'model' ? hasRoomAsStick(stilt, sizes) : hasRoom({ ...beamOf(cone), fromDiameterMm: neckOf(sizes), toDiameterMm: kneeDiameterMm }, sizes)
    }
    // a tip that grows goes before its knee, each as far as there is room
    const [tipMm, roomMm] = [...(wantedTipMm > nowTipMm ? STEPS : []), 0].map(share => nowTipMm + share * (wantedTipMm - nowTipMm)).flatMap(mm => {
      const kneeMm = Math.max(nowMm, Math.min(mostMm, Math.max(nowMm * own, mm * OPENS), mm + opensBy(beamOf(cone))))
      return [kneeMm, (kneeMm + nowMm) / 2].map(knee => [mm, knee] as const)
    }).find(([mm, knee]) => (mm <= nowTipMm && knee <= nowMm) || fits(mm, knee)) ?? [nowTipMm, nowMm]
    const way = stilt.beams.slice(1, stilt.foot === 'model' ? -1 : undefined), wants: { readonly id: string; readonly fromMm: number; readonly toMm: number }[] = []
    // on the way down nothing gets thinner all at once
    let above = roomMm
    for (const id of way) {
      // of what it was: those that share it grow it once
      const b = index.beams.get(id) as PlanBeam, by = grow.get(id) ?? 1, leastMm = least.get(id) ?? 0, wantedMm = Math.max(above, b.fromDiameterMm * by, leastMm), { fromDiameterMm: fromMm, toDiameterMm: toMm } = asked ? wider(id, wantedMm, Math.max(wantedMm - narrows(index, b), b.toDiameterMm * by, leastMm)) : beamOf(id)
      wants.push({ id, fromMm, toMm })
      above = toMm
    }
    // and where there is no room for that, nothing above it gets much thicker than it is: it would begin in the air
    let most = Infinity
    for (const { id, fromMm, toMm } of wants.reverse()) {
      if (asked) {
        const endMm = Math.max(beamOf(id).toDiameterMm, Math.min(toMm, most))
        widen(id, Math.min(fromMm, endMm + narrows(index, beamOf(id))), endMm)
      }
      most = beamOf(id).fromDiameterMm + MOST_STEP_MM
    }
    for (const id of stilt.beams.slice(1 + way.length)) {
      const b = index.beams.get(id) as PlanBeam, by = grow.get(id) ?? 1, leastMm = least.get(id) ?? 0
      if (by > 1 || leastMm > 0) widen(id, Math.max(leastMm, b.fromDiameterMm * by), Math.max(leastMm, b.toDiameterMm * by))
    }
    const kneeMm = Math.max(nowMm, Math.min(roomMm, most)), fitted = { ...tip.fitted, tipDiameterMm: Math.min(tipMm, Math.max(tip.fitted.tipDiameterMm, kneeMm)), kneeDiameterMm: kneeMm > nowMm + 1e-6 ? kneeMm : nowMm }
    if (fitted.tipDiameterMm > tip.fitted.tipDiameterMm + 1e-6 || fitted.kneeDiameterMm > nowMm) {
      nodes.set(tip.id, { ...tip, own: { ...tip.own, tipDiameterMm: fitted.tipDiameterMm, kneeDiameterMm: fitted.kneeDiameterMm }, fitted })
      const now: PlanBeam = { ...beamOf(cone), fromDiameterMm: neckOf(fitted), toDiameterMm: fitted.kneeDiameterMm }
      beams.set(cone, now)
      take(now)
    }
    const last = stilt.beams[stilt.beams.length - 1], foot = index.nodes.get(stilt.nodes[stilt.nodes.length - 1]) as FootNode
    if (stilt.foot === 'plate' && beams.has(last)) {
      nodes.set(foot.id, widerFoot(foot, beamOf(last).toDiameterMm))
    }
  }
  // a brace that is thicker than what it ends in would begin in the air
  const thickAt = (node: string): number => index.beamsAt(node).reduce((most, b) => (b.kind === 'brace' ? most : Math.max(most, b.from === node ? beamOf(b.id).fromDiameterMm : beamOf(b.id).toDiameterMm)), 0)
  for (const id of new Set([...grow.keys(), ...least.keys()])) {
    const b = index.beams.get(id), times = grow.get(id) ?? 1, leastMm = least.get(id) ?? 0
    if (b?.kind !== 'brace') continue
    const mostMm = index.nodes.get(b.to)?.kind === 'foot' ? LEG_SHARE * thickAt(b.from) : Math.min(thickAt(b.from), thickAt(b.to))
    widen(id, Math.min(mostMm, Math.max(leastMm, b.fromDiameterMm * times)), Math.min(mostMm, Math.max(leastMm, b.toDiameterMm * times)))
    const foot = index.nodes.get(b.to)
    if (foot?.kind === 'foot' && beams.has(id)) nodes.set(foot.id, widerFoot(foot, beamOf(id).toDiameterMm))
  }
  return { nodes: [...nodes.values()], beams: [...beams.values()] }
}

/** By how much a beam may get thinner on its way down, mm. */
export function narrows(index: PlanIndex, { from, to }: PlanBeam): number {
  const a = (index.nodes.get(from) as PlanNode).at, b = (index.nodes.get(to) as PlanNode).at, long = distance(a, b), leanDeg = degrees(Math.acos(Math.min(1, (a[2] - b[2]) / (long || 1))))
  return 2 * long * Math.tan(radians(Math.max(0, Math.min(SIDES_DEG, LEANS_DEG - leanDeg))))
}

/** A foot under a shaft that was made thicker. */
function widerFoot(foot: FootNode, shaftFootDiameterMm: number): FootNode {
  const footDiameterMm = Math.max(foot.fitted.footDiameterMm, shaftFootDiameterMm + LEAST_RIM_MM)
  return { ...foot, own: { ...foot.own, shaftFootDiameterMm, footDiameterMm }, fitted: { ...foot.fitted, shaftFootDiameterMm, footDiameterMm } }
}
