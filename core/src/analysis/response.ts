import { FIRST_STAGE_FACTOR, SECOND_STAGE_Q } from '../effects/filter'
import { angleOf, exp2, tanPi, toDb } from '../dsp/math'

export interface Response {
  /** Linear magnitude. */
  readonly magnitude: number
  /** Radians, −π…π. */
  readonly phase: number
}

interface FilterValues {
  readonly cutoff: number
  readonly resonance: number
  readonly shape: number
  readonly slope: number
  readonly spread: number
  readonly output: number
}

/**
 * Response of the Filter at frequency `f`, in closed form: the bilinear transform of the analogue
 * state-variable filter (Zavalishin 2012, ch. 4), for the left (−1), middle (0) or right (1) channel. Drive
 * is left out.
 */
export function filterResponse(
  v: FilterValues,
  f: number,
  sampleRate: number,
  side: -1 | 0 | 1 = 0,
): Response {
  const g = tanPi(Math.min(0.49, (v.cutoff * exp2(side * v.spread)) / sampleRate))
  const w = tanPi(Math.min(0.4999, f / sampleRate)) / g
  const first = stage(w, v.resonance * (v.slope >= 0.5 ? FIRST_STAGE_FACTOR : 1), v.shape)
  const all = v.slope >= 0.5 ? multiply(first, stage(w, SECOND_STAGE_Q, v.shape)) : first
  const magnitude = Math.sqrt(all.re * all.re + all.im * all.im) * exp2(v.output * 0.16609640474436813)
  return { magnitude, phase: angleOf(all.re, all.im) }
}

/** Level in dB, floored where charts end. */
export const inDb = (magnitude: number, floor = -120): number =>
  magnitude > 0 ? Math.max(floor, toDb(magnitude)) : floor

interface Complex {
  readonly re: number
  readonly im: number
}

const multiply = (a: Complex, b: Complex): Complex => ({
  re: a.re * b.re - a.im * b.im,
  im: a.re * b.im + a.im * b.re,
})

/** One stage at s = jw: (hp·s² + bp·s/Q + lp) / (s² + s/Q + 1) with the weights of the shape. */
function stage(w: number, q: number, shape: number): Complex {
  const lp = shape <= 1 ? 1 - shape : shape > 2 ? shape - 2 : 0
  const bp = shape <= 1 ? shape : shape <= 2 ? 2 - shape : 0
  const hp = shape <= 1 ? 0 : shape <= 2 ? shape - 1 : 1
  const nr = lp - hp * w * w
  const ni = (bp * w) / q
  const dr = 1 - w * w
  const di = w / q
  const d = dr * dr + di * di
  return { re: (nr * dr + ni * di) / d, im: (ni * dr - nr * di) / d }
}
