import { computed } from 'vue'
import { WORTHS, type SelectRule } from '@oak-stilts/core/contract'
import { auditTips, contactOf, stiltsByRule, strongerSizes, type Stilt } from '@oak-stilts/core/stilts'
import { evidence, type Finding } from '../findings'
import type { BenchContext } from './context'
import type { createEditing } from './editing'

/** The audit of tips, and stilts selected by a rule. */
export function createAuditing({ store, state, current, say }: BenchContext, editing: Pick<ReturnType<typeof createEditing>, 'resize'>) {
  /** All tips, lowest first. */
  const audited = computed(() => auditTips(store.stilts, s => state.roleOf(s), state.leastTipMm))
  const weakTips = computed(() => audited.value.filter(t => t.weak))

  function selectStilts(ids: readonly string[], sentence: string): void {
    state.selectedStilts = ids
    state.selectedFinding = null
    say(sentence)
  }
  function selectWeak(): void {
    selectStilts(weakTips.value.map(t => t.id), `${weakTips.value.length === 1 ? '1 tip is' : `${weakTips.value.length} tips are`} selected, lowest first in the list.`)
  }

  /** Makes tips that are too thin stronger: to the least size, or by a share of their own. What saves a detail is left alone. One step of undo. */
  async function strengthen(by: { readonly percent: number } | 'to the least'): Promise<void> {
    const weak = new Set(weakTips.value.map(t => t.id)), stilts = store.stilts.filter(s => weak.has(s.id))
    if (stilts.length === 0) return
    const sized = (s: Stilt): number => (by === 'to the least' ? state.leastTipMm : s.sizes.tipDiameterMm * (1 + by.percent / 100))
    await editing.resize(stilts, i => strongerSizes(stilts[i].sizes, sized(stilts[i])), stilts.length === 1 ? 'strengthen a tip' : `strengthen ${stilts.length} tips`, false)
    const left = weakTips.value.length, done = stilts.length === 1 ? '1 tip was looked at' : `${stilts.length} tips were looked at`
    say(left === 0 ? `${stilts.length === 1 ? '1 tip is' : `${stilts.length} tips are`} stronger now; none that carries or holds a region is under ${state.leastTipMm.toFixed(2)} mm.` : `${done}; ${left} ${left === 1 ? 'is' : 'are'} still under ${state.leastTipMm.toFixed(2)} mm.`)
  }

  function isNear(stilt: Stilt, f: Finding | null): boolean {
    const own = evidence(f, 'stilts')
    if (!f) return false
    if (own) return own.includes(stilt.id)
    const area = evidence(f, 'island')?.largestAreaMm2 ?? evidence(f, 'ledge')?.areaMm2 ?? 0, layerMm = state.result?.layerMm ?? 0
    const [x, y, z] = stilt.path[0], reach = Math.sqrt(area / Math.PI) + (store.job?.settings.tipHoldMm ?? 2)
    return Math.hypot(x - f.at[0], y - f.at[1]) <= reach && z >= f.layer * layerMm - 1 && z <= (f.lastLayer + 1) * layerMm + 1
  }

  /** The stilts that a rule means. */
  async function matching(rule: SelectRule): Promise<Stilt[]> {
    const worths = rule.worth === undefined ? null : new Map(await current().workers.surface.tipWorths())
    const contact = (s: Stilt): number => (s.foot === 'lost' ? 0 : contactOf(s.sizes).areaMm2), all = store.stilts.reduce((sum, s) => sum + contact(s), 0) || 1, { finding } = state
    return stiltsByRule(store.stilts, rule, { roleOf: s => state.roleOf(s), shareOf: s => contact(s) / all, worthOf: s => WORTHS[worths?.get(s.id) ?? 0], isNear: s => isNear(s, finding) })
  }
  /** Selects what a rule means; along with what is selected already where that is asked for. */
  async function selectByRule(rule: SelectRule, more: boolean): Promise<void> {
    const found = (await matching(rule)).map(s => s.id), ids = more ? [...new Set([...state.selectedStilts, ...found])] : found
    selectStilts(ids, ids.length === 0 ? 'No stilt is meant by that.' : ids.length === 1 ? '1 stilt is selected.' : `${ids.length} stilts are selected.`)
  }

  return { audited, weakTips, selectStilts, selectWeak, strengthen, matching, selectByRule }
}
