import { computed, shallowRef, watch } from 'vue'
import { evidence, OPEN_ONLY } from '../findings'
import { triangleArea } from '@oak-stilts/core/mesh'
import type { PlanAim } from '@oak-stilts/core/plan'
import type { BenchContext } from './context'

/** Stands for faces that are picked, beside the codes of worths. */
export const PICKED = 4

/** What the next plan is for where a person picked it: findings of the list, or faces of the part. */
export function createAiming({ state, model, say }: Pick<BenchContext, 'state' | 'model' | 'say'>) {
  /** Faces of the part's mesh. */
  const picked = shallowRef<ReadonlySet<number>>(new Set())
  const pickedMm2 = computed(() => {
    const mesh = model.value?.mesh
    return mesh ? [...picked.value].reduce((sum, f) => sum + triangleArea(mesh, f), 0) : 0
  })
  /** Findings that were chosen and hang still. */
  const chosen = computed(() => {
    const keys = new Set(state.chosenFindings)
    return keys.size === 0 ? [] : state.worklist.findings.filter(f => keys.has(f.key) && OPEN_ONLY.includes(f.state) && (f.kind === 'island' || f.kind === 'ledge'))
  })
  const aim = computed<PlanAim | null>(() => {
    if (picked.value.size > 0) return { faces: Uint32Array.from(picked.value) }
    if (chosen.value.length === 0) return null
    const island = chosen.value.flatMap(f => evidence(f, 'island') ?? []), ledge = chosen.value.flatMap(f => evidence(f, 'ledge') ?? [])
    return { islands: island.map(({ id }) => ({ id })), ledges: ledge.map(({ firstLayer, lastLayer, at, reachMm, areaMm2 }) => ({ firstLayer, lastLayer, at: [at[0], at[1], at[2]], reachMm, areaMm2 })) }
  })
  /** What it is for, in words; empty where nothing was picked. */
  const aimed = computed(() => (picked.value.size > 0 ? `${pickedMm2.value.toFixed(pickedMm2.value < 10 ? 1 : 0)} mm² of skin` : chosen.value.length > 0 ? `${chosen.value.length} chosen` : ''))

  /** Takes faces in; where all of them are in, leaves them out again. */
  function pick(faces: ArrayLike<number>): void {
    const list = Array.from(faces), all = list.every(f => picked.value.has(f))
    if (list.length === 0) return
    const now = new Set(picked.value)
    for (const f of list) if (all) now.delete(f)
    else now.add(f)
    picked.value = now
    state.chosenFindings = []
    say(now.size > 0 ? `${aimed.value} picked. The next plan is only for what hangs over it.` : 'Nothing is picked.')
  }
  /** Takes a finding to those that the next plan is for, or leaves it out again. */
  function choose(key: string): void {
    const f = state.worklist.findings.find(o => o.key === key)
    if (!f || (f.kind !== 'island' && f.kind !== 'ledge')) return say('A plan can be for islands and ledges only.')
    if (!OPEN_ONLY.includes(f.state)) return say('It does not hang; there is nothing to plan.')
    state.chosenFindings = state.chosenFindings.includes(key) ? state.chosenFindings.filter(k => k !== key) : [...state.chosenFindings, key]
    picked.value = new Set()
  }
  function noAim(): void {
    if (picked.value.size > 0) picked.value = new Set()
    state.chosenFindings = []
  }
  // faces of another mesh are others
  watch(model, (now, before) => {
    if (now?.mesh !== before?.mesh) noAim()
  })
  return { pickedFaces: picked, aim, aimed, pickFaces: pick, chooseFinding: choose, noAim }
}
