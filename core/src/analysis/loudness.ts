import { FRACTION } from '../dsp/fraction'
import { fromDb, pow, tanPi, toDb } from '../dsp/math'

/** Second-order filter in transposed direct form II, for one channel. */
class Biquad {
  private s1 = FRACTION
  private s2 = FRACTION
  constructor(private readonly b0: number, private readonly b1: number, private readonly b2: number, private readonly a1: number, private readonly a2: number) {}
  reset(): void { this.s1 = this.s2 = 0 }
  process(x: number): number {
    const y = this.b0 * x + this.s1
    this.s1 = this.b1 * x - this.a1 * y + this.s2
    this.s2 = this.b2 * x - this.a2 * y
    return y
  }
}

/** K-weighting of ITU-R BS.1770-4, its two filters remade for any sample rate from their analogue parameters. */
function kWeighting(sampleRate: number): [Biquad, Biquad] {
  const shelfK = tanPi(1681.974450955533 / sampleRate)
  const vh = fromDb(3.999843853973347)
  const vb = pow(vh, 0.4996667741545416)
  const q = 0.7071752369554196
  const a0 = 1 + shelfK / q + shelfK * shelfK
  const shelf = new Biquad((vh + vb * shelfK / q + shelfK * shelfK) / a0, 2 * (shelfK * shelfK - vh) / a0, (vh - vb * shelfK / q + shelfK * shelfK) / a0,
    2 * (shelfK * shelfK - 1) / a0, (1 - shelfK / q + shelfK * shelfK) / a0)
  const k = tanPi(38.13547087602444 / sampleRate)
  const qh = 0.5003270373238773
  const h0 = 1 + k / qh + k * k
  return [shelf, new Biquad(1, -2, 1, 2 * (k * k - 1) / h0, (1 - k / qh + k * k) / h0)]
}

const loudnessOf = (meanSquare: number): number => (meanSquare > 1e-12 ? -0.691 + toDb(meanSquare) / 2 : -120)

/** Absolute gate of BS.1770 in LUFS, and how far below the ungated loudness the relative gate lies. */
const ABSOLUTE_GATE = -70
const RELATIVE_GATE = 10
const STEP_SECONDS = 0.1
const SHORT_STEPS = 30
/** Windows are gathered by loudness in tenths of a LU from the absolute gate up. */
const BINS = 1000

/**
 * Loudness by ITU-R BS.1770-4 and EBU Tech 3341, as it goes: momentary (400 ms), short-term (3 s), integrated with both
 * gates. Stereo; feed blocks of any length. Values in LUFS, −120 for silence. Allocates nothing after it is made, and
 * needs no more for an hour than for a minute.
 */
export class LoudnessMeter {
  private readonly left: [Biquad, Biquad]
  private readonly right: [Biquad, Biquad]
  private readonly stepFrames: number
  /** Mean squares of the last 100 ms steps; power and number of the 400 ms windows in each bin since the reset. */
  private readonly steps = new Float64Array(SHORT_STEPS)
  private readonly binPower = new Float64Array(BINS)
  private readonly binCount = new Float64Array(BINS)
  private stepCount = 0
  private energy = FRACTION
  private filled = 0

  constructor(sampleRate: number) {
    this.left = kWeighting(sampleRate)
    this.right = kWeighting(sampleRate)
    this.stepFrames = Math.round(STEP_SECONDS * sampleRate)
  }

  reset(): void {
    for (const b of this.left) b.reset()
    for (const b of this.right) b.reset()
    this.steps.fill(0)
    this.binPower.fill(0)
    this.binCount.fill(0)
    this.stepCount = this.energy = this.filled = 0
  }

  process(left: Float32Array, right: Float32Array): void {
    const [l1, l2] = this.left
    const [r1, r2] = this.right
    for (let i = 0; i < left.length; i++) {
      const l = l2.process(l1.process(left[i]))
      const r = r2.process(r1.process(right[i]))
      this.energy += l * l + r * r
      if (++this.filled === this.stepFrames) this.endStep()
    }
  }

  get momentary(): number { return loudnessOf(this.mean(4)) }
  get shortTerm(): number { return loudnessOf(this.mean(SHORT_STEPS)) }

  /** Gated loudness of all since the reset. */
  get integrated(): number {
    const ungated = this.gated(0)
    return ungated <= ABSOLUTE_GATE ? -120 : this.gated(Math.ceil((ungated - RELATIVE_GATE - ABSOLUTE_GATE) * 10))
  }

  private gated(fromBin: number): number {
    let sum = 0
    let n = 0
    for (let i = Math.max(0, fromBin); i < BINS; i++) {
      sum += this.binPower[i]
      n += this.binCount[i]
    }
    return n ? loudnessOf(sum / n) : -120
  }

  private endStep(): void {
    this.steps[this.stepCount % SHORT_STEPS] = this.energy / this.stepFrames
    this.stepCount++
    this.energy = this.filled = 0
    if (this.stepCount < 4) return
    const power = this.mean(4)
    const bin = Math.floor((loudnessOf(power) - ABSOLUTE_GATE) * 10)
    if (bin < 0) return
    const i = Math.min(bin, BINS - 1)
    this.binPower[i] += power
    this.binCount[i]++
  }

  private mean(count: number): number {
    const n = Math.min(count, this.stepCount)
    let sum = 0
    for (let i = 1; i <= n; i++) sum += this.steps[(this.stepCount - i) % SHORT_STEPS]
    return n ? sum / n : 0
  }
}
