<script setup lang="ts">
import type { LabAxis, LabChart } from '@oleaje/core/lab/result'
import { computed } from 'vue'
import type { DrawnCurve } from '../../services/lab-overlays'
import { dashOf, hueOf } from './chart-option'
import { figureText } from './figure-text'

/** The curves of a chart with their values at the two cursors, and the difference of the two. */
const { chart, curves, cursors } = defineProps<{
  chart: LabChart
  curves: readonly DrawnCurve[]
  cursors: readonly (number | null)[]
}>()

function valueAt(c: DrawnCurve, x: number | null | undefined): number | null {
  if (x === null || x === undefined || c.x.length === 0) return null
  let best = 0
  for (let i = 1; i < c.x.length; i++)
    if (Math.abs((c.x[i] ?? 0) - x) < Math.abs((c.x[best] ?? 0) - x)) best = i
  const y = c.y[best] ?? NaN
  return Number.isNaN(y) ? null : y
}
const rows = computed(() =>
  curves.map((c) => {
    const [a, b] = [valueAt(c, cursors[0]), valueAt(c, cursors[1])]
    return { curve: c, a, b, difference: a !== null && b !== null ? b - a : null }
  }),
)
const text = (v: number | null, axis: LabAxis): string => (v === null ? '' : figureText(v, axis.unit))
function dashes(c: DrawnCurve): string | undefined {
  const dash = dashOf(c, curves)
  return typeof dash === 'string' ? { dashed: '6 3', dotted: '2 3' }[dash] : dash.join(' ')
}
const apart = computed(() => {
  const [a, b] = cursors
  return a !== null && b !== null && a !== undefined && b !== undefined ? b - a : null
})
</script>

<template>
  <table class="w-full text-small" aria-label="Values at the cursors">
    <thead>
      <tr class="text-second">
        <th class="text-left font-normal">Curve</th>
        <th class="w-32 text-right font-normal">
          Cursor 1{{ cursors[0] !== null ? `, ${text(cursors[0] ?? null, chart.x)}` : '' }}
        </th>
        <th class="w-32 text-right font-normal">
          Cursor 2{{ cursors[1] !== null ? `, ${text(cursors[1] ?? null, chart.x)}` : '' }}
        </th>
        <th class="w-32 text-right font-normal">
          Between{{ apart !== null ? `, ${text(apart, chart.x)}` : '' }}
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, i) in rows" :key="i">
        <th class="text-left font-normal">
          <svg class="mr-1.5 inline-block align-middle" width="26" height="8" aria-hidden="true">
            <line
              x1="1"
              x2="25"
              y1="4"
              y2="4"
              stroke-width="2.4"
              :stroke="`var(--${hueOf(row.curve, curves)})`"
              :stroke-dasharray="dashes(row.curve)"
            /></svg
          >{{ row.curve.name || chart.title }}
        </th>
        <td class="text-right">{{ text(row.a, chart.y) }}</td>
        <td class="text-right">{{ text(row.b, chart.y) }}</td>
        <td class="text-right">{{ text(row.difference, chart.y) }}</td>
      </tr>
    </tbody>
  </table>
</template>
