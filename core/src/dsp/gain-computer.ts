import { exp2, log2 } from './math'
import { gainComputerBytes } from './simd/gain-computer.wasm'
import { SimdKernel, KernelMemory } from './simd/kernel-memory'

export const DB_PER_LOG2 = 6.020599913279624
const LOG2_PER_DB = 0.16609640474436813
/** Added to a level, so that silence has one. */
const LEAST = 1e-6

interface KernelExports {
  peaks(left: number, right: number, level: number, frames: number): void
  wanted(
    level: number,
    threshold: number,
    slope: number,
    knee: number,
    change: number,
    frames: number,
    scale: number,
  ): number
  smooth(change: number, frames: number, attack: number, release: number, from: number): number
  gains(change: number, gain: number, frames: number): void
}
const kernel = new SimdKernel<KernelExports>(gainComputerBytes)

/**
 * From level to gain in the log domain, a block at a time (Giannoulis, Massberg, Reiss, "Digital Dynamic
 * Range Compressor Design", JAES 60, 2012): level, static curve with a quadratic knee (eq. 4), smoothing of
 * the change, gain. Each step works on the arrays here, so something may be done between them.
 */
export class GainComputer {
  /** Input of {@link peaks}. */
  readonly left: Float32Array
  readonly right: Float32Array
  /** A positive number for each frame, magnitude or power; after {@link wanted} in dB. */
  readonly level: Float64Array
  /** In dB, 1 / ratio − 1, and in dB. */
  readonly threshold: Float64Array
  readonly slope: Float64Array
  readonly knee: Float64Array
  /** In dB. */
  readonly change: Float64Array
  /** Linear. */
  readonly gain: Float64Array
  private readonly memory: KernelMemory<KernelExports>

  /** @param frames length of a block, even */
  constructor(private readonly frames: number) {
    const memory = (this.memory = new KernelMemory(kernel, 8 * 7 * frames))
    this.left = memory.floats(frames)
    this.right = memory.floats(frames)
    this.level = memory.doubles(frames)
    this.threshold = memory.doubles(frames)
    this.slope = memory.doubles(frames)
    this.knee = memory.doubles(frames)
    this.change = memory.doubles(frames)
    this.gain = memory.doubles(frames)
  }

  /** Levels: the larger of both sides. */
  peaks(): void {
    const { left, right, level, frames } = this
    const { simd } = this.memory
    if (simd) {
      simd.peaks(left.byteOffset, right.byteOffset, level.byteOffset, frames)
      return
    }
    for (let i = 0; i < frames; i++) {
      const l = Math.abs(left[i]),
        r = Math.abs(right[i])
      level[i] = LEAST + (l < r ? r : l)
    }
  }

  /**
   * Changes that the static curve asks for. @param scale dB for twice as much @returns the highest level in
   * dB, −120 at least
   */
  wanted(scale: number): number {
    const { level, threshold, slope, knee, change, frames } = this
    const { simd } = this.memory
    if (simd)
      return simd.wanted(
        level.byteOffset,
        threshold.byteOffset,
        slope.byteOffset,
        knee.byteOffset,
        change.byteOffset,
        frames,
        scale,
      )
    let most = -120
    for (let i = 0; i < frames; i++) {
      const db = (level[i] = scale * log2(level[i]))
      if (db > most) most = db
      const over = db - threshold[i]
      const half = 0.5 * knee[i]
      const within = Math.min(knee[i], Math.max(0, over + half))
      change[i] =
        slope[i] * ((within * within) / Math.max(1e-9, knee[i] + knee[i]) + Math.max(0, over - half))
    }
    return most
  }

  /**
   * Smooths the changes: by the pole `attack` on the way down, by `release` on the way up. @returns the last
   */
  smooth(attack: number, release: number, from: number): number {
    const { change, frames } = this
    const { simd } = this.memory
    if (simd) return simd.smooth(change.byteOffset, frames, attack, release, from)
    for (let i = 0; i < frames; i++) {
      const wanted = change[i]
      change[i] = from = wanted + (wanted < from ? attack : release) * (from - wanted)
    }
    return from
  }

  /** Gains from changes of less than 6000 dB. */
  gains(): void {
    const { change, gain, frames } = this
    const { simd } = this.memory
    if (simd) {
      simd.gains(change.byteOffset, gain.byteOffset, frames)
      return
    }
    for (let i = 0; i < frames; i++) gain[i] = exp2(LOG2_PER_DB * change[i])
  }
}
