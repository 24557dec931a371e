import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildSync } from 'esbuild'
import { afterAll, describe, expect, it } from 'vitest'

const folder = mkdtempSync(join(tmpdir(), 'oleaje-shapes-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('what plays', () => {
  it('keeps the shapes of its objects whatever is done to it, so that compiled code stays good', () => {
    const out = join(folder, 'probe.mjs')
    buildSync({
      entryPoints: [join(import.meta.dirname, 'shapes-probe.ts')],
      bundle: true,
      format: 'esm',
      platform: 'node',
      outfile: out,
      alias: { '@oleaje/core': join(import.meta.dirname, '../src') },
    })
    const text = execFileSync(process.execPath, ['--trace-generalization', '--no-sparkplug', out], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    })
    const [before = '', during = '', after] = text.split(/\n(?:FROM|TO) HERE\n/)
    expect(after).toBeDefined()
    const changes = (part: string): string[] =>
      [...part.matchAll(/\[generalizing\](\w+):s\{[^\]]*?->d\{.*?\[([^\]]*?) at /g)].map(
        (m) => `${m[1] ?? ''} in ${m[2] ?? ''}`,
      )
    // shapes do change at first, and are seen to
    expect(changes(before).length).toBeGreaterThan(3)
    expect(changes(during)).toEqual([])
  })
})
