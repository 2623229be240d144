import { randomUUID } from 'node:crypto'
import { readFileSync, rmSync } from 'node:fs'
import { copyFile, open } from 'node:fs/promises'
import { join } from 'node:path'
import type { Request } from 'express'
import { AS_MADE, DEFAULT_PRINTER, NameSchema, NO_RAFT, pixelMmOf, type BringingIn, type BroughtIn, type Mark } from '@oak-stilts/core/contract'
import { FILE_LIMIT_BYTES, MODEL_FORMATS } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { runImport } from '../import/run-import'
import { BlobStore } from '../store/blobs'
import type { NewJob } from '../store/jobs'
import { ProblemError } from './problem'
import type { Stores } from './stores'

/** A file that lies on disk and is to be brought in. It is taken over, or copied where `keep` is set. */
export interface FileToImport {
  readonly path: string
  /** As the person knows it. */
  readonly fileName: string
  readonly name: string
  readonly keep?: boolean
  /** Decided here and not by what is found in the file. */
  readonly pose?: Pose
  /** Face marks of its first part. */
  readonly marks?: readonly Pick<Mark, 'worth' | 'runs'>[]
  /** Stilts of its first part, whatever part their rows name. */
  readonly plan?: NewJob['plan']
}

export interface BringOptions {
  readonly signal?: AbortSignal
  readonly progress?: (progress: BringingIn) => void
}

const ENDING = new RegExp(`\\.(${MODEL_FORMATS.join('|')})$`, 'i')
/** The name of a model by that of its file. */
export function modelName(fileName: string): string {
  return fileName.replace(ENDING, '')
}

/** Prepares and stores what a file holds, and the file itself; then `use` refers to them, before anything is collected. */
export async function bringIn<T>(stores: Stores, file: FileToImport, { signal, progress }: BringOptions, use: (parts: BroughtIn[], picture: string) => Promise<T>): Promise<T> {
  const made = join(stores.uploads, randomUUID())
  const meshPaths = `${made}.mesh`, picturePath = `${made}.png`, copyPath = `${made}.file`
  let count = 0
  try {
    const answer = await runImport({ kind: 'read', path: file.path, pose: file.pose ?? DEFAULT_POSE, pixelMm: pixelMmOf(DEFAULT_PRINTER), meshPaths, picturePath }, { signal, progress })
    if (!answer.ok) throw new ProblemError(answer.code === 'disk-full' ? 507 : 422, answer.code, 'Not a usable model', answer.sentence)
    const { objects } = answer
    count = objects.length
    progress?.({ stage: 'storing', share: 1 })
    const picture = BlobStore.hashOf(readFileSync(picturePath))
    const path = file.keep ? copyPath : file.path
    if (file.keep) await copyFile(file.path, copyPath)
    await syncFile(path)
    const parts = objects.map(({ name, source, places }): BroughtIn => {
      // what was made to stand is asked about; everything else is lifted at once
      const { tiltXDeg, tiltYDeg, liftMm } = file.pose ?? (source.summary.looksStanding ? { ...DEFAULT_POSE, liftMm: 0 } : DEFAULT_POSE)
      const own = objects.length > 1 ? NameSchema.safeParse(name) : null
      return { part: { name: own?.success ? own.data : file.name, source: { ...source, fileName: file.fileName }, recipe: AS_MADE, sizeSettled: false, pose: { tiltXDeg, tiltYDeg, liftMm }, raft: NO_RAFT, plannedBy: null, poseSettled: !!file.pose || !source.summary.looksStanding }, places: [...places] }
    })
    // from here to the end nothing is collected in between: what is stored and not yet referred to stays
    return await stores.jobs.exclusively(async () => {
      objects.forEach(({ source }, i) => {
        stores.blobs.adopt(source.meshHash, 'mesh', `${meshPaths}${i}`)
        if (source.plainHash) stores.blobs.adopt(source.plainHash, 'mesh', `${meshPaths}${i}.plain`)
        if (source.faultsHash) stores.blobs.adopt(source.faultsHash, 'faults', `${meshPaths}${i}.faults`)
      })
      stores.blobs.adopt(objects[0].source.fileHash as string, 'file', path)
      stores.blobs.adopt(picture, 'png', picturePath)
      return use(parts, picture)
    })
  } finally {
    for (const path of [picturePath, copyPath, ...Array.from({ length: Math.max(1, count) }, (_, i) => ['', '.plain', '.faults'].map(end => `${meshPaths}${i}${end}`)).flat()]) rmSync(path, { force: true })
  }
}

/** Brings a file in as a new job of the parts it holds. Gives its id. */
export function importJob(stores: Stores, file: FileToImport, options: BringOptions = {}): Promise<string> {
  return bringIn(stores, file, options, (parts, picture) => stores.jobs.create({ name: file.name, parts, turnDeg: file.pose?.turnDeg ?? 0, marks: file.marks ?? [], plan: file.plan, picture }))
}

async function syncFile(path: string): Promise<void> {
  const file = await open(path, 'r+')
  try {
    await file.sync()
  } finally {
    await file.close()
  }
}

/** Streams an upload to disk, counting. */
export async function receive(request: Request, path: string): Promise<void> {
  const announced = Number(request.headers['content-length'] ?? 0)
  const tooLarge = (): ProblemError => new ProblemError(413, 'too-large', 'Too large', `This file has more than ${FILE_LIMIT_BYTES / 1048576} MB. Reduce the number of triangles and export it again.`)
  if (announced > FILE_LIMIT_BYTES) {
    request.resume()
    throw tooLarge()
  }
  const file = await open(path, 'w')
  let length = 0
  let failed: unknown = null
  try {
    // after a failure the rest is still taken in, or the answer would never be read; but not without end
    for await (const chunk of request as AsyncIterable<Buffer>) {
      length += chunk.length
      if (length > 2 * FILE_LIMIT_BYTES) break
      if (!failed && length > FILE_LIMIT_BYTES) failed = tooLarge()
      if (failed) continue
      try {
        for (let at = 0; at < chunk.length;) at += (await file.write(chunk, at)).bytesWritten
      } catch (error) {
        failed = error
      }
    }
  } finally {
    await file.close()
  }
  if (failed) throw failed
}
