import vue from '@vitejs/plugin-vue'
import { NaiveUiResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  // The library's controls and our vocabulary are known by name in every template.
  plugins: [vue(), Components({ dirs: ['src/shared/ui'], resolvers: [NaiveUiResolver()], dts: 'src/components.d.ts' })],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1600, sourcemap: false, manifest: true },
  server: { proxy: { '/api': 'http://localhost:5180', '/live': { target: 'http://localhost:5180', ws: true } } },
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'], server: { deps: { inline: ['naive-ui', 'vueuc'] } } },
})
