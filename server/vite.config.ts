import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

/** The server in one file and the work that it hands to processes of their own in another: they start in a fraction of a second. */
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  logLevel: 'warn',
  publicDir: false,
  ssr: { noExternal: [/^@oak-stilts\//] },
  build: {
    ssr: true, target: 'node20', minify: false, outDir: '../dist', emptyOutDir: true,
    rollupOptions: {
      input: { main: 'server/main.ts', 'worker-entry': 'server/import/import-worker.ts' },
      output: {
        entryFileNames: '[name].mjs', chunkFileNames: '[name]-[hash].mjs',
        // what both entries need lies in neither: a process that only imports a model must never start a server
        codeSplitting: { groups: [{ name: 'core', test: /[\\/]core[\\/]/ }, { name: 'demo', test: /[\\/]demo[\\/]/ }] },
      },
    },
  },
})
