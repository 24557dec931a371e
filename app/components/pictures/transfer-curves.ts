import { curveAt } from '@oleaje/core/dsp/antiderivative'
import { fold } from '@oleaje/core/effects/folder'

type Values = Readonly<Record<string, number>>
/** From values to the curve from input to output. */
export type TransferCurve = (values: Values) => (x: number) => number
const factor = (db: number | undefined): number => 10 ** ((db ?? 0) / 20)

export const driveCurve: TransferCurve = (v) => {
  const f = (x: number): number => curveAt(v.curve ?? 0, 1 - (v.asymmetry ?? 0), x)
  const d = factor(v.drive) * 10 ** ((v.range ?? 1) - 1)
  const rest = f(v.bias ?? 0)
  return (x) => (f(x * d + (v.bias ?? 0)) - rest) * factor(v.output)
}

export const foldCurve: TransferCurve = (v) => {
  const [up, low, d, m] = [v.upper ?? 0.7, v.lower ?? -0.7, factor(v.gain), factor(v.makeup)]
  return (x) =>
    m * (low + (up - low) * fold((x * d + (v.offset ?? 0) - low) / (up - low), Math.round(v.folds ?? 4)))
}
/** Levels of the output at which it folds. */
export const foldThresholds = (v: Values): number[] =>
  [v.upper ?? 0.7, v.lower ?? -0.7].map((t) => t * factor(v.makeup))

export const crushCurve: TransferCurve = (v) => {
  const levels = 2 ** ((v.bits ?? 8) - 1)
  return (x) => Math.round(x * levels) / levels
}
