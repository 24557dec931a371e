import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildSync } from 'esbuild'
import { afterAll, describe, expect, it } from 'vitest'

/** Bytes a block. */
const MOST = 128 * 16
const folder = mkdtempSync(join(tmpdir(), 'oleaje-heap-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('the block loop', () => {
  const out = join(folder, 'probe.mjs')
  buildSync({
    entryPoints: [join(import.meta.dirname, 'heap-probe.ts')],
    bundle: true,
    format: 'esm',
    platform: 'node',
    outfile: out,
    alias: { '@oleaje/core': join(import.meta.dirname, '../src') },
  })
  const probe = (): Record<string, number> =>
    JSON.parse(execFileSync(process.execPath, ['--expose-gc', out], { encoding: 'utf8' })) as Record<
      string,
      number
    >
  const found = probe()
  // how well code is compiled hangs on what else the machine does; what the loop itself makes is made in
  // every process
  if (Object.values(found).some((bytes) => bytes / 1000 >= MOST))
    for (const [name, bytes] of Object.entries(probe()))
      found[name] = Math.min(bytes, found[name] ?? Infinity)
  // V8 boxes a number (16 bytes) where it goes into or out of a function too large to be inlined: some a
  // block are the compiler's, and differ with what it has seen before. Anything the loop itself makes once a
  // frame is more than this.
  it.each(Object.entries(found))('%s makes no garbage', (_, bytes) => expect(bytes / 1000).toBeLessThan(MOST))
})
