import { defineConfig } from 'vitest/config'

const shared = { testTimeout: 60000, hookTimeout: 120000 }

export default defineConfig({
  test: {
    globalSetup: ['server/testing/temporary-files.ts', 'server/testing/built.ts'],
    // all cores: the files know nothing of each other
    maxWorkers: '100%',
    projects: [
      // one load of the modules for all files: a sixth less to do
      { test: { ...shared, name: 'computation and server', include: ['{core,server,cli,demo,scripts}/**/*.test.ts'], isolate: false } },
      // these stand in for parts of a browser, each in its own way
      { test: { ...shared, name: 'page', include: ['web/**/*.test.ts'] } },
    ],
  },
})
