import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['e2e/**/*.e2e.test.ts'],
    globalSetup: ['server/testing/temporary-files.ts', 'e2e/global-setup.ts'],
    // each file has a server and a browser of its own, and waits more than it works; more than two would slow each other
    maxWorkers: 2,
    testTimeout: 240000,
    // a busy machine may take its time; what never comes fails all the same
    expect: { poll: { timeout: 30000, interval: 50 } },
    hookTimeout: 240000,
  },
})
