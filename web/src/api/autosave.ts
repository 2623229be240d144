import { ref, type Ref } from 'vue'
import { BATCH_AIM_BYTES, MOST_EDITS_IN_BATCH, type Edit, type EditBatch } from '@oak-stilts/core/contract'
import { ApiError } from './client'
import type { Keeper, KeptEdit } from './unsent'

/** `stale`: changed elsewhere; `gone`: deleted elsewhere; `refused`: the server cannot take it, for the reason in `problem`. */
export type SaveState = 'saved' | 'saving' | 'offline' | 'stale' | 'gone' | 'refused'

export interface Outbox {
  readonly state: Ref<SaveState>
  /** Why the last batch was refused, as a sentence; empty where none was. */
  readonly problem: Ref<string>
  /** Edits that the server has not acknowledged. */
  readonly waiting: Ref<number>
  push(edit: Edit): void
  /** Resolves once all edits are acknowledged; rejects where they cannot be. */
  flush(): Promise<void>
  /** Sends what fits into a request that outlives the page. What does not is kept and sent by the next visit. */
  leave(): void
  stop(): void
}

export interface OutboxOptions {
  readonly revision: number
  /** Sends a batch and gives the new revision. @throws ApiError */
  send(batch: EditBatch): Promise<number>
  /** Sends a batch without waiting for an answer, as the page goes away. */
  sendLeaving?(batch: EditBatch): void
  /** Keeps what is not acknowledged across a reload. */
  readonly keeper: Keeper
  /** Edits of an earlier visit that were not acknowledged, kept already. */
  readonly earlier?: readonly KeptEdit[]
  readonly delayMs?: number
  readonly retryMs?: number
}

/** A request that outlives the page may have this many bytes (Published: Fetch standard, keep-alive requests, 64 KiB). */
const LEAVING_BYTES = 60_000

interface Waiting {
  readonly name: string
  readonly edits: Edit[]
  bytes: number
  /** Whether it was sent, so that nothing may be added to it. */
  sent: boolean
}

/**
 * Sends edits in order, one batch at a time, each of bounded size. A batch keeps its name over every retry and every visit, so that
 * one whose answer was lost is applied once. A batch that was changed elsewhere stops the box: nothing is merged silently.
 */
export function createOutbox(options: OutboxOptions): Outbox {
  const { keeper } = options
  const state = ref<SaveState>('saved')
  const waiting = ref(0)
  const problem = ref('')
  const delayMs = options.delayMs ?? 250, retryMs = options.retryMs ?? 2500
  let revision = options.revision
  const queue: Waiting[] = []
  let sending = false
  let timer: ReturnType<typeof setTimeout> | null = null
  let stopped = false
  let done: { resolve: () => void; reject: (e: Error) => void }[] = []

  const count = (): void => {
    waiting.value = queue.reduce((n, b) => n + b.edits.length, 0)
    if (waiting.value > 0) return
    state.value = 'saved'
    for (const d of done) d.resolve()
    done = []
  }

  const later = (ms: number): void => {
    if (timer) clearTimeout(timer)
    timer = setTimeout(() => void pump(), ms)
  }

  /** Puts an edit at the end of the queue; gives the batch that it went into. */
  const enqueue = (edit: Edit, name?: string): Waiting => {
    const bytes = JSON.stringify(edit).length
    let last = queue[queue.length - 1]
    const fits = last && (name === undefined ? !last.sent && last.edits.length < MOST_EDITS_IN_BATCH && last.bytes + bytes <= BATCH_AIM_BYTES : last.name === name)
    if (!fits) {
      // what comes from an earlier visit may have been on its way already
      last = { name: name ?? crypto.randomUUID(), edits: [], bytes: 0, sent: name !== undefined }
      queue.push(last)
    }
    last.edits.push(edit)
    last.bytes += bytes
    return last
  }

  const batchOf = (b: Waiting): EditBatch => ({ batch: b.name, baseRevision: revision, edits: b.edits })

  const pump = async (): Promise<void> => {
    timer = null
    const next = queue[0]
    if (stopped || sending || state.value === 'stale' || state.value === 'gone' || !next) return
    next.sent = true
    sending = true
    state.value = 'saving'
    try {
      revision = await options.send(batchOf(next))
      sending = false
      queue.shift()
      keeper.acknowledged(next.name, revision)
      problem.value = ''
      count()
      if (queue.length > 0) later(0)
    } catch (error) {
      sending = false
      fail(error)
      count()
    }
  }

  const fail = (error: unknown): void => {
    const { code, status } = error instanceof ApiError ? error : { code: 'failed', status: 0 }
    if (code === 'offline') {
      state.value = 'offline'
      later(retryMs)
      return
    }
    // only a newer revision means another tab; any other refusal is told as it is and tried again, by itself where the server is to blame
    state.value = code === 'stale' ? 'stale' : code === 'not-found' ? 'gone' : 'refused'
    problem.value = (error as Error).message
    if (status >= 500) later(2 * retryMs)
    for (const d of done) d.reject(error as Error)
    done = []
  }

  for (const { edit, batch } of options.earlier ?? []) enqueue(edit, batch)
  count()
  if (queue.length > 0) {
    state.value = 'saving'
    later(0)
  }

  return {
    state, waiting, problem,
    push(edit) {
      const { name } = enqueue(edit)
      keeper.add({ batch: name, edit })
      if (state.value === 'saved') state.value = 'saving'
      count()
      if (!sending && !timer) later(delayMs)
    },
    flush() {
      if (waiting.value === 0) return Promise.resolve()
      if (state.value === 'stale' || state.value === 'gone') return Promise.reject(new ApiError(state.value === 'stale' ? 'stale' : 'not-found', problem.value))
      if (!sending) later(0)
      return new Promise((resolve, reject) => done.push({ resolve, reject }))
    },
    leave() {
      const next = queue[0]
      if (stopped || !next || state.value === 'stale' || state.value === 'gone' || next.bytes > LEAVING_BYTES) return
      next.sent = true
      options.sendLeaving?.(batchOf(next))
    },
    stop() {
      stopped = true
      if (timer) clearTimeout(timer)
    },
  }
}
