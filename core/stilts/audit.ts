import type { Role, SelectRule } from '../contract'
import { shaftOf, type Stilt, type StiltSizes } from './stilt'

/** So much under the least size does not matter, mm (common practice). */
const NO_MATTER_MM = 0.01

/** One tip as it is looked at. */
export interface AuditedTip {
  readonly id: string
  readonly number: number
  readonly tipMm: number
  readonly heightMm: number
  readonly role: Role
  /** Thinner than what carries or holds a region should be. */
  readonly weak: boolean
}

/** Whether a tip of a role is thinner than the least size. What saves a detail may be as fine as it likes. */
export function isWeak(tipMm: number, role: Role, leastMm: number): boolean {
  return role !== 'detail' && tipMm < leastMm - NO_MATTER_MM
}

/** All tips that stand, lowest first. @param roleOf what hangs on a stilt, whatever its gauge */
export function auditTips(stilts: readonly Stilt[], roleOf: (stilt: Stilt) => Role, leastMm: number): AuditedTip[] {
  return stilts.filter(s => s.foot !== 'lost').map((s): AuditedTip => {
    const role = roleOf(s)
    return { id: s.id, number: s.number, tipMm: s.sizes.tipDiameterMm, heightMm: s.path[0][2], role, weak: isWeak(s.sizes.tipDiameterMm, role, leastMm) }
  }).sort((a, b) => a.heightMm - b.heightMm || a.number - b.number)
}

/** Tips of about one size, by role. */
export interface TipBin {
  readonly fromMm: number
  readonly toMm: number
  readonly count: Readonly<Record<Role, number>>
  readonly ids: readonly string[]
}

/** Tips by size in even steps from the smallest on; steps that none has are there as well, so that the picture is true. */
export function binsOf(tips: readonly AuditedTip[], stepMm: number): TipBin[] {
  if (tips.length === 0) return []
  const bin = (mm: number): number => Math.floor(mm / stepMm + 1e-6), all = tips.map(t => bin(t.tipMm)), low = all.reduce((a, b) => Math.min(a, b)), high = all.reduce((a, b) => Math.max(a, b))
  return Array.from({ length: high - low + 1 }, (_, i) => {
    const mine = tips.filter((_t, k) => all[k] === low + i), count = (role: Role): number => mine.filter(t => t.role === role).length
    return { fromMm: (low + i) * stepMm, toMm: (low + i + 1) * stepMm, count: { carrier: count('carrier'), structural: count('structural'), detail: count('detail') }, ids: mine.map(t => t.id) }
  })
}

/** The sizes that make a tip stronger: a tip of that diameter, and nothing below it thinner than that. */
export function strongerSizes(sizes: StiltSizes, tipDiameterMm: number): Partial<StiltSizes> {
  const mm = Math.round(tipDiameterMm * 1000) / 1000
  return { tipDiameterMm: mm, ...(sizes.kneeDiameterMm < mm && { kneeDiameterMm: mm }), ...(sizes.shaftFootDiameterMm < mm && { shaftFootDiameterMm: mm }) }
}

/** What a rule asks about a stilt that the stilt does not know itself. */
export interface RuleFacts {
  roleOf(stilt: Stilt): Role
  /** Estimate: of the load that all tips carry, 0 to 1. */
  shareOf(stilt: Stilt): number
  /** Worth of the skin that it touches, where that was asked for. */
  worthOf(stilt: Stilt): SelectRule['worth'] | undefined
  /** Whether it stands at the finding that is meant. */
  isNear(stilt: Stilt): boolean
}

/** The stilts that a rule means. */
export function stiltsByRule(stilts: readonly Stilt[], rule: SelectRule, facts: RuleFacts): Stilt[] {
  const within = (v: number, range: readonly [number | null, number | null] | undefined): boolean => !range || (v >= (range[0] ?? -Infinity) - 1e-6 && v <= (range[1] ?? Infinity) + 1e-6)
  const fits = (s: Stilt): boolean =>
    (rule.gauge === undefined || s.gauge === rule.gauge) && (rule.role === undefined || facts.roleOf(s) === rule.role) && (rule.foot === undefined || (s.alone < s.nodes.length ? 'stilt' : s.foot) === rule.foot) &&
    (rule.worth === undefined || facts.worthOf(s) === rule.worth) && (!rule.nearChosen || facts.isNear(s)) &&
    within(s.sizes.tipDiameterMm, rule.tipMm) && within(s.path[0][2], rule.heightMm) && within(shaftOf(s.path).leanDeg, rule.leanDeg) && within(100 * facts.shareOf(s), rule.sharePercent)
  return stilts.filter(s => fits(s) !== rule.everythingBut)
}
