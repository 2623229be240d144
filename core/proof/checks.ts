import { waiverAt, WORTHS, type ProofCheck, type ProofPlace, type Raft, type Resin, type Role, type SourcePoint, type WaivableKind, type Worth } from '../contract'
import { OFF_LIMITS, PRIZED } from '../marks'
import type { Vec3 } from '../mesh'
import { toSource } from '../pose'
import { feetOf } from '../raft'
import type { ScanResult } from '../scan'
import { auditTips, CARRIES_FROM_MM, Clearance, gapVerdict, gaugeFor, type PlanIndex, type Surface } from '../stilts'
import type { OnPlate, Proven, ProvenEnd } from './prove'
import { barestSkin } from './skin'
import type { BeamStrength, FootStrength, StrengthLanes, StretchStrength } from './strength'

/** What moves farther does not stand at all, and by how much says nothing, mm. */
export const LOOSE_SWAY_MM = 5
/** The first layer is whole where it has this share of what stands on the plate. */
const WHOLE_SHARE = 0.95
/** Places that a check names at the most. */
const MOST_PLACES = 50

const check = (kind: ProofCheck['kind'], count: number, sentence: string, more: Partial<ProofCheck> = {}): ProofCheck => ({
  kind, state: count > 0 ? 'bad' : 'good', count, figure: null, limit: null, unit: '', places: [], sentence, ...more,
})
const placeOf = (at: Vec3 | null | undefined, more: Partial<ProofPlace> = {}): ProofPlace => ({ at: at ? [at[0], at[1], at[2]] : null, layer: null, figure: null, stilts: [], ...more })
const many = (n: number, one: string, more: string): string => (n === 1 ? `1 ${one}` : `${n} ${more}`)
const per = (share: number): number => Math.round(share * 100)
/** What a share is certainly no more than, %. */
const atMost = (share: number): number => Math.max(1, Math.ceil(share * 100))
/** The worst of some places: those over a limit, or the one that comes nearest to it. */
function worstFirst<T extends { readonly share: number }>(list: readonly T[], over: readonly T[], place: (of: T) => ProofPlace): ProofPlace[] {
  const sorted = [...(over.length > 0 ? over : list)].sort((a, b) => b.share - a.share)
  return sorted.slice(0, over.length > 0 ? MOST_PLACES : 1).map(place)
}
const worstOf = <T extends { readonly share: number }>(list: readonly T[]): T | null => list.reduce<T | null>((a, b) => (a && a.share >= b.share ? a : b), null)
/** What of a plan belongs to which stilt. */
type StiltOf = ReadonlyMap<string, number>
const stiltsOf = (ids: readonly string[], of: StiltOf): number[] => [...new Set(ids.flatMap(id => of.get(id) ?? []))]

export function hangsCheck({ result: { islands, ledges }, waivers, surface }: Proven): ProofCheck {
  const stays = waivedIn(waivers, surface), isOpen = (state: string): boolean => state === 'open' || state === 'partly'
  const open = islands.filter(i => isOpen(i.state) && !stays('island', i.aim)), out = ledges.filter(l => isOpen(l.state) && !stays('ledge', l.at)), count = open.length + out.length
  const said = [...(open.length ? [many(open.length, 'island', 'islands')] : []), ...(out.length ? [many(out.length, 'ledge', 'ledges')] : [])].join(' and ')
  const places = [...open.map(i => placeOf(i.aim, { layer: i.layer, figure: i.hangingMm2 })), ...out.map(l => placeOf(l.worst, { layer: l.firstLayer, figure: l.hangingMm2 }))].sort((a, b) => (b.figure ?? 0) - (a.figure ?? 0))
  return check('hangs', count, count === 0 ? 'Nothing hangs.' : `${said} still ${count === 1 ? 'hangs' : 'hang'}.`, { figure: places.reduce((sum, p) => sum + (p.figure ?? 0), 0), limit: 0, unit: 'mm²', places: places.slice(0, MOST_PLACES) })
}
/** Whether somebody decided to leave a finding of the scan as it is. */
function waivedIn(waivers: Proven['waivers'], surface: Surface): (kind: WaivableKind, at: Vec3) => boolean {
  return (kind, at) => waivers.length > 0 && waiverAt(waivers, kind, toSource(surface, at as never) as SourcePoint) !== undefined
}

export function floatingCheck({ result, index, part }: Proven): ProofCheck {
  const lost = index.stiltsOf(part).filter(s => s.foot === 'lost'), count = result.floating.length + lost.length
  return check('floating', count, count === 0 ? 'All stilts stand.' : `${many(count, 'stilt begins', 'stilts begin')} in the air.`, {
    places: [...result.floating.map(f => placeOf(f.center, { layer: f.layer })), ...lost.map(s => placeOf(s.path[0], { stilts: [s.number] }))].slice(0, MOST_PLACES),
  })
}

