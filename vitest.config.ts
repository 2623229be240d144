import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,server,cli,demo,web,scripts}/**/*.test.ts'],
    globalSetup: ['server/testing/temporary-files.ts', 'server/testing/built.ts'],
    // all cores: the files know nothing of each other
    maxWorkers: '100%',
    testTimeout: 60000,
    hookTimeout: 120000,
  },
})
