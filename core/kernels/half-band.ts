// The stages of src/dsp/half-band, eight outputs at a time, two to a register, and the round curve. Same
// operations in the same order for each output, so the same bits. All places are byte offsets; `frames` is a
// multiple of eight, `history` counts doubles.

/** Bytes of a double, and of eight. */
const D: i32 = 8
const EIGHT: i32 = 64

/** Interpolator. */
export function raise(
  input: i32,
  work: i32,
  history: i32,
  taps: i32,
  pairs: i32,
  out: i32,
  frames: i32,
): void {
  const newest = work + history * D
  copy(input, newest, frames)
  folded(taps, pairs, work, newest, out, frames, false)
  // after each sum what went in, `pairs` samples ago; from the last one on, since they move up
  const between = work + pairs * D
  for (let at = (frames - 4) * D; at >= 0; at -= 32) {
    const x = v128.load(out + at)
    const x2 = v128.load(out + at, 16)
    const y = v128.load(between + at)
    const y2 = v128.load(between + at, 16)
    v128.store(out + 2 * at, v128.shuffle<f64>(x, y, 0, 2))
    v128.store(out + 2 * at, v128.shuffle<f64>(x, y, 1, 3), 16)
    v128.store(out + 2 * at, v128.shuffle<f64>(x2, y2, 0, 2), 32)
    v128.store(out + 2 * at, v128.shuffle<f64>(x2, y2, 1, 3), 48)
  }
  copy(work + frames * D, work, history)
}

/** Decimator. */
export function lower(
  input: i32,
  even: i32,
  odd: i32,
  history: i32,
  taps: i32,
  pairs: i32,
  out: i32,
  frames: i32,
): void {
  const newest = even + history * D
  part(input, newest, odd + history * D, frames)
  folded(taps, pairs, even, newest, out, frames, false)
  let between = odd + (pairs - 1) * D
  for (const end = out + frames * D; out < end; out += 16, between += 16)
    v128.store(out, f64x2.mul(f64x2.splat(0.5), f64x2.add(v128.load(out), v128.load(between))))
  copy(even + frames * D, even, history)
  copy(odd + frames * D, odd, history)
}

/** EvenDecimator; `tapsA` are as many as `pairsA`, `tapsB` as many as `pairsB`. */
export function lowerEven(
  input: i32,
  even: i32,
  odd: i32,
  history: i32,
  tapsA: i32,
  pairsA: i32,
  tapsB: i32,
  pairsB: i32,
  out: i32,
  frames: i32,
): void {
  const newestEven = even + history * D
  const newestOdd = odd + history * D
  part(input, newestEven, newestOdd, frames)
  folded(tapsA, pairsA, odd, newestEven, out, frames, false)
  folded(tapsB, pairsB, even + D, newestOdd - D, out, frames, true)
  copy(even + frames * D, even, history)
  copy(odd + frames * D, odd, history)
}

/**
 * `shapeRound` of src/dsp/antiderivative, in place: (x + last) / (√(1 + x²) + √(1 + last²)). `state` holds
 * the last input and its root; `frames` is even.
 */
export function shapeRound(x: i32, frames: i32, state: i32): void {
  const one = f64x2.splat(1)
  let last = v128.load_splat<f64>(state)
  let lastRoot = v128.load_splat<f64>(state, 8)
  for (const end = x + frames * D; x < end; x += 16) {
    const now = v128.load(x)
    const root = f64x2.sqrt(f64x2.add(one, f64x2.mul(now, now)))
    const sum = f64x2.add(now, v128.shuffle<f64>(last, now, 1, 2))
    v128.store(x, f64x2.div(sum, f64x2.add(root, v128.shuffle<f64>(lastRoot, root, 1, 2))))
    last = now
    lastRoot = root
  }
  f64.store(state, f64x2.extract_lane(last, 1))
  f64.store(state, f64x2.extract_lane(lastRoot, 1), 8)
}

/** Sums of weighted pairs, one for each frame, `onto` what stands there or not. */
function folded(taps: i32, pairs: i32, rising: i32, falling: i32, out: i32, frames: i32, onto: bool): void {
  const last = taps + pairs * D
  const zero = f64x2.splat(0)
  for (const end = out + frames * D; out < end; out += EIGHT, rising += EIGHT, falling += EIGHT) {
    let s0 = onto ? v128.load(out) : zero
    let s1 = onto ? v128.load(out, 16) : zero
    let s2 = onto ? v128.load(out, 32) : zero
    let s3 = onto ? v128.load(out, 48) : zero
    let tap = taps
    let r = rising
    let f = falling
    do {
      const w = v128.load_splat<f64>(tap)
      s0 = f64x2.add(s0, f64x2.mul(w, f64x2.add(v128.load(r), v128.load(f))))
      s1 = f64x2.add(s1, f64x2.mul(w, f64x2.add(v128.load(r, 16), v128.load(f, 16))))
      s2 = f64x2.add(s2, f64x2.mul(w, f64x2.add(v128.load(r, 32), v128.load(f, 32))))
      s3 = f64x2.add(s3, f64x2.mul(w, f64x2.add(v128.load(r, 48), v128.load(f, 48))))
      tap += D
      r += D
      f -= D
    } while (tap < last)
    v128.store(out, s0)
    v128.store(out, s1, 16)
    v128.store(out, s2, 32)
    v128.store(out, s3, 48)
  }
}

/** a[i] = in[2i], b[i] = in[2i + 1]. */
function part(input: i32, a: i32, b: i32, frames: i32): void {
  for (const end = a + frames * D; a < end; a += 16, b += 16, input += 32) {
    const x = v128.load(input)
    const y = v128.load(input, 16)
    v128.store(a, v128.shuffle<f64>(x, y, 0, 2))
    v128.store(b, v128.shuffle<f64>(x, y, 1, 3))
  }
}

/** Copies so many doubles, from the front; at most one more is written over. */
function copy(from: i32, to: i32, count: i32): void {
  for (const end = to + count * D; to < end; to += 16, from += 16) v128.store(to, v128.load(from))
}
