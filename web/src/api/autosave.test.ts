import { ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import { EditBatchSchema, MOST_EDITS_IN_BATCH, type Edit, type EditBatch } from '@oak-stilts/core/contract'
import { kneeRow, partRow } from '../../../core/testing/jobs'
import { createOutbox } from './autosave'
import { ApiError } from './client'
import type { Keeper } from './unsent'

const lift = (liftMm: number): Edit => ({ label: 'lift', step: `step-${liftMm}`, way: 'do', put: { parts: [partRow('part', { pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm } })] } })

/** A server that answers as the real one: it knows the last batches by name and content. */
function server() {
  const state = { revision: 0, lifts: [] as number[], batches: new Map<string, { revision: number; content: string }>(), sizes: [] as number[], fail: '' as '' | 'before' | 'after' | 'stale' | 'failed' | 'gone' }
  const send = async (batch: EditBatch): Promise<number> => {
    await Promise.resolve()
    if (state.fail === 'before') throw new ApiError('offline', 'no answer')
    if (state.fail === 'failed') throw new ApiError('failed', 'The server failed at this.', 500)
    if (state.fail === 'gone') throw new ApiError('not-found', 'There is no such job.', 404)
    if (!EditBatchSchema.safeParse(batch).success) throw new ApiError('bad-edit', 'The change does not have the expected form.', 400)
    const content = JSON.stringify(batch.edits), known = state.batches.get(batch.batch)
    if (known) {
      if (known.content !== content) throw new ApiError('batch-reused', 'Another one has that name.', 409)
      if (state.fail === 'after') throw new ApiError('offline', 'the answer got lost')
      return known.revision
    }
    if (state.fail === 'stale' || batch.baseRevision !== state.revision) throw new ApiError('stale', 'changed elsewhere', 409)
    state.revision++
    state.batches.set(batch.batch, { revision: state.revision, content })
    state.sizes.push(batch.edits.length)
    state.lifts.push(...batch.edits.map(e => e.put?.parts?.[0].pose.liftMm ?? -1))
    if (state.fail === 'after') throw new ApiError('offline', 'the answer got lost')
    return state.revision
  }
  return { state, send }
}
function keeper() {
  const log: string[] = []
  const k: Keeper = { kept: ref(true), add: e => void log.push(`add ${e.batch}`), acknowledged: (b, r) => void log.push(`ack ${b} ${r}`), drop: () => undefined, settled: () => Promise.resolve(), end: () => undefined }
  return { k, log }
}
const quick = { delayMs: 1, retryMs: 5 }

describe('the outbox', () => {
  it('sends edits in order and says when all are acknowledged', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keeper: keeper().k, ...quick })
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
    const box = createOutbox({ revision: 0, send, keeper: keeper().k, ...quick })
    state.fail = fail
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe('offline'))
    box.push(lift(2))
    expect(box.waiting.value).toBe(2)
    state.fail = ''
    await box.flush()
    expect(state.lifts).toEqual([1, 2])
  })
  it('cuts a long queue into batches that the server takes', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keeper: keeper().k, ...quick })
    state.fail = 'before'
    const lifts = Array.from({ length: 2500 }, (_, i) => i % 190)
    for (const l of lifts) box.push(lift(l))
    await vi.waitFor(() => expect(box.state.value).toBe('offline'))
    state.fail = ''
    await box.flush()
    expect(state.lifts).toEqual(lifts)
    expect(Math.max(...state.sizes)).toBeLessThanOrEqual(MOST_EDITS_IN_BATCH)
  })
  it('keeps what is large apart from what follows', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keeper: keeper().k, ...quick })
    const many = (n: number): Edit => ({ label: 'place', step: `many-${n}`, way: 'do', put: { nodes: Array.from({ length: n }, (_, i) => kneeRow(i + 1, i / 10)) } })
    for (let i = 0; i < 4; i++) box.push(many(12_000))
    await box.flush()
    expect(state.sizes).toEqual([1, 1, 1, 1])
  })
  it.each([['stale', 'stale'], ['gone', 'gone']] as const)('stops where the job was changed or deleted elsewhere (%s), and keeps what it has', async (fail, shown) => {
    const { state, send } = server()
    const { k, log } = keeper()
    const box = createOutbox({ revision: 0, send, keeper: k, ...quick })
    state.fail = fail
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe(shown))
    state.fail = ''
    await new Promise(resolve => setTimeout(resolve, 30))
    expect(state.lifts).toEqual([])
    expect(box.waiting.value).toBe(1)
    await expect(box.flush()).rejects.toThrow()
    expect(log.map(l => l.split(' ')[0])).toEqual(['add'])
  })
  it('tells any other refusal as it is, and tries again by itself where the server is to blame', async () => {
    const { state, send } = server()
    const box = createOutbox({ revision: 0, send, keeper: keeper().k, ...quick })
    state.fail = 'failed'
    box.push(lift(1))
    await vi.waitFor(() => expect(box.state.value).toBe('refused'))
    expect([box.problem.value, box.waiting.value]).toEqual(['The server failed at this.', 1])
    state.fail = ''
    await vi.waitFor(() => expect(box.state.value).toBe('saved'))
    expect([state.lifts, box.problem.value]).toEqual([[1], ''])
  })
  it('sends first what an earlier visit could not, under the names it had', async () => {
    const { state, send } = server()
    const { k, log } = keeper()
    const box = createOutbox({ revision: 0, send, keeper: k, earlier: [{ batch: 'earlier-one', edit: lift(1) }, { batch: 'earlier-one', edit: lift(2) }, { batch: 'earlier-two', edit: lift(3) }], ...quick })
    box.push(lift(4))
    await vi.waitFor(() => expect(state.lifts).toEqual([1, 2, 3, 4]))
    await vi.waitFor(() => expect(box.state.value).toBe('saved'))
    expect([...state.batches.keys()].slice(0, 2)).toEqual(['earlier-one', 'earlier-two'])
    expect(log.filter(l => l.startsWith('ack')).slice(0, 2)).toEqual(['ack earlier-one 1', 'ack earlier-two 2'])
  })
  it('sends what fits as the page goes away, under the name that a retry would have', async () => {
    const { state, send } = server()
    const left: EditBatch[] = []
    const box = createOutbox({ revision: 0, send, sendLeaving: b => left.push(b), keeper: keeper().k, delayMs: 10_000 })
    box.leave()
    box.push(lift(1))
    box.leave()
    expect(left.map(b => b.edits.length)).toEqual([1])
    // the page came back: the same batch again is applied once, and what is new has another name
    await send(left[0])
    box.push(lift(2))
    await box.flush()
    expect(state.lifts).toEqual([1, 2])
    box.stop()
  })
})
