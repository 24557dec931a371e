import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * ns a sample of the kernels in kernels.c, by the names of those in in-page.ts, compiled by the compiler of
 * this machine; empty where there is none.
 */
export function cKernels(source: string): Map<string, number> {
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-bench-'))
  try {
    const program = join(folder, 'kernels')
    execFileSync('cc', ['-O3', '-march=native', '-o', program, source, '-lm'], { stdio: 'ignore' })
    const lines = execFileSync(program, { encoding: 'utf8' }).trim().split('\n')
    return new Map(
      lines.map((line) => {
        const [name, ns] = line.split('\t')
        return [name ?? '', Number(ns)]
      }),
    )
  } catch {
    return new Map()
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
