import type { FootNode, Gauge, PlanBeam, PlanNode, TipNode } from '../contract'
import { distance } from '../mesh'
import { loadedBy, swayEnergies, type Loaded, type Proven } from '../proof'
import { Clearance, GAP_FLOOR_MM, gapOfCone, gaugeFor, LEAST_RIM_MM, neckOf, thicknessAt, type Beam, type PlanIndex, type PlanRows, type Surface } from '../stilts'

/** Rounds of loading and growing at the most. */
const MOST_ROUNDS = 8
/** What is grown is brought to this share of what it may bear, so that one round is mostly enough; and by so much in one round at the most. */
const AIM = 0.85, MOST_AT_ONCE = 2
/** A tip is never thicker than that, mm, nor than this share of what it holds; and its cone opens by this at least. */
const THICKEST_TIP_MM = 1.2, SHARE_OF_PART = 0.9, OPENS = 1.25
/** No shaft is thicker than that, mm. */
const THICKEST_MM = 5
/** Growing goes on as long as a round leaves no more than this share of what is too much. */
const STILL_HELPS = 0.95
/** A stretch is no more than so many times as long as its radius of gyration; nor than that where both its ends are braced. */
const MOST_SLENDER = 110, MOST_SLENDER_BRACED = 150

/** How far strengthening goes. */
interface Strengthening {
  readonly rounds?: number
  /** Whether what sways is made thicker as well. Where it is not, not all layers are loaded in the end. */
  readonly sway?: boolean
  /** What a plan much like this one bore in the layers that load it most. */
  readonly like?: Loaded
}

/** What bears what after growing, and shafts that make something sway all the same. */
export interface Strengthened {
  readonly loaded: Loaded
  readonly shafts: readonly string[]
}

/**
 * Grows what bears more than it may: tips by their area, sections by the cube, slender ones by the fourth power of what they bear too much;
 * then what is softest, until the part sways no more than it may; each as far as there is room. Yields between steps.
 * @param draft the plan as it is changed: gives its index, and takes rows
 * @param mine whether a row may be changed
 */
export function* strengthened(of: Pick<Proven, 'scan' | 'part' | 'surface' | 'gauges' | 'resin'>, draft: { readonly index: PlanIndex; put(rows: PlanRows): void }, mine: (id: string) => boolean, { rounds = MOST_ROUNDS, sway = true, like }: Strengthening = {}): Generator<string, Strengthened, void> {
  const { resin, surface, part } = of, limit = 1 / resin.margin
  let loaded = yield* loadedBy({ ...of, index: draft.index }, like), shafts: readonly string[] = [], before = Infinity, whole = !like
  for (let round = 0; round < rounds; round++) {
    yield 'Making thicker what bears too much'
    const tips = new Map<string, number>(), grow = new Map<string, number>(), by = (id: string, times: number): void => void grow.set(id, Math.max(grow.get(id) ?? 1, Math.min(MOST_AT_ONCE, times)))
    for (const { id, share } of loaded.ends) if (share > limit && mine(id)) tips.set(id, Math.min(MOST_AT_ONCE, Math.sqrt(share / (limit * AIM))))
    for (const { id, share } of loaded.beams) if (share > limit && mine(id)) by(id, Math.cbrt(share / (limit * AIM)))
    for (const { beams, share } of loaded.stretches) if (share > limit) for (const id of beams) if (mine(id)) by(id, (share / (limit * AIM)) ** 0.25)
    for (const { beams, stretch } of loaded.stretches) {
      const slender = (4 * stretch.lengthMm) / stretch.thinMm / (stretch.ends.every(e => e === 'joint') ? MOST_SLENDER_BRACED : MOST_SLENDER)
      if (slender > 1) for (const id of beams) if (mine(id)) by(id, slender * 1.01)
    }
    const soft = softBeams(loaded, draft.index, resin.swayMm)
    shafts = soft.shafts
    const over = [...loaded.ends, ...loaded.beams, ...loaded.stretches].reduce((sum, { share }) => sum + Math.max(0, share / limit - 1), 0) + soft.over
    if (sway) for (const [id, times] of soft.times) if (mine(id)) by(id, times)
    if (over === 0 && grow.size === 0) {
      if (whole || !sway) break
      // what only some layers said is asked of all of them
      loaded = yield* loadedBy({ ...of, index: draft.index })
      whole = true
      continue
    }
    if (over > before * STILL_HELPS) break
    before = over
    const shapes = new Map(draft.index.stiltsOf(part).map(s => [s.id, s]))
    const thickest = (id: string): number => {
      const shape = shapes.get(id)
      return shape ? SHARE_OF_PART * thicknessAt(surface, shape) : Infinity
    }
    const rows = grownRows(draft.index, part, tips, grow, thickest, roomAround(surface, draft.index, part, of.gauges, resin.webMm))
    if (rows.nodes.length + rows.beams.length === 0) break
    draft.put(rows)
    loaded = yield* loadedBy({ ...of, index: draft.index }, loaded)
    whole = false
  }
  return { loaded: whole || !sway ? loaded : yield* loadedBy({ ...of, index: draft.index }), shafts }
}

