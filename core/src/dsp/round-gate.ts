import { FRACTION } from './fraction'
import { poleFor } from './math'

// places of `state` of the gate
const COUNT = 0,
  LOUD_IN = 1,
  LOUD_BACK = 2,
  PASS = 3,
  PASS_R = 4

/** Counts how often what is in the line has gone round, and lets nothing round oftener than asked for. */
export class RoundGate {
  /** Most repeats, 0 for as many as there are; what of the delay lies outside the line, in samples. */
  most = 0
  ago = FRACTION
  /** Rounds in steps of eight samples, as far back as the line goes: a power of two. */
  private readonly rounds: Uint8Array
  private readonly state = new Float64Array(5)
  private readonly passing: number
  private readonly falling: number
  /** How much further it looks as well, so that it has closed when the sound comes. */
  private readonly ahead: number

  constructor(longest: number, sampleRate: number) {
    this.rounds = new Uint8Array((longest >> 3) + 1)
    this.passing = 1 - poleFor(0.002, sampleRate)
    this.falling = poleFor(0.02, sampleRate)
    this.ahead = Math.round(0.012 * sampleRate)
  }

  reset(): void {
    this.rounds.fill(0)
    this.state.fill(0)
  }

  /**
   * Frames `start` to `end`: what comes round is let through or not, in place.
   * @param input what enters @param left times of a round in samples @param right those of the right side,
   *   where it has its own
   */
  process(
    { backL, backR }: { readonly backL: Float64Array; readonly backR: Float64Array },
    [inL, inR]: readonly [Float64Array, Float64Array],
    left: Float64Array,
    right: Float64Array | null,
    start: number,
    end: number,
  ): void {
    const { rounds, state, most, ago, passing, falling, ahead } = this
    if (most === 0) {
      state[COUNT] += end - start
      state[PASS] = state[PASS_R] = 1
      return
    }
    const mask = rounds.length - 1
    let count = state[COUNT]
    let loudIn = state[LOUD_IN]
    let loudBack = state[LOUD_BACK]
    let pass = state[PASS]
    let passR = state[PASS_R]
    for (let i = start; i < end; i++) {
      // whichever is louder of what comes in and what comes round says how often this has gone round
      const x = Math.abs(inL[i]) + Math.abs(inR[i])
      const y = Math.abs(backL[i]) + Math.abs(backR[i])
      loudIn = x > loudIn ? x : loudIn * falling
      loudBack = y > loudBack ? y : loudBack * falling
      const at = count - Math.round(left[i] + ago)
      const gone = Math.max(rounds[(at >> 3) & mask], rounds[(Math.min(count, at + ahead) >> 3) & mask])
      let goneR = gone
      if (right) {
        const atR = count - Math.round(right[i] + ago)
        goneR = Math.max(rounds[(atR >> 3) & mask], rounds[(Math.min(count, atR + ahead) >> 3) & mask])
      }
      pass += passing * ((gone + 1 < most ? 1 : 0) - pass)
      passR += passing * ((goneR + 1 < most ? 1 : 0) - passR)
      rounds[(count >> 3) & mask] = loudIn >= loudBack ? 0 : Math.min(200, Math.max(gone, goneR) + 1)
      backL[i] *= pass
      backR[i] *= passR
      count++
    }
    state[COUNT] = count
    state[LOUD_IN] = loudIn
    state[LOUD_BACK] = loudBack
    state[PASS] = pass
    state[PASS_R] = passR
  }
}
