/**
 * Shapers by first-order antiderivative anti-aliasing (Parker, Zavalishin, Le Bivic, "Reducing the aliasing of
 * nonlinear waveshaping using continuous-time convolution", DAFx 2016): the output is the mean of the curve between
 * two input samples. Each works in place and returns the last input, which the next call wants as `last`.
 */
export type Shaper = (x: Float64Array, last: number) => number

/**
 * x / √(1 + x²). Its antiderivative √(1 + x²) turns the difference quotient into a sum over a sum, which never
 * divides by a small number, so it needs neither a threshold nor a fallback.
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

/** Straight to ±1, flat beyond. Antiderivative: x²/2 inside, |x| − ½ outside. */
export const shapeHard: Shaper = (x, last) => {
  let area = clipArea(last)
  for (let i = 0; i < x.length; i++) {
    const a = x[i]
    const f = clipArea(a)
    const d = a - last
    if (d > 1e-5 || d < -1e-5) x[i] = (f - area) / d
    else {
      const m = 0.5 * (a + last)
      x[i] = m > 1 ? 1 : m < -1 ? -1 : m
    }
    last = a
    area = f
  }
  return last
}

/** Cubic knee: x − 4x³/27 up to ±1.5, flat ±1 beyond. Antiderivative: x²/2 − x⁴/27 inside, |x| − 0.5625 outside. */
export const shapeFirm: Shaper = (x, last) => {
  let area = cubicArea(last)
  for (let i = 0; i < x.length; i++) {
    const a = x[i]
    const f = cubicArea(a)
    const d = a - last
    x[i] = d > 1e-4 || d < -1e-4 ? (f - area) / d : curveFirm(0.5 * (a + last))
    last = a
    area = f
  }
  return last
}

/** The curves themselves, for the naive rate and for pictures. */
export const curveRound = (x: number): number => x / Math.sqrt(1 + x * x)
export const curveHard = (x: number): number => (x > 1 ? 1 : x < -1 ? -1 : x)
export const curveFirm = (x: number): number => (x > 1.5 ? 1 : x < -1.5 ? -1 : x - (4 / 27) * x * x * x)

function clipArea(x: number): number {
  return x > 1 ? x - 0.5 : x < -1 ? -x - 0.5 : 0.5 * x * x
}

function cubicArea(x: number): number {
  const q = x * x
  return x > 1.5 ? x - 0.5625 : x < -1.5 ? -x - 0.5625 : 0.5 * q - q * q / 27
}
