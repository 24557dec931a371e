import type { LabAxis, LabCurve } from '@oleaje/core/lab/result'
import Papa from 'papaparse'

const heading = (axis: LabAxis): string => (axis.unit ? `${axis.name} (${axis.unit})` : axis.name)

/** Curves of a chart as CSV (RFC 4180): one row for each point, with the name of its curve. */
export const csvOf = (x: LabAxis, y: LabAxis, curves: readonly LabCurve[]): string =>
  Papa.unparse({
    fields: ['Curve', heading(x), heading(y)],
    data: curves.flatMap((c) =>
      Array.from(c.x, (at, i) => [c.name, at, Number.isNaN(c.y[i]) ? '' : (c.y[i] ?? '')]),
    ),
  })

/** A number as tables have it, with a point or a comma; NaN where it is none. */
const numberIn = (text: string | undefined): number =>
  text === undefined || text.trim() === '' ? NaN : Number(text.trim().replace('−', '-').replace(',', '.'))

/**
 * Curves from a table with two columns of numbers, or with a name before them; a first row without numbers
 * is a heading. Commas, semicolons and tabs divide columns.
 * @param name of a curve that the table gives none
 * @throws with a sentence where there are no points
 */
export function curvesFrom(text: string, name: string): LabCurve[] {
  const { data } = Papa.parse<string[]>(text, { skipEmptyLines: true })
  const points = new Map<string, { x: number; y: number }[]>()
  let wrong = 0
  data.forEach((row, i) => {
    const [x, y] = row.slice(-2).map(numberIn)
    if (x === undefined || !Number.isFinite(x)) {
      if (i > 0) wrong++
      return
    }
    const curve = (row.length > 2 && row[0]) || name
    const list = points.get(curve) ?? []
    list.push({ x, y: y ?? NaN })
    points.set(curve, list)
  })
  if (points.size === 0)
    throw new Error(`“${name}” has no points. A table needs two columns of numbers: position and value.`)
  if (wrong > 0)
    throw new Error(
      `“${name}” has ${wrong} ${wrong === 1 ? 'row' : 'rows'} without a number in its position column.`,
    )
  return [...points].map(([curve, list]) => {
    const sorted = list.sort((a, b) => a.x - b.x)
    return {
      name: curve,
      x: Float64Array.from(sorted, (p) => p.x),
      y: Float64Array.from(sorted, (p) => p.y),
    }
  })
}
