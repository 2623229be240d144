import { describe, expect, it, vi } from 'vitest'
import { supervise, WorkerDied } from './supervised'

/** A worker that answers Comlink's calls only when the test lets it, and the locks of a page. */
class FakeWorker extends EventTarget {
  sent: { id: string }[] = []
  ended = false
  postMessage(message: { id: string }): void {
    this.sent.push(message)
  }
  terminate(): void {
    this.ended = true
  }
  say(data: object): void {
    this.dispatchEvent(new MessageEvent('message', { data }))
  }
}
interface Api {
  work(): number
}

describe('a worker that dies', () => {
  it.each(['error', 'messageerror', 'lock'])('fails every call that waits for it, and later ones (%s)', async how => {
    let free: () => void = () => undefined
    vi.stubGlobal('navigator', { locks: { request: (_name: string, granted: () => void) => new Promise<void>(resolve => (free = () => resolve(granted()))) } })
    const worker = new FakeWorker()
    const own = supervise<Api>(worker as unknown as Worker, 'scan-1')
    worker.say({ alive: true })
    const waiting = [own.remote.work(), own.remote.work()]
    const refused = waiting.map(w => expect(w).rejects.toThrow(WorkerDied))
    if (how === 'lock') free()
    else worker.dispatchEvent(new Event(how))
    await Promise.all(refused)
    await own.died
    expect(worker.ended).toBe(true)
    await expect(own.remote.work()).rejects.toThrow(WorkerDied)
  })
  it('answers while it lives, and one that is ended on purpose did not die', async () => {
    const worker = new FakeWorker()
    const own = supervise<Api>(worker as unknown as Worker, 'scan-1')
    const answer = own.remote.work()
    worker.say({ id: worker.sent[0].id, type: 'RAW', value: 7 })
    expect(await answer).toBe(7)
    let died = false
    void own.died.then(() => (died = true))
    own.end()
    await new Promise(resolve => setTimeout(resolve, 5))
    expect([died, worker.ended]).toEqual([false, true])
  })
})
