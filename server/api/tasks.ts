import { EventEmitter } from 'node:events'
import { Router } from 'express'
import type { BringingIn } from '@oak-stilts/core/contract'
import { ProblemError } from './problem'

/** What takes long and who asked for it is told about. A page names its task, so that it can listen before the answer is there. */
export class Tasks {
  readonly #running = new Map<string, { last: BringingIn; readonly told: EventEmitter }>()

  /** A task that begins; one without a name that could be one tells nobody. */
  begin(name: string): { readonly tell: (progress: BringingIn) => void; readonly end: () => void } {
    if (!/^[\w-]{8,60}$/.test(name) || this.#running.has(name)) return { tell: () => undefined, end: () => undefined }
    const task = { last: { stage: 'waiting', share: 0 } as BringingIn, told: new EventEmitter() }
    this.#running.set(name, task)
    return {
      tell: progress => void task.told.emit('progress', (task.last = progress)),
      end: () => {
        this.#running.delete(name)
        task.told.emit('end')
      },
    }
  }

  /** Tells a listener what was said last and all that follows; gives what ends that, null where there is no such task. */
  listen(name: string, progress: (now: BringingIn) => void, end: () => void): (() => void) | null {
    const task = this.#running.get(name)
    if (!task) return null
    progress(task.last)
    task.told.on('progress', progress).on('end', end)
    return () => task.told.off('progress', progress).off('end', end)
  }
}

/** Routes under /api/tasks: progress as server-sent events. */
export function taskRoutes(tasks: Tasks): Router {
  const router = Router()
  router.get('/:name', (request, response) => {
    response.type('text/event-stream').set('Cache-Control', 'no-cache')
    const stop = tasks.listen(request.params.name, now => void response.write(`data: ${JSON.stringify(now)}\n\n`), () => void response.end())
    if (!stop) throw new ProblemError(404, 'not-found', 'Not found', 'There is no such task. It may be done, or the server was started again.')
    response.once('close', stop)
  })
  return router
}
