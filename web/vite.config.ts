import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  base: '/app/',
  plugins: [react()],
  build: { target: 'es2022', chunkSizeWarningLimit: 1800, modulePreload: { polyfill: false } },
  test: { environment: 'node', include: ['src/**/*.test.{ts,tsx}'] },
})
