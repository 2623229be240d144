import { randomUUID } from 'node:crypto'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { contentOf, type BroughtIn, type Job, type JobFile, type Part } from '@oak-stilts/core/contract'
import type { OpenedJob } from '../import/import-worker'
import { runImport } from '../import/run-import'
import { BlobStore } from '../store/blobs'
import { RowsRefused } from '../store/check-rows'
import { blobsOf } from '../store/jobs'
import { bringIn, type BringOptions, type FileToImport } from './bring-in'
import { ProblemError } from './problem'
import type { Stores } from './stores'

/** Brings in the whole job that a file holds, as a new one; gives its id, or null where the file holds none. */
export async function importWholeJob(stores: Stores, { path }: FileToImport, options: BringOptions): Promise<string | null> {
  const folder = join(stores.uploads, randomUUID())
  mkdirSync(folder)
  try {
    const answer = await runImport({ kind: 'open-job', path, folder }, options)
    if (!answer.ok) throw new ProblemError(answer.code === 'disk-full' ? 507 : 422, answer.code, 'Not a usable job', answer.sentence)
    return answer.opened ? await takeIn(stores, answer.opened, options) : null
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

async function takeIn(stores: Stores, { job, files, picturePath }: OpenedJob, options: BringOptions): Promise<string> {
  const { jobs, blobs } = stores, found = new Map<string, BroughtIn[]>(), pins: (() => void)[] = []
  try {
    let drawn: string | null = null
    for (const { hash, path } of files) {
      const fileName = job.parts.find(p => p.source.fileHash === hash)?.source.fileName ?? ''
      found.set(hash, await bringIn(stores, { path, fileName, name: job.name }, options, async (parts, picture) => {
        pins.push(jobs.pin([...parts.flatMap(({ part }) => blobsOf(part.source)), `${picture}.png`]))
        drawn ??= picture
        return parts
      }))
    }
    const parts = job.parts.map(part => withSource(part, found.get(part.source.fileHash ?? '') ?? []))
    return await jobs.exclusively(async () => {
      let picture = drawn
      if (picturePath) {
        const bytes = readFileSync(picturePath)
        picture = BlobStore.hashOf(bytes)
        blobs.put(picture, 'png', bytes)
      }
      return jobs.createOf(contentOf(asJob({ ...job, parts })), picture)
    })
  } catch (error) {
    if (error instanceof RowsRefused) throw new ProblemError(422, 'damaged', 'Not a usable job', `This job does not hang together and was not brought in: ${error.message}`)
    throw error
  } finally {
    for (const unpin of pins) unpin()
  }
}

/** A part with what was made of its file anew. */
function withSource(part: Part, found: readonly BroughtIn[]): Part {
  const source = found[part.source.object]?.part.source
  if (!source) throw new ProblemError(422, 'damaged', 'Not a usable job', `The part “${part.name}” is not in the file that it comes from. Export the job again.`)
  return { ...part, source: { ...source, fileName: part.source.fileName, statedUnitMm: part.source.statedUnitMm, notes: part.source.notes } }
}

function asJob(file: JobFile): Job {
  return { ...file, id: '', revision: 0, batches: [] }
}

/** Writes a job as one file, to be sent and then removed. @returns its path */
export async function exportWholeJob({ jobs, blobs, uploads }: Stores, job: Job): Promise<string> {
  const outPath = join(uploads, `${randomUUID()}.3mf`), meshes: Record<string, string> = {}, files: Record<string, string> = {}
  // what the file is made of stays until it is written: a new picture may come, or the job go, meanwhile
  const { picture, unpin } = await jobs.exclusively(async () => {
    const found = await jobs.pictureOf(job.id)
    return { picture: found, unpin: jobs.pin([...job.parts.flatMap(p => blobsOf(p.source)), ...(found ? [`${found}.png`] : [])]) }
  })
  try {
    for (const { name, source } of job.parts) {
      for (const hash of [source.meshHash, source.plainHash]) if (hash) meshes[hash] = blobs.pathOf(hash, 'mesh')
      if (source.fileHash === null) continue
      const kind = blobs.has(source.fileHash, 'file') ? 'file' : 'stl'
      if (!blobs.has(source.fileHash, kind)) throw new ProblemError(404, 'file-missing', 'Not found', `The file that “${name}” comes from is missing from the data folder. Bring the same file in again; this job then has it, too.`)
      files[source.fileHash] = blobs.pathOf(source.fileHash, kind)
    }
    const answer = await runImport({ kind: 'write-job', job, meshes, files, picturePath: picture && blobs.has(picture, 'png') ? blobs.pathOf(picture, 'png') : null, outPath })
    if (answer.ok) return outPath
    throw new ProblemError(answer.code === 'disk-full' ? 507 : 422, answer.code, 'Not written', answer.sentence)
  } catch (error) {
    rmSync(outPath, { force: true })
    throw error
  } finally {
    unpin()
  }
}
