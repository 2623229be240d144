import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['e2e/**/*.e2e.test.ts'],
    globalSetup: 'e2e/global-setup.ts',
    // one browser at a time: software rendering takes all there is
    fileParallelism: false,
    testTimeout: 240000,
    hookTimeout: 240000,
  },
})
