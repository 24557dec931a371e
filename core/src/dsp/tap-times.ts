import { exp2, log2 } from './math'

/** Laws by which taps stand in the whole time. */
export const spacingLaws = ['even', 'closing', 'opening', 'swung', 'as drawn'] as const

/**
 * Place of a tap within the whole, 0…1.
 * @param law index of {@link spacingLaws} @param bend −1…1: how far closing, opening or swung departs from
 *   even; what is drawn is bent as a whole
 * @param k which tap of @param n @param drawn its own place
 */
export function tapPlace(law: number, bend: number, k: number, n: number, drawn: number): number {
  const u = (k + 1) / n
  const power = (x: number, y: number): number => (x <= 0 ? 0 : exp2(y * log2(x)))
  switch (law) {
    case 0:
      return u
    // gaps become shorter: the later the closer
    case 1:
      return 1 - power(1 - u, 1 + 2 * Math.abs(bend))
    case 2:
      return power(u, 1 + 2 * Math.abs(bend))
    // every second tap late, or early
    case 3:
      return u + (k % 2 === 0 ? bend / (3 * n) : 0)
    default:
      return bend === 0 ? drawn : power(drawn, exp2(bend))
  }
}
