import { FRACTION } from './fraction'
import { onePoleWeight } from './one-pole'

/** Samples that are averaged into one before pitch is looked for. */
const THIN = 4
/** Window over which likeness is measured, and the longest period looked for, in thinned samples. */
const WINDOW = 512
const LONGEST = 200
const SHORTEST = 9
/** Thinned samples between two measurements. */
const HOP = 64

/**
 * Pitch of a monophonic sound by the normalised square difference function (McLeod & Wyvill, "A smarter way
 * to find pitch", ICMC 2005), at a quarter of the rate, from about 60 Hz to 1.2 kHz. Gives frequency in Hz
 * and clarity 0…1.
 */
export class PitchDetector {
  frequency = FRACTION
  clarity = FRACTION
  private readonly ring = new Float64Array(WINDOW + LONGEST)
  private readonly likeness = new Float64Array(LONGEST + 2)
  private at = 0
  private sum = FRACTION
  private taken = 0
  private readonly low = new Float64Array(4)
  private readonly weight: number

  constructor(private readonly sampleRate: number) {
    this.weight = onePoleWeight(1600, sampleRate)
  }

  reset(): void {
    this.ring.fill(0)
    this.low.fill(0)
    this.at = this.sum = this.taken = this.frequency = this.clarity = 0
  }

  /** Takes a block of a mono signal. The figures change at most every 256 samples. */
  process(left: Float32Array, right: Float32Array): void {
    const { low, ring, weight } = this
    for (let i = 0; i < left.length; i++) {
      // four poles keep what would fold back out of the thinned signal
      let x = 0.5 * (left[i] + right[i])
      for (let k = 0; k < 4; k++) x = low[k] += weight * (x - low[k])
      this.sum += x
      if (++this.taken % THIN !== 0) continue
      ring.copyWithin(0, 1)
      ring[ring.length - 1] = this.sum
      this.sum = 0
      if (++this.at >= HOP) {
        this.at = 0
        this.measure()
      }
    }
    for (let k = 0; k < 4; k++) if (low[k] < 1e-20 && low[k] > -1e-20) low[k] = 0
  }

  private measure(): void {
    const { ring, likeness } = this
    let energy = 0
    let newest = 0
    for (let i = 0; i < WINDOW; i++) {
      const e = ring[i + LONGEST] * ring[i + LONGEST]
      energy += e
      if (i >= WINDOW - WINDOW / 8) newest += e
    }
    // a sound that has just been cut off is no longer a period that repeats
    if (energy < 1e-7 || newest < 0.02 * energy) {
      this.clarity = 0
      return
    }
    for (let lag = SHORTEST - 1; lag <= LONGEST; lag++) {
      const from = LONGEST - lag
      let product = 0
      let squares = 0
      for (let i = 0; i < WINDOW; i++) {
        const a = ring[i + LONGEST]
        const b = ring[i + from]
        product += a * b
        squares += b * b
      }
      likeness[lag] = (2 * product) / (energy + squares + 1e-12)
    }
    // the first peak that comes near the highest is the period
    let best = 0
    for (let lag = SHORTEST; lag < LONGEST; lag++)
      if (peakAt(likeness, lag) && likeness[lag] > best) best = likeness[lag]
    this.clarity = best > 0 ? Math.min(1, best) : 0
    if (best < 0.3) return
    for (let lag = SHORTEST; lag < LONGEST; lag++) {
      if (!peakAt(likeness, lag) || likeness[lag] < 0.92 * best) continue
      // a later multiple of the period is measured more finely than the period itself
      let period = refined(likeness, lag)
      const times = Math.floor((LONGEST - 2) / period)
      for (let n = 2; n <= times; n++) {
        const near = Math.round(period * n)
        const at =
          likeness[near] >= likeness[near - 1]
            ? likeness[near + 1] > likeness[near]
              ? near + 1
              : near
            : near - 1
        if (!peakAt(likeness, at) || likeness[at] < 0.85 * best) break
        period = refined(likeness, at) / n
      }
      this.frequency = this.sampleRate / THIN / period
      return
    }
  }
}

function peakAt(y: Float64Array, i: number): boolean {
  return y[i] > 0 && y[i] >= y[i - 1] && y[i] > y[i + 1]
}

/** Place of a peak between its neighbours, by a parabola through the three. */
function refined(y: Float64Array, i: number): number {
  const a = y[i - 1],
    b = y[i],
    c = y[i + 1]
  const d = a - 2 * b + c
  return d === 0 ? i : i + (0.5 * (a - c)) / d
}
