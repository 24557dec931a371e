import { withWholeChain } from './c-programs'
import { RATE } from './rig'
import { benchNoise } from './whole-chain'

/** × real time of the whole chain in the browser's graph, in ours and in C: medians of rounds in turn. */
export interface WholeChains {
  readonly rounds: number
  readonly graph: number
  readonly ours: number
  /** Ours to the graph's. */
  readonly ratio: number
  /** Null without a compiler; `ratio` is C's to ours, `apart` the RMS of the difference in dB of it. */
  readonly c: { readonly factor: number; readonly ratio: number; readonly apart: number } | null
}

const SECONDS = 6
const ROUNDS = 15
const LAST = 4096

/**
 * Runs all three by turns, and takes medians of the ratios too: a slow moment of the machine then falls on
 * neighbours, and no single lucky round decides. The first round warms up.
 * @param round of the graph and of ours @param last samples of ours
 */
export async function compareWholeChains(
  source: string,
  round: () => Promise<{ graph: number; ours: number }>,
  last: (samples: number) => Promise<number[]>,
): Promise<WholeChains> {
  await round()
  const measured = async (inC: (() => number) | null) => {
    const rounds: { graph: number; ours: number; c: number }[] = []
    for (let i = 0; i < ROUNDS; i++) rounds.push({ ...(await round()), c: inC ? 1e9 / RATE / inC() : NaN })
    const median = (of: (r: (typeof rounds)[number]) => number): number =>
      rounds.map(of).sort((a, b) => a - b)[ROUNDS >> 1] ?? NaN
    return {
      rounds: ROUNDS,
      graph: median((r) => r.graph),
      ours: median((r) => r.ours),
      ratio: median((r) => r.ours / r.graph),
      c: inC ? { factor: median((r) => r.c), ratio: median((r) => r.c / r.ours), apart: NaN } : null,
    }
  }
  const own = await last(LAST)
  const found = await withWholeChain(source, benchNoise(SECONDS), async (chain) => {
    const chains = await measured(() => chain.round())
    return { ...chains, c: chains.c && { ...chains.c, apart: apart(own, chain.last) } }
  })
  return found ?? measured(null)
}

/** RMS of the difference of two sounds, in dB of that of the first. */
function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let whole = 0
  let rest = 0
  for (let i = 0; i < a.length; i++) {
    const x = a[i] ?? 0
    whole += x * x
    rest += (x - (b[i] ?? 0)) ** 2
  }
  return 10 * Math.log10(rest / whole)
}
