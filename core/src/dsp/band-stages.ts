import { BAND_NUMBERS } from './matched-band'
import { bandStagesBytes } from './simd/band-stages.wasm'
import { SimdKernel, KernelMemory } from './simd/kernel-memory'

/** Samples of a stride, over which the numbers of a stage go straight from one design to the next. */
export const STRIDE = 16

/** Weights of a stage for each frame of a stride: of its state, its input and its outputs. */
const WEIGHTS = 6

interface KernelExports {
  stride(
    left: number,
    right: number,
    now: number,
    next: number,
    weights: number,
    still: number,
    state: number,
    queue: number,
    shares: number,
    pairs: number,
  ): void
  block(
    left: number,
    right: number,
    now: number,
    next: number,
    weights: number,
    still: number,
    state: number,
    queue: number,
    pairs: number,
    strides: number,
  ): void
}
const kernel = new SimdKernel<KernelExports>(bandStagesBytes)

/**
 * Second-order stages over both sides of a block, each a state-variable filter with weighted outputs
 * ({@link BAND_NUMBERS} numbers, see dsp/matched-band), solved for its next state, since the next frame waits
 * for that.
 */
export class BandStages {
  readonly left: Float64Array
  readonly right: Float64Array
  /**
   * Numbers that each stage is on its way to; those for the right side, where it has its own, from {@link
   * rightSide} on.
   */
  readonly next: Float64Array
  /** How many stages after that of the left side the one of the right side comes. */
  readonly rightSide: number
  private readonly now: Float64Array
  private readonly state: Float64Array
  private readonly weights: Float64Array
  /** 1 where the weights of a stage are those of numbers that stand still. */
  private readonly still: Int32Array
  private readonly queue: Int32Array
  private readonly shares: Float64Array
  private readonly memory: KernelMemory<KernelExports>
  private queued = 0

  /** @param most how many stages there can be @param frames length of a block */
  constructor(
    private readonly most: number,
    frames: number,
  ) {
    // behind all stages is one that lets sound through as it is
    const count = most + 1
    this.rightSide = count
    const numbers = 2 * count * BAND_NUMBERS
    const memory = (this.memory = new KernelMemory(
      kernel,
      8 * (2 * frames + 2 * numbers + (6 + WEIGHTS * STRIDE) * count + 32),
    ))
    this.left = memory.doubles(frames)
    this.right = memory.doubles(frames)
    this.now = memory.doubles(numbers)
    this.next = memory.doubles(numbers)
    this.state = memory.doubles(4 * count)
    this.weights = memory.doubles(WEIGHTS * STRIDE * count)
    this.still = memory.ints(count)
    this.queue = memory.ints(count)
    this.shares = memory.doubles(count)
    this.now[most * BAND_NUMBERS + 2] = this.next[most * BAND_NUMBERS + 2] = 1
  }

  reset(): void {
    this.state.fill(0)
  }

  /** Takes what has died away to zero, below which numbers become slow. */
  settle(): void {
    const { state } = this
    for (let k = 0; k < state.length; k++) if (state[k] < 1e-18 && state[k] > -1e-18) state[k] = 0
  }

  /** Has a stage of both sides be at once where it is on its way to. */
  jump(stage: number): void {
    this.still[stage] = 0
    for (let n = stage * BAND_NUMBERS; n < (stage + 1) * BAND_NUMBERS; n++) {
      const r = n + this.rightSide * BAND_NUMBERS
      this.now[n] = this.next[n]
      this.now[r] = this.next[r]
    }
  }

  /**
   * Lets a stage be among those of the next {@link stride} or {@link block}. @param share of its way that it
   * goes in a stride
   */
  enqueue(stage: number, share = 1): void {
    this.queue[this.queued] = stage
    this.shares[this.queued++] = share
  }

  /** All queued stages one after the other over a stride from `start` on, both sides alike, in place. */
  stride(start: number): void {
    const { queue, shares, left, right, now, next, weights, still, state, memory } = this
    const pairs = this.pairUp()
    if (pairs === 0) return
    if (memory.simd)
      memory.simd.stride(
        left.byteOffset + 8 * start,
        right.byteOffset + 8 * start,
        now.byteOffset,
        next.byteOffset,
        weights.byteOffset,
        still.byteOffset,
        state.byteOffset,
        queue.byteOffset,
        shares.byteOffset,
        pairs,
      )
    else
      for (let k = 0; k < 2 * pairs; k += 2)
        this.runPair(start, queue[k], queue[k + 1], shares[k], shares[k + 1])
  }

