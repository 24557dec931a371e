// `stride` and `block` of src/dsp/band-stages, for all stages that are queued. Same operations in the same
// order, so the same bits. All places are byte offsets.

/** Bytes of the numbers of a stage, of its state, of its weights, and of one of these over a stride. */
const NUMBERS: i32 = 40
const STATE: i32 = 32
const WEIGHTS: i32 = 768
const WEIGHT: usize = 128
const FRAMES: i32 = 16

/**
 * The stages whose numbers stand in `queue`, in their order, `pairs` times two of them; `shares` of the way.
 */
export function stride(
  left: i32,
  right: i32,
  now: i32,
  next: i32,
  weights: i32,
  still: i32,
  state: i32,
  queue: i32,
  shares: i32,
  pairs: i32,
): void {
  do {
    runPair(left, right, now, next, weights, still, state, queue, f64.load(shares), f64.load(shares, 8))
    queue += 8
    shares += 16
  } while (--pairs)
}

/** The same over a whole block of `strides`: all go straight from `now` to `next`. */
export function block(
  left: i32,
  right: i32,
  now: i32,
  next: i32,
  weights: i32,
  still: i32,
  state: i32,
  queue: i32,
  pairs: i32,
  strides: i32,
): void {
  do {
    const share = 1 / <f64>strides
    for (let n = 0; n < pairs; n++) {
      runPair(left, right, now, next, weights, still, state, queue + 8 * n, share, share)
    }
    left += 8 * FRAMES
    right += 8 * FRAMES
  } while (--strides)
}

/** The two stages whose numbers stand at `queue`, with the shares of their way. */
function runPair(
  left: i32,
  right: i32,
  now: i32,
  next: i32,
  weights: i32,
  still: i32,
  state: i32,
  queue: i32,
  shareP: f64,
  shareQ: f64,
): void {
  const p = i32.load(queue)
  const q = i32.load(queue, 4)
  weigh(now + p * NUMBERS, next + p * NUMBERS, shareP, weights + p * WEIGHTS, still + 4 * p)
  weigh(now + q * NUMBERS, next + q * NUMBERS, shareQ, weights + q * WEIGHTS, still + 4 * q)
  runTwo(left, right, weights + p * WEIGHTS, state + p * STATE, weights + q * WEIGHTS, state + q * STATE)
}

/** Weights of a stage over a stride in which it goes a share of its way, two frames to a register. */
function weigh(now: i32, next: i32, share: f64, w: i32, still: i32): void {
  const same =
    i32(f64.load(now) == f64.load(next)) &
    i32(f64.load(now, 8) == f64.load(next, 8)) &
    i32(f64.load(now, 16) == f64.load(next, 16)) &
    i32(f64.load(now, 24) == f64.load(next, 24)) &
    i32(f64.load(now, 32) == f64.load(next, 32))
  if (same & i32.load(still)) return
  i32.store(still, same)
  const part = f64x2.splat(share)
  let g = v128.load_splat<f64>(now)
  let k = v128.load_splat<f64>(now, 8)
  let a = v128.load_splat<f64>(now, 16)
  let b = v128.load_splat<f64>(now, 24)
  let c = v128.load_splat<f64>(now, 32)
  let dg = f64x2.mul(part, f64x2.sub(v128.load_splat<f64>(next), g))
  let dk = f64x2.mul(part, f64x2.sub(v128.load_splat<f64>(next, 8), k))
  let da = f64x2.mul(part, f64x2.sub(v128.load_splat<f64>(next, 16), a))
  let db = f64x2.mul(part, f64x2.sub(v128.load_splat<f64>(next, 24), b))
  let dc = f64x2.mul(part, f64x2.sub(v128.load_splat<f64>(next, 32), c))
  // where it comes to at the end of the stride
  v128.store64_lane(now, f64x2.add(g, dg), 0)
  v128.store64_lane(now, f64x2.add(k, dk), 0, 8)
  v128.store64_lane(now, f64x2.add(a, da), 0, 16)
  v128.store64_lane(now, f64x2.add(b, db), 0, 24)
  v128.store64_lane(now, f64x2.add(c, dc), 0, 32)
  // frames 1 and 2, counted from the start of the stride, and two frames' way
  const first = f64x2(0.0625, 0.125)
  const half = f64x2.splat(0.5)
  g = f64x2.add(g, f64x2.mul(first, dg))
  k = f64x2.add(k, f64x2.mul(first, dk))
  a = f64x2.add(a, f64x2.mul(first, da))
  b = f64x2.mul(half, f64x2.add(b, f64x2.mul(first, db)))
  c = f64x2.mul(half, f64x2.add(c, f64x2.mul(first, dc)))
  const two = f64x2.splat(0.125)
  dg = f64x2.mul(two, dg)
  dk = f64x2.mul(two, dk)
  da = f64x2.mul(two, da)
  const one = f64x2.splat(0.0625)
  db = f64x2.mul(one, db)
  dc = f64x2.mul(one, dc)
  for (let end = w + <i32>WEIGHT; w < end; w += 16) {
    const d = f64x2.div(f64x2.splat(2), f64x2.add(f64x2.splat(1), f64x2.mul(g, f64x2.add(g, k))))
    const e = f64x2.mul(d, g)
    v128.store(w, f64x2.sub(d, f64x2.splat(1)))
    v128.store(w, e, WEIGHT)
    v128.store(w, f64x2.mul(e, g), 2 * WEIGHT)
    v128.store(w, a, 3 * WEIGHT)
    v128.store(w, b, 4 * WEIGHT)
    v128.store(w, c, 5 * WEIGHT)
    g = f64x2.add(g, dg)
    k = f64x2.add(k, dk)
    a = f64x2.add(a, da)
    b = f64x2.add(b, db)
    c = f64x2.add(c, dc)
  }
}