/** What grows keeps so much more than the gap of its gauge, mm. */
const GAP_SPARE_MM = 0.02

/** What sways is brought to this share of what it may. */
const SWAY_AIM = 0.95
/** What stores this many times less for its volume than what stores most is not made thicker. */
const DENSITIES = 8
/** Nothing is made so many times thicker than that at once because something sways: what is below it has to follow. */
const MOST_STIFFER = 1.3
/** Nothing is made thicker than that only because something sways, mm. */
const THICKEST_SWAY = 4
/** Beams are grown until cones store so much of what is left. */
const MOST_CONES = 0.8
/** A shaft that stores so much of what makes a piece sway is what makes it sway. */
const LONELY_SHARE = 0.1

/** Beams that make a part sway. */
interface Soft {
  /** How many times as thick they have to be, so that no piece sways more than it may, with least resin. */
  readonly times: ReadonlyMap<string, number>
  /** By how much all of them together sway too far, in times of what they may. */
  readonly over: number
  /** Shafts that are at the bottom of it. */
  readonly shafts: readonly string[]
}

/**
 * What makes pieces sway, and how much thicker it has to be. The work that a beam stores goes with the fourth power of its thickness and its
 * resin with the square; resin is least where every beam that is grown stores alike for its volume (optimality criterion of structures of
 * least weight under one displacement), so each grows by the sixth root of what it stores for its volume.
 */
function softBeams({ supports, pushes, sways }: Loaded, index: PlanIndex, limitMm: number): Soft {
  const times = new Map<string, number>(), shafts = new Set<string>(), energies = swayEnergies(supports, pushes, sways.map(s => s.layer))
  for (const { layer, mm } of sways) {
    const stored = [...(energies.get(layer) ?? [])].filter(([, e]) => e > 0), total = stored.reduce((sum, [, e]) => sum + e, 0), wanted = (total * limitMm * SWAY_AIM) / mm
    const grows = stored.flatMap(([id, e]) => {
      const b = index.beams.get(id) as PlanBeam, length = distance((index.nodes.get(b.from) as PlanNode).at, (index.nodes.get(b.to) as PlanNode).at), d = (b.fromDiameterMm + b.toDiameterMm) / 2
      if (b.kind === 'shaft' && e > LONELY_SHARE * total) shafts.add(id)
      // cones are judged by their tips
      return b.kind === 'cone' || d >= THICKEST_SWAY ? [] : [{ id, e, density: e / (length * d * d + 1e-9), most: THICKEST_SWAY / d }]
    })
    const stays = total - grows.reduce((sum, g) => sum + g.e, 0), left = (even: number): number => grows.reduce((sum, g) => sum + g.e / Math.min(g.most, Math.max(1, (g.density / even) ** (1 / 6))) ** 4, stays)
    // what stores little for its volume stays, whatever the others cannot do
    const densest = grows.reduce((most, g) => Math.max(most, g.density), 0)
    let low = densest / DENSITIES, high = densest
    // where cones are what is soft, thicker beams below them are no help
    const least = Math.max(wanted, stays / MOST_CONES)
    for (let i = 0; i < 40; i++) {
      const even = (low + high) / 2
      if (left(even) > least) high = even
      else low = even
    }
    for (const g of grows) if (g.density > low) times.set(g.id, Math.max(times.get(g.id) ?? 1, Math.min(g.most, MOST_STIFFER, (g.density / low) ** (1 / 6))))
  }
  return { times, shafts: [...shafts], over: sways.reduce((sum, s) => sum + s.mm / limitMm - 1, 0) }
}

