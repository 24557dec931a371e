import { Fft } from './fft'
import { convolutionBytes } from './simd/convolution.wasm'
import { KernelMemory, SimdKernel } from './simd/kernel-memory'

interface KernelExports {
  direct(taps: number, count: number, line: number, out: number, frames: number): void
}
const simdKernel = new SimdKernel<KernelExports>(convolutionBytes)

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

  /** Reads the response again after its samples have changed, and prepares all of it at once. */
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
  private readonly memory = new KernelMemory(simdKernel, 8 * (2 * 2 * SHORT + 2 * SHORT))
  /** The last taps of input before this block and the block itself, left and right. */
  private readonly recent = [this.memory.doubles(2 * SHORT), this.memory.doubles(2 * SHORT)]
  private readonly taps = this.memory.doubles(SHORT)
  private readonly sum = this.memory.doubles(SHORT)
  private readonly short: ShortPartitions
  private readonly long: LongPartitions

  constructor(readonly kernel: Kernel) {
    this.short = new ShortPartitions(kernel)
    this.long = new LongPartitions(kernel)
  }

  reset(): void {
    for (const line of this.recent) line.fill(0)
    this.short.reset()
    this.long.reset()
  }

  /** One block of 128 frames; the outputs may be the inputs. */
  process(inL: Float32Array, inR: Float32Array, outL: Float32Array, outR: Float32Array): void {
    const { kernel, recent, sum, short, long } = this
    for (let c = 0; c < 2; c++) {
      const line = recent[c]
      const x = c === 0 ? inL : inR
      line.copyWithin(0, SHORT)
      line.set(x, SHORT)
      long.gather(c, x)
    }
    short.multiply()
    for (let c = 0; c < 2; c++) {
      const { whole, over } = short.side(c)
      const late = long.side(c)
      const from = long.from
      const scale = 1 / (2 * SHORT)
      for (let i = 0; i < SHORT; i++) {
        sum[i] = whole[i] * scale + over[i] + late[from + i]
        over[i] = whole[SHORT + i] * scale
      }
      this.addDirect(c)
      const out = c === 0 ? outL : outR
      for (let i = 0; i < SHORT; i++) out[i] = sum[i]
    }
    short.take(recent)
    if (kernel.longs > 0) long.work()
  }

  /** Adds what the first taps of a side give. */
  private addDirect(c: number): void {
    const { kernel, recent, taps, sum, memory } = this
    const line = recent[c]
    const head = kernel.head[c]
    if (memory.simd) {
      // the response may be in another memory, and may have changed
      taps.set(head)
      memory.simd.direct(taps.byteOffset, SHORT, line.byteOffset + 8 * SHORT, sum.byteOffset, SHORT)
      return
    }
    for (let i = 0; i < SHORT; i++) {
      let y = sum[i]
      for (let k = 0; k < SHORT; k++) y += head[k] * line[SHORT + i - k]
      sum[i] = y
    }
  }
}

/** The partitions of 128 frames. */
class ShortPartitions {
  /** Spectra of what came in, newest at the head. */
  private readonly spectra = new Spectra(SHORT + 1, SHORTS)
  private head = 0
  private readonly re = new Float64Array(2 * SHORT)
  private readonly im = new Float64Array(2 * SHORT)
  private readonly sum = new Float64Array(4 * (SHORT + 1))
  private readonly sides: readonly { readonly whole: Float64Array; readonly over: Float64Array }[]

  constructor(private readonly kernel: Kernel) {
    this.sides = [this.re, this.im].map((whole) => ({ whole, over: new Float64Array(SHORT) }))
  }

  reset(): void {
    this.spectra.data.fill(0)
    for (const { over } of this.sides) over.fill(0)
    this.head = 0
  }

  /** Convolution of the previous blocks, through all partitions. */
  multiply(): void {
    const { sum, spectra, kernel, re, im } = this
    sum.fill(0)
    for (let p = 0; p < SHORTS; p++) multiply(sum, spectra, (this.head + p) % SHORTS, kernel.short, p)
    join(sum, SHORT + 1, re, im)
    shortFft.forward(im, re)
  }

  /** Output of a side: two blocks, and the overlap of the previous block. */
  side(c: number): { readonly whole: Float64Array; readonly over: Float64Array } {
    return this.sides[c]
  }

  /** Takes the block that came in. */
  take(recent: readonly Float64Array[]): void {
    const { re, im } = this
    re.fill(0)
    im.fill(0)
    for (let i = 0; i < SHORT; i++) {
      re[i] = recent[0][SHORT + i]
      im[i] = recent[1][SHORT + i]
    }
    shortFft.forward(re, im)
    this.head = (this.head + SHORTS - 1) % SHORTS
    this.spectra.store(this.head, re, im)
  }
}

/** The partitions of 1024 frames, in eight steps. */
class LongPartitions {
  /** Spectra of what came in, newest at the head. */
  private readonly spectra: Spectra
  private head = 0
  private step = 0
  private readonly gathered = [new Float32Array(LONG), new Float32Array(LONG)]
  private readonly re = new Float64Array(2 * LONG)
  private readonly im = new Float64Array(2 * LONG)
  private readonly sum = new Float64Array(4 * (LONG + 1))
  private readonly out = [new Float64Array(LONG), new Float64Array(LONG)]
  private readonly over = [new Float64Array(LONG), new Float64Array(LONG)]
  private readonly next = [new Float64Array(LONG), new Float64Array(LONG)]

  constructor(private readonly kernel: Kernel) {
    this.spectra = new Spectra(LONG + 1, Math.max(1, kernel.longs))
  }

  reset(): void {
    const { spectra, gathered, out, over, next, sum } = this
    for (const a of [spectra.data, ...gathered, ...out, ...over, ...next, sum]) a.fill(0)
    this.head = this.step = 0
  }

  /** Where this block lies in what comes out. */
  get from(): number {
    return this.step * SHORT
  }

  gather(c: number, x: Float32Array): void {
    this.gathered[c].set(x, this.from)
  }

  /** Output of a side, from {@link from} on. */
  side(c: number): Float64Array {
    return this.out[c]
  }

  /** One eighth of the work. What was gathered last is transformed when its last block is there. */
  work(): void {
    const { kernel, spectra, sum, step } = this
    const { longs } = kernel
    // in steps 0…5 of the time after a long block, the products; then the way back
    if (step < 6) {
      const each = Math.ceil(longs / 6)
      for (let p = step * each; p < Math.min(longs, (step + 1) * each); p++)
        multiply(sum, spectra, (this.head + p) % longs, kernel.long, p)
    } else if (step === 6) this.goBack()
    else this.goOn()
    this.step = (step + 1) % STEPS
  }

  private goBack(): void {
    const { sum, re, im, next, over } = this
    join(sum, LONG + 1, re, im)
    sum.fill(0)
    longFft.forward(im, re)
    const scale = 1 / (2 * LONG)
    for (let i = 0; i < LONG; i++) {
      next[0][i] = re[i] * scale + over[0][i]
      next[1][i] = im[i] * scale + over[1][i]
      over[0][i] = re[LONG + i] * scale
      over[1][i] = im[LONG + i] * scale
    }
  }

  private goOn(): void {
    const { out, next, re, im, gathered, kernel } = this
    out[0].set(next[0])
    out[1].set(next[1])
    re.fill(0)
    im.fill(0)
    for (let i = 0; i < LONG; i++) {
      re[i] = gathered[0][i]
      im[i] = gathered[1][i]
    }
    longFft.forward(re, im)
    this.head = (this.head + kernel.longs - 1) % kernel.longs
    this.spectra.store(this.head, re, im)
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
