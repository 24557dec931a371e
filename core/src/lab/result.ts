/** What a measurement gives: charts to be drawn, and figures. */
export interface LabResult {
  readonly charts: readonly LabChart[]
  readonly figures: readonly LabFigure[]
}

/** One value, with its unit; null where there is none. */
export interface LabFigure {
  readonly name: string
  readonly value: number | null
  readonly unit: string
}

export interface LabAxis {
  readonly name: string
  readonly unit: string
  readonly scale: 'linear' | 'log'
  /** Ends that are shown at least; those of the curves without them. */
  readonly from?: number
  readonly to?: number
}

/** Points from left to right. A value that is not a number is a gap. */
export interface LabCurve {
  readonly name: string
  readonly x: Float64Array
  readonly y: Float64Array
}

export interface LabChart {
  readonly id: string
  readonly title: string
  readonly x: LabAxis
  readonly y: LabAxis
  readonly curves: readonly LabCurve[]
  /** How curves are drawn; lines without it. */
  readonly as?: 'lines' | 'marks'
  /** A picture in place of curves: rows of values from the bottom up, in dB. */
  readonly map?: LabMap
}

export interface LabMap {
  readonly x: Float64Array
  readonly y: Float64Array
  /** One value for each x of the first y, then of the second, and so on. */
  readonly values: Float32Array
  readonly least: number
  readonly most: number
}

/** Axes that several measurements share. */
export const frequencyAxis: LabAxis = {
  name: 'Frequency',
  unit: 'Hz',
  scale: 'log',
  from: 20,
  to: 20_000,
}
export const levelAxis = (name: string, from?: number, to?: number): LabAxis => ({
  name,
  unit: 'dB',
  scale: 'linear',
  from,
  to,
})
