import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' }

export default defineConfig({
  root: import.meta.dirname,
  plugins: [vue()],
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 2000 },
  server: { headers: isolation, proxy: { '/api': { target: 'http://127.0.0.1:4173', changeOrigin: true } } },
})
