import type { Change, Gauge } from '../contract'
import { between, distance, type Vec3 } from '../mesh'
import type { Proof, Proven } from '../proof'
import { beamsOfShape, besideStilt, CARRIES_FROM_MM, changeOfStilts, FEET_APART_MM, gapVerdict, gaugeFor, LEAST_RIM_MM, neighboursOf, regaugeStilt, resizeStilt, rowsOfBraces, zigzag, type Brace, type Bracing, type Others, type PlanIndex, type Stilt, type StiltShape } from '../stilts'
import type { ToReady } from './make-ready'

/** What was changed of a plan, and how much of it. */
export interface Repairs {
  readonly change: Pick<Change, 'put' | 'drop'>
  readonly placed: number
  readonly braces: number
  readonly thickened: number
}

/** Braces between neighbours: one here and there, for each is more to cut off; so far from each other, mm. */
const BRACING: Bracing = { spacingMm: 12, angleDeg: 45, reachMm: 12 }
/** What bears more than so many times what it may is given another one beside it as well. */
const MUCH_TOO_MUCH = 4
/** A tip that carries, a hundredth thinner than it should be, passes. */
const SLACK_MM = 0.01

/** What a proof found, and what hangs on each stilt. */
export type Found = Proof & Pick<Proven, 'roleOf'>
type Ground = Pick<ToReady, 'surface' | 'part' | 'gauges' | 'plate' | 'resin'>

/** Stilts that are braced to each other at the most: more of them are a thicket that is hard to cut off, and no stiffer. */
const MOST_TOGETHER = 4

/** Braces some stilts with their nearest neighbours, a few and a few. */
export function braced({ surface, part, gauges }: Ground, index: PlanIndex, some: readonly Stilt[], others: () => Others): Repairs {
  const wanted = new Set(some.map(s => s.id)), field = others(), stilts = index.stiltsOf(part), groups = new Map(stilts.map(s => [s.id, new Set(tipsWith(index, s.id))]))
  const middle = (s: Stilt): Vec3 => between(s.path[1], s.path[s.path.length - 1], 0.5), apart = ([a, b]: readonly [Stilt, Stilt]): number => distance(middle(a), middle(b))
  const pairs = some.length === 0 ? [] : neighboursOf(stilts, BRACING.reachMm).filter(([a, b]) => wanted.has(a.id) || wanted.has(b.id)).sort((p, q) => apart(p) - apart(q))
  const braces: Brace[] = []
  for (const [a, b] of pairs) {
    const one = groups.get(a.id) as Set<string>, other = groups.get(b.id) as Set<string>
    if (one !== other && one.size + other.size > MOST_TOGETHER) continue
    const made = zigzag(surface, a, b, BRACING, Math.min(gaugeFor(a, gauges).braceDiameterMm, gaugeFor(b, gauges).braceDiameterMm), { ...field, but: new Set([...one, ...other]) })
    if (made.length === 0) continue
    braces.push(...made)
    for (const id of other) one.add(id)
    for (const id of one) groups.set(id, one)
  }
  const rows = rowsOfBraces(index, braces)
  return { change: { put: { nodes: [...rows.nodes], beams: [...rows.beams] } }, placed: 0, braces: braces.length, thickened: 0 }
}
/** The tips of all that hangs together with a stilt. */
function tipsWith(index: PlanIndex, tip: string): string[] {
  return (index.structureAt(tip)?.nodes ?? [tip]).filter(id => index.nodes.get(id)?.kind === 'tip')
}

/**
 * What helps where a proof found too much: thicker gauges where tips, shafts and feet bear more than they may, one more beside where that is
 * not enough or has no room, and braces where something is slender or sways. Each step is made for the plan as the step before left it.
 */
