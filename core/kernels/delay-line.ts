import { integerOf } from './integers'
import { sincRow, sincSums } from './sinc-row'

// The loops of src/dsp/delay-line. Same operations in the same order, so the same bits. All places are byte
// offsets.

/** What is quieter is written as silence. */
const NOTHING: f64 = 1e-22

/** Both sides to their rings, as far as these go. */
export function write(left: i32, right: i32, ringL: i32, ringR: i32, frames: i32): void {
  for (; frames > 1; frames -= 2) {
    v128.store64_lane(ringL, written(v128.load(left)), 0)
    v128.store64_lane(ringR, written(v128.load(right)), 0)
    left += 16
    right += 16
    ringL += 8
    ringR += 8
  }
  if (frames) {
    v128.store32_lane(ringL, written(v128.load64_zero(left)), 0)
    v128.store32_lane(ringR, written(v128.load64_zero(right)), 0)
  }
}

function written(x: v128): v128 {
  return f32x4.demote_f64x2_zero(v128.andnot(x, f64x2.lt(f64x2.abs(x), f64x2.splat(NOTHING))))
}

/** Four taps to a register, both sides with the same weights. */
export function read(
  delays: i32,
  left: i32,
  right: i32,
  frames: i32,
  ringL: i32,
  ringR: i32,
  mask: i32,
  at: i32,
  table: i32,
  age: f64,
): void {
  let limit = f64x2.splat(age)
  do {
    const delay = v128.load_splat<f64>(delays)
    const whole = f64x2.floor(delay)
    const row = sincRow(table, delay, whole)
    const from = ((at - integerOf(whole)) & mask) << 2
    const l = sincSums(row, ringL + from)
    const r = sincSums(row, ringR + from)
    // the four sums of each side come together; what is older than all that was written is silence
    const pairs = f32x4.add(v128.shuffle<f32>(l, r, 0, 4, 1, 5), v128.shuffle<f32>(l, r, 2, 6, 3, 7))
    const both = f32x4.add(pairs, v128.shuffle<f32>(pairs, pairs, 2, 3, 2, 3))
    const heard = v128.and(f64x2.le(delay, limit), f64x2.promote_low_f32x4(both))
    v128.store64_lane(left, heard, 0)
    v128.store64_lane(right, heard, 1)
    limit = f64x2.add(limit, f64x2.splat(1))
    delays += 8
    left += 8
    right += 8
    at++
  } while (--frames)
}
