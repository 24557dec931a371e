import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'
import { coreModules } from './scripts/core-modules.mjs'
import { ensurePrepared } from './scripts/prepared.mjs'

// the app's TypeScript configuration is made by its framework
ensurePrepared()

/** Tests that measure the heap, inspect compiled code or reload modules. Each runs in a fresh thread. */
const own = [
  'core/test/heap.test.ts',
  'core/test/shapes.test.ts',
  'core/test/simd.test.ts',
  'core/test/faults.test.ts',
]
const sources = { '@oleaje/core': fileURLToPath(new URL('./core/src', import.meta.url)) }
// built once for a run; while files are watched, the sources themselves are loaded
const core = process.argv.includes('run') ? { '@oleaje/core': coreModules() } : sources

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        resolve: { alias: core },
        test: {
          name: 'core',
          include: ['core/test/**/*.test.ts', 'demo/test/**/*.test.ts', 'cli/test/**/*.test.ts'],
          exclude: own,
          testTimeout: 60_000,
          pool: 'threads',
          // core has no state of its own: its modules are loaded and compiled once for all files of a thread
          isolate: false,
        },
      },
      {
        resolve: { alias: sources },
        test: {
          name: 'app',
          include: ['app/test/**/*.test.ts', 'server/test/**/*.test.ts', ...own],
          testTimeout: 60_000,
          pool: 'threads',
        },
      },
    ],
  },
})
