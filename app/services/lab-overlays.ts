import { difference, keptCurves } from '@oleaje/core/lab/kept'
import type { LabChart, LabCurve, LabFigure, LabResult } from '@oleaje/core/lab/result'
import type { KeptMeasurement } from '@oleaje/core/project/schema'
import { computed, shallowRef } from 'vue'
import { csvOf, curvesFrom } from './curve-table'
import { sentence } from './sentence'

/** A state of the chain that can be laid over others. */
export interface LabState {
  readonly key: string
  readonly name: string
}

/** One state with what was measured of it. */
export interface Overlay extends LabState {
  readonly result: LabResult
}

/** A curve as it is drawn: of which overlay, and which of its curves. */
export interface DrawnCurve extends LabCurve {
  readonly overlay: number
  readonly part: number
}

/** What was measured, laid over each other, with kept measurements and curves from files. */
export class LabOverlays {
  readonly overlays = shallowRef<readonly Overlay[]>([])
  /** Curves that were read from files, by chart. */
  readonly references = shallowRef<readonly { readonly chart: string; readonly curve: LabCurve }[]>([])
  /** The kept measurement that is compared with. */
  readonly compared = shallowRef<KeptMeasurement | null>(null)
  /** Whether curves are shown as differences from those of the first overlay. */
  readonly differs = shallowRef(false)

  /** Charts of the measurement; a picture by itself for each overlay. */
  readonly charts = computed((): readonly LabChart[] => {
    const [first] = this.overlays.value
    if (!first) return []
    return first.result.charts.flatMap((chart, i) =>
      chart.map
        ? this.overlays.value.flatMap((o): LabChart[] => {
            const own = o.result.charts[i]
            return own ? [{ ...own, id: `${chart.id} ${o.key}`, title: `${chart.title}: ${o.name}` }] : []
          })
        : [chart],
    )
  })

  /** All curves of one chart: those of the overlays, a kept measurement and references. */
  curvesOf(chart: string): DrawnCurve[] {
    const sets = [
      ...this.overlays.value.map((o) => ({
        name: o.name,
        curves: o.result.charts.find((c) => c.id === chart)?.curves ?? [],
      })),
      ...(this.compared.value
        ? [{ name: this.compared.value.name, curves: keptCurves(this.compared.value, chart) }]
        : []),
      ...this.references.value
        .filter((r) => r.chart === chart)
        .map(({ curve }) => ({ name: curve.name, curves: [{ ...curve, name: '' }] })),
    ].filter((s) => s.curves.length > 0)
    const base = sets[0]?.curves ?? []
    return sets.flatMap(({ name, curves }, overlay) =>
      curves.flatMap((curve, part): DrawnCurve[] => {
        const from = base.find((c) => c.name === curve.name) ?? base[0]
        if (this.differs.value && (overlay === 0 || !from)) return []
        const shown = this.differs.value && from ? difference(curve, from) : curve
        const full =
          sets.length === 1 && curve.name ? curve.name : curve.name ? `${name}: ${curve.name}` : name
        return [{ ...shown, name: full, overlay, part }]
      }),
    )
  }

  /** Figures side by side: one row for each, one column for each overlay. */
  readonly figures = computed(
    (): readonly { readonly figure: LabFigure; readonly values: readonly (number | null)[] }[] => {
      const [first] = this.overlays.value
      return (first?.result.figures ?? []).map((figure, i) => ({
        figure,
        values: this.overlays.value.map((o) => o.result.figures[i]?.value ?? null),
      }))
    },
  )

  /** What is drawn, as a table. */
  csv(chart: LabChart): string {
    const { map } = chart
    if (!map) return csvOf(chart.x, chart.y, this.curvesOf(chart.id))
    const rows = Array.from(map.y, (y, row) => ({
      name: `${Math.round(y * 100) / 100} ${chart.y.unit}`,
      x: map.x,
      y: Float64Array.from(map.x, (_, i) => map.values[row * map.x.length + i] ?? NaN),
    }))
    return csvOf(chart.x, { name: 'Level', unit: 'dB', scale: 'linear' }, rows)
  }

  /**
   * Lays the curves of a table over a chart.
   * @returns what came of it, in a sentence
   */
  addReference(chart: string, text: string, file: string): string {
    try {
      const curves = curvesFrom(text, file.replace(/\.\w+$/, ''))
      this.references.value = [...this.references.value, ...curves.map((curve) => ({ chart, curve }))]
      return `Added ${curves.map((c) => `“${c.name}”`).join(', ')}.`
    } catch (error) {
      return sentence(error)
    }
  }
}