export function plateCheck({ overMm, meets, cups }: OnPlate): ProofCheck {
  const said = [...(overMm > 0 ? [`it reaches ${overMm.toFixed(1)} mm beyond what the printer can print`] : []), ...(meets ? [`it runs into ${many(meets, 'other copy', 'other copies')}`] : []), ...(cups > 0 ? [`it closes ${many(cups, 'space', 'spaces')} with other copies`] : [])].join(', ')
  return check('plate', said ? Number(overMm > 0) + (meets ?? 0) + cups : 0, said ? `On the plate ${said}.` : meets === null ? 'All of it is on the plate; whether it is clear of other copies was not looked at.' : 'All of it is on the plate, clear of everything else.', { figure: overMm, limit: 0, unit: 'mm', ...(!said && meets === null && { state: 'note' }) })
}

export function tipsCheck(ends: readonly ProvenEnd[], { margin }: Resin): ProofCheck {
  const limit = 1 / margin, over = ends.filter(e => e.share > limit), breaks = ends.filter(e => e.share > 1).length, worst = worstOf(ends)
  if (!worst) return check('tips', 0, 'No tip is loaded.', { state: 'note' })
  const where = `stilt ${worst.stilt} in layer ${worst.layer + 1}`
  return check('tips', over.length, over.length === 0 ? `No tip bears more than ${atMost(worst.share)} % of what it can.` : breaks > 0 ? `${many(breaks, 'tip carries', 'tips carry')} more than ${breaks === 1 ? 'it' : 'they'} can; the weakest is that of ${where}.` : `${many(over.length, 'tip has', 'tips have')} less than the margin of ${margin.toFixed(1)}; the weakest is that of ${where}.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', places: worstFirst(ends, over, e => placeOf(e.at, { layer: Math.max(0, e.layer), figure: per(e.share), stilts: [e.stilt] })),
  })
}

export function beamsCheck(beams: readonly BeamStrength[], { margin }: Resin, index: PlanIndex, of: StiltOf): ProofCheck {
  const limit = 1 / margin, over = beams.filter(b => b.share > limit), worst = worstOf(beams)
  if (!worst) return check('beams', 0, 'No beam is loaded.', { state: 'note' })
  return check('beams', over.length, over.length === 0 ? `No shaft or branch bears more than ${atMost(worst.share)} % of what it can.` : `${many(over.length, 'shaft or branch is', 'shafts and branches are')} bent or drawn by more than ${per(limit)} % of what they can.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', places: worstFirst(beams, over, b => placeOf(middleOf(index, b.id), { layer: Math.max(0, b.layer), figure: per(b.share), stilts: stiltsOf([b.id], of) })),
  })
}
/** The middle of a beam of the plan. */
function middleOf(index: PlanIndex, beam: string): Vec3 | null {
  const b = index.beams.get(beam), from = b && index.nodes.get(b.from)?.at, to = b && index.nodes.get(b.to)?.at
  return from && to ? [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, (from[2] + to[2]) / 2] : null
}

export function slenderCheck(stretches: readonly StretchStrength[], { margin }: Resin, index: PlanIndex, of: StiltOf): ProofCheck {
  const limit = 1 / margin, over = stretches.filter(s => s.share > limit), worst = worstOf(stretches)
  if (!worst) return check('slender', 0, 'Nothing is pressed.', { state: 'note' })
  return check('slender', over.length, over.length === 0 ? `No shaft is pressed by more than ${atMost(worst.share)} % of what bends it out.` : `${many(over.length, 'shaft is', 'shafts are')} so slender that the plate going down may bend ${over.length === 1 ? 'it' : 'them'} out.`, {
    figure: per(worst.share), limit: per(limit), unit: '%',
    places: worstFirst(stretches, over, s => placeOf(middleOf(index, s.beams[Math.floor((s.beams.length - 1) / 2)]), { layer: Math.max(0, s.layer), figure: per(s.share), stilts: stiltsOf(s.beams, of) })),
  })
}