  /** The same over the whole block, in which all go straight from `now` to `next`. */
  block(): void {
    const { queue, left, right, now, next, weights, still, state, memory } = this
    const pairs = this.pairUp()
    if (pairs === 0) return
    const strides = left.length / STRIDE
    if (memory.simd)
      memory.simd.block(
        left.byteOffset,
        right.byteOffset,
        now.byteOffset,
        next.byteOffset,
        weights.byteOffset,
        still.byteOffset,
        state.byteOffset,
        queue.byteOffset,
        pairs,
        strides,
      )
    else {
      for (let s = 0; s < strides; s++) {
        const share = 1 / (strides - s)
        for (let k = 0; k < 2 * pairs; k += 2) this.runPair(s * STRIDE, queue[k], queue[k + 1], share, share)
      }
    }
  }

  /**
   * Empties the queue, and says how many pairs stood in it: a stage waits for its own last sample, two at
   * once wait together.
   */
  private pairUp(): number {
    if (this.queued & 1) this.enqueue(this.most)
    const pairs = this.queued >> 1
    this.queued = 0
    return pairs
  }

  private runPair(start: number, p: number, q: number, shareP: number, shareQ: number): void {
    const { left, right, now, next, weights, still, state } = this
    weigh(now, next, shareP, weights, still, p)
    weigh(now, next, shareQ, weights, still, q)
    runTwo(left, right, start, weights, state, p, q)
  }

  /**
   * One stage over a stride, sides not alike or not in place, `share` of its way. `l` and `r`: stages whose
   * numbers left and right go by; the state is that of `l`. `how`: 0 in place; 1 its difference is added to
   * the sums; 2 its band alone is. `place`: both, middle, sides, left, right.
   */
  runApart(
    l: number,
    r: number,
    share: number,
    place: number,
    how: number,
    start: number,
    sumL: Float64Array,
    sumR: Float64Array,
  ): void {
    this.still[l] = 0
    runApart(
      this.left,
      this.right,
      sumL,
      sumR,
      how,
      start,
      this.now,
      this.next,
      share / STRIDE,
      l * BAND_NUMBERS,
      r * BAND_NUMBERS,
      this.state,
      4 * l,
      place,
    )
  }
}

/**
 * Weights of a stage over a stride, in which its numbers go a share of the way from `now` to `next`. Two
 * frames at a time, as its SIMD kernel does it.
 */
function weigh(
  now: Float64Array,
  next: Float64Array,
  share: number,
  weights: Float64Array,
  still: Int32Array,
  stage: number,
): void {
  const at = stage * BAND_NUMBERS
  const w = stage * WEIGHTS * STRIDE
  let same = 1
  for (let n = at; n < at + BAND_NUMBERS; n++) if (now[n] !== next[n]) same = 0
  if (same && still[stage]) return
  still[stage] = same
  const wayG = share * (next[at] - now[at]),
    wayK = share * (next[at + 1] - now[at + 1]),
    wayA = share * (next[at + 2] - now[at + 2])
  const wayB = share * (next[at + 3] - now[at + 3]),
    wayC = share * (next[at + 4] - now[at + 4])
  for (let odd = 0; odd < 2; odd++) {
    const way = (odd + 1) / STRIDE
    let g = now[at] + way * wayG
    let k = now[at + 1] + way * wayK
    let a = now[at + 2] + way * wayA
    let b = 0.5 * (now[at + 3] + way * wayB)
    let c = 0.5 * (now[at + 4] + way * wayC)
    for (let i = w + odd; i < w + STRIDE; i += 2) {
      const d = 2 / (1 + g * (g + k))
      const e = d * g
      weights[i] = d - 1
      weights[i + STRIDE] = e
      weights[i + 2 * STRIDE] = e * g
      weights[i + 3 * STRIDE] = a
      weights[i + 4 * STRIDE] = b
      weights[i + 5 * STRIDE] = c
      g += wayG * (2 / STRIDE)
      k += wayK * (2 / STRIDE)
      a += wayA * (2 / STRIDE)
      b += wayB / STRIDE
      c += wayC / STRIDE
    }
  }
  now[at] += wayG
  now[at + 1] += wayK
  now[at + 2] += wayA
  now[at + 3] += wayB
  now[at + 4] += wayC
}

/**
 * Two stages one after the other over a stride, in place: the first waits for nothing of the second, so both
 * go at once.
 */
