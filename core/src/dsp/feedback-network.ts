import { feedbackNetworkBytes } from './simd/feedback-network.wasm'
import { SimdKernel, KernelMemory } from './simd/kernel-memory'
import { SINC_PHASES, SINC_TAPS, sincAt, sincTable32 } from './sinc-table'

export const LINES = 16
const PAIRS = LINES / 2
const FRAMES = 128
/** Numbers of the two absorbent filters of a line, and of their states. */
const WEIGHTS = 6
const STATES = 3

interface KernelExports {
  still(
    lineA: number,
    lineB: number,
    mask: number,
    fromA: number,
    fromB: number,
    y: number,
    frames: number,
  ): void
  moving(
    line: number,
    mask: number,
    at: number,
    from: number,
    step: number,
    y: number,
    frames: number,
    table: number,
  ): void
  absorb(y: number, out: number, sign: number, filters: number, state: number, frames: number): void
  mix(y: number, left: number, right: number, at: number, stride: number, frames: number): void
}
const kernel = new SimdKernel<KernelExports>(feedbackNetworkBytes)

/**
 * The loop of a feedback delay network, 128 frames at a time: sixteen lines, two first-order filters in each,
 * and a Hadamard matrix between them (Jot & Chaigne, "Digital delay networks for designing artificial
 * reverberators", AES 1991). Each line is longer than a block. Lines go in pairs, the even one to the left.
 */
export class FeedbackNetwork {
  /** Input of the even and the odd lines. */
  readonly left: Float64Array
  readonly right: Float64Array
  /** Output: left and right of each frame. */
  readonly out: Float64Array
  private readonly lines: Float32Array
  private readonly stride: number
  private readonly mask: number
  private readonly blocks: Float64Array
  private readonly filters: Float64Array
  private readonly states: Float64Array
  private readonly table: Float32Array
  private readonly memory: KernelMemory<KernelExports>
  private head = 0

  /** @param longest delay of a line in samples */
  constructor(longest: number) {
    let size = 1024
    while (size < longest + FRAMES) size *= 2
    this.mask = size - 1
    // the first taps are repeated behind the end, so that a reading never has to wrap
    this.stride = size + SINC_TAPS
    const memory = (this.memory = new KernelMemory(
      kernel,
      4 * LINES * this.stride + 8 * (4 * FRAMES + LINES * (FRAMES + WEIGHTS + STATES)) + 128,
    ))
    this.left = memory.doubles(FRAMES)
    this.right = memory.doubles(FRAMES)
    this.out = memory.doubles(2 * FRAMES)
    this.blocks = memory.doubles(LINES * FRAMES)
    this.filters = memory.doubles(LINES * WEIGHTS)
    this.states = memory.doubles(LINES * STATES)
    this.table = memory.table(sincTable32)
    this.lines = memory.floats(LINES * this.stride)
  }

  reset(): void {
    this.lines.fill(0)
    this.states.fill(0)
    this.head = 0
  }

  /** Weights of both filters of a line, y = w₀·x + w₁·x₁ − w₂·y₁ each. */
  setFilters(line: number, weights: readonly number[]): void {
    for (let n = 0; n < WEIGHTS; n++) this.filters[((line >> 1) * WEIGHTS + n) * 2 + (line & 1)] = weights[n]
  }

  /** Reads a pair of lines so many whole samples ago. */
  readStill(pair: number, agoA: number, agoB: number): void {
    const { lines, stride, mask, head, blocks } = this
    const a = 2 * pair * stride
    const y = 2 * pair * FRAMES
    const { simd } = this.memory
    if (simd) {
      simd.still(
        lines.byteOffset + 4 * a,
        lines.byteOffset + 4 * (a + stride),
        mask,
        head - agoA,
        head - agoB,
        blocks.byteOffset + 8 * y,
        FRAMES,
      )
      return
    }
    for (let i = 0; i < FRAMES; i++) {
      blocks[y + 2 * i] = lines[a + ((head - agoA + i) & mask)]
      blocks[y + 2 * i + 1] = lines[a + stride + ((head - agoB + i) & mask)]
    }
  }