export function* repaired(ground: Ground, index: PlanIndex, proof: Found, others: () => Others): Generator<Repairs, void, void> {
  const { surface, part, gauges, plate, resin } = ground, wanted = wantedSizes(index, ground, proof), beside: { readonly stilt: Stilt; readonly gauge: Gauge }[] = []
  const put: { stilt: Stilt; shape: StiltShape }[] = [], field = others()
  for (const stilt of index.stiltsOf(part)) {
    const want = wanted.get(stilt.number)
    if (!want || stilt.foot === 'lost') continue
    const own = gaugeFor(stilt, gauges), next = thickerGauge(own, gauges, want)
    const tries = [() => next && regaugeStilt(surface, stilt, next, plate), () => want.tipMm > stilt.sizes.tipDiameterMm && resizeStilt(surface, stilt, { tipDiameterMm: Math.min(want.tipMm, stilt.sizes.kneeDiameterMm) }, own, plate)]
    const edited = tries.reduce<StiltShape | null>((found, ask) => {
      const answer = found ? null : ask()
      return found ?? (answer && answer.ok && !field.field.isNear(beamsOfShape(answer.shape), resin.webMm, new Set([stilt.id])) ? answer.shape : null)
    }, null)
    if (edited) put.push({ stilt, shape: edited })
    if (!edited || want.share > MUCH_TOO_MUCH) beside.push({ stilt, gauge: edited ? gaugeFor(edited, gauges) : own })
  }
  const slim = slimmed(ground, index, proof, wanted)
  if (slim.length > 0) yield { change: changeOfStilts(index, part, 'thinner', { put: slim }), placed: 0, braces: 0, thickened: 0 }
  if (put.length > 0) yield { change: changeOfStilts(index, part, 'thicker', { put }), placed: 0, braces: 0, thickened: put.length }
  if (beside.length > 0) {
    const field = others(), tips = index.stiltsOf(part).map(s => s.path[0]), add: StiltShape[] = []
    for (const { stilt, gauge } of beside) {
      const shape = besideStilt(surface, stilt, gauge, plate, tips, field)
      if ('ok' in shape) continue
      add.push(shape)
      tips.push(shape.path[0])
      field.field.put(`beside ${add.length}`, beamsOfShape(shape).map(beam => ({ owner: `beside ${add.length}`, beam })))
    }
    if (add.length > 0) yield { change: changeOfStilts(index, part, 'beside', { add }), placed: add.length, braces: 0, thickened: 0 }
  }
  const sways = proof.checks.some(c => c.kind === 'sway' && c.state === 'bad'), limit = 1 / resin.margin, slender = new Set(proof.stretches.flatMap(s => (s.share > limit ? s.beams.map(id => proof.stiltOf.get(id) ?? 0) : [])))
  const stilts = index.stiltsOf(part), some = sways ? stilts : stilts.filter(s => slender.has(s.number))
  const braces = braced(ground, index, some, others)
  if (braces.braces > 0) yield braces
}

/** Narrows the feet of some stilts on the plate where those of others are so near that they would close a space between them. */
export function narrowedFeet({ surface, part, gauges, plate }: Ground, index: PlanIndex, some: ReadonlySet<string>): Change {
  const stilts = index.stiltsOf(part).filter(s => s.foot === 'plate' && s.alone === s.nodes.length), feet = stilts.map(s => s.path[s.path.length - 1])
  const put = stilts.flatMap((stilt, i) => {
    if (!some.has(stilt.id)) return []
    const room = feet.reduce((least, f, j) => (i === j ? least : Math.min(least, Math.hypot(f[0] - feet[i][0], f[1] - feet[i][1]))), Infinity) - FEET_APART_MM, footDiameterMm = Math.max(stilt.sizes.shaftFootDiameterMm + LEAST_RIM_MM, room)
    if (footDiameterMm >= stilt.sizes.footDiameterMm) return []
    const edited = resizeStilt(surface, stilt, { footDiameterMm }, gaugeFor(stilt, gauges), plate)
    return edited.ok ? [{ stilt, shape: edited.shape }] : []
  })
  return changeOfStilts(index, part, 'narrower feet', { put })
}

