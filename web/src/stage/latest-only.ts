/**
 * Runs a task for the newest of many requests: while one is under way, only the last of those that come meanwhile is kept, and it is
 * always run. The promise ends when nothing is left to do.
 */
export function latestOnly<T>(task: (request: T) => Promise<void>): (request: T) => Promise<void> {
  let waiting: { request: T } | null = null
  let running: Promise<void> | null = null
  async function work(): Promise<void> {
    try {
      while (waiting) {
        const { request } = waiting
        waiting = null
        await task(request)
      }
    } finally {
      running = null
    }
  }
  return request => {
    waiting = { request }
    running ??= work()
    return running
  }
}
