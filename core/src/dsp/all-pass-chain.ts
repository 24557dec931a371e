import { allPassChainBytes } from './simd/all-pass-chain.wasm'
import { KernelMemory, SimdKernel } from './simd/kernel-memory'

interface KernelExports {
  run(
    left: number,
    right: number,
    tangentsL: number,
    tangentsR: number,
    feedback: number,
    mix: number,
    stages: number,
    last: number,
    count: number,
    frames: number,
  ): void
}
const kernel = new SimdKernel<KernelExports>(allPassChainBytes)

/**
 * First-order all-passes in a row, all at one corner that may move with each frame, with feedback around them
 * (topology-preserving; Zavalishin, "The Art of VA Filter Design", 2018, ch. 3). Stereo, a corner for each
 * side.
 */
export class AllPassChain {
  /** Input, and after {@link process} output. */
  readonly left: Float64Array
  readonly right: Float64Array
  /** Of each frame: tangents of the corners, feedback, and share of what comes out of the row. */
  readonly tangentsL: Float64Array
  readonly tangentsR: Float64Array
  readonly feedback: Float64Array
  readonly mix: Float64Array
  /** State of each all-pass, and the last output, left and right side by side. */
  private readonly stages: Float64Array
  private readonly last: Float64Array
  private readonly memory: KernelMemory<KernelExports>

  /** @param most all-passes there can be @param frames of a block */
  constructor(
    most: number,
    private readonly frames: number,
  ) {
    const memory = (this.memory = new KernelMemory(kernel, 8 * (6 * frames + 2 * most + 4)))
    this.left = memory.doubles(frames)
    this.right = memory.doubles(frames)
    this.tangentsL = memory.doubles(frames)
    this.tangentsR = memory.doubles(frames)
    this.feedback = memory.doubles(frames)
    this.mix = memory.doubles(frames)
    this.stages = memory.doubles(2 * most)
    this.last = memory.doubles(2)
  }

  reset(): void {
    this.stages.fill(0)
    this.last.fill(0)
  }

  /** @param count of all-passes, the first so many */
  process(count: number): void {
    const { left, right, tangentsL, tangentsR, feedback, mix, stages, last, frames } = this
    const { simd } = this.memory
    if (simd)
      simd.run(
        left.byteOffset,
        right.byteOffset,
        tangentsL.byteOffset,
        tangentsR.byteOffset,
        feedback.byteOffset,
        mix.byteOffset,
        stages.byteOffset,
        last.byteOffset,
        count,
        frames,
      )
    else {
      this.run(0, left, tangentsL, count)
      this.run(1, right, tangentsR, count)
    }
    for (let k = 0; k < stages.length; k++) if (stages[k] < 1e-18 && stages[k] > -1e-18) stages[k] = 0
    for (let c = 0; c < 2; c++) if (last[c] < 1e-18 && last[c] > -1e-18) last[c] = 0
  }

  /** One side; its kernel does both at once. */
  private run(side: number, x: Float64Array, tangents: Float64Array, count: number): void {
    const { feedback, mix, stages, last, frames } = this
    for (let i = 0; i < frames; i++) {
      const g = tangents[i]
      const a = g / (1 + g)
      let v = x[i] + feedback[i] * last[side]
      for (let k = side; k < 2 * count; k += 2) {
        const u = (v - stages[k]) * a
        const low = u + stages[k]
        stages[k] = low + u
        v = 2 * low - v
      }
      last[side] = v
      x[i] += (v - x[i]) * mix[i]
    }
  }
}
