import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildSync } from 'esbuild'
import { afterAll, describe, expect, it } from 'vitest'

const folder = mkdtempSync(join(tmpdir(), 'oleaje-heap-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('the block loop', () => {
  const out = join(folder, 'probe.mjs')
  buildSync({ entryPoints: [join(import.meta.dirname, 'heap-probe.ts')], bundle: true, format: 'esm', platform: 'node', outfile: out, alias: { '@oleaje/core': join(import.meta.dirname, '../src') } })
  const found = JSON.parse(execFileSync(process.execPath, ['--expose-gc', out], { encoding: 'utf8' })) as Record<string, number>
  // V8 boxes a number (16 bytes) where it goes into or out of a function too large to be inlined: some a block are the
  // compiler's, and differ with what it has seen before. Anything the loop itself makes once a frame is more than this.
  it.each(Object.entries(found))('%s makes no garbage', (_, bytes) => expect(bytes / 1000).toBeLessThan(128 * 16))
})
