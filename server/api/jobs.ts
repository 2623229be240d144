import { randomUUID } from 'node:crypto'
import { closeSync, existsSync, fstatSync, openSync, readFileSync, readSync, rmSync } from 'node:fs'
import { open } from 'node:fs/promises'
import { join } from 'node:path'
import express, { Router, type Request } from 'express'
import { DEFAULT_PRINTER, EditBatchSchema, BATCH_LIMIT_BYTES, JobNameSchema, type Job } from '@oak-stilts/core/contract'
import { meshFileLength, MESH_HEADER_BYTES, STL_LIMIT_BYTES } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { runImport } from '../import/run-import'
import { BlobStore } from '../store/blobs'
import { BatchReused, StaleRevision, type JobStore } from '../store/jobs'
import { notFound, ProblemError } from './problem'

const PICTURE_LIMIT = '4mb'

/** Where jobs and meshes are kept. */
export interface Stores {
  readonly jobs: JobStore
  readonly blobs: BlobStore
  /** A folder for uploads under way. */
  readonly uploads: string
}

/** Brings in a file that lies on disk: mesh prepared and stored, job created. Gives its id. */
export async function importFile(stores: Stores, path: string, name: string, pose?: Pose, signal?: AbortSignal): Promise<string> {
  const made = join(stores.uploads, randomUUID())
  const meshPath = `${made}.mesh`, picturePath = `${made}.png`
  try {
    const answer = await runImport({ kind: 'read', path, pose: pose ?? DEFAULT_POSE, pixelMm: DEFAULT_PRINTER.pixelMm, meshPath, picturePath }, { signal })
    if (!answer.ok) throw new ProblemError(answer.code === 'disk-full' ? 507 : 422, answer.code, 'Not a usable model', answer.sentence)
    const { mesh } = answer
    if (!mesh) throw new Error('The import answered another question.')
    const picture = BlobStore.hashOf(readFileSync(picturePath))
    // from here to the end nothing is collected in between: what is stored and not yet referred to stays
    return await stores.jobs.exclusively(async () => {
      stores.blobs.adopt(mesh.hash, 'mesh', meshPath)
      stores.blobs.adopt(picture, 'png', picturePath)
      return stores.jobs.create({ name, meshHash: mesh.hash, mesh: mesh.summary, pose, picture })
    })
  } finally {
    rmSync(meshPath, { force: true })
    rmSync(picturePath, { force: true })
  }
}

/** Routes under /api/jobs. */
export function jobRoutes(stores: Stores): Router {
  const { jobs, blobs } = stores
  const router = Router()
  const job = async (request: Request): Promise<Job> => {
    const found = await jobs.get(String(request.params.id))
    if (!found) throw notFound()
    return found
  }

  router.get('/', async (_request, response) => {
    response.json(await jobs.list())
  })

  /** What deleted jobs and replaced pictures leave behind. */
  const collect = (): Promise<void> => jobs.exclusively(async () => void blobs.collect(await jobs.usedBlobs()))

  router.post('/', async (request, response) => {
    const gone = new AbortController()
    response.once('close', () => {
      if (!response.writableFinished) gone.abort()
    })
    const name = JobNameSchema.safeParse(typeof request.query.name === 'string' ? request.query.name.replace(/\.stl$/i, '') : '')
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The job needs a name of 1 to 120 letters.')
    const path = join(stores.uploads, `${randomUUID()}.stl`)
    try {
      await receive(request, path)
      const id = await importFile(stores, path, name.data, undefined, gone.signal)
      response.status(201).location(`/api/jobs/${id}`).json(await jobs.get(id))
    } finally {
      rmSync(path, { force: true })
    }
  })

  router.get('/:id', async (request, response) => {
    response.json(await job(request))
  })

  router.delete('/:id', async (request, response) => {
    if (!(await jobs.remove(String(request.params.id)))) throw notFound()
    await collect()
    response.status(204).end()
  })

  router.post('/:id/copy', express.json(), async (request, response) => {
    const name = JobNameSchema.safeParse((request.body as { name?: unknown } | undefined)?.name)
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
      if (error instanceof BatchReused) throw new ProblemError(409, 'batch-reused', 'Already used', error.message)
      throw error
    }
  })

  router.get('/:id/mesh', async (request, response) => {
    const { meshHash } = await job(request)
    if (!isWholeMesh(blobs.pathOf(meshHash, 'mesh'))) throw new ProblemError(404, 'mesh-missing', 'Not found', 'The model of this job is missing from the data folder, or damaged there. Bring the same file in again; this job then has it, too.')
    response.set('Cache-Control', 'private, max-age=31536000, immutable').set('ETag', `"${meshHash}"`).type('application/octet-stream')
    response.sendFile(blobs.pathOf(meshHash, 'mesh'), { dotfiles: 'allow' })
  })

  router.get('/:id/picture', async (request, response) => {
    const hash = await jobs.pictureOf(String(request.params.id))
    if (!hash || !blobs.has(hash, 'png')) throw notFound()
    response.type('image/png').set('Cache-Control', 'no-cache').sendFile(blobs.pathOf(hash, 'png'), { dotfiles: 'allow' })
  })

  router.put('/:id/picture', express.raw({ type: 'image/png', limit: PICTURE_LIMIT }), async (request, response) => {
    const bytes = request.body as unknown
    if (!Buffer.isBuffer(bytes) || bytes.length < 8 || bytes.readUInt32BE(0) !== 0x89504e47) throw new ProblemError(400, 'not-png', 'Bad request', 'The picture is not a PNG.')
    await job(request)
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
