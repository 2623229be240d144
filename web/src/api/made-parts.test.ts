import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { keepMade, madeBefore } from './made-parts'

/** A browser's store of answers, as far as it is used: in the order in which they were put. */
class FakeCache {
  readonly all = new Map<string, Response>()
  match = (path: string): Promise<Response | undefined> => Promise.resolve(this.all.get(path)?.clone())
  put = (path: string, answer: Response): Promise<void> => Promise.resolve(void this.all.set(path, answer))
  delete = (request: string | { url: string }): Promise<boolean> => Promise.resolve(this.all.delete(typeof request === 'string' ? request : request.url))
  keys = (): Promise<{ url: string }[]> => Promise.resolve([...this.all.keys()].map(url => ({ url })))
}
const bytes = (...values: number[]): ArrayBuffer => Uint8Array.from(values).buffer
let cache: FakeCache
beforeEach(() => {
  cache = new FakeCache()
  vi.stubGlobal('caches', { open: () => Promise.resolve(cache) })
})
afterEach(() => vi.unstubAllGlobals())

describe('parts that were made before', () => {
  it('come back with what was told of them, and no other does', async () => {
    await keepMade('a', bytes(1, 2, 3), { hollow: { words: 'größer' } })
    expect(await madeBefore('a')).toEqual({ buffer: bytes(1, 2, 3), told: { hollow: { words: 'größer' } } })
    expect(await madeBefore('b')).toBeNull()
  })
  it('are the last eight that were used', async () => {
    for (let i = 0; i < 8; i++) await keepMade(`part ${i}`, bytes(i), i)
    // looked at, the first is the youngest
    await madeBefore('part 0')
    await keepMade('another', bytes(99), 99)
    const kept = await Promise.all([...Array(8).keys()].map(async i => (await madeBefore<number>(`part ${i}`)) !== null))
    expect(kept).toEqual([true, false, true, true, true, true, true, true])
  })
  it('are made again where the browser keeps nothing', async () => {
    vi.stubGlobal('caches', { open: () => Promise.reject(new Error('no room')) })
    await keepMade('a', bytes(1), null)
    expect(await madeBefore('a')).toBeNull()
  })
})
