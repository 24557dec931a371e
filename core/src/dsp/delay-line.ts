import { delayLineBytes } from './simd/delay-line.wasm'
import { SimdKernel, KernelMemory } from './simd/kernel-memory'
import { kernelAt, kernelSpeeds, reachFor } from './band-limited-kernel'
import { SINC_PHASES, SINC_TAPS, sincAt, sincTable32 } from './sinc-table'

/**
 * The least delay, in samples, that {@link StereoDelayLine.read} can give before the newest sample is
 * written.
 */
export const LEAST_DELAY = SINC_TAPS / 2

/** −120 dBFS. */
const AUDIBLE = 1e-6
/**
 * Inaudible samples are written as zero, so early that no product or sum of a reading can be a denormal
 * number of single precision.
 */
const NOTHING = 1e-22

function isAudible(x: Float64Array, start: number, end: number): boolean {
  for (let i = start; i < end; i++) if (x[i] > AUDIBLE || x[i] < -AUDIBLE) return true
  return false
}

interface KernelExports {
  write(left: number, right: number, ringL: number, ringR: number, frames: number): void
  read(
    delays: number,
    left: number,
    right: number,
    frames: number,
    ringL: number,
    ringR: number,
    mask: number,
    at: number,
    table: number,
    age: number,
  ): void
}
const kernel = new SimdKernel<KernelExports>(delayLineBytes)

/** Past samples of both sides of a signal, with band-limited reading between them. */
export class StereoDelayLine {
  private readonly memory: KernelMemory<KernelExports>
  private readonly left: Float32Array
  private readonly right: Float32Array
  private readonly table: Float32Array
  private readonly mask: number
  private head = 0
  /**
   * Samples written since the last reset: what is older counts as silence, so that a reset need not clear it.
   */
  private age = Infinity

  /** Samples written since one was above −120 dBFS. */
  private quietFor = Infinity

  /**
   * @param frames the longest delay that will be asked for, in samples
   * @param blocks how many blocks of `length` numbers {@link block} will give
   */
  constructor(frames: number, blocks: number, length: number) {
    let size = 16
    while (size < frames + SINC_TAPS) size *= 2
    // the first taps are repeated behind the end, so that a reading never has to wrap
    const memory = (this.memory = new KernelMemory(kernel, 8 * (size + SINC_TAPS + blocks * length) + 64))
    this.left = memory.floats(size + SINC_TAPS)
    this.right = memory.floats(size + SINC_TAPS)
    this.table = memory.table(sincTable32)
    this.mask = size - 1
    this.length = length
  }
  private readonly length: number

  /** Whether nothing audible is left in it. */
  get isQuiet(): boolean {
    return this.isQuietWithin(this.mask)
  }

  /** Whether nothing audible was written in so many last samples. */
  isQuietWithin(frames: number): boolean {
    return this.quietFor > Math.min(frames, this.mask, this.age)
  }

  /** The longest delay that can be read. */
  get longest(): number {
    return this.mask + 1 - SINC_TAPS
  }

  /** Samples that can be read at present: those since the last reset, as far as the line goes. */
  get filled(): number {
    return Math.min(this.age, this.longest)
  }

  /** Room for a block of delays, of what is read or of what is to be written. */
  block(): Float64Array {
    return this.memory.doubles(this.length)
  }

  /** A copy of so many last samples, or of as many as there are, oldest first. Allocates. */
  content(frames: number): [Float32Array, Float32Array] {
    const n = Math.floor(Math.min(frames, this.filled))
    const copy = (ring: Float32Array): Float32Array =>
      Float32Array.from({ length: n }, (_, i) => ring[(this.head - n + i) & this.mask])
    return [copy(this.left), copy(this.right)]
  }

  /** Forgets all samples. Takes no time, however long the line is. */
  reset(): void {
    this.head = 0
    this.age = 0
    this.quietFor = Infinity
    // the taps of the first samples reach back so far
    const size = this.mask + 1
    const back = Math.max(0, size - FAST_REACH)
    this.left.fill(0, back, size)
    this.right.fill(0, back, size)
  }

