import { Fft } from './fft'

/** Frames of a block, and of the taps that are worked out directly so that nothing comes late. */
const SHORT = 128
/**
 * Frames of a long partition, and the tap at which long partitions begin: twice as many, since each is worked
 * out over the time of one.
 */
const LONG = 1024
const FIRST_LONG = 2 * LONG
const SHORTS = FIRST_LONG / SHORT - 1
const STEPS = LONG / SHORT

const shortFft = new Fft(2 * SHORT)
const longFft = new Fft(2 * LONG)

/** Spectra of partitions of a stereo sound: bins 0…size of left and right, one partition after the other. */
class Spectra {
  readonly stride: number
  readonly data: Float32Array
  constructor(
    readonly bins: number,
    count: number,
  ) {
    this.stride = 4 * bins
    this.data = new Float32Array(this.stride * Math.max(1, count))
  }

  /** Takes the transform of left + i·right, and parts the two. */
  store(at: number, re: Float64Array, im: Float64Array): void {
    const { bins, data } = this
    const n = re.length
    const base = at * this.stride
    for (let k = 0; k < bins; k++) {
      const m = k === 0 ? 0 : n - k
      data[base + k] = 0.5 * (re[k] + re[m])
      data[base + bins + k] = 0.5 * (im[k] - im[m])
      data[base + 2 * bins + k] = 0.5 * (im[k] + im[m])
      data[base + 3 * bins + k] = 0.5 * (re[m] - re[k])
    }
  }
}

/**
 * An impulse response made ready for {@link Convolver}, a few partitions at a time: `ready` says when it is
 * whole.
 */
export class Kernel {
  readonly head: readonly [Float64Array, Float64Array]
  readonly short = new Spectra(SHORT + 1, SHORTS)
  readonly long: Spectra
  readonly longs: number
  private done = 0
  private readonly re = new Float64Array(2 * LONG)
  private readonly im = new Float64Array(2 * LONG)

  /**
   * @param left, right the response; both as long. Not kept from being changed: leave them alone until it is
   * ready.
   */
  constructor(
    private readonly left: Float32Array,
    private readonly right: Float32Array,
  ) {
    this.head = [new Float64Array(SHORT), new Float64Array(SHORT)]
    this.takeHead()
    this.longs = Math.max(0, Math.ceil((left.length - FIRST_LONG) / LONG))
    this.long = new Spectra(LONG + 1, this.longs)
  }

  get ready(): boolean {
    return this.done === SHORTS + this.longs
  }

  /** Takes the response anew, whose numbers have changed, and makes all of it ready at once. */
  restart(): void {
    this.takeHead()
    this.done = 0
    this.advance(SHORTS + this.longs)
  }

  private takeHead(): void {
    for (let k = 0; k < SHORT; k++) {
      this.head[0][k] = this.left[k] ?? 0
      this.head[1][k] = this.right[k] ?? 0
    }
  }

  /** Makes up to `count` more partitions ready. */
  advance(count: number): void {
    for (; count > 0 && !this.ready; count--, this.done++) {
      const isShort = this.done < SHORTS
      const size = isShort ? SHORT : LONG
      const from = isShort ? SHORT * (1 + this.done) : FIRST_LONG + LONG * (this.done - SHORTS)
      const re = isShort ? this.re.subarray(0, 2 * SHORT) : this.re
      const im = isShort ? this.im.subarray(0, 2 * SHORT) : this.im
      re.fill(0)
      im.fill(0)
      for (let i = 0; i < size && from + i < this.left.length; i++) {
        re[i] = this.left[from + i]
        im[i] = this.right[from + i]
      }
      if (isShort) {
        shortFft.forward(re, im)
        this.short.store(this.done, re, im)
      } else {
        longFft.forward(re, im)
        this.long.store(this.done - SHORTS, re, im)
      }
    }
  }
}

/**
 * Convolves a stereo sound with a long stereo response without latency, in blocks of 128 (Gardner, "Efficient
 * convolution without input-output delay", JAES 43, 1995): the first taps directly, then partitions of 128,
 * then partitions of 1024 whose work is spread over eight blocks.
 */
export class Convolver {
  // spectra of what came in, newest at the head
  private readonly short = new Spectra(SHORT + 1, SHORTS)
  private readonly long: Spectra
  private shortHead = 0
  private longHead = 0
  private step = 0
  /** The last taps of input before this block and the block itself, left and right. */
  private readonly recent = [new Float64Array(2 * SHORT), new Float64Array(2 * SHORT)]
  private readonly gathered = [new Float32Array(LONG), new Float32Array(LONG)]
  private readonly re = new Float64Array(2 * SHORT)
  private readonly im = new Float64Array(2 * SHORT)
  private readonly accRe = new Float64Array(2 * LONG)
  private readonly accIm = new Float64Array(2 * LONG)
  private readonly sum: Float64Array
  private readonly shortOver = [new Float64Array(SHORT), new Float64Array(SHORT)]
  private readonly longOut = [new Float64Array(LONG), new Float64Array(LONG)]
  private readonly longOver = [new Float64Array(LONG), new Float64Array(LONG)]
  private readonly longNext = [new Float64Array(LONG), new Float64Array(LONG)]
  private readonly shortSum = new Float64Array(4 * (SHORT + 1))