/** The room that beams have to grow. */
interface Space {
  /** Whether a beam of the plan keeps clear of the part and of all that it does not hang together with, as thick as it is to be. */
  hasRoom(beam: PlanBeam): boolean
  /** Takes the room of a beam that grew. */
  take(beam: PlanBeam): void
}

function roomAround(surface: Surface, index: PlanIndex, part: string, gauges: readonly Gauge[], webMm: number): Space {
  const field = new Clearance(index).field(part), own = new Map<string, ReadonlySet<string>>(), gaps = new Map<string, number>()
  for (const s of index.stiltsOf(part)) for (const id of s.beams) gaps.set(id, Math.max(gaps.get(id) ?? 0, gaugeFor(s, gauges).gapMm))
  const solidOf = ({ from, to, fromDiameterMm, toDiameterMm }: PlanBeam): Beam => {
    const a = index.nodes.get(from) as PlanNode, b = index.nodes.get(to) as PlanNode
    return { from: a.at, to: b.kind === 'foot' && b.on.kind === 'plate' ? [b.at[0], b.at[1], b.fitted.footHeightMm] : b.at, fromRadius: fromDiameterMm / 2, toRadius: toDiameterMm / 2 }
  }
  const hasRoom = (beam: PlanBeam): boolean => {
    const { from, to, fromDiameterMm, toDiameterMm } = beam, solid = solidOf(beam), a = index.nodes.get(from) as PlanNode, b = index.nodes.get(to) as PlanNode, structure = index.structureAt(from), key = structure?.nodes[0] ?? from
    let but = own.get(key)
    if (!but) own.set(key, (but = new Set(structure?.nodes ?? [])))
    if (a.kind === 'tip') {
      // a cone comes near to the skin that it touches
      if (gapOfCone(surface, a.at, b.at, { ...a.fitted, kneeDiameterMm: toDiameterMm }, GAP_FLOOR_MM) < GAP_FLOOR_MM) return false
    } else if (!(b.kind === 'foot' && b.on.kind === 'model')) {
      const gapMm = (gaps.get(beam.id) ?? GAP_FLOOR_MM) + GAP_SPARE_MM
      if (surface.gapOfBeam(a.at, solid.to, fromDiameterMm / 2, toDiameterMm / 2, gapMm) < gapMm) return false
    }
    return !field.isNear([solid], webMm, but)
  }
  return { hasRoom, take: beam => field.put(`wider ${beam.id}`, [{ owner: beam.from, beam: solidOf(beam) }]) }
}

