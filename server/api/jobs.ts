import { randomUUID } from 'node:crypto'
import { createWriteStream, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createHash } from 'node:crypto'
import express, { Router, type Request } from 'express'
import { DEFAULT_PRINTER, EditBatchSchema, JobNameSchema, type Job } from '@oak-stilts/core/contract'
import { STL_LIMIT_BYTES } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { runImport } from '../import/run-import'
import { BlobStore } from '../store/blobs'
import { StaleRevision, type JobStore } from '../store/jobs'
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
export async function importFile(stores: Stores, path: string, hash: string, name: string, pose?: Pose): Promise<string> {
  const answer = await runImport({ kind: 'read', path, pose: pose ?? DEFAULT_POSE, pixelMm: DEFAULT_PRINTER.pixelMm })
  if (!answer.ok) throw new ProblemError(422, answer.code, 'Not a usable model', answer.sentence)
  if (!('mesh' in answer)) throw new Error('The import worker answered another question.')
  stores.blobs.put(hash, 'mesh', answer.mesh)
  const picture = BlobStore.hashOf(answer.picture)
  stores.blobs.put(picture, 'png', answer.picture)
  const id = await stores.jobs.create({ name, meshHash: hash, mesh: answer.summary, pose })
  await stores.jobs.setPicture(id, picture)
  return id
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

  router.post('/', async (request, response) => {
    const name = JobNameSchema.safeParse(typeof request.query.name === 'string' ? request.query.name.replace(/\.stl$/i, '') : '')
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The job needs a name of 1 to 120 letters.')
    mkdirSync(stores.uploads, { recursive: true })
    const path = join(stores.uploads, `${randomUUID()}.stl`)
    try {
      const hash = await receive(request, path)
      const id = await importFile(stores, path, hash, name.data)
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
    response.status(204).end()
  })

  router.post('/:id/copy', express.json(), async (request, response) => {
    const name = JobNameSchema.safeParse((request.body as { name?: unknown } | undefined)?.name)
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The copy needs a name of 1 to 120 letters.')
    const id = await jobs.copy(String(request.params.id), name.data)
    if (!id) throw notFound()
    response.status(201).location(`/api/jobs/${id}`).json(await jobs.get(id))
  })

  router.post('/:id/edits', express.json({ limit: '64mb' }), async (request, response) => {
    const batch = EditBatchSchema.safeParse(request.body)
    if (!batch.success) throw new ProblemError(400, 'bad-edit', 'Bad request', `The change does not have the expected form: ${batch.error.issues[0].path.join('.')} ${batch.error.issues[0].message}.`)
    try {
      const revision = await jobs.edit(String(request.params.id), batch.data)
      if (revision === null) throw notFound()
      response.json({ revision })
    } catch (error) {
      if (error instanceof StaleRevision) throw new ProblemError(409, 'stale', 'Changed elsewhere', `${error.message} Keep your state as a copy, or load the other one.`)
      throw error
    }
  })

  router.get('/:id/mesh', async (request, response) => {
    const { meshHash } = await job(request)
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
    blobs.put(hash, 'png', bytes)
    await jobs.setPicture(String(request.params.id), hash)
    response.status(204).end()
  })
  return router
}

/** Streams an upload to disk, counting; gives its hash. */
async function receive(request: Request, path: string): Promise<string> {
  const announced = Number(request.headers['content-length'] ?? 0)
  const tooLarge = (): ProblemError => new ProblemError(413, 'too-large', 'Too large', 'This file has more than 500 MB. Reduce the number of triangles and export it again.')
  if (announced > STL_LIMIT_BYTES) {
    request.resume()
    throw tooLarge()
  }
  const hash = createHash('sha256')
  let length = 0
  const counter = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      length += chunk.length
      if (length > STL_LIMIT_BYTES) {
        done(tooLarge())
        return
      }
      hash.update(chunk)
      done(null, chunk)
    },
  })
  await pipeline(request, counter, createWriteStream(path))
  return hash.digest('hex')
}
