import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * ns a sample of the kernels in a C program, by the names of those in in-page.ts, compiled by the compiler of
 * this machine; empty where there is none.
 */
export const cKernels = (source: string): Map<string, number> =>
  new Map(
    (withProgram(source, (run) => run([])) ?? []).map((line) => {
      const [name, ns] = line.split('\t')
      return [name ?? '', Number(ns)]
    }),
  )

/** The whole chain in C: ns a frame in each round, and its last samples of the left side. */
export interface WholeChainInC {
  round(): number
  readonly last: Float64Array
}

const LAST = 4096

/**
 * Works on the whole chain in C. @param input two sides of noise @returns null where there is no compiler
 */
export function withWholeChain<T>(
  source: string,
  input: readonly Float32Array[],
  work: (chain: WholeChainInC) => Promise<T>,
): Promise<T> | null {
  return withProgram(source, (run, folder) => {
    const file = join(folder, 'input')
    writeFileSync(file, Buffer.concat(input.map((side) => new Uint8Array(side.buffer))))
    const frames = String(input[0]?.length ?? 0)
    const [, ...last] = run([file, frames, '1', String(LAST)])
    return work({
      round: () => Number(run([file, frames, '1', '0'])[0]),
      last: Float64Array.from(last, Number),
    })
  })
}

function withProgram<T>(
  source: string,
  work: (run: (args: string[]) => string[], folder: string) => T,
): T | null {
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-bench-'))
  try {
    const program = join(folder, 'program')
    try {
      execFileSync('cc', ['-O3', '-march=native', '-o', program, source, '-lm'], { stdio: 'ignore' })
    } catch {
      return null
    }
    return work((args) => execFileSync(program, args, { encoding: 'utf8' }).trim().split('\n'), folder)
  } finally {
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }))
  }
}
