import babel from '@rolldown/plugin-babel'
import react, { reactCompilerPreset } from '@vitejs/plugin-react'
import { playwright } from '@vitest/browser-playwright'
import { defineConfig } from 'vitest/config'
import { mouse } from './tests/page/mouse.ts'

// Debian's Chromium, never one that is fetched; nothing of it leaves the machine.
const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

/** React, with what a component works out kept until something that it is worked out from changes. */
const drawing = () => [react(), babel({ presets: [reactCompilerPreset()] })]

export default defineConfig({
  plugins: drawing(),
  test: {
    projects: [
      { test: { name: 'parts', include: ['tests/*.test.ts'] } },
      {
        plugins: drawing(),
        // What the page draws, and when, can be counted.
        resolve: { alias: { 'react-dom/client': 'react-dom/profiling' } },
        // All that the page loads, so that nothing is found late and everything begun anew.
        optimizeDeps: {
          include: [
            '@chakra-ui/react',
            '@tanstack/react-query',
            '@tanstack/react-virtual',
            'lucide-react',
            'openapi-fetch',
            'react-dom/profiling',
            'react/jsx-dev-runtime',
            'zustand',
            'zustand/react/shallow',
          ],
        },
        test: {
          name: 'page',
          include: ['tests/page/*.test.tsx'],
          testTimeout: 30_000,
          // A pointer that is late on a machine with other work is not a fault of the page.
          retry: 1,
          browser: {
            enabled: true,
            headless: true,
            screenshotFailures: false,
            commands: { mouse },
            provider: playwright({
              launchOptions: { executablePath: '/usr/bin/chromium', args: FLAGS },
              actionTimeout: 10_000,
              // What moves is seen to move in the journeys; here nothing waits for it.
              contextOptions: { reducedMotion: 'reduce', viewport: { width: 1280, height: 800 } },
            }),
            instances: [{ browser: 'chromium', viewport: { width: 1280, height: 800 } }],
          },
        },
      },
    ],
  },
  build: { outDir: '../nervykite/server/page', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
})
