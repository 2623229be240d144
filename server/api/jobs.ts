import { randomUUID } from 'node:crypto'
import { closeSync, existsSync, fstatSync, openSync, readSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import express, { Router, type Request, type Response } from 'express'
import { EditBatchSchema, BATCH_LIMIT_BYTES, HashSchema, NameSchema } from '@oak-stilts/core/contract'
import { meshFileLength, MESH_HEADER_BYTES } from '@oak-stilts/core/mesh'
import { BlobStore } from '../store/blobs'
import { RowsRefused } from '../store/check-rows'
import { BatchReused, KEPT_DELETED_MS, StaleRevision } from '../store/jobs'
import { bringIn, importJob, modelName, receive, type BringOptions, type FileToImport } from './bring-in'
import { notFound, ProblemError } from './problem'
import type { Stores } from './stores'
import type { Tasks } from './tasks'
import { exportWholeJob, importWholeJob } from './whole-job'

const PICTURE_LIMIT = '4mb'

/** Routes under /api/jobs. */
export function jobRoutes(stores: Stores, tasks: Tasks): Router {
  const { jobs, blobs } = stores
  const router = Router()
  router.get('/', async (_request, response) => {
    response.json(await jobs.list())
  })
  router.get('/deleted', async (_request, response) => {
    response.json(await jobs.list('deleted'))
  })

  /** What deleted jobs and replaced pictures leave behind. */
  const collect = (): Promise<void> => jobs.exclusively(async () => void blobs.collect(await jobs.usedBlobs()))

  /** Takes a file in and hands it on; everything ends where the person goes away. */
  const receiveModel = async (request: Request, response: Response, take: (file: FileToImport, options: BringOptions) => Promise<void>): Promise<void> => {
    const gone = new AbortController()
    response.once('close', () => {
      if (!response.writableFinished) gone.abort()
    })
    const asked = typeof request.query.name === 'string' ? request.query.name : ''
    const name = NameSchema.safeParse(modelName(asked))
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The model needs a name of 1 to 120 letters.')
    const path = join(stores.uploads, `${randomUUID()}.file`)
    const task = tasks.begin(typeof request.query.task === 'string' ? request.query.task : '')
    try {
      await receive(request, path)
      await take({ path, name: name.data, fileName: asked.slice(0, 255) }, { signal: gone.signal, progress: task.tell })
    } finally {
      task.end()
      rmSync(path, { force: true })
    }
  }

  router.post('/', (request, response) => receiveModel(request, response, async (file, options) => {
    const id = (await importWholeJob(stores, file, options)) ?? (await importJob(stores, file, options))
    response.status(201).location(`/api/jobs/${id}`).json(await jobs.get(id))
  }))

  router.post('/:id/parts', (request, response) => receiveModel(request, response, async (file, options) => {
    const parts = await bringIn(stores, file, options, async found => ((await jobs.addSources(String(request.params.id), found)) ? found : null))
    if (!parts) throw notFound()
    response.status(201).json(parts)
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
    await jobs.purge(new Date(Date.now() - KEPT_DELETED_MS))
    await collect()
    response.status(204).end()
  })

  router.post('/:id/restore', async (request, response) => {
    if (!(await jobs.restore(String(request.params.id)))) throw new ProblemError(404, 'not-found', 'Not found', 'This job was deleted too long ago to be brought back.')
    response.status(204).end()
  })

  router.put('/:id/archived', express.json(), async (request, response) => {
    const { archived } = (request.body ?? {}) as { archived?: unknown }
    if (typeof archived !== 'boolean') throw new ProblemError(400, 'bad-request', 'Bad request', 'It has to be said whether the job is put away.')
    if (!(await jobs.setArchived(String(request.params.id), archived))) throw notFound()
    response.status(204).end()
  })

  router.get('/:id/file', async (request, response) => {
    const job = await jobs.get(String(request.params.id))
    if (!job) throw notFound()
    const path = await exportWholeJob(stores, job)
    response.type('model/3mf').sendFile(path, { dotfiles: 'allow', cacheControl: false }, () => rmSync(path, { force: true }))
  })

  router.get('/:id/versions', async (request, response) => {
    if (!(await jobs.has(String(request.params.id)))) throw notFound()
    response.json(await jobs.versions(String(request.params.id)))
  })
  router.post('/:id/versions', express.json(), async (request, response) => {
    const name = NameSchema.safeParse((request.body as { name?: unknown } | undefined)?.name)
    if (!name.success) throw new ProblemError(400, 'name', 'Bad request', 'The version needs a name of 1 to 120 letters.')
    const version = await jobs.keepVersion(String(request.params.id), name.data)
    if (!version) throw notFound()
    response.status(201).json(version)
  })
  router.get('/:id/versions/:version', async (request, response) => {
    const content = await jobs.version(String(request.params.id), String(request.params.version))
    if (!content) throw new ProblemError(404, 'not-found', 'Not found', 'There is no such version of this job any more.')
    response.json(content)
  })
  router.delete('/:id/versions/:version', async (request, response) => {
    if (!(await jobs.dropVersion(String(request.params.id), String(request.params.version)))) throw new ProblemError(404, 'not-found', 'Not found', 'There is no such version of this job any more.')
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

/** Routes under /api/faults: what was found in a mesh, by the hash of that. */
export function faultRoutes({ blobs }: Stores): Router {
  const router = Router()
  router.get('/:hash', (request, response) => {
    const hash = HashSchema.safeParse(request.params.hash)
    if (!hash.success || !blobs.has(hash.data, 'faults')) throw new ProblemError(404, 'faults-missing', 'Not found', 'What was found in this mesh is missing from the data folder. Bring the same file in again.')
    response.set('Cache-Control', 'private, max-age=31536000, immutable').type('application/json').sendFile(blobs.pathOf(hash.data, 'faults'), { dotfiles: 'allow' })
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
