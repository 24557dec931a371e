import { type StereoBlock, stereoBlock } from '../contract/block'
import { HowlGuard } from './howl-guard'
import { SafetyLimiter } from './limiter'

/** From the mix to the output: a limiter, and a guard against howling live inputs. */
export class MonitorOutput {
  /** Armed: a live input is monitored. */
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

  /** A block, in place. @param input the live input of the block */
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
