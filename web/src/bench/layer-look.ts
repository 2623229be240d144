import { watchDebounced } from '@vueuse/core'
import { shallowRef, watch, type ShallowRef } from 'vue'
import type { LayerProof } from '@oak-stilts/core/proof'
import type { BenchContext } from './context'

/** A layer is looked into when it has been in view for so long, ms. */
const CALM_MS = 150

/**
 * Looks into one layer of the part on the bench whenever that, or what stands under the part, becomes another: what it pulls, what carries
 * that, and what changed before. Null while that is not known.
 * @param layer null where none is to be looked into
 */
export function watchLayer({ store, state, scanVersion, workers, stand }: BenchContext, layer: () => number | null): Readonly<ShallowRef<LayerProof | null>> {
  const looked = shallowRef<LayerProof | null>(null)
  let asked = 0
  const of = [() => store.part?.id, scanVersion, () => store.stilts, () => store.job?.resin] as const, all = [...of, layer, () => state.scanState] as const
  // what was told of other stilts is not told of these; another layer says itself which it is
  watch(of, () => (looked.value = null), { flush: 'sync' })
  watch(all, () => asked++, { flush: 'sync' })
  watchDebounced(all, async () => {
    const { part, job } = store, k = layer(), to = workers.value, ticket = asked
    if (k === null || !part || !job || !to || !stand.value || state.scanState !== 'fresh') return
    const found = await to.scan.lookAt(k, part.id, stand.value, job.resin).catch(() => null)
    if (ticket === asked) looked.value = found
  }, { debounce: CALM_MS, immediate: true })
  return looked
}