/** How thick a stilt is to be, mm, and how many times what it may it bears; by its number. */
interface Wanted {
  tipMm: number
  kneeMm: number
  share: number
}
function wantedSizes(index: PlanIndex, { part, resin }: Ground, proof: Proof): Map<number, Wanted> {
  const limit = 1 / resin.margin, out = new Map<number, Wanted>(), stilts = new Map(index.stiltsOf(part).map(s => [s.number, s]))
  const want = (number: number, tipMm: number, kneeMm: number, share: number): void => {
    const known = out.get(number) ?? { tipMm: 0, kneeMm: 0, share: 0 }
    out.set(number, { tipMm: Math.max(known.tipMm, tipMm), kneeMm: Math.max(known.kneeMm, kneeMm), share: Math.max(known.share, share) })
  }
  for (const { stilt: number, kind, share } of proof.ends) {
    const stilt = stilts.get(number)
    // what is drawn grows with the area
    if (stilt && kind === 'tip' && share > limit) want(number, stilt.sizes.tipDiameterMm * Math.sqrt(share / limit), 0, share / limit)
  }
  for (const { id, share } of proof.beams) {
    const number = proof.stiltOf.get(id), stilt = number === undefined ? undefined : stilts.get(number)
    // and what is bent with the cube of its diameter
    if (stilt && share > limit) want(stilt.number, 0, stilt.sizes.kneeDiameterMm * Math.cbrt(share / limit), 1)
  }
  for (const place of proof.checks.find(c => c.kind === 'carriers' && c.state === 'bad')?.places ?? []) for (const number of place.stilts) want(number, CARRIES_FROM_MM - SLACK_MM, 0, 1)
  return out
}

/** Stilts that come too near to the part in a thinner gauge in which they keep clear of it, where that bears what they bear. */
function slimmed({ surface, part, gauges, plate, resin }: Ground, index: PlanIndex, proof: Found, but: ReadonlyMap<number, Wanted>): { stilt: Stilt; shape: StiltShape }[] {
  const limit = 1 / resin.margin, shares = new Map<number, number>()
  for (const { stilt, share } of proof.ends) shares.set(stilt, Math.max(shares.get(stilt) ?? 0, share))
  return index.stiltsOf(part).flatMap(stilt => {
    const own = gaugeFor(stilt, gauges)
    if (but.has(stilt.number) || !gapVerdict(surface, stilt, own, index.diametersOf(stilt))) return []
    const thinner = gauges.filter(g => g.kneeDiameterMm < own.kneeDiameterMm).sort((a, b) => b.kneeDiameterMm - a.kneeDiameterMm)
    for (const g of thinner) {
      const weaker = (stilt.sizes.tipDiameterMm / g.tipDiameterMm) ** 3, edited = regaugeStilt(surface, stilt, g, plate)
      if ((shares.get(stilt.number) ?? 0) * Math.max(1, weaker) > limit || (proof.roleOf(stilt.id) === 'carrier' && g.tipDiameterMm < CARRIES_FROM_MM - SLACK_MM)) return []
      if (edited.ok && !gapVerdict(surface, edited.shape, g)) return [{ stilt, shape: edited.shape }]
    }
    return []
  })
}

/** The thinnest gauge that is thick enough, or else the thickest there is; undefined where that is its own. */
function thickerGauge(own: Gauge, gauges: readonly Gauge[], { tipMm, kneeMm }: Wanted): Gauge | undefined {
  const thicker = gauges.filter(g => g.tipDiameterMm >= own.tipDiameterMm && g.kneeDiameterMm >= own.kneeDiameterMm && (g.tipDiameterMm > own.tipDiameterMm || g.kneeDiameterMm > own.kneeDiameterMm)).sort((a, b) => a.tipDiameterMm - b.tipDiameterMm || a.kneeDiameterMm - b.kneeDiameterMm)
  return thicker.find(g => g.tipDiameterMm >= tipMm && g.kneeDiameterMm >= kneeMm) ?? thicker[thicker.length - 1]
}
