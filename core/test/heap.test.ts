import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildSync } from 'esbuild'
import { afterAll, describe, expect, it } from 'vitest'

/** Bytes a block. */
const MOST = 128 * 16
/** Processes in which what is above that is measured again. */
const PROCESSES = 6
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
  const probe = (...names: string[]): Record<string, number> =>
    JSON.parse(
      execFileSync(process.execPath, ['--expose-gc', out, ...names], { encoding: 'utf8' }),
    ) as Record<string, number>
  const found = probe()
  // each process decides differently which functions it inlines; what the loop itself
  // allocates is allocated in every process
  for (let again = 0; again < PROCESSES; again++) {
    const above = Object.keys(found).filter((name) => (found[name] ?? 0) / 1000 >= MOST)
    if (above.length === 0) break
    for (const [name, bytes] of Object.entries(probe(...above)))
      found[name] = Math.min(bytes, found[name] ?? Infinity)
  }
  // V8 boxes a number (16 bytes) where it goes into or out of a function too large to be inlined: some a
  // block are the compiler's, and differ with what it has seen before. Anything the loop itself makes once a
  // frame is more than this.
  it.each(Object.entries(found))('%s makes no garbage', (_, bytes) => expect(bytes / 1000).toBeLessThan(MOST))
})
