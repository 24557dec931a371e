import { FAST_REACH, StereoDelayLine } from './delay-line'

/** Samples that make one of the coarse signal in which places to splice are looked for first. */
const COARSE = 8
/** Samples between two looks for an onset. */
const HOP = 32
/** Seconds after which an onset is known. */
const KNOWN = 0.003
/** Seconds by which an onset may be heard earlier or later than sound while nothing is shifted. */
const TOLERANCE = 0.004
/** The fastest reading for which there is room before an onset. */
const MOST_RATIO = 4
/** How much louder than what went before an onset is, in energy. */
const RISE = 10
/** Energy of a sample below which nothing is an onset (−80 dBFS). */
const FLOOR = 1e-8

// places of `numbers`, where all that changes from sample to sample is kept
const NOW = 0,
  OLD = 1,
  LEFT = 2,
  ONSET = 3,
  SLOW = 4,
  HELD = 5,
  LENGTH = 6,
  LAST = 7,
  SINCE = 8,
  DUE = 9,
  SPEED = 10

/**
 * Reads a sound at another speed than it comes, and splices where it would run out: at the place whose last
 * milliseconds are most like those just heard, to a fraction of a sample, so that tones go on in phase (after
 * Roucos & Wilgus, "High quality time-scale modification for speech", ICASSP 1985, with the delay as the
 * limit). Before an onset it goes to where that will be heard once, whole, and in time. Stereo; both sides
 * are spliced at the same places.
 */
export class Splicer {
  readonly left: Float64Array
  readonly right: Float64Array
  private readonly line: StereoDelayLine
  private readonly past: Past
  /** Samples at the present place and at the fading place. */
  private readonly reads: {
    readonly times: Float64Array
    readonly oldTimes: Float64Array
    readonly oldL: Float64Array
    readonly oldR: Float64Array
    readonly weights: Float64Array
  }
  /** Samples that have come in. */
  private count = 0
  private readonly numbers = new Float64Array(11)
  private readonly most: number
  private readonly least: number
  private readonly fade: number
  private readonly known: number
  private readonly tolerance: number
  /** The longest delay before an onset. */
  private readonly deepest: number

  /**
   * @param longest the longest delay, and @param resting that while nothing is shifted, in samples @param
   * block samples of a block
   */
  constructor(
    private readonly sampleRate: number,
    longest: number,
    readonly resting: number,
    block: number,
  ) {
    this.most = longest
    this.least = Math.round(0.0022 * sampleRate)
    this.fade = Math.round(0.005 * sampleRate)
    this.known = Math.round(KNOWN * sampleRate)
    this.tolerance = Math.round(TOLERANCE * sampleRate)
    this.deepest = Math.max(longest, MOST_RATIO * resting + this.tolerance)
    const template = Math.round((0.0125 * sampleRate) / COARSE) * COARSE
    const reach = this.deepest + template + 4 * block
    const line = new StereoDelayLine(reach, 6, block)
    this.line = line
    this.left = line.block()
    this.right = line.block()
    this.reads = {
      times: line.block(),
      oldTimes: line.block(),
      oldL: line.block(),
      oldR: line.block(),
      weights: new Float64Array(block),
    }
    this.past = new Past(template, reach)
    this.reset()
  }

  reset(): void {
    this.line.reset()
    this.past.reset()
    this.count = 0
    this.numbers.fill(0)
    this.numbers[NOW] = this.resting
    this.numbers[ONSET] = -1e9
  }

  get isQuiet(): boolean {
    return this.line.isQuiet
  }

  /** Present delay in samples. */
  get delay(): number {
    return this.numbers[NOW]
  }

