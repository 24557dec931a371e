<script setup lang="ts">
import type { LabChart } from '@oleaje/core/lab/result'
import { LineChart, ScatterChart } from 'echarts/charts'
import { DataZoomComponent, GraphicComponent, GridComponent, MarkLineComponent } from 'echarts/components'
import { type EChartsType, init, use } from 'echarts/core'
import { CanvasRenderer, SVGRenderer } from 'echarts/renderers'
import { useResizeObserver } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useSession } from '../../composables/useSession'
import type { DrawnCurve } from '../../services/lab-overlays'
import { chartOption, placeOf, valueAtPlace } from './chart-option'

use([
  LineChart,
  ScatterChart,
  GridComponent,
  DataZoomComponent,
  MarkLineComponent,
  GraphicComponent,
  CanvasRenderer,
  SVGRenderer,
])

/**
 * Curves or a picture of a measurement. A click places the first cursor and Shift+click the second; arrow
 * keys move them, + and − zoom, 0 shows all. The wheel zooms about the pointer, with Shift in height.
 */
const { chart, curves } = defineProps<{ chart: LabChart; curves: readonly DrawnCurve[] }>()
const cursors = defineModel<readonly (number | null)[]>('cursors', { required: true })
const { preferences } = useSession()
const place = ref<HTMLElement | null>(null)
let drawn: EChartsType | null = null

/** What the axes follow from: while it stays, only curves are exchanged, which is much sooner done. */
const kindOf = (): string =>
  [chart.id, chart.as, chart.x.scale, chart.y.scale, chart.x.unit, chart.y.unit, preferences.night].join()
let kind = ''

function draw(): void {
  if (!drawn) return
  const isAnother = chart.map !== undefined || kind !== kindOf()
  kind = kindOf()
  drawn.setOption(chartOption(chart, curves, cursors.value, [drawn.getWidth(), drawn.getHeight()]), {
    notMerge: isAnother,
    replaceMerge: ['series'],
    // drawn with the next frame, so that the page never waits for both
    lazyUpdate: true,
  })
}
onMounted(async () => {
  // after what else is shown at the same time
  await new Promise((resolve) => setTimeout(resolve))
  if (!place.value) return
  drawn = init(place.value, null, { renderer: 'canvas' })
  drawn.getZr().on('click', (e) => {
    const at = drawn?.convertFromPixel({ xAxisIndex: 0 }, e.offsetX)
    if (!chart.map && typeof at === 'number') set(e.event.shiftKey ? 1 : 0, valueAtPlace(chart.x, at))
  })
  draw()
})
onBeforeUnmount(() => drawn?.dispose())
useResizeObserver(place, () => {
  drawn?.resize()
  if (chart.map) draw()
})
watch(() => [chart, curves, preferences.night] as const, draw, { flush: 'post' })
watch(cursors, draw)

function set(which: 0 | 1, at: number): void {
  cursors.value = cursors.value.map((c, i) => (i === which ? nearest(at) : c))
}
/** The nearest place that the first curve has a point at. */
function nearest(at: number): number {
  const xs = curves[0]?.x
  if (!xs?.length) return at
  const wanted = placeOf(chart.x, at)
  return xs.reduce(
    (best, x) =>
      Math.abs(placeOf(chart.x, x) - wanted) < Math.abs(placeOf(chart.x, best) - wanted) ? x : best,
    xs[0] ?? at,
  )
}
/** Moves a cursor by so many points of the first curve; it begins in the middle. */
function move(which: 0 | 1, by: number): void {
  const xs = curves[0]?.x
  if (!xs?.length) return
  const now = cursors.value[which]
  const i = now === null || now === undefined ? Math.floor(xs.length / 2) : xs.indexOf(nearest(now)) + by
  set(which, xs[Math.min(xs.length - 1, Math.max(0, i))] ?? 0)
}
/** Zooms along about the first cursor or the middle: 2 for closer. */
function zoom(by: number): void {
  const now = (drawn?.getOption().dataZoom as { start?: number; end?: number }[] | undefined)?.[0]
  const [start, end] = [now?.start ?? 0, now?.end ?? 100]
  const middle = (start + end) / 2
  const half = Math.min(50, (end - start) / by / 2)
  const from = by === 0 ? 0 : Math.min(100 - 2 * half, Math.max(0, middle - half))
  const to = by === 0 ? 100 : from + 2 * half
  for (const dataZoomIndex of [0, 1])
    if (dataZoomIndex === 0 || by === 0)
      drawn?.dispatchAction({ type: 'dataZoom', dataZoomIndex, start: from, end: to })
}
function keydown(e: KeyboardEvent): void {
  const which = e.shiftKey ? 1 : 0
  const acts: Record<string, () => void> = {
    'ArrowLeft': () => move(which, -1),
    'ArrowRight': () => move(which, 1),
    'PageDown': () => move(which, -12),
    'PageUp': () => move(which, 12),
    '+': () => zoom(1.5),
    '=': () => zoom(1.5),
    '-': () => zoom(1 / 1.5),
    '0': () => zoom(0),
    'Delete': () => {
      cursors.value = [null, null]
    },
  }
  const act = acts[e.key]
  if (!act || e.ctrlKey || e.metaKey) return
  e.preventDefault()
  e.stopPropagation()
  act()
}

defineExpose({
  zoom,
  /** What is drawn as a PNG file, twice as large. */
  png: (): Blob => dataBlob(drawn?.getDataURL({ type: 'png', pixelRatio: 2 }) ?? 'data:image/png;base64,'),
  /** What is drawn as an SVG file, without cursors. */
  svg: (): Blob => {
    const flat = init(null, null, {
      renderer: 'svg',
      ssr: true,
      width: drawn?.getWidth() ?? 800,
      height: drawn?.getHeight() ?? 400,
    })
    flat.setOption(chartOption(chart, curves, [null, null], [flat.getWidth(), flat.getHeight()]))
    const text = flat.renderToSVGString()
    flat.dispose()
    return new Blob([text], { type: 'image/svg+xml' })
  },
})
function dataBlob(url: string): Blob {
  const bytes = Uint8Array.from(atob(url.slice(url.indexOf(',') + 1)), (c) => c.charCodeAt(0))
  return new Blob([bytes], { type: 'image/png' })
}
</script>

<template>
  <div
    ref="place"
    class="min-h-0"
    role="group"
    tabindex="0"
    :aria-label="`Chart: ${chart.title}. Arrow keys move cursor 1, with Shift cursor 2; plus and minus zoom.`"
    @keydown="keydown"
  />
</template>
