import { shallowRef, watch } from 'vue'
import { changeTo, tablesOf, type Version } from '@oak-stilts/core/contract'
import { api } from '../api/client'
import type { BenchContext } from './context'

/** Named states of the job, kept on the server, to go back to. Going back is one step of undo. */
export function createVersions({ store, say }: BenchContext) {
  /** Newest first; null while they are not known. */
  const versions = shallowRef<readonly Version[] | null>(null)
  watch(() => store.job?.id, () => (versions.value = null))

  async function tried(work: (job: string) => Promise<void>): Promise<void> {
    const { job } = store
    if (!job) return
    try {
      await work(job.id)
    } catch (error) {
      say((error as Error).message)
    }
  }
  function loadVersions(): Promise<void> {
    return tried(async job => {
      const found = await api.versions(job)
      if (store.job?.id === job) versions.value = found
    })
  }
  /** Keeps the job as it is now, once all of it has reached the server. */
  function keepVersion(name: string): Promise<void> {
    return tried(async job => {
      await store.flush()
      const kept = await api.keepVersion(job, name.trim())
      if (store.job?.id === job) versions.value = [kept, ...(versions.value ?? [])]
      say(`Kept as “${kept.name}”.`)
    })
  }
  /** Makes the job what it was then, but for its name. */
  function goBack({ id, name }: Version): Promise<void> {
    return tried(async job => {
      const content = await api.version(job, id)
      if (store.job?.id !== job) return
      const { printer, resin, layerMm, settings, printing } = content
      store.apply(changeTo(store.snapshot(), { fields: { name: content.name, printer, resin, layerMm, settings, printing }, tables: tablesOf(content) }, `go back to “${name.slice(0, 80)}”`))
      say(`Back at “${name}”. Undo returns to what was before.`)
    })
  }
  function dropVersion({ id, name }: Version): Promise<void> {
    return tried(async job => {
      await api.dropVersion(job, id)
      versions.value = versions.value?.filter(v => v.id !== id) ?? null
      say(`“${name}” was deleted.`)
    })
  }

  return { versions, loadVersions, keepVersion, goBack, dropVersion }
}
