import { WORTHS, type ProofCheck, type Raft, type Resin, type Role, type Worth } from '../contract'
import { OFF_LIMITS, PRIZED } from '../marks'
import type { Vec3 } from '../mesh'
import { feetOf } from '../raft'
import type { ScanResult } from '../scan'
import { auditTips, CARRIES_FROM_MM, Clearance, gaugeFor, judgeStilt, type PlanIndex, type Surface } from '../stilts'
import type { Proven, ProvenEnd } from './prove'
import { barestSkin } from './skin'
import type { BeamStrength, FootStrength, StrengthLanes, StretchStrength } from './strength'

/** The layer that is laid may move by this much under the side pull, mm; a starting point. */
export const SWAY_LIMIT_MM = 0.1
/** What moves farther does not stand at all, and by how much says nothing. */
const LOOSE_SWAY_MM = 5
/** The first layer is whole where it has this share of what stands on the plate. */
const WHOLE_SHARE = 0.95

const check = (kind: ProofCheck['kind'], count: number, sentence: string, more: Partial<ProofCheck> = {}): ProofCheck => ({
  kind, state: count > 0 ? 'bad' : 'good', count, figure: null, limit: null, unit: '', at: null, layer: null, sentence, ...more,
})
const place = (p: Vec3): [number, number, number] => [p[0], p[1], p[2]]
const many = (n: number, one: string, more: string): string => (n === 1 ? `1 ${one}` : `${n} ${more}`)
const per = (share: number): number => Math.round(share * 100)

export function hangsCheck({ islands, ledges }: ScanResult): ProofCheck {
  const open = islands.filter(i => i.state === 'open' || i.state === 'partly'), out = ledges.filter(l => l.state === 'open' || l.state === 'partly'), first = open[0] ?? null
  const said = [...(open.length ? [many(open.length, 'island', 'islands')] : []), ...(out.length ? [many(out.length, 'ledge', 'ledges')] : [])].join(' and ')
  return check('hangs', open.length + out.length, open.length + out.length === 0 ? 'Nothing hangs.' : `${said} still ${open.length + out.length === 1 ? 'hangs' : 'hang'}.`, {
    figure: open.reduce((sum, i) => sum + i.hangingMm2, 0) + out.reduce((sum, l) => sum + l.hangingMm2, 0), limit: 0, unit: 'mm²', at: first ? place(first.aim) : out[0] ? place(out[0].at) : null, layer: first?.layer ?? out[0]?.firstLayer ?? null,
  })
}

export function floatingCheck({ result, index, part }: Proven): ProofCheck {
  const lost = index.stiltsOf(part).filter(s => s.foot === 'lost'), count = result.floating.length + lost.length, at = result.floating[0]?.center ?? lost[0]?.path[0] ?? null
  return check('floating', count, count === 0 ? 'All stilts stand.' : `${many(count, 'stilt begins', 'stilts begin')} in the air.`, { at: at && place(at) })
}

export function plateCheck(overMm: number): ProofCheck {
  return check('plate', overMm > 0 ? 1 : 0, overMm > 0 ? `It reaches ${overMm.toFixed(1)} mm beyond what the printer can print.` : 'All of it is on the plate.', { figure: overMm, limit: 0, unit: 'mm' })
}

export function tipsCheck(ends: readonly ProvenEnd[], { margin }: Resin): ProofCheck {
  const limit = 1 / margin, over = ends.filter(e => e.share > limit), breaks = ends.filter(e => e.share > 1).length, [worst] = ends
  if (!worst) return check('tips', 0, 'No tip is loaded.', { state: 'note' })
  const where = `stilt ${worst.stilt} in layer ${worst.layer + 1}`
  return check('tips', over.length, over.length === 0 ? `No tip bears more than ${per(worst.share)} % of what it can.` : breaks > 0 ? `${many(breaks, 'tip carries', 'tips carry')} more than ${breaks === 1 ? 'it' : 'they'} can; the weakest is that of ${where}.` : `${many(over.length, 'tip has', 'tips have')} less than the margin of ${margin.toFixed(1)}; the weakest is that of ${where}.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', at: place(worst.at), layer: Math.max(0, worst.layer),
  })
}

export function beamsCheck(beams: readonly BeamStrength[], { margin }: Resin, index: PlanIndex): ProofCheck {
  const limit = 1 / margin, over = beams.filter(b => b.share > limit), worst = beams.reduce<BeamStrength | null>((a, b) => (a && a.share >= b.share ? a : b), null), from = worst && index.nodes.get(index.beams.get(worst.id)?.from ?? '')
  if (!worst || !from) return check('beams', 0, 'No beam is loaded.', { state: 'note' })
  return check('beams', over.length, over.length === 0 ? `No shaft or branch bears more than ${per(worst.share)} % of what it can.` : `${many(over.length, 'shaft or branch is', 'shafts and branches are')} bent or drawn by more than ${per(limit)} % of what they can.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', at: place(from.at), layer: Math.max(0, worst.layer),
  })
}

