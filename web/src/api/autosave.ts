import { ref, type Ref } from 'vue'
import type { Edit, EditBatch } from '@oak-stilts/core/contract'
import { ApiError } from './client'

/** `stale`: changed elsewhere; `refused`: the server cannot take it, for the reason in `problem`. */
export type SaveState = 'saved' | 'saving' | 'offline' | 'stale' | 'refused'

export interface Outbox {
  readonly state: Ref<SaveState>
  /** Why the last batch was refused, as a sentence; empty where none was. */
  readonly problem: Ref<string>
  /** Edits that the server has not acknowledged. */
  readonly waiting: Ref<number>
  push(edit: Edit): void
  /** Resolves once all edits are acknowledged; rejects where they cannot be. */
  flush(): Promise<void>
  stop(): void
}

export interface OutboxOptions {
  readonly revision: number
  /** Sends a batch and gives the new revision. @throws ApiError */
  send(batch: EditBatch): Promise<number>
  /** Keeps what is not acknowledged across a reload; called with null once there is nothing. */
  keep(waiting: { readonly revision: number; readonly batches: readonly EditBatch[] } | null): void
  /** Batches that an earlier visit could not send. */
  readonly earlier?: readonly EditBatch[]
  readonly delayMs?: number
  readonly retryMs?: number
}

/**
 * Sends edits in order, one batch at a time. A batch keeps its name over every retry, so that one whose answer was lost is applied once.
 * A batch that was changed elsewhere stops the box: nothing is merged silently.
 */
export function createOutbox(options: OutboxOptions): Outbox {
  const state = ref<SaveState>('saved')
  const waiting = ref(0)
  const problem = ref('')
  const delayMs = options.delayMs ?? 250, retryMs = options.retryMs ?? 2500
  let revision = options.revision
  let fresh: Edit[] = []
  let sending: EditBatch | null = null
  const queue: EditBatch[] = [...(options.earlier ?? [])]
  let timer: ReturnType<typeof setTimeout> | null = null
  let stopped = false
  let done: { resolve: () => void; reject: (e: Error) => void }[] = []

  const count = (): void => {
    waiting.value = fresh.length + [...queue, ...(sending ? [sending] : [])].reduce((n, b) => n + b.edits.length, 0)
    const batches = [...(sending ? [sending] : []), ...queue]
    if (fresh.length > 0) batches.push({ batch: nameOf(fresh), baseRevision: 0, edits: fresh })
    options.keep(waiting.value > 0 ? { revision, batches } : null)
    if (waiting.value === 0) {
      state.value = 'saved'
      for (const d of done) d.resolve()
      done = []
    }
  }
  const later = (ms: number): void => {
    if (timer) clearTimeout(timer)
    timer = setTimeout(() => void pump(), ms)
  }
  const pump = async (): Promise<void> => {
    timer = null
    if (stopped || sending || state.value === 'stale') return
    if (queue.length === 0 && fresh.length > 0) {
      queue.push({ batch: nameOf(fresh), baseRevision: revision, edits: fresh })
      fresh = []
    }
    const next = queue.shift()
    if (!next) return
    const batch: EditBatch = { ...next, baseRevision: revision }
    sending = batch
    state.value = 'saving'
    try {
      revision = await options.send(batch)
      sending = null
      problem.value = ''
      count()
      if (queue.length > 0 || fresh.length > 0) later(0)
    } catch (error) {
      queue.unshift(batch)
      sending = null
      const code = error instanceof ApiError ? error.code : 'failed'
      if (code === 'offline') {
        state.value = 'offline'
        later(retryMs)
      } else {
        // only a newer revision means another tab; any other refusal is told as it is and tried again with the next edit
        state.value = code === 'stale' ? 'stale' : 'refused'
        problem.value = (error as Error).message
        for (const d of done) d.reject(error as Error)
        done = []
      }
      count()
    }
  }
  const names = new WeakMap<Edit[], string>()
  function nameOf(edits: Edit[]): string {
    let name = names.get(edits)
    if (!name) names.set(edits, (name = crypto.randomUUID()))
    return name
  }
  if (queue.length > 0) later(0)
  return {
    state, waiting, problem,
    push(edit) {
      fresh.push(edit)
      if (state.value === 'saved') state.value = 'saving'
      count()
      if (!sending && !timer) later(delayMs)
    },
    flush() {
      if (waiting.value === 0) return Promise.resolve()
      if (state.value === 'stale') return Promise.reject(new ApiError('stale', 'Changed in another tab.'))
      if (!sending) later(0)
      return new Promise((resolve, reject) => done.push({ resolve, reject }))
    },
    stop() {
      stopped = true
      if (timer) clearTimeout(timer)
    },
  }
}
