import { applyChange, type Job, type JobContent, type Part } from '@oak-stilts/core/contract'
import { runsOnMesh } from '@oak-stilts/core/marks'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { api } from '../api/client'
import { upgradedEdits } from '../api/older-edits'
import type { BenchContext } from './context'

/** What becomes of changes that cannot be saved where they were made. Each gives the job to go on with; the old one is left as it is. */
export function createKeeping({ store, current, sourceOf }: BenchContext) {
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
    const mine = store.snapshot(), { job } = current()
    const copy = await filled(await api.copy(job.id, copyName(mine.fields.name)), mine)
    await store.abandon()
    return copy
  }

  /** A new job from the models on this page, with everything as it is here: the old one is gone. */
  async function keepAsNew(): Promise<Job> {
    const mine = store.snapshot(), { workers } = current(), parts = [...mine.tables.parts.values()]
    const fileOf = async (part: Part, name: string): Promise<File> => new File([(await workers.surface.exportSource(name, await sourceOf(part))) as BlobPart], `${name}.stl`)
    const [first, ...others] = parts
    const fresh = await api.upload(await fileOf(first, mine.fields.name), {})
    try {
      // what was prepared once is prepared again; should that ever make another mesh, the part goes by it
      const sources = [fresh.parts[0].source]
      for (const part of others) sources.push((await api.addParts(fresh.id, await fileOf(part, part.name), {}))[0].part.source)
      parts.forEach((part, i) => {
        const { statedUnitMm, notes } = part.source
        mine.tables.parts.set(part.id, { ...part, source: { ...sources[i], statedUnitMm, notes } })
      })
      // marks and spreads name triangles of the file, and the file is what the mesh was
      for (const part of parts) {
        const { from } = decodeMesh(await sourceOf(part))
        for (const m of mine.tables.marks.values()) if (m.part === part.id) mine.tables.marks.set(m.id, { ...m, runs: runsOnMesh(m.runs, from) })
        for (const s of mine.tables.spreads.values()) if (s.part === part.id && s.way.kind === 'face') mine.tables.spreads.set(s.id, { ...s, way: { ...s.way, runs: runsOnMesh(s.way.runs, from) } })
      }
      await store.copyInto(fresh, mine)
    } catch (error) {
      await api.remove(fresh.id).catch(() => undefined)
      throw error
    }
    await store.abandon()
    return fresh
  }

  /** A copy of the job as it is now, with the changes of earlier visits on top, which were made to another state of it. */
  async function keepApartAsCopy(): Promise<Job> {
    const { job } = current(), content = store.snapshot()
    for (const visit of store.apart) for (const { edit } of upgradedEdits(visit.edits, content).edits) applyChange(content, edit)
    const copy = await filled(await api.copy(job.id, copyName(job.name)), content)
    await store.forgetApart()
    return copy
  }

  return { keepAsCopy, keepAsNew, keepApartAsCopy }
}

function copyName(name: string): string {
  return `${name.slice(0, 110)} (copy)`
}
