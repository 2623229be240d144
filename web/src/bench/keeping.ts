import { applyEdit, type Job, type JobContent } from '@oak-stilts/core/contract'
import { api } from '../api/client'
import type { BenchContext } from './context'

/** What becomes of changes that cannot be saved where they were made. Each gives the job to go on with; the old one is left as it is. */
export function createKeeping({ store, current }: BenchContext) {
  /** Gives a new job a content; one that cannot take all of it does not stay. */
  async function filled(target: Job, content: JobContent): Promise<Job> {
    try {
      await store.copyInto(target, content)
      return target
    } catch (error) {
      await api.remove(target.id).catch(() => undefined)
      throw error
    }
  }

  /** A copy of the job as it is on the server, with everything as it is here. */
  async function keepAsCopy(): Promise<Job> {
    const { job: mine } = current()
    const copy = await filled(await api.copy(mine.id, copyName(mine.name)), mine)
    await store.abandon()
    return copy
  }

  /** A new job from the model on this page, with everything as it is here: the old one is gone. */
  async function keepAsNew(): Promise<Job> {
    const { job: mine, workers } = current()
    const bytes = await workers.place.exportSource(mine.name)
    const fresh = await api.upload(new File([bytes as BlobPart], `${mine.name}.stl`), () => undefined)
    await filled(fresh, mine)
    await store.abandon()
    return fresh
  }

  /** A copy of the job as it is now, with the changes of earlier visits on top, which were made to another state of it. */
  async function keepApartAsCopy(): Promise<Job> {
    const { job } = current()
    let content: JobContent = job
    for (const visit of store.apart) for (const { edit } of visit.edits) content = applyEdit(content, edit)
    const copy = await filled(await api.copy(job.id, copyName(job.name)), content)
    await store.forgetApart()
    return copy
  }

  return { keepAsCopy, keepAsNew, keepApartAsCopy }
}

function copyName(name: string): string {
  return `${name.slice(0, 110)} (copy)`
}
