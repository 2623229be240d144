import { randomUUID } from 'node:crypto'
import { closeSync, existsSync, fstatSync, openSync, readFileSync, readSync, rmSync } from 'node:fs'
import { copyFile, open } from 'node:fs/promises'
import { join } from 'node:path'
import express, { Router, type Request, type Response } from 'express'
import { DEFAULT_PRINTER, EditBatchSchema, BATCH_LIMIT_BYTES, HashSchema, NameSchema, pixelMmOf, type BroughtIn } from '@oak-stilts/core/contract'
import { meshFileLength, MESH_HEADER_BYTES, STL_LIMIT_BYTES } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { runImport } from '../import/run-import'
import { BlobStore } from '../store/blobs'
import { RowsRefused } from '../store/check-rows'
import { BatchReused, StaleRevision, type JobStore } from '../store/jobs'
import type { KitStore } from '../store/kit'
import { notFound, ProblemError } from './problem'

const PICTURE_LIMIT = '4mb'

/** Where jobs and meshes are kept. */
export interface Stores {
  readonly jobs: JobStore
  readonly kit: KitStore
  readonly blobs: BlobStore
  /** A folder for uploads under way. */
  readonly uploads: string
}

/** A file that lies on disk and is to be brought in. It is taken over, or copied where `keep` is set. */
export interface FileToImport {
  readonly path: string
  /** As the person knows it. */
  readonly fileName: string
  readonly name: string
  readonly keep?: boolean
  /** Decided here and not by what is found in the file. */
  readonly pose?: Pose
}

/** Prepares and stores the mesh of a file, and the file itself; then `use` refers to them, before anything is collected. */
async function bringIn<T>(stores: Stores, file: FileToImport, signal: AbortSignal | undefined, use: (part: BroughtIn, picture: string) => Promise<T>): Promise<T> {
  const made = join(stores.uploads, randomUUID())
  const meshPath = `${made}.mesh`, picturePath = `${made}.png`, copyPath = `${made}.stl`
  try {
    const answer = await runImport({ kind: 'read', path: file.path, pose: file.pose ?? DEFAULT_POSE, pixelMm: pixelMmOf(DEFAULT_PRINTER), meshPath, picturePath }, { signal })
    if (!answer.ok) throw new ProblemError(answer.code === 'disk-full' ? 507 : 422, answer.code, 'Not a usable model', answer.sentence)
    const { source } = answer
    if (!source?.fileHash) throw new Error('The import answered another question.')
    const picture = BlobStore.hashOf(readFileSync(picturePath))
    const path = file.keep ? copyPath : file.path
    if (file.keep) await copyFile(file.path, copyPath)
    await syncFile(path)
    // what was made to stand is asked about; everything else is lifted at once
    const { tiltXDeg, tiltYDeg, liftMm } = file.pose ?? (source.summary.looksStanding ? { ...DEFAULT_POSE, liftMm: 0 } : DEFAULT_POSE)
    const part: BroughtIn = { name: file.name, source: { ...source, fileName: file.fileName }, pose: { tiltXDeg, tiltYDeg, liftMm }, poseSettled: !!file.pose || !source.summary.looksStanding }
    // from here to the end nothing is collected in between: what is stored and not yet referred to stays
    return await stores.jobs.exclusively(async () => {
      stores.blobs.adopt(source.meshHash, 'mesh', meshPath)
      stores.blobs.adopt(source.fileHash as string, 'stl', path)
      stores.blobs.adopt(picture, 'png', picturePath)
      return use(part, picture)
    })
  } finally {
    for (const path of [meshPath, picturePath, copyPath]) rmSync(path, { force: true })
  }
}

/** Brings a file in as a new job of one part. Gives its id. */
export function importJob(stores: Stores, file: FileToImport, signal?: AbortSignal): Promise<string> {
  return bringIn(stores, file, signal, (part, picture) => stores.jobs.create({ name: file.name, part, turnDeg: file.pose?.turnDeg ?? 0, picture }))
}

async function syncFile(path: string): Promise<void> {
  const file = await open(path, 'r+')
  try {
    await file.sync()
  } finally {
    await file.close()
  }
}