/** Two stages, one after the other, over a stride, both sides to a register. */
function runTwo(left: i32, right: i32, w: i32, state: i32, w2: i32, state2: i32): void {
  let s = v128.load(state)
  let t = v128.load(state, 16)
  let s2 = v128.load(state2)
  let t2 = v128.load(state2, 16)
  for (const end = w + <i32>WEIGHT; w < end; w += 8, w2 += 8, left += 8, right += 8) {
    const x = v128.load64_lane(right, v128.load64_zero(left), 1)
    const v = f64x2.sub(x, t)
    const n = nextBand(w, s, v)
    const m = nextLow(w, s, t, v)
    const y = outputOf(w, x, f64x2.add(s, n), f64x2.add(t, m))
    s = n
    t = m
    const v2 = f64x2.sub(y, t2)
    const n2 = nextBand(w2, s2, v2)
    const m2 = nextLow(w2, s2, t2, v2)
    const z = outputOf(w2, y, f64x2.add(s2, n2), f64x2.add(t2, m2))
    s2 = n2
    t2 = m2
    v128.store64_lane(left, z, 0)
    v128.store64_lane(right, z, 1)
  }
  v128.store(state, s)
  v128.store(state, t, 16)
  v128.store(state2, s2)
  v128.store(state2, t2, 16)
}

/** Band and low state of the next frame, and the weighted output. */
function nextBand(w: i32, s: v128, v: v128): v128 {
  return f64x2.add(f64x2.mul(v128.load_splat<f64>(w), s), f64x2.mul(v128.load_splat<f64>(w, WEIGHT), v))
}
function nextLow(w: i32, s: v128, t: v128, v: v128): v128 {
  const moved = f64x2.add(t, f64x2.mul(v128.load_splat<f64>(w, WEIGHT), s))
  return f64x2.add(moved, f64x2.mul(v128.load_splat<f64>(w, 2 * WEIGHT), v))
}
function outputOf(w: i32, x: v128, band: v128, low: v128): v128 {
  const direct = f64x2.mul(v128.load_splat<f64>(w, 3 * WEIGHT), x)
  const rest = f64x2.add(direct, f64x2.mul(v128.load_splat<f64>(w, 4 * WEIGHT), band))
  return f64x2.add(rest, f64x2.mul(v128.load_splat<f64>(w, 5 * WEIGHT), low))
}
