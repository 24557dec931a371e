import { FRACTION } from './fraction'
import { fromDb, pow, tanPi, toDb } from './math'

/**
 * K-weighting of ITU-R BS.1770-4, its two filters remade for any sample rate from their analogue parameters:
 * b0, b1, b2, a1, a2 of both.
 */
function kWeighting(sampleRate: number): Float64Array {
  const shelfK = tanPi(1681.974450955533 / sampleRate)
  const vh = fromDb(3.999843853973347)
  const vb = pow(vh, 0.4996667741545416)
  const q = 0.7071752369554196
  const a0 = 1 + shelfK / q + shelfK * shelfK
  const k = tanPi(38.13547087602444 / sampleRate)
  const qh = 0.5003270373238773
  const h0 = 1 + k / qh + k * k
  return new Float64Array([
    (vh + (vb * shelfK) / q + shelfK * shelfK) / a0,
    (2 * (shelfK * shelfK - vh)) / a0,
    (vh - (vb * shelfK) / q + shelfK * shelfK) / a0,
    (2 * (shelfK * shelfK - 1)) / a0,
    (1 - shelfK / q + shelfK * shelfK) / a0,
    1,
    -2,
    1,
    (2 * (k * k - 1)) / h0,
    (1 - k / qh + k * k) / h0,
  ])
}

/**
 * Adds up what is left of a stretch of one side after weighting it, squared. Both filters in transposed
 * direct form II; `state` holds theirs.
 */
function energyOf(x: Float32Array, from: number, to: number, c: Float64Array, state: Float64Array): number {
  const b0 = c[0],
    b1 = c[1],
    b2 = c[2],
    a1 = c[3],
    a2 = c[4],
    e0 = c[5],
    e1 = c[6],
    e2 = c[7],
    d1 = c[8],
    d2 = c[9]
  let s1 = state[0],
    s2 = state[1],
    t1 = state[2],
    t2 = state[3]
  let energy = 0
  for (let i = from; i < to; i++) {
    const v = x[i]
    const y = b0 * v + s1
    s1 = b1 * v - a1 * y + s2
    s2 = b2 * v - a2 * y
    const z = e0 * y + t1
    t1 = e1 * y - d1 * z + t2
    t2 = e2 * y - d2 * z
    energy += z * z
  }
  state[0] = settled(s1)
  state[1] = settled(s2)
  state[2] = settled(t1)
  state[3] = settled(t2)
  return energy
}

/** Nothing in place of numbers so small that they are slow to reckon with. */
const settled = (x: number): number => (x < 1e-20 && x > -1e-20 ? 0 : x)

const loudnessOf = (meanSquare: number): number => (meanSquare > 1e-12 ? -0.691 + toDb(meanSquare) / 2 : -120)

/** Absolute gate of BS.1770 in LUFS, and how far below the ungated loudness the relative gate lies. */
const ABSOLUTE_GATE = -70
const RELATIVE_GATE = 10
const STEP_SECONDS = 0.1
const SHORT_STEPS = 30
/** Windows are gathered by loudness in tenths of a LU from the absolute gate up. */
const BINS = 1000

/**
 * Loudness by ITU-R BS.1770-4 and EBU Tech 3341, as it goes: momentary (400 ms), short-term (3 s), integrated
 * with both gates. Stereo; feed blocks of any length. Values in LUFS, −120 for silence. Allocates nothing
 * after it is made, and needs as much memory for an hour as for a minute.
 */
export class LoudnessMeter {
  /** Loudness of the last 400 ms and of the last 3 s, at the end of the last step. */
  momentary = FRACTION
  shortTerm = FRACTION
  private readonly weighting: Float64Array
  private readonly left = new Float64Array(4)
  private readonly right = new Float64Array(4)
  private readonly stepFrames: number
  /**
   * Mean squares of the last 100 ms steps; power and number of the 400 ms windows in each bin since the
   * reset.
   */
  private readonly steps = new Float64Array(SHORT_STEPS)
  private readonly binPower = new Float64Array(BINS)
  private readonly binCount = new Float64Array(BINS)
  private stepCount = 0
  private energy = FRACTION
  private filled = 0

  constructor(sampleRate: number) {
    this.weighting = kWeighting(sampleRate)
    this.stepFrames = Math.round(STEP_SECONDS * sampleRate)
    this.reset()
  }

  reset(): void {
    this.left.fill(0)
    this.right.fill(0)
    this.steps.fill(0)
    this.binPower.fill(0)
    this.binCount.fill(0)
    this.stepCount = this.energy = this.filled = 0
    this.momentary = this.shortTerm = -120
  }

  process(left: Float32Array, right: Float32Array): void {
    const { weighting, stepFrames } = this
    for (let at = 0; at < left.length;) {
      const end = Math.min(left.length, at + stepFrames - this.filled)
      this.energy +=
        energyOf(left, at, end, weighting, this.left) + energyOf(right, at, end, weighting, this.right)
      this.filled += end - at
      at = end
      if (this.filled === stepFrames) this.endStep()
    }
  }

  /** Gated loudness of all since the reset. */
  get integrated(): number {
    const ungated = this.gated(0)
    return ungated <= ABSOLUTE_GATE
      ? -120
      : this.gated(Math.ceil((ungated - RELATIVE_GATE - ABSOLUTE_GATE) * 10))
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
    const power = this.mean(4)
    this.momentary = loudnessOf(power)
    this.shortTerm = loudnessOf(this.mean(SHORT_STEPS))
    if (this.stepCount < 4) return
    const bin = Math.floor((this.momentary - ABSOLUTE_GATE) * 10)
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