  /**
   * Works on samples `start` to `end` of a block: what comes out is in `left` and `right`. `ratios` are
   * speeds, 1 for none.
   */
  process(xL: Float64Array, xR: Float64Array, ratios: Float64Array, start: number, end: number): void {
    const { line, left, right, numbers, fade, most } = this
    const { times, oldTimes, oldL, oldR, weights } = this.reads
    const { fine, coarse, mask } = this.past
    line.write(xL, xR, start, end)
    const n = end - start
    let from = -1
    const ratio = ratios[start]
    // faster reading runs towards what is new while it fades, slower reading away from it
    const length = ratio > 1 ? Math.max(32, Math.round(fade / ratio)) : fade
    // an onset is known a little after it has come in, and must not have been heard by then
    const near = FAST_REACH + 8 + this.known + (ratio > 1 ? length * (ratio - 1) : 0)
    for (let i = start; i < end; i++) {
      const at = this.count & mask
      const x = 0.5 * (xL[i] + xR[i])
      fine[at] = x
      numbers[HELD] += x
      if ((at & (COARSE - 1)) === COARSE - 1) {
        coarse[at >> 3] = numbers[HELD] / COARSE
        numbers[HELD] = 0
      }
      this.count++
      const step = x - numbers[LAST]
      numbers[LAST] = x
      numbers[SINCE] += step * step
      numbers[SPEED] = ratios[i]
      if ((this.count & (HOP - 1)) === 0) this.lookForOnset()
      numbers[NOW] += 1 - ratios[i]
      if (numbers[LEFT] > 0) {
        numbers[OLD] += 1 - ratios[i]
        numbers[LEFT]--
      } else {
        if (numbers[DUE] > 0) this.makeRoom()
        const d = numbers[NOW]
        if (numbers[LEFT] > 0) {
          // has just been spliced
        } else if (ratios[i] > 1 && d < near) this.splice(-1, this.least, most - d, length)
        else if (ratios[i] < 1 && d > most) this.splice(1, this.least, d - near - 16, length)
      }
      // the block is in the line already
      times[i] = numbers[NOW] + n
      if (numbers[LEFT] > 0) {
        if (from < 0) from = i
        oldTimes[i] = numbers[OLD] + n - (from - start)
        weights[i] = numbers[LEFT] / numbers[LENGTH]
      } else weights[i] = 0
    }
    line.readFast(times, ratio, left, right, start, end)
    if (from < 0) return
    let to = from
    for (let i = from; i < end; i++)
      if (weights[i] > 0) to = i + 1
      else oldTimes[i] = oldTimes[Math.max(from, i - 1)]
    line.readFast(oldTimes, ratio, oldL, oldR, from, to)
    for (let i = from; i < to; i++) {
      const t = weights[i]
      const w = t * t * (3 - 2 * t)
      left[i] += w * (oldL[i] - left[i])
      right[i] += w * (oldR[i] - right[i])
    }
  }

  private lookForOnset(): void {
    const { numbers, count } = this
    const energy = numbers[SINCE] / HOP
    numbers[SINCE] = 0
    const before = numbers[SLOW]
    numbers[SLOW] = energy > before ? before + 0.25 * (energy - before) : before + 0.03 * (energy - before)
    if (!(energy > FLOOR && energy > RISE * before) || count - numbers[ONSET] < 0.03 * this.sampleRate) return
    numbers[ONSET] = count - HOP
    numbers[DUE] = 1
    if (numbers[LEFT] === 0) this.makeRoom()
  }

  /**
   * Goes to where an onset that has come in will be heard whole, and as late as sound is while nothing is
   * shifted: what is read `ratio` times as fast comes to it after its distance divided by that.
   */
  private makeRoom(): void {
    const { numbers, count, deepest } = this
    const ratio = numbers[SPEED]
    numbers[DUE] = 0
    const tolerance = this.tolerance * Math.min(1, ratio)
    const since = count - numbers[ONSET]
    const ahead = numbers[NOW] - since
    // it is being heard
    if (ahead < FAST_REACH) return
    const way = Math.max(0, this.resting - since) * ratio - ahead
    const farther = Math.abs(way)
    if (farther < tolerance) return
    // what was there before fades before it comes to the onset itself
    const length = Math.min(0.25 * this.fade, (ahead - FAST_REACH) / ratio)
    const from = Math.max(16, farther - tolerance)
    if (way > 0) this.splice(-1, from, Math.min(farther + 0.5 * tolerance, deepest - numbers[NOW]), length)
    else this.splice(1, from, farther + 0.5 * tolerance, length)
  }