/** @param raftMm2 what a raft under all feet has on the plate; null where each stands by itself */
export function feetCheck(feet: readonly FootStrength[], { margin, greenStrengthNMm2 }: Pick<Resin, 'margin' | 'greenStrengthNMm2'>, index: PlanIndex, of: StiltOf, raftMm2: number | null): ProofCheck {
  if (raftMm2 !== null && raftMm2 > 0 && feet.length > 0) {
    // feet that are pulled most in different layers count as if it were one
    const share = feet.reduce((sum, f) => sum + f.pulledN, 0) / (raftMm2 * greenStrengthNMm2), worst = feet.reduce((a, b) => (b.pulledN > a.pulledN ? b : a))
    return check('feet', share > 1 / margin ? 1 : 0, `The raft is pulled by ${atMost(share)} % of what holds it on the plate.`, { figure: per(share), limit: per(1 / margin), unit: '%', places: [placeOf(index.nodes.get(worst.id)?.at, { layer: Math.max(0, worst.layer), figure: per(share), stilts: stiltsOf([worst.id], of) })] })
  }
  const limit = 1 / margin, over = feet.filter(f => f.share > limit), worst = worstOf(feet)
  if (!worst) return check('feet', 0, 'No foot stands on the plate.', { state: 'note' })
  return check('feet', over.length, over.length === 0 ? `No foot is pulled by more than ${atMost(worst.share)} % of what holds it on the plate.` : `${many(over.length, 'foot is', 'feet are')} pulled by more than ${per(limit)} % of what holds ${over.length === 1 ? 'it' : 'them'} on the plate.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', places: worstFirst(feet, over, f => placeOf(index.nodes.get(f.id)?.at, { layer: Math.max(0, f.layer), figure: per(f.share), stilts: stiltsOf([f.id], of) })),
  })
}

/** Sides by where they lie, from x to y; the front is where y is small. */
const SIDE_NAMES = ['left and right', 'front right and back left', 'front and back', 'front left and back right'] as const
/** What a pull along some direction comes from, in words. */
export function sideName(deg: number): string {
  return SIDE_NAMES[((Math.round(-deg / 45) % 4) + 4) % 4]
}

export function swayCheck({ swayMm, softDeg }: StrengthLanes, { swayMm: limit }: Resin): ProofCheck {
  let worst = -1, over = 0
  swayMm.forEach((mm, k) => {
    if (mm > limit) over++
    if (mm > (worst < 0 ? 0 : swayMm[worst])) worst = k
  })
  if (worst < 0) return check('sway', 0, 'Nothing of it is large enough to sway.', { state: 'note' })
  const most = swayMm[worst] > LOOSE_SWAY_MM ? `more than ${LOOSE_SWAY_MM} mm` : `up to ${swayMm[worst].toFixed(2)} mm`
  return check('sway', over, over === 0 ? `It sways by ${swayMm[worst].toFixed(swayMm[worst] < 0.1 ? 3 : 2)} mm at most.` : `It sways by ${most}, in layer ${worst + 1}: ${stiffness(softDeg[worst])}.`, { figure: swayMm[worst], limit, unit: 'mm', places: [placeOf(null, { layer: worst, figure: swayMm[worst] })] })
}
/** What is soft from some side is stiff from across. */
function stiffness(softDeg: number): string {
  return `stiff from ${sideName(softDeg + 90)}, soft from ${sideName(softDeg)}`
}

export function firstLayerCheck({ areaMm2 }: ScanResult, index: PlanIndex, part: string, raft: Raft): ProofCheck {
  const feet = feetOf(index.nodes.values(), part), least = feet.reduce((sum, f) => sum + Math.PI * f.radiusMm ** 2, 0), area = areaMm2[0] ?? 0
  if (area <= 0) return check('first-layer', 1, 'The first layer is empty: nothing stands on the plate.', { figure: 0, unit: 'mm²', places: [placeOf(null, { layer: 0 })] })
  // feet that overlap, and rafts, have no such area: then there must be some
  const whole = raft.kind !== 'none' || area >= least * WHOLE_SHARE || overlapping(feet)
  return check('first-layer', whole ? 0 : 1, whole ? 'The first layer is whole.' : `The first layer has ${area.toFixed(1)} mm² of the ${least.toFixed(1)} mm² that its feet have.`, { figure: area, limit: raft.kind === 'none' ? least : null, unit: 'mm²', places: [placeOf(null, { layer: 0 })] })
}
function overlapping(feet: readonly { readonly x: number; readonly y: number; readonly radiusMm: number }[]): boolean {
  return feet.some((f, i) => feet.some((g, j) => j > i && Math.hypot(f.x - g.x, f.y - g.y) < f.radiusMm + g.radiusMm))
}

export function suctionCheck({ result, waivers, surface }: Proven): ProofCheck {
  const stays = waivedIn(waivers, surface), cups = result.cups.filter(c => !stays('cup', c.at) && !stays('sealed', c.at)), pools = result.pools.filter(p => !stays('pool', p.at)), count = cups.length + pools.length
  const said = [...(cups.length ? [many(cups.length, 'space pulls or is shut', 'spaces pull or are shut')] : []), ...(pools.length ? [many(pools.length, 'pool stays', 'pools stay')] : [])].join(', ')
  return check('suction', count, count === 0 ? 'Nothing pulls like a cup or keeps resin in.' : `${said[0].toUpperCase()}${said.slice(1)}.`, { places: [...cups, ...pools].sort((a, b) => b.volumeMm3 - a.volumeMm3).slice(0, MOST_PLACES).map(c => placeOf(c.at, { layer: c.firstLayer })) })
}

export function carriersCheck(stilts: ReturnType<PlanIndex['stiltsOf']>, roleOf: (tip: string) => Role): ProofCheck {
  const carry = auditTips(stilts, s => roleOf(s.id), CARRIES_FROM_MM).filter(t => t.role === 'carrier'), weak = carry.filter(t => t.weak), least = carry.reduce((mm, t) => Math.min(mm, t.tipMm), Infinity), byId = new Map(stilts.map(s => [s.id, s]))
  if (carry.length === 0) return check('carriers', 0, 'No tip is known to carry the whole part.', { state: 'note' })
  return check('carriers', weak.length, weak.length === 0 ? `What carries the part is ${least.toFixed(2)} mm or thicker.` : `${many(weak.length, 'tip that carries', 'tips that carry')} the part ${weak.length === 1 ? 'is' : 'are'} under ${CARRIES_FROM_MM.toFixed(2)} mm, which is commonly too thin.`, {
    figure: least, limit: CARRIES_FROM_MM, unit: 'mm', places: [...weak].sort((a, b) => a.tipMm - b.tipMm).slice(0, MOST_PLACES).map(t => placeOf(byId.get(t.id)?.path[0], { figure: t.tipMm, stilts: [byId.get(t.id)?.number ?? 0] })),
  })
}

export function gapsCheck({ surface, index, part, gauges, resin }: Proven): ProofCheck {
  const stilts = index.stiltsOf(part), numbers = new Map(stilts.map(s => [s.id, s.number])), numbersOf = (ids: readonly string[]): number[] => ids.flatMap(id => numbers.get(id) ?? [])
  const gaps = stilts.flatMap(s => gapVerdict(surface, s, gaugeFor(s, gauges), index.diametersOf(s)) ?? []), near = new Clearance(index).nearer(part, resin.webMm)
  const places = [...gaps.map(g => placeOf(g.at, { figure: g.gapMm, stilts: numbersOf(g.stilts) })), ...near.map(n => placeOf(n.at, { figure: n.gapMm, stilts: numbersOf(n.stilts) }))].sort((a, b) => (a.figure ?? 0) - (b.figure ?? 0)), count = places.length
  return check('gaps', count, count === 0 ? 'No support comes too near to the part or to another one.' : [...(gaps.length ? [`${many(gaps.length, 'support comes', 'supports come')} too near to the part`] : []), ...(near.length ? [`${many(near.length, 'pair is', 'pairs are')} nearer to each other than ${resin.webMm.toFixed(2)} mm`] : [])].join(', ') + '.', { figure: places[0]?.figure ?? null, unit: 'mm', places: places.slice(0, MOST_PLACES) })
}

/** Marks on what is worth most first, and of those the largest. */
const BY_WORTH: readonly Worth[] = [WORTHS[OFF_LIMITS], WORTHS[PRIZED]]
export function scarsCheck(ends: readonly ProvenEnd[]): ProofCheck {
  const area = (list: readonly ProvenEnd[]): number => list.reduce((sum, e) => sum + e.contactMm2, 0), on = (worth: Worth): ProvenEnd[] => ends.filter(e => e.worth === worth).sort((a, b) => b.contactMm2 - a.contactMm2), [off, prized] = BY_WORTH.map(on)
  const places = [...off, ...prized].slice(0, MOST_PLACES).map(e => placeOf(e.at, { figure: e.contactMm2, stilts: [e.stilt] })), beads = prized.filter(e => e.ball).length
  if (off.length > 0) return check('scars', off.length, `${many(off.length, 'tip touches', 'tips touch')} what is off limits.`, { figure: area(off), limit: 0, unit: 'mm²', places })
  const said = [...(prized.length > 0 ? [`${prized.length} of them on prized skin`] : []), ...(beads > 0 ? [`${many(beads, 'ball leaves a bead', 'balls leave a bead')} there`] : [])]
  return check('scars', 0, `${many(ends.length, 'mark', 'marks')} of ${area(ends).toFixed(1)} mm²${said.map(s => `, ${s}`).join('')}.`, { state: prized.length > 0 ? 'note' : 'good', figure: area(ends), unit: 'mm²', places })
}

export function skinCheck(surface: Surface, ends: readonly ProvenEnd[]): ProofCheck {
  const bare = barestSkin(surface, ends.filter(e => e.kind === 'tip').map(e => e.at))
  return bare ? check('skin', 0, `The downward skin that is farthest from a tip is ${bare.mm.toFixed(1)} mm away from one.`, { state: 'note', figure: bare.mm, unit: 'mm', places: [placeOf(bare.at, { figure: bare.mm })] }) : check('skin', 0, 'No skin looks down that a tip could hold.', { state: 'note' })
}
