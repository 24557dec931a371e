import { exp2, fromDb, log2 } from '../dsp/math'
import { type ParamSpec, isStepped, reachesSilence } from './parameter'

/** Place 0…1 of a value on its parameter's range; values outside the range go to the nearest end. */
export function toNormalized(p: ParamSpec, value: number): number {
  const v = Math.min(p.max, Math.max(p.min, value))
  if (p.max === p.min) return 0
  if (p.law === 'log') return log2(v / p.min) / log2(p.max / p.min)
  if (p.law === 'square') return Math.sqrt((v - p.min) / (p.max - p.min))
  if (p.law === 'cube') return 0.5 + 0.5 * cubeRoot((2 * (v - p.min)) / (p.max - p.min) - 1)
  return (v - p.min) / (p.max - p.min)
}

/** The value in the middle of several, by their places on the scale. */
export const middleOf = (p: ParamSpec, values: readonly number[]): number =>
  values.length
    ? fromNormalized(p, values.reduce((sum, v) => sum + toNormalized(p, v), 0) / values.length)
    : p.default

/** Value at a place 0…1 of the range. Choices and toggles round to the nearest. */
export function fromNormalized(p: ParamSpec, place: number): number {
  const x = Math.min(1, Math.max(0, place))
  if (isStepped(p)) return Math.round(p.min + x * (p.max - p.min))
  if (p.law === 'log') return p.min * exp2(x * log2(p.max / p.min))
  if (p.law === 'square') return p.min + x * x * (p.max - p.min)
  if (p.law === 'cube') return p.min + (0.5 + 0.5 * cube(2 * x - 1)) * (p.max - p.min)
  return p.min + x * (p.max - p.min)
}

const cube = (x: number): number => x * x * x
const cubeRoot = (x: number): number => (x === 0 ? 0 : x < 0 ? -exp2(log2(-x) / 3) : exp2(log2(x) / 3))

/**
 * What processors receive for a place: the value itself, or for gains its linear factor, 0 at the silent end.
 */
export function insideAt(p: ParamSpec, place: number): number {
  const value = fromNormalized(p, place)
  if (!p.gain) return value
  return reachesSilence(p) && place <= 0 ? 0 : fromDb(value)
}

/** The same for a value in the parameter's own unit. Exact for values that need no conversion. */
export function insideOf(p: ParamSpec, value: number): number {
  const v = Math.min(p.max, Math.max(p.min, value))
  if (isStepped(p)) return Math.round(v)
  if (!p.gain) return v
  return reachesSilence(p) && v <= p.min ? 0 : fromDb(v)
}

/** The same law for a block of places. */
export function insideBlock(p: ParamSpec, places: Float64Array, out: Float64Array): void {
  const n = places.length
  if (isStepped(p)) {
    for (let i = 0; i < n; i++) out[i] = Math.round(p.min + places[i] * (p.max - p.min))
  } else if (p.gain) {
    const span = (p.max - p.min) * 0.16609640474436813
    const silent = reachesSilence(p)
    powers(places, span, fromDb(p.min), out)
    if (silent) for (let i = 0; i < n; i++) if (places[i] <= 0) out[i] = 0
  } else if (p.law === 'log') {
    powers(places, log2(p.max / p.min), p.min, out)
  } else if (p.law === 'square') {
    const span = p.max - p.min
    for (let i = 0; i < n; i++) out[i] = p.min + places[i] * places[i] * span
  } else if (p.law === 'cube') {
    const span = p.max - p.min
    for (let i = 0; i < n; i++) out[i] = p.min + (0.5 + 0.5 * cube(2 * places[i] - 1)) * span
  } else {
    const span = p.max - p.min
    for (let i = 0; i < n; i++) out[i] = p.min + places[i] * span
  }
}

/**
 * out = low · 2^(span · place). Places of a block lie close together, so most follow from the last full power
 * by the first terms of the series: within 2e-13 of it for up to a hundredth of an octave.
 */
function powers(places: Float64Array, span: number, low: number, out: Float64Array): void {
  let anchor = NaN
  let power = NaN
  for (let i = 0; i < places.length; i++) {
    const place = places[i]
    const far = (place - anchor) * span
    if (!(far < 0.01 && far > -0.01)) {
      anchor = place
      out[i] = power = low * exp2(place * span)
      continue
    }
    const y = far * 0.6931471805599453
    out[i] = power * (1 + y * (1 + y * (0.5 + y * (0.16666666666666666 + y * 0.041666666666666664))))
  }
}
