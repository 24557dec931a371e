/**
 * The integer of a whole number below 2^31, of the first of two: it stands in the low half of what 2^52 · 1.5
 * makes of it. In vectors, although of one number: their rounding does not wait for what the register held
 * before.
 */
export function integerOf(whole: v128): i32 {
  return i32x4.extract_lane(f64x2.add(f64x2.splat(6755399441055744), whole), 0)
}
