import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react()],
  build: { outDir: '../nervykite/server/page', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
})
