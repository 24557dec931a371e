import { FRACTION } from './fraction'
import { exp2 } from './math'

const REST = 0
const ATTACK = 1
const DECAY = 2
const SUSTAIN = 3
const RELEASE = 4
const CUT = 5

/** How far a bend of 1 is from straight: the first half of the way in a ninth of the time. */
const STEEPEST = 6

/**
 * Amplitude of one voice: attack, decay, sustain and release in frames, each along a curve that begins fast
 * (1), straight (0) or slowly (−1). It always goes on from where it is, so that nothing clicks.
 */
export class VoiceEnvelope {
  level = FRACTION
  private stage = REST
  private start = FRACTION
  private target = FRACTION
  /** 2^(−bend · way) now, what it is multiplied by in each frame, and what a whole way takes. */
  private power = FRACTION
  private factor = FRACTION
  private span = FRACTION
  private left = 0
  private length = 1
  private decay = 1
  private bend = FRACTION
  /** Where it holds, and where it decays to. */
  sustain = FRACTION

  constructor() {
    this.reset()
  }

  get isOn(): boolean {
    return this.stage !== REST
  }
  /** Whether it neither is being let go nor has ended. */
  get isHeld(): boolean {
    return this.stage > REST && this.stage < RELEASE
  }
  get isCut(): boolean {
    return this.stage === CUT
  }

  begin(attack: number, decay: number, bend: number): void {
    this.decay = decay
    this.bend = bend
    this.go(ATTACK, 1, attack)
  }

  release(frames: number): void {
    if (this.isHeld) this.go(RELEASE, 0, frames)
  }

  /** Ends it soon, whatever it does. */
  cut(frames: number): void {
    if (this.stage !== REST && this.stage !== CUT) this.go(CUT, 0, frames)
  }

  reset(): void {
    this.stage = REST
    this.level = this.start = this.target = this.bend = this.sustain = this.span = 0
    this.power = this.factor = 1
    this.left = 0
  }

  next(): number {
    if (this.left > 0) {
      this.left--
      if (this.left === 0) this.arrive()
      else if (this.span === 0)
        this.level = this.start + (this.target - this.start) * (1 - this.left / this.length)
      else {
        this.power *= this.factor
        this.level = this.start + ((this.target - this.start) * (this.power - 1)) / this.span
      }
    } else if (this.stage === SUSTAIN) this.level = this.sustain
    return this.level
  }

  private arrive(): void {
    this.level = this.target
    if (this.stage === ATTACK) this.go(DECAY, this.sustain, this.decay)
    else if (this.stage === DECAY) this.stage = SUSTAIN
    else this.stage = REST
  }

  private go(stage: number, target: number, frames: number): void {
    this.stage = stage
    this.start = this.level
    this.target = target
    this.length = Math.max(1, Math.round(frames))
    this.left = this.length
    const c = -STEEPEST * this.bend
    this.power = 1
    this.span = c > -0.01 && c < 0.01 ? 0 : exp2(c) - 1
    this.factor = exp2(c / this.length)
  }
}
