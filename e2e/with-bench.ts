import type { Browser } from 'playwright-core'
import { afterAll, beforeAll } from 'vitest'
import { BenchPage, launch, temporaryFolder, TestServer, type Size } from './bench'

/** A server, a browser and a page for one file of tests. */
export interface Setup {
  readonly server: TestServer
  readonly bench: BenchPage
  /** There from the first test on. */
  readonly browser: () => Browser
}

/**
 * Begins a server, a browser and a page before the first test and ends them after the last.
 * @param options `seed`: whether the demo's jobs are there; `begin`: what else comes before the first test
 */
export function withBench(options: { seed?: boolean; size?: Size; begin?: (setup: Setup) => Promise<void> } = {}): Setup {
  let browser: Browser | null = null
  const setup: Setup = {
    server: new TestServer(temporaryFolder(), options.seed ?? true), bench: new BenchPage(),
    browser: () => {
      if (!browser) throw new Error('The browser is not open yet.')
      return browser
    },
  }
  beforeAll(async () => {
    await setup.server.start()
    browser = await launch()
    await setup.bench.open(browser, options.size)
    await options.begin?.(setup)
  })
  afterAll(async () => {
    await browser?.close()
    await setup.server.stop()
  })
  return setup
}
