import type { LabAxis, LabChart, LabMap } from '@oleaje/core/lab/result'
import type { EChartsCoreOption } from 'echarts/core'
import { paletteColor } from '../../composables/useCanvas'
import type { DrawnCurve } from '../../services/lab-overlays'

/** Room around the axes in px. */
const ROOM = { left: 66, right: 22, top: 16, bottom: 46 }
/** More points than these are thinned out to what the screen can show. */
const MANY = 2000

/** A chart as ECharts draws it, in the colours of the page. */
export function chartOption(
  chart: LabChart,
  curves: readonly DrawnCurve[],
  cursors: readonly (number | null)[],
  size: readonly [width: number, height: number],
): EChartsCoreOption {
  const ink = paletteColor('ink')
  const line = paletteColor('line')
  const text = {
    color: paletteColor('second'),
    fontFamily: 'IBM Plex Sans Condensed, sans-serif',
    fontSize: 13,
  }
  const common = {
    animation: false,
    backgroundColor: paletteColor('sheet'),
    textStyle: text,
    grid: ROOM,
  }
  if (chart.map) return { ...common, ...mapOption(chart, chart.map, text, line, size) }
  const [x, y] = [extent(chart.x, curves, 'x'), extent(chart.y, curves, 'y')]
  const isMarks = chart.as === 'marks'
  return {
    ...common,
    xAxis: axisOption(chart.x, x, text, line),
    yAxis: { ...axisOption(chart.y, y, text, line), nameLocation: 'middle', nameGap: 46 },
    dataZoom: [
      { type: 'inside', xAxisIndex: 0, filterMode: 'none' },
      {
        type: 'inside',
        yAxisIndex: 0,
        filterMode: 'none',
        zoomOnMouseWheel: 'shift',
        moveOnMouseMove: false,
      },
    ],
    series: [
      ...curves.map((c) => ({
        type: isMarks ? 'scatter' : 'line',
        name: c.name,
        data: pointsOf(chart, c),
        showSymbol: isMarks || c.x.length < 2,
        symbol: ['circle', 'rect', 'triangle', 'diamond'][isMarks ? c.part % 4 : 0],
        symbolSize: 7,
        silent: true,
        sampling: c.x.length > MANY ? 'minmax' : undefined,
        color: paletteColor(hueOf(c, curves)),
        lineStyle: { width: 1.6, type: dashOf(c, curves) },
        clip: true,
      })),
      {
        type: 'line',
        data: [],
        markLine: {
          silent: true,
          symbol: 'none',
          animation: false,
          data: cursors.flatMap((at, i) =>
            at === null
              ? []
              : [
                  {
                    xAxis: placeOf(chart.x, at),
                    label: { formatter: String(i + 1), color: ink, fontSize: 13 },
                    lineStyle: { color: ink, type: i === 0 ? 'solid' : 'dashed', width: 1 },
                  },
                ],
          ),
        },
      },
    ],
  }
}

/** Where a value stands on an axis; log axes are drawn by the logarithm. */
export const placeOf = (axis: LabAxis, value: number): number =>
  axis.scale === 'log' ? Math.log10(Math.max(1e-9, value)) : value
export const valueAtPlace = (axis: LabAxis, place: number): number =>
  axis.scale === 'log' ? 10 ** place : place

/** Name of its colour in the palette: by overlay where there are several, and else by curve. */
export function hueOf(c: DrawnCurve, all: readonly DrawnCurve[]): string {
  const isOne = all.every((o) => o.overlay === all[0]?.overlay)
  return `hue-${[4, 0, 2, 6, 3, 1, 7, 5][(isOne ? c.part : c.overlay) % 8]}`
}
/** How the line of a curve is broken, where colours tell overlays apart. */
export const dashOf = (c: DrawnCurve, all: readonly DrawnCurve[]): string | number[] =>
  all.every((o) => o.overlay === all[0]?.overlay)
    ? 'solid'
    : (['solid', 'dashed', 'dotted', [8, 3, 2, 3]][c.part % 4] ?? 'solid')

/**
 * Points as alternating x and y. NaN is a gap; a phase that wraps at ±180° is drawn as two lines.
 */
function pointsOf(chart: LabChart, c: DrawnCurve): Float64Array {
  const turns = chart.y.unit === '°'
  const points = new Float64Array((turns ? 4 : 2) * c.x.length)
  let n = 0
  for (let i = 0; i < c.x.length; i++) {
    const [x, y] = [placeOf(chart.x, c.x[i] ?? 0), c.y[i] ?? NaN]
    if (turns && i > 0 && Math.abs(y - (c.y[i - 1] ?? y)) > 180) {
      points[n++] = x
      points[n++] = NaN
    }
    points[n++] = x
    points[n++] = Number.isNaN(y) ? NaN : placeOf(chart.y, y)
  }
  return points.subarray(0, n)
}

