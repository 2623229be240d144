import { describe, expect, it, vi } from 'vitest'
import type { EditBatch } from '@oak-stilts/core/contract'
import { createOutbox } from './autosave'
import { ApiError } from './client'

const lift = (liftMm: number) => ({ label: 'lift', pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm } })

/** A server that keeps what it acknowledged and may fail on demand. */
function server() {
  const state = { revision: 0, lifts: [] as number[], batches: new Set<string>(), fail: '' as '' | 'before' | 'after' | 'stale' | 'failed' }
  const send = async (batch: EditBatch): Promise<number> => {
    await Promise.resolve()
    if (state.fail === 'before') throw new ApiError('offline', 'no answer')
    if (state.fail === 'failed') throw new ApiError('failed', 'The server failed at this.')
    if (state.fail === 'stale') throw new ApiError('stale', 'changed elsewhere')
    if (!state.batches.has(batch.batch)) {
      expect(batch.baseRevision).toBe(state.revision)
      state.batches.add(batch.batch)
      state.revision++
      state.lifts.push(...batch.edits.map(e => e.pose?.liftMm ?? -1))
    }
    if (state.fail === 'after') throw new ApiError('offline', 'the answer got lost')
    return state.revision
  }
  return { state, send }
}
const quick = { delayMs: 1, retryMs: 5 }

describe('the outbox', () => {
  it('sends edits in order and says when all are acknowledged', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keep: () => undefined, ...quick })
    for (let i = 1; i <= 5; i++) box.push(lift(i))
    expect(box.waiting.value).toBe(5)
    await box.flush()
    box.push(lift(6))
    await box.flush()
    expect(state.lifts).toEqual([1, 2, 3, 4, 5, 6])
    expect(box.state.value).toBe('saved')
  })

  it.each(['before', 'after'] as const)('tries again when the line fails %s the server took it, and applies once', async fail => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keep: () => undefined, ...quick })
    state.fail = fail
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe('offline'))
    box.push(lift(2))
    expect(box.waiting.value).toBe(2)
    state.fail = ''
    await box.flush()
    expect(state.lifts).toEqual([1, 2])
  })

  it('stops where the job was changed elsewhere, and keeps what it has', async () => {
    const { state, send } = server()
    const kept: unknown[] = []
    const box = createOutbox({ revision: 0, send, keep: k => kept.push(k), ...quick })
    state.fail = 'stale'
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe('stale'))
    state.fail = ''
    await new Promise(resolve => setTimeout(resolve, 30))
    expect(state.lifts).toEqual([])
    expect(box.waiting.value).toBe(1)
    await expect(box.flush()).rejects.toThrow()
    expect(kept[kept.length - 1]).not.toBeNull()
  })

  it('tells any other refusal as it is, and tries again with the next edit', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keep: () => undefined, ...quick })
    state.fail = 'failed'
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe('refused'))
    expect([box.problem.value, box.waiting.value]).toEqual(['The server failed at this.', 1])
    state.fail = ''
    box.push(lift(2))
    await vi.waitFor(() => expect(box.state.value).toBe('saved'))
    expect([state.lifts, box.problem.value]).toEqual([[1, 2], ''])
  })

  it('sends first what an earlier visit could not', async () => {
    const { state, send } = server()
    const kept: unknown[] = []
    const box = createOutbox({ revision: 0, send, keep: k => kept.push(k), earlier: [{ batch: 'earlier-batch', baseRevision: 0, edits: [lift(1)] }], ...quick })
    box.push(lift(2))
    await vi.waitFor(() => expect(state.lifts).toEqual([1, 2]))
    await vi.waitFor(() => expect(kept[kept.length - 1]).toBeNull())
  })
})