/** Routes under /api/jobs. */
export function jobRoutes(stores: Stores): Router {
  const { jobs, blobs } = stores
  const router = Router()
  router.get('/', async (_request, response) => {
    response.json(await jobs.list())
  })

  /** What deleted jobs and replaced pictures leave behind. */
  const collect = (): Promise<void> => jobs.exclusively(async () => void blobs.collect(await jobs.usedBlobs()))

  /** Takes a file in and hands it on; everything ends where the person goes away. */
  const receiveModel = async (request: Request, response: Response, take: (file: FileToImport, signal: AbortSignal) => Promise<void>): Promise<void> => {
    const gone = new AbortController()
    response.once('close', () => {
      if (!response.writableFinished) gone.abort()
    })
    const asked = typeof request.query.name === 'string' ? request.query.name : ''
    const name = NameSchema.safeParse(asked.replace(/\.stl$/i, ''))
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The model needs a name of 1 to 120 letters.')
    const path = join(stores.uploads, `${randomUUID()}.stl`)
    try {
      await receive(request, path)
      await take({ path, name: name.data, fileName: `${name.data}.stl` }, gone.signal)
    } finally {
      rmSync(path, { force: true })
    }
  }

  router.post('/', (request, response) => receiveModel(request, response, async (file, signal) => {
    const id = await importJob(stores, file, signal)
    response.status(201).location(`/api/jobs/${id}`).json(await jobs.get(id))
  }))

  router.post('/:id/parts', (request, response) => receiveModel(request, response, async (file, signal) => {
    const part = await bringIn(stores, file, signal, async part => ((await jobs.addSource(String(request.params.id), part)) ? part : null))
    if (!part) throw notFound()
    response.status(201).json(part)
  }))

  router.get('/:id', async (request, response) => {
    const job = await jobs.get(String(request.params.id))
    if (!job) throw notFound()
    response.json(job)
  })

  router.get('/:id/history', async (request, response) => {
    const history = await jobs.history(String(request.params.id))
    if (!history) throw notFound()
    response.json(history)
  })

  router.delete('/:id', async (request, response) => {
    if (!(await jobs.remove(String(request.params.id)))) throw notFound()
    await collect()
    response.status(204).end()
  })

  router.post('/:id/copy', express.json(), async (request, response) => {
    const name = NameSchema.safeParse((request.body as { name?: unknown } | undefined)?.name)
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The copy needs a name of 1 to 120 letters.')
    const id = await jobs.copy(String(request.params.id), name.data)
    if (!id) throw notFound()
    response.status(201).location(`/api/jobs/${id}`).json(await jobs.get(id))
  })

  router.post('/:id/edits', express.json({ limit: BATCH_LIMIT_BYTES }), async (request, response) => {
    const batch = EditBatchSchema.safeParse(request.body)
    if (!batch.success) throw new ProblemError(400, 'bad-edit', 'Bad request', `The change does not have the expected form: ${batch.error.issues[0].path.join('.')} ${batch.error.issues[0].message}.`)
    try {
      const revision = await jobs.edit(String(request.params.id), batch.data)
      if (revision === null) throw notFound()
      response.json({ revision })
    } catch (error) {
      if (error instanceof StaleRevision) throw new ProblemError(409, 'stale', 'Changed elsewhere', `${error.message} Keep your state as a copy, or load the other one.`)
      if (error instanceof RowsRefused) throw new ProblemError(400, 'bad-edit', 'Bad request', error.message)
      if (error instanceof BatchReused) throw new ProblemError(409, 'batch-reused', 'Already used', error.message)
      throw error
    }
  })

  router.get('/:id/picture', async (request, response) => {
    const hash = await jobs.pictureOf(String(request.params.id))
    if (!hash || !blobs.has(hash, 'png')) throw notFound()
    response.type('image/png').set('Cache-Control', 'no-cache').sendFile(blobs.pathOf(hash, 'png'), { dotfiles: 'allow' })
  })

  router.put('/:id/picture', express.raw({ type: 'image/png', limit: PICTURE_LIMIT }), async (request, response) => {
    const bytes = request.body as unknown
    if (!Buffer.isBuffer(bytes) || bytes.length < 8 || bytes.readUInt32BE(0) !== 0x89504e47) throw new ProblemError(400, 'not-png', 'Bad request', 'The picture is not a PNG.')
    if (!(await jobs.has(String(request.params.id)))) throw notFound()
    const hash = BlobStore.hashOf(bytes)
    await jobs.exclusively(async () => {
      blobs.put(hash, 'png', bytes)
      await jobs.setPicture(String(request.params.id), hash)
    })
    await collect()
    response.status(204).end()
  })
  return router
}

/** Routes under /api/meshes: what is stored under a hash never changes. */
export function meshRoutes({ blobs }: Stores): Router {
  const router = Router()
  router.get('/:hash', (request, response) => {
    const hash = HashSchema.safeParse(request.params.hash)
    if (!hash.success || !isWholeMesh(blobs.pathOf(hash.data, 'mesh'))) throw new ProblemError(404, 'mesh-missing', 'Not found', 'The model of this part is missing from the data folder, or damaged there. Bring the same file in again; this job then has it, too.')
    response.set('Cache-Control', 'private, max-age=31536000, immutable').set('ETag', `"${hash.data}"`).type('application/octet-stream')
    response.sendFile(blobs.pathOf(hash.data, 'mesh'), { dotfiles: 'allow' })
  })
  return router
}

/** Whether a stored mesh is there in its full length. */
function isWholeMesh(path: string): boolean {
  if (!existsSync(path)) return false
  const file = openSync(path, 'r')
  try {
    const head = new Uint8Array(MESH_HEADER_BYTES)
    return readSync(file, head) === head.length && fstatSync(file).size === meshFileLength(head)
  } finally {
    closeSync(file)
  }
}

/** Streams an upload to disk, counting. */
async function receive(request: Request, path: string): Promise<void> {
  const announced = Number(request.headers['content-length'] ?? 0)
  const tooLarge = (): ProblemError => new ProblemError(413, 'too-large', 'Too large', 'This file has more than 500 MB. Reduce the number of triangles and export it again.')
  if (announced > STL_LIMIT_BYTES) {
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
      if (length > 2 * STL_LIMIT_BYTES) break
      if (!failed && length > STL_LIMIT_BYTES) failed = tooLarge()
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
