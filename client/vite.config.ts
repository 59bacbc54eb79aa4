import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue()],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1600, sourcemap: false },
  server: { proxy: { '/api': 'http://localhost:5180', '/live': { target: 'http://localhost:5180', ws: true } } },
})