/** The rows of what grows, and of what it leads to: on its way down nothing gets thinner. */
function grownRows(index: PlanIndex, part: string, tips: ReadonlyMap<string, number>, grow: ReadonlyMap<string, number>, mostAt: (tip: string) => number, { hasRoom, take }: Space): PlanRows {
  const beams = new Map<string, PlanBeam>(), nodes = new Map<string, PlanNode>(), beamOf = (id: string): PlanBeam => beams.get(id) ?? (index.beams.get(id) as PlanBeam)
  const widen = (id: string, fromMm: number, toMm: number): void => {
    const b = beamOf(id), from = Math.min(THICKEST_MM, Math.max(b.fromDiameterMm, fromMm)), to = Math.min(THICKEST_MM, Math.max(b.toDiameterMm, toMm))
    if (from <= b.fromDiameterMm + 1e-6 && to <= b.toDiameterMm + 1e-6) return
    // as much as there is room for, or half of it
    for (const share of [1, 0.5]) {
      const wider: PlanBeam = { ...b, fromDiameterMm: b.fromDiameterMm + share * (from - b.fromDiameterMm), toDiameterMm: b.toDiameterMm + share * (to - b.toDiameterMm) }
      if (!hasRoom(wider)) continue
      beams.set(id, wider)
      take(wider)
      return
    }
  }
  for (const stilt of index.stiltsOf(part)) {
    const tip = (nodes.get(stilt.nodes[0]) ?? index.nodes.get(stilt.nodes[0])) as TipNode, [cone] = stilt.beams, own = grow.get(cone) ?? 1, times = tips.get(tip.id) ?? 1
    // the shaft begins as thick as the knee
    const below = stilt.beams.length > 1 && stilt.foot !== 'lost' ? beamOf(stilt.beams[1]) : null
    const tipMm = times > 1 ? Math.max(tip.fitted.tipDiameterMm, Math.min(tip.fitted.tipDiameterMm * times, THICKEST_TIP_MM, mostAt(tip.id))) : tip.fitted.tipDiameterMm
    const wantedMm = Math.min(THICKEST_MM, Math.max(tip.fitted.kneeDiameterMm * own, tipMm * OPENS)), kneeMm = [wantedMm, (wantedMm + tip.fitted.kneeDiameterMm) / 2].find(mm => hasRoom({ ...beamOf(cone), toDiameterMm: mm }) && (!below || hasRoom({ ...below, fromDiameterMm: Math.max(mm, below.fromDiameterMm) }))) ?? tip.fitted.kneeDiameterMm, fitted = { ...tip.fitted, tipDiameterMm: Math.min(tipMm, Math.max(tip.fitted.tipDiameterMm, kneeMm)), kneeDiameterMm: kneeMm > tip.fitted.kneeDiameterMm + 1e-6 ? kneeMm : tip.fitted.kneeDiameterMm }
    if (fitted.tipDiameterMm > tip.fitted.tipDiameterMm + 1e-6 || fitted.kneeDiameterMm > tip.fitted.kneeDiameterMm) {
      nodes.set(tip.id, { ...tip, own: { ...tip.own, tipDiameterMm: fitted.tipDiameterMm, kneeDiameterMm: fitted.kneeDiameterMm }, fitted })
      const wider: PlanBeam = { ...beamOf(cone), fromDiameterMm: neckOf(fitted), toDiameterMm: fitted.kneeDiameterMm }
      beams.set(cone, wider)
      take(wider)
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
      nodes.set(foot.id, widerFoot(foot, beamOf(last).toDiameterMm))
    }
  }
  for (const [id, times] of grow) {
    const b = index.beams.get(id)
    if (b?.kind !== 'brace') continue
    widen(id, b.fromDiameterMm * times, b.toDiameterMm * times)
    const foot = index.nodes.get(b.to)
    if (foot?.kind === 'foot' && beams.has(id)) nodes.set(foot.id, widerFoot(foot, beamOf(id).toDiameterMm))
  }
  return { nodes: [...nodes.values()], beams: [...beams.values()] }
}

/** A foot under a shaft that was made thicker. */
function widerFoot(foot: FootNode, shaftFootDiameterMm: number): FootNode {
  const footDiameterMm = Math.max(foot.fitted.footDiameterMm, shaftFootDiameterMm + LEAST_RIM_MM)
  return { ...foot, own: { ...foot.own, shaftFootDiameterMm, footDiameterMm }, fitted: { ...foot.fitted, shaftFootDiameterMm, footDiameterMm } }
}
