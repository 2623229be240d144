import { wrap, type Remote } from 'comlink'
import { locks } from '../api/locks'

/** A worker ended by itself: it ran out of memory, failed to start, or was ended from outside. */
export class WorkerDied extends Error {
  constructor() {
    super('A part of the program that computes in the background stopped working.')
  }
}

/** A worker whose calls fail once it is dead, instead of waiting for good. */
export interface Supervised<T> {
  readonly remote: Remote<T>
  /** Resolves once it died by itself; never after `end`. */
  readonly died: Promise<void>
  end(): void
}

/**
 * Wraps a worker. Its death is noticed by its error event, and by a lock that it holds for as long as it lives (see `holdLife`),
 * which the browser frees however it ends.
 * @param name the worker's own name
 */
export function supervise<T>(worker: Worker, name: string): Supervised<T> {
  const remote = wrap<T>(worker)
  let over = false
  const waiting = new Set<(error: Error) => void>()
  const stop = (): void => {
    over = true
    worker.terminate()
    for (const reject of waiting) reject(new WorkerDied())
    waiting.clear()
  }
  const died = new Promise<void>(resolve => {
    const dead = (): void => {
      if (over) return
      stop()
      resolve()
    }
    worker.addEventListener('error', event => {
      event.preventDefault()
      dead()
    })
    worker.addEventListener('messageerror', dead)
    worker.addEventListener('message', event => {
      if ((event.data as { alive?: boolean } | null)?.alive) void locks()?.request(name, dead)
    })
  })
  const call = (work: () => Promise<unknown>): Promise<unknown> => new Promise((resolve, reject) => {
    if (over) {
      reject(new WorkerDied())
      return
    }
    waiting.add(reject)
    void work().then(resolve, reject).finally(() => waiting.delete(reject))
  })
  const watched = new Proxy(remote as object, {
    get: (target, key) => {
      const member: unknown = Reflect.get(target, key)
      if (typeof member !== 'function' || typeof key !== 'string') return member
      return (...parameters: unknown[]) => call(() => (member as (...p: unknown[]) => Promise<unknown>)(...parameters))
    },
  })
  return {
    remote: watched as Remote<T>, died,
    end: () => {
      if (!over) stop()
    },
  }
}

/** In a worker: holds the lock of its name, and tells the page so. */
export function holdLife(): void {
  void locks()?.request(self.name, () => {
    self.postMessage({ alive: true })
    return new Promise<void>(() => undefined)
  })
}
