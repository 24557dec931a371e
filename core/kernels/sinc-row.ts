import { integerOf } from './integers'

/** Bytes of a row of the table: eight floats. */
const ROW_SHIFT: i32 = 5

/** Place of the row of `sincTable32` for a delay. @param whole the delay's floor */
export function sincRow(table: i32, delay: v128, whole: v128): i32 {
  const after = f64x2.sub(f64x2.splat(1), f64x2.sub(delay, whole))
  const nearest = f64x2.floor(f64x2.add(f64x2.mul(after, f64x2.splat(1024)), f64x2.splat(0.5)))
  return table + (integerOf(nearest) << ROW_SHIFT)
}

/** A row over eight floats, taps 0 and 4, 1 and 5, 2 and 6, 3 and 7 added up. */
export function sincSums(row: i32, x: i32): v128 {
  const first = f32x4.mul(v128.load(row), v128.load(x))
  return f32x4.add(first, f32x4.mul(v128.load(row, 16), v128.load(x, 16)))
}
