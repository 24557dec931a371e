import { FRACTION } from '../dsp/fraction'
import { exp, fromDb, poleFor } from '../dsp/math'
import { BLOCK, type StereoBlock } from '../contract/block'

const CEILING = fromDb(-0.3)
/** Its latency in samples. */
export const LOOK_AHEAD = 64

/**
 * The safety limiter of the monitor stage: sample peaks never pass −0.3 dBFS. Look-ahead of 64 samples. Works
 * in place. Its `gain` can be read to see it work. Never part of a render.
 */
export class SafetyLimiter {
  /** Lowest gain of the last block, linear. */
  gain = FRACTION
  private readonly ringL = new Float32Array(LOOK_AHEAD)
  private readonly ringR = new Float32Array(LOOK_AHEAD)
  private head = 0
  private now = FRACTION
  private held = 0
  private target = FRACTION
  private readonly release: number
  private readonly attack = 1 - exp(-6 / LOOK_AHEAD)

  constructor(sampleRate: number) {
    this.release = 1 - poleFor(0.08, sampleRate)
    this.reset()
  }

  reset(): void {
    this.ringL.fill(0)
    this.ringR.fill(0)
    this.now = this.target = this.gain = 1
    this.held = 0
  }

  process({ left, right }: StereoBlock): void {
    const { ringL, ringR, attack, release } = this
    let { head, now, held, target } = this
    let lowest = 1
    for (let i = 0; i < BLOCK; i++) {
      let l = left[i]
      let r = right[i]
      if (!(l - l === 0)) l = 0
      if (!(r - r === 0)) r = 0
      const a = l < 0 ? -l : l
      const b = r < 0 ? -r : r
      const peak = a > b ? a : b
      const wanted = CEILING / Math.max(CEILING, peak)
      if (wanted <= target) {
        target = wanted
        held = LOOK_AHEAD
      } else if (held > 0) held--
      else target += release * (1 - target)
      now += (target < now ? attack : release) * (target - now)
      const outL = ringL[head]
      const outR = ringR[head]
      ringL[head] = l
      ringR[head] = r
      head = (head + 1) % LOOK_AHEAD
      const g = now
      const x = outL * g
      const y = outR * g
      left[i] = Math.min(CEILING, Math.max(-CEILING, x))
      right[i] = Math.min(CEILING, Math.max(-CEILING, y))
      lowest = Math.min(lowest, g)
    }
    this.head = head
    this.now = now
    this.held = held
    this.target = target
    this.gain = lowest
  }
}