function runTwo(
  left: Float64Array,
  right: Float64Array,
  start: number,
  weights: Float64Array,
  state: Float64Array,
  first: number,
  second: number,
): void {
  const m = 4 * first,
    n = 4 * second
  let l1 = state[m],
    r1 = state[m + 1],
    l2 = state[m + 2],
    r2 = state[m + 3]
  let m1 = state[n],
    s1 = state[n + 1],
    m2 = state[n + 2],
    s2 = state[n + 3]
  for (
    let i = start, w = first * WEIGHTS * STRIDE, w2 = second * WEIGHTS * STRIDE;
    i < start + STRIDE;
    i++, w++, w2++
  ) {
    const d = weights[w],
      e = weights[w + STRIDE],
      f = weights[w + 2 * STRIDE],
      a = weights[w + 3 * STRIDE],
      b = weights[w + 4 * STRIDE],
      c = weights[w + 5 * STRIDE]
    const x = left[i]
    const y = right[i]
    const lv = x - l2
    const rv = y - r2
    const ln = d * l1 + e * lv
    const rn = d * r1 + e * rv
    const lm = l2 + e * l1 + f * lv
    const rm = r2 + e * r1 + f * rv
    const u = a * x + b * (l1 + ln) + c * (l2 + lm)
    const v = a * y + b * (r1 + rn) + c * (r2 + rm)
    l1 = ln
    r1 = rn
    l2 = lm
    r2 = rm
    const d2 = weights[w2],
      e2 = weights[w2 + STRIDE],
      f2 = weights[w2 + 2 * STRIDE],
      a2 = weights[w2 + 3 * STRIDE],
      b2 = weights[w2 + 4 * STRIDE],
      c2 = weights[w2 + 5 * STRIDE]
    const mv = u - m2
    const sv = v - s2
    const mn = d2 * m1 + e2 * mv
    const sn = d2 * s1 + e2 * sv
    const mm = m2 + e2 * m1 + f2 * mv
    const sm = s2 + e2 * s1 + f2 * sv
    left[i] = a2 * u + b2 * (m1 + mn) + c2 * (m2 + mm)
    right[i] = a2 * v + b2 * (s1 + sn) + c2 * (s2 + sm)
    m1 = mn
    s1 = sn
    m2 = mm
    s2 = sm
  }
  state[m] = l1
  state[m + 1] = r1
  state[m + 2] = l2
  state[m + 3] = r2
  state[n] = m1
  state[n + 1] = s1
  state[n + 2] = m2
  state[n + 3] = s2
}

function runApart(
  left: Float64Array,
  right: Float64Array,
  sumL: Float64Array,
  sumR: Float64Array,
  how: number,
  start: number,
  now: Float64Array,
  next: Float64Array,
  way: number,
  l: number,
  r: number,
  state: Float64Array,
  at: number,
  place: number,
): void {
  let gl = now[l],
    kl = now[l + 1],
    al = now[l + 2],
    bl = now[l + 3],
    cl = now[l + 4]
  let gr = now[r],
    kr = now[r + 1],
    ar = now[r + 2],
    br = now[r + 3],
    cr = now[r + 4]
  const dgl = (next[l] - gl) * way,
    dkl = (next[l + 1] - kl) * way,
    dal = (next[l + 2] - al) * way,
    dbl = (next[l + 3] - bl) * way,
    dcl = (next[l + 4] - cl) * way
  const dgr = (next[r] - gr) * way,
    dkr = (next[r + 1] - kr) * way,
    dar = (next[r + 2] - ar) * way,
    dbr = (next[r + 3] - br) * way,
    dcr = (next[r + 4] - cr) * way
  let l1 = state[at],
    r1 = state[at + 1],
    l2 = state[at + 2],
    r2 = state[at + 3]
  const matrix = place === 1 || place === 2
  for (let i = start; i < start + STRIDE; i++) {
    gl += dgl
    kl += dkl
    al += dal
    bl += dbl
    cl += dcl
    gr += dgr
    kr += dkr
    ar += dar
    br += dbr
    cr += dcr
    // middle and sides stand in for left and right where the band works on one of them
    const x = matrix ? 0.5 * (left[i] + right[i]) : left[i]
    const y = matrix ? 0.5 * (left[i] - right[i]) : right[i]
    const lv = (l1 + gl * (x - l2)) / (1 + gl * (gl + kl))
    const ll = l2 + gl * lv
    const rv = (r1 + gr * (y - r2)) / (1 + gr * (gr + kr))
    const rl = r2 + gr * rv
    l1 = 2 * lv - l1
    l2 = 2 * ll - l2
    r1 = 2 * rv - r1
    r2 = 2 * rl - r2
    let fx = how === 2 ? kl * lv : al * x + bl * lv + cl * ll
    let fy = how === 2 ? kr * rv : ar * y + br * rv + cr * rl
    const off = how === 2 ? 0 : 1
    if (place === 2 || place === 4) fx = off * x
    if (place === 1 || place === 3) fy = off * y
    const u = matrix ? fx + fy : fx
    const v = matrix ? fx - fy : fy
    if (how === 0) {
      left[i] = u
      right[i] = v
    } else {
      sumL[i] += how === 1 ? u - left[i] : u
      sumR[i] += how === 1 ? v - right[i] : v
    }
  }
  state[at] = l1
  state[at + 1] = r1
  state[at + 2] = l2
  state[at + 3] = r2
  for (let n = 0; n < BAND_NUMBERS; n++) {
    now[l + n] += STRIDE * way * (next[l + n] - now[l + n])
    if (r !== l) now[r + n] += STRIDE * way * (next[r + n] - now[r + n])
  }
}
