import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['e2e/**/*.e2e.test.ts'],
    globalSetup: 'e2e/global-setup.ts',
    // one browser at a time: software rendering takes all there is
    fileParallelism: false,
    testTimeout: 240000,
    // a busy machine may take its time; what never comes fails all the same
    expect: { poll: { timeout: 30000, interval: 50 } },
    hookTimeout: 240000,
  },
})
