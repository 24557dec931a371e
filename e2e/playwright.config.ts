import { defineConfig } from '@playwright/test'
import { findChromium, flags } from '../scripts/chromium.mjs'

/** The server is started by scripts/test.mjs, which gives its address. */
export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  timeout: 90_000,
  expect: { timeout: 20_000 },
  retries: 0,
  // two cores: those that need the machine to themselves are run after the others, one at a time
  workers: Number(process.env.OLEAJE_WORKERS ?? 2),
  reporter: [['list'], ['json', { outputFile: process.env.OLEAJE_REPORT ?? '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: {
    actionTimeout: Number(process.env.OLEAJE_ACTION ?? 0),
    baseURL: process.env.OLEAJE_URL ?? 'http://127.0.0.1:4620',
    // what works offline is tried by e2e/offline.spec.ts; elsewhere it would load the whole app a second time
    serviceWorkers: 'block',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: findChromium(),
      args: [...flags, '--use-fake-ui-for-media-stream', '--use-fake-device-for-media-stream'],
      ignoreDefaultArgs: ['--headless', '--mute-audio'],
    },
    permissions: ['microphone'],
  },
})