  /** Appends samples `start` to `end` of a block; soonest where both lie in a {@link block} of this line. */
  write(left: Float64Array, right: Float64Array, start: number, end: number): void {
    const { left: a, right: b, mask } = this
    const simd = left.buffer === a.buffer && right.buffer === a.buffer ? this.memory.simd : null
    let head = this.head
    for (let i = start; i < end;) {
      const stop = Math.min(end, i + mask + 1 - head)
      if (simd)
        simd.write(
          left.byteOffset + 8 * i,
          right.byteOffset + 8 * i,
          a.byteOffset + 4 * head,
          b.byteOffset + 4 * head,
          stop - i,
        )
      else
        for (let k = i; k < stop; k++) {
          const l = left[k]
          const r = right[k]
          a[head + k - i] = l < NOTHING && l > -NOTHING ? 0 : l
          b[head + k - i] = r < NOTHING && r > -NOTHING ? 0 : r
        }
      if (head < SINC_TAPS) {
        a.copyWithin(mask + 1, 0, SINC_TAPS)
        b.copyWithin(mask + 1, 0, SINC_TAPS)
      }
      head = (head + stop - i) & mask
      i = stop
    }
    this.head = head
    // sound shows at its ends nearly always, so that what lies between need not be looked at
    const shows = Math.abs(left[start]) > AUDIBLE || Math.abs(right[end - 1]) > AUDIBLE
    this.quietFor =
      shows || isAudible(left, start, end) || isAudible(right, start, end) ? 0 : this.quietFor + end - start
    this.age = this.age + end - start > mask ? Infinity : this.age + end - start
  }

  /**
   * The signal `delays[i]` samples ago for each i from `start` to `end`, at any fraction, by an 8-tap
   * windowed sinc, as the write place moves along. Delays are at least {@link LEAST_DELAY} plus the samples
   * between start and i that are not written yet. All three arrays are from {@link block}.
   */
  read(delays: Float64Array, left: Float64Array, right: Float64Array, start: number, end: number): void {
    const { left: a, right: b, table, mask, head, age } = this
    const { simd } = this.memory
    if (simd) {
      const at = 8 * start
      simd.read(
        delays.byteOffset + at,
        left.byteOffset + at,
        right.byteOffset + at,
        end - start,
        a.byteOffset,
        b.byteOffset,
        mask,
        head - 4,
        table.byteOffset,
        age + LEAST_DELAY,
      )
      return
    }
    for (let i = start; i < end; i++) {
      const delay = delays[i]
      if (!(delay <= age + LEAST_DELAY + (i - start))) {
        left[i] = right[i] = 0
        continue
      }
      const whole = Math.floor(delay)
      const row = (((1 - (delay - whole)) * SINC_PHASES + 0.5) | 0) * SINC_TAPS
      const j = (head + (i - start) - whole - 4) & mask
      left[i] = sincAt(table, row, a, j)
      right[i] = sincAt(table, row, b, j)
    }
  }

  /**
   * The same for a place that moves by `speed` samples a sample (either way): read faster than it was
   * written, a sound is limited to what half the sample rate can hold, by a sinc that is as much wider.
   */
  readFast(
    delays: Float64Array,
    speed: number,
    left: Float64Array,
    right: Float64Array,
    start: number,
    end: number,
  ): void {
    const width = speed < 0 ? -speed : speed
    if (width <= 1) return this.read(delays, left, right, start, end)
    let index = 0
    while (index < FASTEST_KERNEL && width > kernelSpeeds[index]) index++
    const { rows, taps, phases } = kernelAt(index)
    const { left: a, right: b, mask, head, age } = this
    for (let i = start; i < end; i++) {
      const delay = delays[i]
      if (!(delay <= age + (i - start))) {
        left[i] = right[i] = 0
        continue
      }
      const whole = Math.floor(delay)
      // the place lies by the part of a sample before head + i − whole
      const phase = (1 - (delay - whole)) * phases
      const p = Math.floor(phase)
      const t = phase - p
      const row = p * taps
      const next = p < phases ? row + taps : row
      const at = head + (i - start) - whole - (taps >> 1)
      let l = 0
      let r = 0
      for (let k = 0; k < taps; k++) {
        const w = rows[row + k] + t * (rows[next + k] - rows[row + k])
        const j = (at + k) & mask
        l += w * a[j]
        r += w * b[j]
      }
      left[i] = l
      right[i] = r
    }
  }
}

/** Highest speed that {@link StereoDelayLine.readFast} reads without aliases. */
export const FASTEST = 4
const FASTEST_KERNEL = kernelSpeeds.indexOf(FASTEST)
/** How much further from the newest sample it has to stay, in samples. */
export const FAST_REACH = reachFor(FASTEST)
