import { type StereoBlock, stereoBlock } from '../contract/block'
import { HowlGuard } from './howl-guard'
import { SafetyLimiter } from './limiter'

/** The way from the mix to what is heard: a limiter, and a guard against howls of a live input. */
export class MonitorOutput {
  /** Armed: a live input is heard. */
  armed = false
  private readonly out: { left: Float32Array; right: Float32Array } = stereoBlock()
  private readonly howl = new HowlGuard()
  private readonly limiter: SafetyLimiter

  constructor(
    sampleRate: number,
    private readonly onHowl: (() => void) | undefined,
  ) {
    this.limiter = new SafetyLimiter(sampleRate)
  }

  /** Gain of the limiter. */
  get gain(): number {
    return this.limiter.gain
  }

  arm(armed: boolean): void {
    this.armed = armed
    this.howl.reset()
  }

  reset(): void {
    this.limiter.reset()
  }

  /** A block, in place. @param input what came in live with it */
  process(left: Float32Array, right: Float32Array, input: StereoBlock): void {
    const { out, howl } = this
    out.left = left
    out.right = right
    if (this.armed) {
      const { trips } = howl
      howl.process(input, out)
      if (howl.trips !== trips) this.onHowl?.()
    }
    this.limiter.process(out)
  }
}