/** Ends of an axis: those it asks for, widened to hold all points. */
function extent(axis: LabAxis, curves: readonly DrawnCurve[], side: 'x' | 'y'): readonly [number, number] {
  let [least, most] = [Infinity, -Infinity]
  for (const c of curves)
    for (const v of c[side]) {
      if (!Number.isFinite(v)) continue
      least = Math.min(least, v)
      most = Math.max(most, v)
    }
  if (side === 'x')
    return [axis.from ?? (least < Infinity ? least : 0), axis.to ?? (most > -Infinity ? most : 1)]
  if (least > most) [least, most] = [0, 1]
  // what hardly differs is not drawn as if it did
  const room = Math.max((most - least) * 0.06, leastSpan(axis) - (most - least)) / 2
  if (axis.scale === 'log') return [axis.from ?? least, axis.to ?? most]
  return [Math.min(axis.from ?? least - room, least), Math.max(axis.to ?? most + room, most)]
}
const leastSpan = (axis: LabAxis): number =>
  ({ 'dB': 6, 'dBFS': 6, 'LUFS': 6, '°': 20, 'ms': 0.2, 's': 0.1, '': 0.1 })[axis.unit] ?? 0

const ticks125 = [1, 2, 5]
function logTicks(from: number, to: number): number[] {
  const out: number[] = []
  for (let decade = 10 ** Math.floor(Math.log10(from)); decade <= to; decade *= 10)
    for (const t of ticks125) if (decade * t >= from * 0.999 && decade * t <= to * 1.001) out.push(decade * t)
  return out
}

function axisOption(
  axis: LabAxis,
  [from, to]: readonly [number, number],
  text: object,
  line: string,
): Record<string, unknown> {
  const log = axis.scale === 'log'
  const customValues = log ? logTicks(from, to).map((v) => Math.log10(v)) : undefined
  return {
    type: 'value',
    name: axis.unit ? `${axis.name}, ${axis.unit}` : axis.name,
    nameLocation: 'middle',
    nameGap: 28,
    nameTextStyle: text,
    min: placeOf(axis, from),
    max: placeOf(axis, to),
    axisLine: { onZero: false, lineStyle: { color: line } },
    axisTick: { customValues, lineStyle: { color: line } },
    splitLine: { lineStyle: { color: line, opacity: 0.7 } },
    axisLabel: {
      ...text,
      customValues,
      hideOverlap: true,
      showMinLabel: log ? undefined : axis.from !== undefined,
      showMaxLabel: log ? undefined : axis.to !== undefined,
      formatter: (place: number) => shortNumber(valueAtPlace(axis, place)),
    },
  }
}

/** A number as axes show it. */
export function shortNumber(value: number): string {
  const v = Number(value.toPrecision(6))
  const size = Math.abs(v)
  const text =
    size >= 1000 && size % 100 === 0
      ? `${Number((v / 1000).toPrecision(3))}k`
      : String(Number(v.toPrecision(3)))
  return text.replace('-', '−')
}

/** A picture over its axes. It is painted at once, since thousands of single marks would hold the page up. */
function mapOption(
  chart: LabChart,
  map: LabMap,
  text: object,
  line: string,
  [width, height]: readonly [number, number],
): EChartsCoreOption {
  const ends = (values: Float64Array): readonly [number, number] => [values[0] ?? 0, values.at(-1) ?? 1]
  return {
    xAxis: {
      ...axisOption({ ...chart.x, from: undefined, to: undefined }, ends(map.x), text, line),
      splitLine: { show: false },
    },
    yAxis: { ...axisOption(chart.y, ends(map.y), text, line), nameGap: 46, splitLine: { show: false } },
    series: [],
    graphic: [
      {
        type: 'image',
        silent: true,
        z: -1,
        style: {
          image: painted(map),
          x: ROOM.left,
          y: ROOM.top,
          width: Math.max(1, width - ROOM.left - ROOM.right),
          height: Math.max(1, height - ROOM.top - ROOM.bottom),
        },
      },
    ],
  }
}

/** One pixel for each value, in the colours of the page from paper to ink, as the address of an image. */
function painted(map: LabMap): string {
  const canvas = document.createElement('canvas')
  const [columns, rows] = [(canvas.width = map.x.length), (canvas.height = map.y.length)]
  const g = canvas.getContext('2d')
  if (!g) return ''
  const ramp = g.createLinearGradient(0, 0, 256, 0)
  const colors = ['sheet', 'shoal', 'water', 'deep', 'ink']
  colors.forEach((name, i) => ramp.addColorStop(i / (colors.length - 1), paletteColor(name)))
  const strip = new OffscreenCanvas(256, 1).getContext('2d')
  if (!strip) return ''
  strip.fillStyle = ramp
  strip.fillRect(0, 0, 256, 1)
  const palette = strip.getImageData(0, 0, 256, 1).data
  const image = g.createImageData(columns, rows)
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const value = map.values[row * columns + column] ?? map.least
      const share = (value - map.least) / (map.most - map.least)
      const from = 4 * Math.round(255 * Math.min(1, Math.max(0, share)))
      // pictures begin at the top, frequencies at the bottom
      image.data.set(palette.subarray(from, from + 4), 4 * ((rows - 1 - row) * columns + column))
    }
  g.putImageData(image, 0, 0)
  return canvas.toDataURL()
}