export function slenderCheck(stretches: readonly StretchStrength[], { margin }: Resin, index: PlanIndex): ProofCheck {
  const limit = 1 / margin, over = stretches.filter(s => s.share > limit), worst = stretches.reduce<StretchStrength | null>((a, b) => (a && a.share >= b.share ? a : b), null), from = worst && index.nodes.get(index.beams.get(worst.beams[0])?.from ?? '')
  if (!worst || !from) return check('slender', 0, 'Nothing is pressed.', { state: 'note' })
  return check('slender', over.length, over.length === 0 ? `No shaft is pressed by more than ${per(worst.share)} % of what bends it out.` : `${many(over.length, 'shaft is', 'shafts are')} so slender that the plate going down may bend ${over.length === 1 ? 'it' : 'them'} out.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', at: place(from.at), layer: Math.max(0, worst.layer),
  })
}

export function feetCheck(feet: readonly FootStrength[], { margin }: Resin, index: PlanIndex): ProofCheck {
  const limit = 1 / margin, over = feet.filter(f => f.share > limit), worst = feet.reduce<FootStrength | null>((a, b) => (a && a.share >= b.share ? a : b), null), at = worst && index.nodes.get(worst.id)?.at
  if (!worst || !at) return check('feet', 0, 'No foot stands on the plate.', { state: 'note' })
  return check('feet', over.length, over.length === 0 ? `No foot is pulled by more than ${per(worst.share)} % of what holds it on the plate.` : `${many(over.length, 'foot is', 'feet are')} pulled by more than ${per(limit)} % of what holds ${over.length === 1 ? 'it' : 'them'} on the plate.`, {
    figure: per(worst.share), limit: per(limit), unit: '%', at: place(at), layer: Math.max(0, worst.layer),
  })
}

/** Sides by where they lie, from x to y; the front is where y is small. */
const SIDE_NAMES = ['left and right', 'front right and back left', 'front and back', 'front left and back right'] as const
/** What a pull along some direction comes from, in words. */
export function sideName(deg: number): string {
  return SIDE_NAMES[((Math.round(-deg / 45) % 4) + 4) % 4]
}

export function swayCheck({ swayMm, softDeg }: StrengthLanes): ProofCheck {
  let worst = -1, over = 0
  swayMm.forEach((mm, k) => {
    if (mm > SWAY_LIMIT_MM) over++
    if (mm > (worst < 0 ? 0 : swayMm[worst])) worst = k
  })
  if (worst < 0) return check('sway', 0, 'Nothing of it is large enough to sway.', { state: 'note' })
  const most = swayMm[worst] > LOOSE_SWAY_MM ? `more than ${LOOSE_SWAY_MM} mm` : `up to ${swayMm[worst].toFixed(2)} mm`
  return check('sway', over, over === 0 ? `It sways by ${swayMm[worst].toFixed(2)} mm at most.` : `It sways by ${most}, in layer ${worst + 1}; it is soft from ${sideName(softDeg[worst])}.`, { figure: swayMm[worst], limit: SWAY_LIMIT_MM, unit: 'mm', layer: worst })
}

export function firstLayerCheck({ areaMm2 }: ScanResult, index: PlanIndex, part: string, raft: Raft): ProofCheck {
  const feet = feetOf(index.nodes.values(), part), least = feet.reduce((sum, f) => sum + Math.PI * f.radiusMm ** 2, 0), area = areaMm2[0] ?? 0
  if (area <= 0) return check('first-layer', 1, 'The first layer is empty: nothing stands on the plate.', { figure: 0, unit: 'mm²', layer: 0 })
  // feet that overlap, and rafts, have no such area: then there must be some
  const whole = raft.kind !== 'none' || area >= least * WHOLE_SHARE || overlapping(feet)
  return check('first-layer', whole ? 0 : 1, whole ? 'The first layer is whole.' : `The first layer has ${area.toFixed(1)} mm² of the ${least.toFixed(1)} mm² that its feet have.`, { figure: area, limit: raft.kind === 'none' ? least : null, unit: 'mm²', layer: 0 })
}
function overlapping(feet: readonly { readonly x: number; readonly y: number; readonly radiusMm: number }[]): boolean {
  return feet.some((f, i) => feet.some((g, j) => j > i && Math.hypot(f.x - g.x, f.y - g.y) < f.radiusMm + g.radiusMm))
}

export function suctionCheck({ cups, pools }: ScanResult): ProofCheck {
  const worst = cups.reduce<(typeof cups)[number] | null>((a, b) => (a && a.volumeMm3 >= b.volumeMm3 ? a : b), null), count = cups.length + pools.length
  return check('suction', count, count === 0 ? 'Nothing pulls like a cup or keeps resin in.' : `${[...(cups.length ? [many(cups.length, 'space pulls or is shut', 'spaces pull or are shut')] : []), ...(pools.length ? [many(pools.length, 'pool stays', 'pools stay')] : [])].join(', ')}.`, { at: worst ? place(worst.at) : pools[0] ? place(pools[0].at) : null, layer: worst?.firstLayer ?? pools[0]?.firstLayer ?? null })
}

export function carriersCheck(stilts: ReturnType<PlanIndex['stiltsOf']>, roleOf: (tip: string) => Role): ProofCheck {
  const carry = auditTips(stilts, s => roleOf(s.id), CARRIES_FROM_MM).filter(t => t.role === 'carrier'), weak = carry.filter(t => t.weak), least = carry.reduce((mm, t) => Math.min(mm, t.tipMm), Infinity), at = weak[0] && stilts.find(s => s.id === weak[0].id)?.path[0]
  if (carry.length === 0) return check('carriers', 0, 'No tip is known to carry the whole part.', { state: 'note' })
  return check('carriers', weak.length, weak.length === 0 ? `What carries the part is ${least.toFixed(2)} mm or thicker.` : `${many(weak.length, 'tip that carries', 'tips that carry')} the part ${weak.length === 1 ? 'is' : 'are'} under ${CARRIES_FROM_MM.toFixed(2)} mm, which is commonly too thin.`, { figure: least, limit: CARRIES_FROM_MM, unit: 'mm', at: at ? place(at) : null })
}

export function gapsCheck({ surface, index, part, gauges, resin }: Proven): ProofCheck {
  const stilts = index.stiltsOf(part), gaps = stilts.flatMap(s => judgeStilt(surface, s, { gauge: gaugeFor(s, gauges), isHeld: n => index.isHeld(n) }).flatMap(v => (v.kind === 'gap' ? [v] : []))), near = new Clearance(index).nearer(part, resin.webMm)
  const least = Math.min(Infinity, ...gaps.map(g => g.gapMm)), at = gaps[0]?.at ?? near[0]?.at ?? null
  return check('gaps', gaps.length + near.length, gaps.length + near.length === 0 ? 'No support comes too near to the part or to another one.' : [...(gaps.length ? [`${many(gaps.length, 'support comes', 'supports come')} too near to the part`] : []), ...(near.length ? [`${many(near.length, 'pair is', 'pairs are')} nearer to each other than ${resin.webMm.toFixed(2)} mm`] : [])].join(', ') + '.', { figure: Number.isFinite(least) ? least : null, unit: 'mm', at: at && place(at) })
}

export function scarsCheck(ends: readonly ProvenEnd[]): ProofCheck {
  const on = (worth: Worth): readonly ProvenEnd[] => ends.filter(e => e.worth === worth), off = on(WORTHS[OFF_LIMITS]), prized = on(WORTHS[PRIZED]), area = (list: readonly ProvenEnd[]): number => list.reduce((sum, e) => sum + e.contactMm2, 0)
  if (off.length > 0) return check('scars', off.length, `${many(off.length, 'tip touches', 'tips touch')} what is off limits.`, { figure: area(off), limit: 0, unit: 'mm²', at: place(off[0].at) })
  return check('scars', 0, `${many(ends.length, 'mark', 'marks')} of ${area(ends).toFixed(1)} mm²${prized.length > 0 ? `, ${prized.length} of them on prized skin` : ''}.`, { state: prized.length > 0 ? 'note' : 'good', figure: area(ends), unit: 'mm²', at: prized[0] ? place(prized[0].at) : null })
}

export function skinCheck(surface: Surface, ends: readonly ProvenEnd[]): ProofCheck {
  const bare = barestSkin(surface, ends.filter(e => e.kind === 'tip').map(e => e.at))
  return bare ? check('skin', 0, `The downward skin that is farthest from a tip is ${bare.mm.toFixed(1)} mm away from one.`, { state: 'note', figure: bare.mm, unit: 'mm', at: place(bare.at) }) : check('skin', 0, 'No skin looks down that a tip could hold.', { state: 'note' })
}
