import { shapeRound } from './antiderivative'
import { halfBandKernel, type HalfBandExports } from './simd/half-band-kernel'
import { KernelMemory } from './simd/kernel-memory'
import { Decimator, EvenDecimator, type HalfBandDesign, Interpolator, designHalfBand } from './half-band'

/** Rates a shaper can run at; 1 neither oversamples nor uses antiderivatives. */
export type ShaperRate = 1 | 2 | 4 | 8 | 16
/** The same in the order in which a quality parameter counts them. */
export const shaperRates: readonly ShaperRate[] = [1, 2, 4, 8, 16]

/**
 * Stages of an oversampler, from the lowest rate up, and its latency in samples, to which every rate, the
 * naive one included, is padded, half before and half after the curve: `pads` at 1, 2, 4, 8 and 16 times.
 * Lengths follow from what each stage must keep (to 20 kHz) and reject (what would fold back below 20 kHz),
 * by Kaiser's formula.
 */
interface Plan {
  readonly stages: readonly HalfBandDesign[]
  readonly latency: number
  readonly pads: readonly number[]
}

const plans = {
  /** For round curves, to 110 dB and 8 times. */
  short: {
    stages: [designHalfBand(24, 11.5), designHalfBand(8, 12), designHalfBand(5, 12)],
    latency: 57,
    pads: [57, 9, 3, 0],
  },
  /**
   * For steep folds, which make loud what little of an image is left: to 125 dB and 16 times. Not for
   * first-order shapers.
   */
  sharp: {
    stages: [designHalfBand(30, 13), designHalfBand(9, 13), designHalfBand(5, 12), designHalfBand(5, 12)],
    latency: 71,
    pads: [71, 11, 3, 1, 0],
  },
} as const satisfies Record<string, Plan>

/** Latency in samples of both plans. */
export const OVERSAMPLER_LATENCY = { short: plans.short.latency, sharp: plans.sharp.latency } as const

/**
 * Samples that a shaper's output comes late at its own rate: half a sample by first-order antiderivatives,
 * two by second-order ones.
 */
export type ShaperDelay = 0.5 | 2

/**
 * Runs an antiderivative shaper at 2, 4, 8 or 16 times the rate, between linear-phase half-band stages. After
 * a first-order shaper the last stage down has even length, so the half sample that the antiderivative adds
 * becomes whole; what is left is padded: input to output always takes as long. One channel.
 */
export class Oversampler {
  private readonly up: Interpolator[]
  private readonly down: Decimator[]
  private readonly lastDown: EvenDecimator[]
  private readonly buffers: Float64Array[]
  /** Samples that wait for the next block, on the way up and down, and those that will. */
  private readonly waiting: readonly [Float64Array, Float64Array]
  private readonly late: Float64Array
  private readonly memory: KernelMemory<HalfBandExports>
  /** Last input of the round curve, and its root. */
  private readonly last: Float64Array
  private readonly pads: readonly number[]

  constructor(
    private readonly frames: number,
    plan: keyof typeof plans = 'short',
  ) {
    const { stages, pads } = plans[plan]
    const memory = (this.memory = new KernelMemory(
      halfBandKernel,
      8 * ((12 << stages.length) * frames + 8192),
    ))
    this.pads = pads
    this.up = stages.map((design, k) => new Interpolator(design, frames << k, memory))
    this.down = stages.map((design, k) => new Decimator(design, frames << k, memory))
    // only the short plan has first-order shapers
    this.lastDown =
      plan === 'sharp'
        ? []
        : [
            new EvenDecimator(49, 11.5, frames, memory),
            new EvenDecimator(13, 11.3, 2 * frames, memory),
            new EvenDecimator(11, 12, 4 * frames, memory),
          ]
    this.buffers = [frames, ...stages.map((_, k) => frames << (k + 1))].map((length) =>
      memory.doubles(length),
    )
    this.last = memory.doubles(2)
    this.last[1] = 1
    const longest = Math.ceil(Math.max(...pads) / 2)
    this.waiting = [new Float64Array(longest), new Float64Array(longest)]
    this.late = new Float64Array(longest)
  }

  reset(): void {
    for (const stage of [...this.up, ...this.down, ...this.lastDown]) stage.reset()
    for (const side of this.waiting) side.fill(0)
    this.last[0] = 0
    this.last[1] = 1
  }

  /**
   * Buffer to write `frames` input samples to before {@link raise}, and to read output from after {@link
   * lower}.
   */
  get base(): Float64Array {
    return this.buffers[0]
  }

  /** Takes the base buffer up; returns rate·frames samples to be shaped in place. */
  raise(rate: ShaperRate): Float64Array {
    const { up, buffers, frames } = this
    let k = 0
    this.delay(this.waiting[0], this.pads[31 - Math.clz32(rate)] >> 1)
    for (; 1 << k < rate; k++) up[k].process(buffers[k], buffers[k + 1], frames << k)
    return buffers[k]
  }

  /**
   * The round curve over samples that {@link raise} gave, in place; by its SIMD kernel where there is one.
   */
  shapeRound(samples: Float64Array): void {
    const { last } = this
    if (this.memory.simd) this.memory.simd.shapeRound(samples.byteOffset, samples.length, last.byteOffset)
    else last[0] = shapeRound(samples, last[0])
  }

  /** Brings the shaped samples back down into the base buffer, padded to the common latency. */
  lower(rate: ShaperRate, delay: ShaperDelay = 0.5): void {
    const { down, lastDown, buffers, frames } = this
    const top = 31 - Math.clz32(rate)
    let k = top
    if (k-- > 0) {
      const first = delay === 2 ? down[k] : lastDown[k]
      first.process(buffers[k + 1], buffers[k], frames << k)
    }
    while (k-- > 0) down[k].process(buffers[k + 1], buffers[k], frames << k)
    this.delay(this.waiting[1], (this.pads[top] + 1) >> 1)
  }

  /** Holds back the last `samples` of the base buffer until the next block. */
  private delay(waiting: Float64Array, samples: number): void {
    const { late, frames } = this
    if (samples === 0) return
    const base = this.buffers[0]
    for (let i = 0; i < samples; i++) late[i] = base[frames - samples + i]
    base.copyWithin(samples, 0, frames - samples)
    for (let i = 0; i < samples; i++) {
      base[i] = waiting[i]
      waiting[i] = late[i]
    }
  }
}
