import { PI, atan, exp, log, tanh } from './math'

const HALF_PI = PI / 2

/**
 * Shapers by first-order antiderivative anti-aliasing (Parker, Zavalishin, Le Bivic, "Reducing the aliasing
 * of nonlinear waveshaping using continuous-time convolution", DAFx 2016): the output is the mean of the
 * curve between two input samples. Each works in place and returns the last input, which the next call wants
 * as `last`.
 */
export type Shaper = (x: Float64Array, last: number) => number

/**
 * x / √(1 + x²). Its antiderivative √(1 + x²) turns the difference quotient into a sum over a sum, which
 * never divides by a small number, so it needs neither a threshold nor a fallback.
 */
export const shapeRound: Shaper = (x, last) => {
  let root = Math.sqrt(1 + last * last)
  for (let i = 0; i < x.length; i++) {
    const a = x[i]
    const r = Math.sqrt(1 + a * a)
    x[i] = (a + last) / (r + root)
    last = a
    root = r
  }
  return last
}

/**
 * Cubic knee: x − 4x³/27 up to ±1.5, flat ±1 beyond. Antiderivative: x²/2 − x⁴/27 inside, |x| − 0.5625
 * outside.
 */
export const shapeFirm: Shaper = (x, last) => {
  let area = cubicArea(last)
  for (let i = 0; i < x.length; i++) {
    const a = x[i]
    // cubicArea and curveFirm, written out for the same reason
    const s = a * a
    const f = a > 1.5 ? a - 0.5625 : a < -1.5 ? -a - 0.5625 : 0.5 * s - (s * s) / 27
    const d = a - last
    if (d > 1e-4 || d < -1e-4) x[i] = (f - area) / d
    else {
      const m = 0.5 * (a + last)
      x[i] = m > 1.5 ? 1 : m < -1.5 ? -1 : m - (4 / 27) * m * m * m
    }
    last = a
    area = f
  }
  return last
}

/** Numbers of the curves below, as {@link shapeCurve} takes them. */
export const CURVES = ['round', 'firm', 'hard', 'tanh', 'arctangent', 'exponential', 'square law'] as const

/**
 * Any of the curves, with a lower half that is `low` times as high as the upper one (1 for none) and as steep
 * in its middle; each of `lows` holds for the same number of samples. Slower than those above by the
 * elementary functions in the antiderivatives.
 */
export function shapeCurve(curve: number, lows: Float64Array, x: Float64Array, last: number): number {
  const each = x.length / lows.length
  let low = lows[0]
  let area = areaOf(curve, low, last)
  for (let start = 0, k = 0; start < x.length; start += each, k++) {
    if (lows[k] !== low) {
      low = lows[k]
      area = areaOf(curve, low, last)
    }
    for (let i = start; i < start + each; i++) {
      const a = x[i]
      const f = areaOf(curve, low, a)
      const d = a - last
      x[i] = d > 1e-3 || d < -1e-3 ? (f - area) / d : curveAt(curve, low, 0.5 * (a + last))
      last = a
      area = f
    }
  }
  return last
}

/** One of the curves, with its lower half `low` times as high. */
export function curveAt(curve: number, low: number, x: number): number {
  return x < 0 ? -low * upperAt(curve, -x / low) : upperAt(curve, x)
}

function areaOf(curve: number, low: number, x: number): number {
  return x < 0 ? low * low * upperArea(curve, -x / low) : upperArea(curve, x)
}

/**
 * Upper halves, for x ≥ 0; all have slope 1 at 0 and end at 1. Exponential and arctangent as in Zölzer, DAFX,
 * 2011, ch. 4.
 */
function upperAt(curve: number, x: number): number {
  switch (curve) {
    case 0:
      return curveRound(x)
    case 1:
      return x > 1.5 ? 1 : x - (4 / 27) * x * x * x
    case 2:
      return x > 1 ? 1 : x
    case 3:
      return tanh(x)
    case 4:
      return atan(x * HALF_PI) / HALF_PI
    case 5:
      return 1 - exp(-x)
    default:
      return x < 2 ? x - 0.25 * x * x : 1
  }
}

/** Their antiderivatives from 0. */
function upperArea(curve: number, x: number): number {
  switch (curve) {
    case 0:
      return (x * x) / (Math.sqrt(1 + x * x) + 1)
    case 1:
      return x > 1.5 ? x - 0.5625 : 0.5 * x * x - (x * x * x * x) / 27
    case 2:
      return x > 1 ? x - 0.5 : 0.5 * x * x
    case 3:
      return x + log(0.5 + 0.5 * exp(-2 * x))
    case 4: {
      const y = x * HALF_PI
      return (y * atan(y) - 0.5 * log(1 + y * y)) / (HALF_PI * HALF_PI)
    }
    case 5:
      return x + exp(-x) - 1
    default:
      return x < 2 ? x * x * (0.5 - x / 12) : x - 2 / 3
  }
}

/** The curves themselves, for the naive rate and for pictures. */
export const curveRound = (x: number): number => x / Math.sqrt(1 + x * x)
export const curveHard = (x: number): number => (x > 1 ? 1 : x < -1 ? -1 : x)
export const curveFirm = (x: number): number => (x > 1.5 ? 1 : x < -1.5 ? -1 : x - (4 / 27) * x * x * x)

function cubicArea(x: number): number {
  const q = x * x
  return x > 1.5 ? x - 0.5625 : x < -1.5 ? -x - 0.5625 : 0.5 * q - (q * q) / 27
}