  /**
   * Reads a line at a place that moves evenly over the block, from the first to the second of `span` samples
   * ago.
   */
  readMoving(line: number, span: Float64Array): void {
    const { lines, stride, mask, head, blocks, table } = this
    const at = line * stride
    const y = (line >> 1) * 2 * FRAMES + (line & 1)
    const from = span[0]
    const step = (span[1] - from) / FRAMES
    const { simd } = this.memory
    if (simd) {
      simd.moving(
        lines.byteOffset + 4 * at,
        mask,
        head - 4,
        from,
        step,
        blocks.byteOffset + 8 * y,
        FRAMES,
        table.byteOffset,
      )
      return
    }
    for (let i = 0; i < FRAMES; i++) {
      const delay = from + step * i
      const whole = Math.floor(delay)
      const row = (((1 - (delay - whole)) * SINC_PHASES + 0.5) | 0) * SINC_TAPS
      const j = at + ((head + i - whole - 4) & mask)
      blocks[y + 2 * i] = sincAt(table, row, lines, j)
    }
  }

  /**
   * What all lines give goes out, every second pair upside down, and through filters and matrix back into
   * them.
   */
  run(): void {
    const { lines, stride, mask, head, blocks, left, right, out, filters, states } = this
    const { simd } = this.memory
    out.fill(0)
    for (let p = 0; p < PAIRS; p++) {
      const sign = p & 1 ? -1 : 1
      if (simd)
        simd.absorb(
          blocks.byteOffset + 16 * p * FRAMES,
          out.byteOffset,
          sign,
          filters.byteOffset + 16 * p * WEIGHTS,
          states.byteOffset + 16 * p * STATES,
          FRAMES,
        )
      else for (let side = 0; side < 2; side++) absorb(blocks, out, sign, filters, states, p, side)
    }
    for (let k = 0; k < states.length; k++) if (states[k] < 1e-20 && states[k] > -1e-20) states[k] = 0
    if (simd)
      simd.mix(
        blocks.byteOffset,
        left.byteOffset,
        right.byteOffset,
        lines.byteOffset + 4 * head,
        4 * stride,
        FRAMES,
      )
    else {
      for (let bit = 1; bit < LINES; bit *= 2)
        for (let k = 0; k < LINES; k++) if ((k & bit) === 0) butterfly(blocks, k, k | bit)
      for (let k = 0; k < LINES; k++) {
        const x = k & 1 ? right : left
        const y = (k >> 1) * 2 * FRAMES + (k & 1)
        for (let i = 0; i < FRAMES; i++) lines[k * stride + head + i] = 0.25 * blocks[y + 2 * i] + x[i]
      }
    }
    if (head === 0)
      for (let k = 0; k < LINES; k++)
        for (let t = 0; t < SINC_TAPS; t++) lines[k * stride + mask + 1 + t] = lines[k * stride + t]
    this.head = (head + FRAMES) & mask
  }
}

/** Adds a line to its side of the output, and takes it through its filters, in place. */
function absorb(
  blocks: Float64Array,
  out: Float64Array,
  sign: number,
  filters: Float64Array,
  states: Float64Array,
  pair: number,
  side: number,
): void {
  const w = 2 * pair * WEIGHTS + side
  const s = 2 * pair * STATES + side
  const a0 = filters[w],
    a1 = filters[w + 2],
    a2 = filters[w + 4],
    b0 = filters[w + 6],
    b1 = filters[w + 8],
    b2 = filters[w + 10]
  let x1 = states[s],
    y1 = states[s + 2],
    z1 = states[s + 4]
  for (let i = side, y = 2 * pair * FRAMES + side; i < 2 * FRAMES; i += 2, y += 2) {
    const x = blocks[y]
    out[i] += sign * x
    const a = a0 * x + a1 * x1 - a2 * y1
    const b = b0 * a + b1 * y1 - b2 * z1
    x1 = x
    y1 = a
    z1 = b
    blocks[y] = b
  }
  states[s] = x1
  states[s + 2] = y1
  states[s + 4] = z1
}

/** Sum and difference of two lines, in place. */
function butterfly(blocks: Float64Array, a: number, b: number): void {
  const x = (a >> 1) * 2 * FRAMES + (a & 1),
    y = (b >> 1) * 2 * FRAMES + (b & 1)
  for (let i = 0; i < 2 * FRAMES; i += 2) {
    const sum = blocks[x + i] + blocks[y + i]
    blocks[y + i] = blocks[x + i] - blocks[y + i]
    blocks[x + i] = sum
  }
}
