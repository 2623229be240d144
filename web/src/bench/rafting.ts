import { computed } from 'vue'
import type { Raft } from '@oak-stilts/core/contract'
import { feetOf, raftOf, raftSolid } from '@oak-stilts/core/raft'
import type { BenchContext } from './context'

/** What the stilts of the part on the bench stand on. */
export function createRafting({ store }: Pick<BenchContext, 'store'>) {
  /** As it counts: none where the part itself stands on the plate. */
  const raft = computed<Raft | null>(before => {
    const now = store.part && raftOf(store.part)
    return before && now && JSON.stringify(before) === JSON.stringify(now) ? before : now
  })
  const feet = computed(() => {
    // nodes change in place; the list of stilts tells when
    void store.stilts
    return store.job && store.part ? feetOf(store.plan().nodes.values(), store.part.id) : []
  })
  /** Its solid in the stand of the part; null for none. */
  const raftMesh = computed(() => (raft.value ? raftSolid(raft.value, feet.value) : null))

  /** Changes it. One step of undo. */
  function setRaft(change: Partial<Raft>, label = 'change the raft'): void {
    const { part } = store
    if (part) store.apply({ label, put: { parts: [{ ...part, raft: { ...part.raft, ...change } }] } })
  }
  return { raft, raftMesh, raftFeet: feet, setRaft }
}
