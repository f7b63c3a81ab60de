import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

// The service embeds the build and serves it below /console/.
export default defineConfig({
  base: '/console/',
  plugins: [vue()],
  build: { outDir: '../server/console/dist', emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8470' } },
})
