import { exp2, log2 } from './logarithms'

// The loops of src/dsp/gain-computer, two frames to a register where one does not wait for the other. Same
// operations in the same order, so the same bits. All places are byte offsets, `frames` is even.

export function peaks(left: i32, right: i32, level: i32, frames: i32): void {
  do {
    const l = f64x2.abs(f64x2.promote_low_f32x4(v128.load64_zero(left)))
    const r = f64x2.abs(f64x2.promote_low_f32x4(v128.load64_zero(right)))
    v128.store(level, f64x2.add(f64x2.splat(1e-6), f64x2.pmax(l, r)))
    left += 8
    right += 8
    level += 16
    frames -= 2
  } while (frames)
}

export function wanted(
  level: i32,
  threshold: i32,
  slope: i32,
  knee: i32,
  change: i32,
  frames: i32,
  scale: f64,
): f64 {
  const factor = f64x2.splat(scale)
  const zero = f64x2.splat(0)
  let most = f64x2.splat(-120)
  do {
    const db = f64x2.mul(factor, log2(v128.load(level)))
    v128.store(level, db)
    most = f64x2.pmax(most, db)
    const over = f64x2.sub(db, v128.load(threshold))
    const width = v128.load(knee)
    const half = f64x2.mul(f64x2.splat(0.5), width)
    const within = f64x2.pmin(width, f64x2.pmax(zero, f64x2.add(over, half)))
    const twice = f64x2.pmax(f64x2.splat(1e-9), f64x2.add(width, width))
    const bend = f64x2.div(f64x2.mul(within, within), twice)
    const beyond = f64x2.pmax(zero, f64x2.sub(over, half))
    v128.store(change, f64x2.mul(v128.load(slope), f64x2.add(bend, beyond)))
    level += 16
    threshold += 16
    slope += 16
    knee += 16
    change += 16
    frames -= 2
  } while (frames)
  return max(f64x2.extract_lane(most, 0), f64x2.extract_lane(most, 1))
}

/** Without a jump, since noise would have each second one guessed wrongly. */
export function smooth(change: i32, frames: i32, attack: f64, release: f64, from: f64): f64 {
  const down = f64x2.splat(attack)
  const up = f64x2.splat(release)
  const zero = f64x2.splat(0)
  let now = f64x2.splat(from)
  do {
    const wanted = v128.load_splat<f64>(change)
    const way = f64x2.sub(now, wanted)
    const falls = f64x2.mul(down, f64x2.pmax(zero, way))
    const rises = f64x2.mul(up, f64x2.pmin(zero, way))
    now = f64x2.add(wanted, f64x2.add(falls, rises))
    v128.store64_lane(change, now, 0)
    change += 8
  } while (--frames)
  return f64x2.extract_lane(now, 0)
}

export function gains(change: i32, gain: i32, frames: i32): void {
  do {
    v128.store(gain, exp2(f64x2.mul(f64x2.splat(0.16609640474436813), v128.load(change))))
    change += 16
    gain += 16
    frames -= 2
  } while (frames)
}
