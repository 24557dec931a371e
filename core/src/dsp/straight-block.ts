import { STRIDE } from './band-stages'

/**
 * Whether a block of numbers goes from `from`, before its first, to its last by no more than `way`, and at
 * the ends of all strides within `off` of a straight line.
 */
export function straight(values: Float64Array, from: number, way: number, off: number): boolean {
  const whole = values[values.length - 1] - from
  if (whole > way || whole < -way) return false
  const step = whole / values.length
  for (let i = STRIDE - 1; i < values.length - 1; i += STRIDE) {
    const d = values[i] - from - step * (i + 1)
    if (d > off || d < -off) return false
  }
  return true
}
