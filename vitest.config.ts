import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '@oleaje/core': fileURLToPath(new URL('./core/src', import.meta.url)) } },
  test: {
    include: [
      'core/test/**/*.test.ts',
      'app/test/**/*.test.ts',
      'demo/test/**/*.test.ts',
      'cli/test/**/*.test.ts',
      'server/test/**/*.test.ts',
    ],
    testTimeout: 60_000,
    pool: 'threads',
    maxWorkers: 2,
  },
})
