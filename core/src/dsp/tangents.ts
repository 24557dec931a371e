import { PI, tanPi } from './math'

/** Highest corner of a bilinear filter as a share of the sample rate. */
export const HIGHEST_SHARE = 0.49

/**
 * tan(π·f·unit) of a block of frequencies, up to the highest corner. A frequency close to the last one that
 * was worked out in full follows from it by the first four terms of the series about it, within 1e-8.
 */
export function tangents(f: Float64Array, unit: number, out: Float64Array): void {
  let anchor = NaN
  let most = 0
  let t0 = 0,
    t1 = 0,
    t2 = 0,
    t3 = 0
  for (let i = 0; i < f.length; i++) {
    const share = f[i] * unit
    const place = Math.min(HIGHEST_SHARE, share)
    const d = (place - anchor) * PI
    if (d < most && d > -most) {
      out[i] = t0 + d * (t1 + d * (t2 + d * t3))
      continue
    }
    anchor = place
    out[i] = t0 = tanPi(place)
    t1 = 1 + t0 * t0
    t2 = t0 * t1
    t3 = t1 * (1 / 3 + t0 * t0)
    // so far that the fifth term is below 1e-8 of the first
    most = (0.008 * t0) / t1
  }
}
