import { limits } from '../limits'
import type { KeptMeasurement } from '../project/schema'
import { type MeasurementId, measurementIds } from './measurements'
import type { LabCurve, LabResult } from './result'
import { type LabSettings, labSettingsSchema } from './settings'
import { type LabScope, type LabSubject, labScopes } from './subject'

/** Digits of a kept value. */
const round = (v: number): number => Number(v.toPrecision(6))

/** A result as it is kept with a project: its curves, thinned out where they have very many points. */
export function toKeep(
  id: string,
  name: string,
  kind: MeasurementId,
  subject: LabSubject,
  settings: LabSettings,
  result: LabResult,
): KeptMeasurement {
  const { track, scope, node } = subject
  return {
    id,
    name,
    kind,
    track,
    scope,
    node,
    settings: { ...settings },
    curves: result.charts.flatMap((chart) =>
      chart.curves.map((c) => {
        const every = Math.ceil(c.x.length / limits.measurementPoints.most)
        const kept = Array.from(c.x.keys()).filter((i) => i % every === 0)
        return {
          chart: chart.id,
          name: c.name,
          x: kept.map((i) => round(c.x[i])),
          y: kept.map((i) => (Number.isNaN(c.y[i]) ? null : round(c.y[i]))),
        }
      }),
    ),
  }
}

/** What a kept measurement asks to be done again; null where this program does not know its kind. */
export function askedAgain(kept: KeptMeasurement): {
  readonly kind: MeasurementId
  readonly settings: LabSettings
  readonly scope: LabScope
} | null {
  const kind = measurementIds.find((id) => id === kept.kind)
  const settings = labSettingsSchema.safeParse(kept.settings)
  const scope = labScopes.find((s) => s === kept.scope)
  return kind && scope && settings.success ? { kind, scope, settings: settings.data } : null
}

/** The kept curves of one chart. */
export const keptCurves = (kept: KeptMeasurement, chart: string): LabCurve[] =>
  kept.curves
    .filter((c) => c.chart === chart)
    .map((c) => ({
      name: c.name,
      x: Float64Array.from(c.x),
      y: Float64Array.from(c.y, (v) => v ?? NaN),
    }))

/**
 * How far a curve lies above another, at the points of the first; between points of the other on a straight
 * line, NaN outside.
 */
export function difference(curve: LabCurve, from: LabCurve): LabCurve {
  let at = 0
  const y = Float64Array.from(curve.x, (x, i) => {
    while (at + 1 < from.x.length - 1 && from.x[at + 1] < x) at++
    const [a, b] = [from.x[at], from.x[at + 1] ?? from.x[at]]
    const slack = 1e-5 * Math.max(Math.abs(a), Math.abs(b))
    if (!(x >= a - slack && x <= b + slack)) return NaN
    const share = b > a ? (x - a) / (b - a) : 0
    const other = from.y[at] + share * ((from.y[at + 1] ?? from.y[at]) - from.y[at])
    return curve.y[i] - other
  })
  return { name: curve.name, x: curve.x, y }
}