  constructor(readonly kernel: Kernel) {
    this.long = new Spectra(LONG + 1, Math.max(1, kernel.longs))
    this.sum = new Float64Array(4 * (LONG + 1))
  }

  reset(): void {
    for (const a of [
      this.short.data,
      this.long.data,
      ...this.recent,
      ...this.gathered,
      ...this.shortOver,
      ...this.longOut,
      ...this.longOver,
      ...this.longNext,
      this.sum,
    ])
      a.fill(0)
    this.shortHead = this.longHead = this.step = 0
  }

  /** One block of 128 frames; the outputs may be the inputs. */
  process(inL: Float32Array, inR: Float32Array, outL: Float32Array, outR: Float32Array): void {
    const { kernel, short, recent, re, im, shortOver, longOut } = this
    const from = this.step * SHORT
    for (let c = 0; c < 2; c++) {
      const line = recent[c]
      const x = c === 0 ? inL : inR
      line.copyWithin(0, SHORT)
      line.set(x, SHORT)
      this.gathered[c].set(x, from)
    }
    // what came in before this block, through the short partitions
    const sum = this.shortSum
    sum.fill(0)
    for (let p = 0; p < SHORTS; p++) multiply(sum, short, (this.shortHead + p) % SHORTS, kernel.short, p)
    join(sum, SHORT + 1, re, im)
    shortFft.forward(im, re)
    const scale = 1 / (2 * SHORT)
    for (let c = 0; c < 2; c++) {
      const whole = c === 0 ? re : im
      const out = c === 0 ? outL : outR
      const over = shortOver[c]
      const line = recent[c]
      const taps = kernel.head[c]
      const late = longOut[c]
      for (let i = 0; i < SHORT; i++) {
        let y = whole[i] * scale + over[i] + late[from + i]
        const at = SHORT + i
        for (let k = 0; k < SHORT; k++) y += taps[k] * line[at - k]
        over[i] = whole[SHORT + i] * scale
        out[i] = y
      }
    }
    re.fill(0)
    im.fill(0)
    for (let i = 0; i < SHORT; i++) {
      re[i] = recent[0][SHORT + i]
      im[i] = recent[1][SHORT + i]
    }
    shortFft.forward(re, im)
    this.shortHead = (this.shortHead + SHORTS - 1) % SHORTS
    short.store(this.shortHead, re, im)
    if (kernel.longs > 0) this.workLong()
  }

  /**
   * One eighth of the work on the long partitions. What was gathered last is transformed when its last block
   * is there.
   */
  private workLong(): void {
    const { kernel, long, sum, accRe, accIm, longOut, longOver, longNext, gathered } = this
    const { step } = this
    const { longs } = kernel
    // in steps 0…5 of the time after a long block, the products; then the way back
    if (step < 6) {
      const each = Math.ceil(longs / 6)
      for (let p = step * each; p < Math.min(longs, (step + 1) * each); p++)
        multiply(sum, long, (this.longHead + p) % longs, kernel.long, p)
    } else if (step === 6) {
      join(sum, LONG + 1, accRe, accIm)
      sum.fill(0)
      longFft.forward(accIm, accRe)
      const scale = 1 / (2 * LONG)
      for (let i = 0; i < LONG; i++) {
        longNext[0][i] = accRe[i] * scale + longOver[0][i]
        longNext[1][i] = accIm[i] * scale + longOver[1][i]
        longOver[0][i] = accRe[LONG + i] * scale
        longOver[1][i] = accIm[LONG + i] * scale
      }
    } else {
      longOut[0].set(longNext[0])
      longOut[1].set(longNext[1])
      accRe.fill(0)
      accIm.fill(0)
      for (let i = 0; i < LONG; i++) {
        accRe[i] = gathered[0][i]
        accIm[i] = gathered[1][i]
      }
      longFft.forward(accRe, accIm)
      this.longHead = (this.longHead + longs - 1) % longs
      long.store(this.longHead, accRe, accIm)
    }
    this.step = (step + 1) % STEPS
  }
}

/** Adds the product of two partitions' spectra, left with left and right with right. */
function multiply(sum: Float64Array, a: Spectra, i: number, b: Spectra, j: number): void {
  const { bins, stride } = a
  const x = a.data
  const h = b.data
  for (let side = 0; side < 2; side++) {
    const o = 2 * bins * side
    const p = i * stride + o
    const q = j * stride + o
    for (let k = 0; k < bins; k++) {
      const xr = x[p + k],
        xi = x[p + bins + k],
        hr = h[q + k],
        hi = h[q + bins + k]
      sum[o + k] += xr * hr - xi * hi
      sum[o + bins + k] += xr * hi + xi * hr
    }
  }
}

/** The transform of left + i·right from their halves. */
function join(sum: Float64Array, bins: number, re: Float64Array, im: Float64Array): void {
  const n = 2 * (bins - 1)
  for (let k = 0; k < bins; k++) {
    const lr = sum[k],
      li = sum[bins + k],
      rr = sum[2 * bins + k],
      ri = sum[3 * bins + k]
    re[k] = lr - ri
    im[k] = li + rr
    if (k > 0 && k < bins - 1) {
      re[n - k] = lr + ri
      im[n - k] = rr - li
    }
  }
}
