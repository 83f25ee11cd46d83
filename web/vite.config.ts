import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  test: { include: ['tests/**/*.test.ts'] },
  build: { outDir: '../nervykite/server/page', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
})
