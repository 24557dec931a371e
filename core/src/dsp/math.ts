/**
 * Elementary functions built on + − × ÷ and sqrt alone, so that every JavaScript engine gives the same bits.
 * Everything that can reach the sound, tables and coefficients included, uses these and never the built-in
 * ones. Error bounds are held by test. Series: Abramowitz & Stegun, Handbook of Mathematical Functions, 1964,
 * ch. 4.
 */
export const PI = 3.141592653589793
export const TAU = 6.283185307179586
const LN2 = 0.6931471805599453
export const LOG2E = 1.4426950408889634
/** A cent as a natural logarithm of frequency. */
export const LN2_OVER_1200 = 0.0005776226504666211
const LOG2_10_OVER_20 = 0.16609640474436813

/**
 * Smallest normal number. Audio threads of some browsers treat everything below it, the denormals, as zero.
 */
const LEAST_NORMAL = 2.2250738585072014e-308

/**
 * Powers of two from −1022 to 1023: no denormal among them, so that the table is the same where these are
 * flushed to zero.
 */
const pow2 = new Float64Array(2046)
for (let n = 0, v = LEAST_NORMAL; n < 2046; n++, v *= 2) pow2[n] = v

const bits = new Float64Array(1)
const words = new Uint32Array(bits.buffer)

/**
 * 2^x. Relative error below 1e-11; 0 below −1021.5, so that no result is denormal, and Infinity from 1023.5
 * on.
 */
export function exp2(x: number): number {
  if (!(x < 1023.5)) return x > 0 ? Infinity : NaN
  if (x < -1021.5) return 0
  // truncation of a positive number is the cheapest floor there is
  const at = (x + 1022.5) | 0
  const y = (x - (at - 1022)) * LN2
  const q = y * y
  // Estrin's way to work out the series: pairs that do not wait for each other
  const p =
    1 +
    y +
    q *
      (0.5 +
        y * 1.6666666666666666e-1 +
        q *
          (4.1666666666666664e-2 +
            y * 8.333333333333333e-3 +
            q *
              (1.388888888888889e-3 +
                y * 1.984126984126984e-4 +
                q * (2.48015873015873e-5 + y * 2.7557319223985893e-6))))
  return p * pow2[at]
}

/**
 * 2^x of a block or of a part of it, in place: {@link exp2}, written out, since a call that the compiler does
 * not inline makes an object of each number it gives.
 */
export function exp2Block(x: Float64Array, from = 0, to = x.length): void {
  for (let i = from; i < to; i++) {
    const v = x[i]
    if (!(v < 1023.5)) {
      x[i] = v > 0 ? Infinity : NaN
      continue
    }
    if (v < -1021.5) {
      x[i] = 0
      continue
    }
    const at = (v + 1022.5) | 0
    const y = (v - (at - 1022)) * LN2
    const q = y * y
    const p =
      1 +
      y +
      q *
        (0.5 +
          y * 1.6666666666666666e-1 +
          q *
            (4.1666666666666664e-2 +
              y * 8.333333333333333e-3 +
              q *
                (1.388888888888889e-3 +
                  y * 1.984126984126984e-4 +
                  q * (2.48015873015873e-5 + y * 2.7557319223985893e-6))))
    x[i] = p * pow2[at]
  }
}

/** Linear factors of a block of levels in dB, in place. */
export function fromDbBlock(x: Float64Array): void {
  for (let i = 0; i < x.length; i++) x[i] *= LOG2_10_OVER_20
  exp2Block(x)
}

/**
 * Base-2 logarithm of a positive, finite number. Absolute error below 1e-12; −Infinity for 0 and denormals,
 * NaN below.
 */
