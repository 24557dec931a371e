import { integerOf } from './integers'

// `run` of src/dsp/loop-string, both sides to a register. Same operations in the same order, so the same
// bits. All places are byte offsets; `mask` and `head` count frames.

/** Bytes of a row of the table of weights, and taps in it. */
const ROW_SHIFT: i32 = 6
const TAPS: i32 = 8

export function run(
  x: i32,
  y: i32,
  hz: i32,
  feedback: i32,
  weights: i32,
  ring: i32,
  mask: i32,
  head: i32,
  table: i32,
  lows: i32,
  lost: f64,
  step: f64,
  sampleRate: f64,
  frames: i32,
): void {
  let low = v128.load(lows)
  do {
    lost += step
    const back = v128.load_splat<f64>(feedback)
    let period = sampleRate / f64.load(hz)
    if (f64x2.extract_lane(back, 0) < 0) period *= 0.5
    period -= lost
    if (period < 8) period = 8
    const delay = f64x2.splat(period)
    const whole = f64x2.floor(delay)
    const after = f64x2.sub(f64x2.splat(1), f64x2.sub(delay, whole))
    const nearest = f64x2.floor(f64x2.add(f64x2.mul(after, f64x2.splat(1024)), f64x2.splat(0.5)))
    const row = table + (integerOf(nearest) << ROW_SHIFT)
    const past = sinc(row, ring + (((head - integerOf(whole) - 4) & mask) << 4))
    low = f64x2.add(low, f64x2.mul(v128.load_splat<f64>(weights), f64x2.sub(past, low)))
    const z = limited(f64x2.add(v128.load(x), f64x2.mul(back, low)))
    const kept = v128.and(z, f64x2.gt(f64x2.abs(z), f64x2.splat(1e-18)))
    v128.store(ring + (head << 4), kept)
    if (head < TAPS) v128.store(ring + ((mask + 1 + head) << 4), kept)
    v128.store(y, z)
    head = (head + 1) & mask
    x += 16
    y += 16
    hz += 8
    feedback += 8
    weights += 8
  } while (--frames)
  v128.store(lows, low)
}

/** Eight frames with the weights of a row. */
function sinc(row: i32, past: i32): v128 {
  let even = f64x2.mul(v128.load_splat<f64>(row), v128.load(past))
  let odd = f64x2.mul(v128.load_splat<f64>(row, 8), v128.load(past, 16))
  even = f64x2.add(even, f64x2.mul(v128.load_splat<f64>(row, 16), v128.load(past, 32)))
  odd = f64x2.add(odd, f64x2.mul(v128.load_splat<f64>(row, 24), v128.load(past, 48)))
  even = f64x2.add(even, f64x2.mul(v128.load_splat<f64>(row, 32), v128.load(past, 64)))
  odd = f64x2.add(odd, f64x2.mul(v128.load_splat<f64>(row, 40), v128.load(past, 80)))
  even = f64x2.add(even, f64x2.mul(v128.load_splat<f64>(row, 48), v128.load(past, 96)))
  odd = f64x2.add(odd, f64x2.mul(v128.load_splat<f64>(row, 56), v128.load(past, 112)))
  return f64x2.add(even, odd)
}

/** Linear up to 0.7, then ever softer. */
function limited(z: v128): v128 {
  const size = f64x2.abs(z)
  const knee = f64x2.splat(0.7)
  const over = f64x2.div(f64x2.sub(size, knee), f64x2.add(f64x2.splat(0.3), size))
  const soft = f64x2.add(knee, over)
  const sign = v128.and(z, f64x2.splat(-0.0))
  return v128.or(sign, v128.bitselect(soft, size, f64x2.gt(size, knee)))
}
