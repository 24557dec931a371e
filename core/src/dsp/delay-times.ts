import { LEAST_DELAY } from './delay-line'
import { poleFor } from './math'

const NOW = 0,
  FROM = 1,
  FADE = 2,
  GLIDED = 3

/**
 * The delay time of each sample as a processor should read it: the requested time, gliding where it was
 * edited (varispeed, which bends pitch), or constant and crossfading from one time to the next.
 */
export class DelayTimes {
  /** Present time, the one that fades, frames left of the fade, and the glided time. */
  private readonly state = new Float64Array(4)
  private readonly fadeFrames: number
  private readonly glide: number

  /** @param times, old get the times of a block, and those that fade @param longest in samples */
  constructor(
    readonly times: Float64Array,
    readonly old: Float64Array,
    private readonly longest: number,
    sampleRate: number,
  ) {
    this.weights = new Float64Array(times.length)
    this.fadeFrames = Math.round(0.03 * sampleRate)
    this.glide = 1 - poleFor(0.04, sampleRate)
  }

  reset(): void {
    this.state.fill(0)
    this.isFading = false
  }

  /** Whether a fade is under way in this block, and the weight of what fades at each sample. */
  isFading = false
  readonly weights: Float64Array

  /**
   * Works out a block.
   * @param asked times, `scale` samples each @param constant whether they stand still @param crossfade fades
   *   instead of gliding
   * @param less samples by which all times are shorter, since something else takes as long
   * @returns the least time of the block
   */
  follow(asked: Float64Array, constant: boolean, scale: number, crossfade: boolean, less: number): number {
    const { state, times, old, longest, glide } = this
    const first = this.clamp(asked[0] * scale)
    if (state[NOW] === 0) state[GLIDED] = state[NOW] = first
    // A constant time that differs from what is heard was edited; varispeed glides there on its own, slower
    // than the gauge.
    const edited = !crossfade && constant && state[GLIDED] !== first
    let glided = state[GLIDED]
    for (let i = 0; i < times.length; i++) {
      let wanted = Math.min(longest, Math.max(LEAST_DELAY, asked[i] * scale))
      if (edited) {
        glided += glide * (wanted - glided)
        if (glided - wanted < 1e-6 && wanted - glided < 1e-6) glided = wanted
        wanted = glided
      }
      times[i] = wanted
    }
    if (crossfade) {
      const wanted = times[times.length - 1]
      if (state[FADE] === 0 && (wanted - state[NOW] > 0.5 || state[NOW] - wanted > 0.5)) {
        state[FROM] = state[NOW]
        state[NOW] = wanted
        state[FADE] = this.fadeFrames
      }
      if (state[FADE] > 0) old.fill(Math.max(LEAST_DELAY, state[FROM] - less))
      times.fill(state[NOW])
      state[GLIDED] = state[NOW]
    } else {
      state[GLIDED] = state[NOW] = times[times.length - 1]
      state[FADE] = 0
    }
    this.isFading = state[FADE] > 0
    if (this.isFading)
      for (let i = 0; i < times.length; i++) this.weights[i] = Math.max(0, state[FADE]--) / this.fadeFrames
    if (state[FADE] < 0) state[FADE] = 0
    let least = this.isFading ? old[0] : Infinity
    for (let i = 0; i < times.length; i++) {
      if (less > 0) times[i] = Math.max(LEAST_DELAY, times[i] - less)
      if (times[i] < least) least = times[i]
    }
    return least
  }

  private clamp(t: number): number {
    return Math.min(this.longest, Math.max(LEAST_DELAY, t))
  }
}