export function log2(x: number): number {
  if (!(x >= LEAST_NORMAL)) return x > -LEAST_NORMAL ? -Infinity : NaN
  bits[0] = x
  let e = (words[1] >>> 20) - 1023
  // scaled by a power of two, which is exact; writing the exponent back would stall the processor
  let m = x * pow2[1023 - e] * 0.5
  if (m > 1.4142135623730951) {
    m *= 0.5
    e++
  }
  const s = (m - 1) / (m + 1)
  const z = s * s
  const q = z * z
  const series =
    s *
    (1 +
      z * 0.3333333333333333 +
      q *
        (0.2 +
          z * 0.14285714285714285 +
          q * (0.1111111111111111 + z * 0.09090909090909091 + q * 0.07692307692307693)))
  return e + series * 2.8853900817779268
}

export const exp = (x: number): number => exp2(x * LOG2E)
export const log = (x: number): number => log2(x) * LN2
/** x^y for x > 0. */
export const pow = (x: number, y: number): number => (x <= 0 ? 0 : exp2(y * log2(x)))
/** Linear factor of a level in dB. */
export const fromDb = (db: number): number => exp2(db * LOG2_10_OVER_20)
/** Level in dB of a linear factor; −Infinity for 0. */
export const toDb = (gain: number): number => log2(gain) * 6.020599913279624

/** sin(2πx), x in cycles. Absolute error below 1e-11 for |x| < 2^20. */
export function sinCycles(x: number): number {
  x -= Math.floor(x + 0.5)
  if (x > 0.25) x = 0.5 - x
  else if (x < -0.25) x = -0.5 - x
  const y = x * TAU
  const z = y * y
  const q = z * z
  return (
    y *
    (1 +
      z * -1.6666666666666666e-1 +
      q *
        (8.333333333333333e-3 +
          z * -1.984126984126984e-4 +
          q *
            (2.7557319223985893e-6 +
              z * -2.505210838544172e-8 +
              q * (1.6059043836821613e-10 + z * -7.647163731819816e-13))))
  )
}

export const cosCycles = (x: number): number => sinCycles(x + 0.25)
export const sin = (x: number): number => sinCycles(x * 0.15915494309189535)
export const cos = (x: number): number => sinCycles(x * 0.15915494309189535 + 0.25)

/**
 * tan(πx) for x in [0, 0.5), the prewarping of a bilinear filter at x = f / fs. Relative error below 2e-8.
 */
export function tanPi(x: number): number {
  const high = x > 0.25
  const y = (high ? 0.5 - x : x) * PI
  const z = y * y
  const top = y * (945 + z * (z - 105))
  const bottom = 945 + z * (15 * z - 420)
  return high ? bottom / top : top / bottom
}

/** Arctangent in radians. Absolute error below 1e-11. */
export function atan(x: number): number {
  const a = Math.abs(x)
  let y = a > 1 ? 1 / a : a
  y = y / (1 + Math.sqrt(1 + y * y))
  y = y / (1 + Math.sqrt(1 + y * y))
  const z = y * y
  const r =
    4 *
    y *
    (1 + z * (-1 / 3 + z * (0.2 + z * (-1 / 7 + z * (1 / 9 + z * (-1 / 11 + z * (1 / 13 - z / 15)))))))
  const full = a > 1 ? PI / 2 - r : r
  return x < 0 ? -full : full
}

/** Angle of a complex number in radians, −π…π; 0 for nothing. */
export function angleOf(re: number, im: number): number {
  if (re === 0) return im > 0 ? PI / 2 : im < 0 ? -PI / 2 : 0
  const a = atan(im / re)
  return re > 0 ? a : im >= 0 ? a + PI : a - PI
}

/** Hyperbolic tangent. Absolute error below 1e-10. */
export function tanh(x: number): number {
  if (x > 20) return 1
  if (x < -20) return -1
  if (x < 0.001 && x > -0.001) return x - (x * x * x) / 3
  const e = exp2(2 * LOG2E * x)
  return (e - 1) / (e + 1)
}

/** Pole of a one-pole smoother that covers 1 − 1/e of a step in `seconds`. 0 for no smoothing. */
export const poleFor = (seconds: number, sampleRate: number): number =>
  seconds <= 0 ? 0 : exp(-1 / (seconds * sampleRate))