  /**
   * Goes to another place, back in time (−1) or forth (1), by `from` to `to` samples.
   * @param length samples in which the old place fades
   */
  private splice(way: number, from: number, to: number, length: number): void {
    const { numbers, count } = this
    const place = count - numbers[NOW]
    const onset = numbers[ONSET]
    // never once more over an onset that was heard, nor past one that was not
    if (way < 0 && place > onset) to = Math.min(to, place - onset - 48)
    if (way > 0 && place < onset) to = Math.min(to, onset - place - length)
    if (!(to >= from)) {
      if (way > 0 || to < 96) return
      from = Math.min(from, to)
    }
    const lag = this.past.bestLag(place, way, from, to)
    numbers[OLD] = numbers[NOW]
    numbers[NOW] -= way * lag
    numbers[LENGTH] = Math.max(16, Math.round(length))
    numbers[LEFT] = numbers[LENGTH]
  }
}

/** The input as one channel for comparison: at full rate, and averaged. */
class Past {
  readonly fine: Float32Array
  readonly coarse: Float32Array
  readonly mask: number

  /** @param template samples that are compared @param reach samples back that are looked at */
  constructor(
    private readonly template: number,
    reach: number,
  ) {
    let size = 1024
    while (size < reach) size *= 2
    this.fine = new Float32Array(size)
    this.coarse = new Float32Array(size / COARSE)
    this.mask = size - 1
  }

  reset(): void {
    this.fine.fill(0)
    this.coarse.fill(0)
  }

  /**
   * The lag at which what came before is most like what came before `place`: coarsely, then to a sample, then
   * between samples by a parabola.
   */
  bestLag(place: number, way: number, from: number, to: number): number {
    const { coarse, mask, template } = this
    const coarseMask = mask >> 3
    const words = template / COARSE
    const last = Math.floor(place / COARSE) - 1
    let best = -Infinity
    const lowest = Math.ceil(from / COARSE)
    const highest = Math.floor(to / COARSE)
    let lag = highest
    let before = Infinity
    let rising = false
    // one further than allowed, since only where likeness falls again on both sides is a peak
    for (let k = lowest - 1; k <= highest + 1; k++) {
      let product = 0
      let energy = 1e-12
      for (let j = 0; j < words; j++) {
        const a = coarse[(last - j) & coarseMask]
        const b = coarse[(last + way * k - j) & coarseMask]
        product += a * b
        energy += a * a + b * b
      }
      // a little for going far, which means fewer splices
      const score = (2 * product) / energy + (0.03 * k) / highest
      if (rising && score < before && before > best) {
        best = before
        lag = k - 1
      }
      rising = score >= before
      before = score
    }
    const at = Math.floor(place)
    // halves of the coarse step to either side lead to the peak, which is as wide as the shortest period
    let found = lag * COARSE
    let peak = this.likeness(at, at + way * found)
    for (let step = COARSE >> 1; step >= 1; step >>= 1) {
      for (let side = -1; side <= 1; side += 2) {
        const k = found + side * step
        const c = k < 1 ? -1 : this.likeness(at, at + way * k)
        if (c > peak) {
          peak = c
          found = k
        }
      }
    }
    const a = this.likeness(at, at + way * (found - 1))
    const b = this.likeness(at, at + way * (found + 1))
    const bend = a - 2 * peak + b
    const part = bend < 0 ? (0.5 * (a - b)) / bend : 0
    return found + Math.max(-0.5, Math.min(0.5, part))
  }

  /**
   * How like the samples before two places are: 1 where they are equal (McLeod & Wyvill, "A smarter way to
   * find pitch", ICMC 2005).
   */
  private likeness(a: number, b: number): number {
    const { fine, mask, template } = this
    let product = 0
    let energy = 1e-12
    let own = 1e-12
    for (let j = 1; j <= template; j++) {
      const x = fine[(a - j) & mask]
      const y = fine[(b - j) & mask]
      product += x * y
      energy += y * y
      own += x * x
    }
    return (2 * product) / (energy + own)
  }
}
