import { FRACTION } from '../dsp/fraction'
import { BLOCK } from '../contract/block'
import type { EffectWork } from './effect-work'

/** Output below this (−120 dBFS) is inaudible. */
const INAUDIBLE = 1e-6
/** Blocks of silence before an effect is asked whether it may sleep, and between two looks at its tail. */
const PATIENT_BLOCKS = 96
const LOOK_BLOCKS = 32

/**
 * Has an effect sleep once its input is silent and nothing audible is left in it: by the word of its
 * processor, or else when its tail by the values of this silence has passed.
 */
export class EffectSleep {
  isAsleep = false
  /** Frames that it has slept. */
  slept = 0
  /** Frames for which its input has been silent, and in which what was left in it has become inaudible. */
  private silentFor = 0
  private tailFrames = 0
  /** Largest sample since the last examination. */
  private loudest = FRACTION

  constructor(
    private readonly work: EffectWork,
    private readonly latency: number,
    private readonly sampleRate: number,
  ) {}

  wake(): void {
    this.isAsleep = false
    this.slept = this.silentFor = this.tailFrames = 0
  }

  /** After a block of silent input. @param peak of what it gave */
  look(peak: number): void {
    const { definition, processor } = this.work
    this.silentFor += BLOCK
    const blocks = this.silentFor / BLOCK
    this.loudest = Math.max(this.loudest, peak)
    if (definition.generates || blocks % LOOK_BLOCKS !== 0) return
    const heard = this.loudest > INAUDIBLE
    this.loudest = 0
    if (heard || blocks < PATIENT_BLOCKS) return
    if (processor.isQuiet) {
      if (!processor.isQuiet()) return
    } else {
      this.tailFrames = Math.max(this.tailFrames, this.work.tailNow() * this.sampleRate + 2 * this.latency)
      if (this.silentFor < this.tailFrames) return
    }
    this.isAsleep = true
    processor.sleep?.()
  }
}
