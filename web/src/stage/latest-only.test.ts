import { describe, expect, it } from 'vitest'
import { latestOnly } from './latest-only'

/** A task that waits until it is let go, and notes what it was run for. */
function stoppedTask() {
  const ran: number[] = []
  const gates: (() => void)[] = []
  return { ran, task: (n: number) => new Promise<void>(resolve => {
    ran.push(n)
    gates.push(resolve)
  }), release: () => gates.shift()?.() }
}

describe('latestOnly', () => {
  it('skips what is overtaken, and never the last', async () => {
    const { ran, task, release } = stoppedTask()
    const ask = latestOnly(task)
    const first = ask(1)
    void ask(2)
    void ask(3)
    const last = ask(4)
    expect(ran).toEqual([1])
    release()
    await Promise.resolve()
    await Promise.resolve()
    expect(ran).toEqual([1, 4])
    release()
    await Promise.all([first, last])
    expect(ran).toEqual([1, 4])
  })

  it('starts again after it came to rest', async () => {
    const ran: number[] = []
    const ask = latestOnly(async (n: number) => {
      await Promise.resolve()
      ran.push(n)
    })
    await ask(1)
    await ask(2)
    expect(ran).toEqual([1, 2])
  })

  it('goes on after a task that failed', async () => {
    const ask = latestOnly(async (n: number) => {
      await Promise.resolve()
      if (n === 1) throw new Error('It failed.')
    })
    await expect(ask(1)).rejects.toThrow('It failed.')
    await expect(ask(2)).resolves.toBeUndefined()
  })
})
