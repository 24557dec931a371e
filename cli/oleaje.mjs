#!/usr/bin/env node
process.argv.splice(2, 0, 'cli/src/main.ts')
await import('../scripts/run-ts.mjs')
