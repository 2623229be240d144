import express, { Router } from 'express'
import { z } from 'zod'
import { KitEntrySchema } from '@oak-stilts/core/contract'
import type { KitStore } from '../store/kit'
import { ProblemError } from './problem'

const EntriesSchema = z.array(KitEntrySchema).min(1).max(2000)

/** Routes under /api/kit: the person's own printers and resins. */
export function kitRoutes(kit: KitStore): Router {
  const router = Router()
  router.get('/', async (_request, response) => {
    response.json(await kit.list())
  })
  router.put('/', express.json({ limit: '4mb' }), async (request, response) => {
    const entries = EntriesSchema.safeParse(request.body)
    if (!entries.success) {
      const [issue] = entries.error.issues
      throw new ProblemError(400, 'bad-kit', 'Bad request', `This cannot be kept: ${issue.path.slice(1).join('.') || 'its form'} ${issue.message}.`)
    }
    await kit.put(entries.data)
    response.status(204).end()
  })
  router.delete('/:id', async (request, response) => {
    if (!(await kit.remove(request.params.id))) throw new ProblemError(404, 'not-found', 'Not found', 'This is not in the kit any more. It may have been deleted in another tab.')
    response.status(204).end()
  })
  return router
}
