import { closeSync, openSync, readSync } from 'node:fs'
import express, { Router } from 'express'
import { PrintSchema } from '@oak-stilts/core/contract'
import { BlobStore } from '../store/blobs'
import { ProblemError } from './problem'
import type { Stores } from './stores'

const MOST_PHOTO = '12mb'
/** What photographs begin with, and what they are then. */
const KINDS: readonly (readonly [string, readonly number[]])[] = [['image/jpeg', [0xff, 0xd8, 0xff]], ['image/png', [0x89, 0x50, 0x4e, 0x47]], ['image/webp', [0x52, 0x49, 0x46, 0x46]]]

/** Routes under /api/prints: the print log. */
export function printRoutes({ prints, blobs }: Pick<Stores, 'prints' | 'blobs'>): Router {
  const router = Router(), missing = (): ProblemError => new ProblemError(404, 'not-found', 'Not found', 'This print is not in the log any more. It may have been taken out in another tab.')
  router.get('/', async (request, response) => {
    response.json(await prints.list(typeof request.query.job === 'string' ? request.query.job : null))
  })
  router.put('/:id', express.json({ limit: '1mb' }), async (request, response) => {
    const print = PrintSchema.safeParse(request.body)
    if (!print.success || print.data.id !== request.params.id) throw new ProblemError(400, 'bad-print', 'Bad request', `This cannot be kept in the log: ${print.success ? 'its name is another one' : `${print.error.issues[0].path.join('.') || 'its form'} ${print.error.issues[0].message}`}.`)
    // the photograph has an address of its own
    const before = await prints.get(print.data.id)
    await prints.put({ ...print.data, photo: before?.photo ?? null })
    response.status(204).end()
  })
  router.delete('/:id', async (request, response) => {
    if (!(await prints.remove(request.params.id))) throw missing()
    response.status(204).end()
  })
  router.put('/:id/photo', express.raw({ type: () => true, limit: MOST_PHOTO }), async (request, response) => {
    const print = await prints.get(request.params.id), bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0)
    if (!print) throw missing()
    if (!KINDS.some(([, begin]) => begin.every((b, i) => bytes[i] === b))) throw new ProblemError(415, 'no-photo', 'Unsupported', 'This is no photograph that is known here. Take a JPEG, PNG or WebP.')
    const photo = BlobStore.hashOf(bytes)
    blobs.put(photo, 'photo', bytes)
    await prints.put({ ...print, photo })
    response.json({ photo })
  })
  router.get('/:id/photo', async (request, response) => {
    const print = await prints.get(request.params.id)
    if (!print?.photo || !blobs.has(print.photo, 'photo')) throw missing()
    response.set('Cache-Control', 'no-cache').sendFile(blobs.pathOf(print.photo, 'photo'), { dotfiles: 'allow', headers: { 'Content-Type': kindOf(blobs.pathOf(print.photo, 'photo')) } })
  })
  return router
}

function kindOf(path: string): string {
  const file = openSync(path, 'r'), head = Buffer.alloc(4)
  readSync(file, head, 0, 4, 0)
  closeSync(file)
  return KINDS.find(([, begin]) => begin.every((b, i) => head[i] === b))?.[0] ?? 'application/octet-stream'
}
