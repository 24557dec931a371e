<script setup lang="ts">
import { DrawnShape, type Point } from '@oleaje/core/dsp/drawn-shape'
import { type Span, drawLine, replaceSpan, thin } from '@oleaje/core/project/curve-edits'
import { computed, ref } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import { useCanvas } from '../../composables/useCanvas'

/**
 * A drawn curve to be worked on: points dragged, segments bent, stretches drawn by hand or by line, by mouse
 * and by key. Reports every change as a whole new curve, with `begin` and `end` around a gesture.
 */
const props = defineProps<{
  points: readonly Point[]
  length: number
  hue: number
  name: string
  /** Distance to which x snaps, 0 for none; and how far apart lines are drawn. */
  snap: number
  grid: number
  tool: 'points' | 'draw' | 'line'
  span?: Span | null
  /** A preview of the curve, drawn dashed. */
  preview?: readonly Point[] | null
  /** Where the curve is being read now, as x; NaN for nowhere. */
  playhead: () => number
}>()
const emit = defineEmits<{ change: [points: Point[]]; begin: []; end: [] }>()

const chosen = ref(0)
const hover = ref(-1)
const shape = computed(() => new DrawnShape(props.points))
const padding = 5
const TIP =
  'Drag points. Drag a segment up or down to bend it. Click to add a point, double-click to remove one. ' +
  'Keys: arrows select and move points, Ctrl+arrows move in time, [ ] bend, Enter adds, Delete removes.'

const canvas = useCanvas(({ g, width, height, color }) => {
  const x = (v: number): number => (v / props.length) * width
  const y = (v: number): number => height - padding - v * (height - 2 * padding)
  if (props.span) {
    g.fillStyle = color('shoal')
    g.fillRect(x(props.span.from), 0, x(props.span.to) - x(props.span.from), height)
  }
  g.strokeStyle = color('line')
  g.lineWidth = 1
  for (let v = 0, n = 0; v <= props.length + 1e-9 && n < 300; v += props.grid, n++) {
    g.globalAlpha = n % 4 === 0 ? 1 : 0.4
    g.beginPath()
    g.moveTo(Math.round(x(v)) + 0.5, 0)
    g.lineTo(Math.round(x(v)) + 0.5, height)
    g.stroke()
  }
  g.globalAlpha = 1
  g.beginPath()
  for (let px = 0; px <= width; px += 1.5) g.lineTo(px, y(shape.value.at((px / width) * props.length)))
  g.strokeStyle = color(`hue-${props.hue}`)
  g.lineWidth = 2
  g.stroke()
  g.lineTo(width, height)
  g.lineTo(0, height)
  g.globalAlpha = 0.12
  g.fillStyle = color(`hue-${props.hue}`)
  g.fill()
  g.globalAlpha = 1
  if (props.preview) {
    const next = new DrawnShape(props.preview)
    g.beginPath()
    for (let px = 0; px <= width; px += 1.5) g.lineTo(px, y(next.at((px / width) * props.length)))
    g.setLineDash([5, 4])
    g.strokeStyle = color('ink')
    g.lineWidth = 1.5
    g.stroke()
    g.setLineDash([])
  }
  if (props.points.length < 160) {
    props.points.forEach((p, i) => {
      g.beginPath()
      g.arc(
        Math.min(width - 3, Math.max(3, x(p.x))),
        y(p.y),
        i === chosen.value || i === hover.value ? 5 : 3.5,
        0,
        7,
      )
      g.fillStyle = i === chosen.value ? color('ink') : color('sheet')
      g.fill()
      g.lineWidth = 1.5
      g.strokeStyle = color(`hue-${props.hue}`)
      g.stroke()
    })
  }
  const now = props.playhead()
  if (!Number.isNaN(now)) {
    g.fillStyle = color('ink')
    g.fillRect(Math.round(x(now)) - 1, 0, 2, height)
    g.beginPath()
    g.arc(x(now), y(shape.value.at(now)), 4, 0, 7)
    g.fill()
  }
})

interface Place {
  x: number
  y: number
}
const place = (e: PointerEvent, box: DOMRect): Place => ({
  x: Math.min(1, Math.max(0, (e.clientX - box.left) / box.width)) * props.length,
  y: Math.min(1, Math.max(0, 1 - (e.clientY - box.top - padding) / (box.height - 2 * padding))),
})
const snapped = (x: number): number =>
  props.snap > 0 ? Math.min(props.length, Math.round(x / props.snap) * props.snap) : x

function nearest(at: Place, box: DOMRect): number {
  let best = -1
  let least = 9
  props.points.forEach((p, i) => {
    const d = Math.hypot(((p.x - at.x) / props.length) * box.width, (p.y - at.y) * (box.height - 2 * padding))
    if (d < least) {
      least = d
      best = i
    }
  })
  return best
}

function press(e: PointerEvent): void {
  const el = canvas.value
  if (!el || e.button !== 0) return
  const box = el.getBoundingClientRect()
  const start = place(e, box)
  emit('begin')
  let move: (m: PointerEvent) => void
  if (props.tool === 'draw') move = freehand(start, box)
  else if (props.tool === 'line') {
    const before = props.points
    move = (m) => {
      const end = place(m, box)
      emit('change', drawLine(before, { x: snapped(start.x), y: start.y }, { x: snapped(end.x), y: end.y }))
    }
  } else move = pointMove(start, box, e.altKey)
  followPointer(e, move, () => emit('end'))
}

/**
 * Drags a point; away from all points, bends the segment under the pointer, or with Alt or on a double-click
 * adds one.
 */
function pointMove(start: Place, box: DOMRect, add: boolean): (m: PointerEvent) => void {
  let at = nearest(start, box)
  if (at < 0 && !add) {
    const k = props.points.findLastIndex((p) => p.x <= start.x)
    const p = props.points[k]
    const q = props.points[k + 1]
    if (p && q && q.x > p.x && Math.abs(shape.value.at(start.x) - start.y) < 0.12) {
      const first = p.bend
      const way = q.y >= p.y ? -1 : 1
      return (m) =>
        change(k, { bend: Math.min(1, Math.max(-1, first + way * (place(m, box).y - start.y) * 2.5)) })
    }
  }
  if (at < 0) {
    const made = { x: snapped(start.x), y: start.y, bend: 0 }
    const next = replaceSpan(props.points, { from: made.x, to: made.x }, [made])
    at = next.indexOf(made)
    emit('change', next)
  }
  chosen.value = at
  return (m) => {
    const to = place(m, box)
    const left = props.points[at - 1]?.x ?? 0
    const right = props.points[at + 1]?.x ?? props.length
    change(at, { x: Math.min(right, Math.max(left, snapped(to.x))), y: to.y })
  }
}

function freehand(start: Place, box: DOMRect): (m: PointerEvent) => void {
  const drawn = new Map<number, number>()
  const before = props.points
  const grain = props.length / 256
  let last = start
  return (m) => {
    const to = place(m, box)
    const steps = Math.max(1, Math.ceil(Math.abs(to.x - last.x) / grain))
    for (let i = 0; i <= steps; i++)
      drawn.set(
        Math.round((last.x + ((to.x - last.x) * i) / steps) / grain),
        last.y + ((to.y - last.y) * i) / steps,
      )
    last = to
    const points = [...drawn].sort((a, b) => a[0] - b[0]).map(([x, y]) => ({ x: x * grain, y, bend: 0 }))
    const first = points[0]
    const end = points[points.length - 1]
    if (first && end) emit('change', replaceSpan(before, { from: first.x, to: end.x }, thin(points, 0.01)))
  }
}

const change = (i: number, to: Partial<Point>): void =>
  emit(
    'change',
    props.points.map((p, k) => (k === i ? { ...p, ...to } : p)),
  )

function remove(i: number): void {
  if (props.points.length > 1)
    emit(
      'change',
      props.points.filter((_, k) => k !== i),
    )
}

function double(e: MouseEvent): void {
  const el = canvas.value
  if (!el) return
  const box = el.getBoundingClientRect()
  const at = nearest(place(e as PointerEvent, box), box)
  if (at >= 0) remove(at)
}

function keydown(e: KeyboardEvent): void {
  if (e.ctrlKey && /^[zsk]$/i.test(e.key)) return
  const p = props.points[chosen.value]
  const fine = e.shiftKey ? 0.1 : 1
  const stepX = (props.snap || props.length / 64) * fine
  const moveX = (by: number): void => {
    if (!p) return
    change(chosen.value, {
      x: Math.min(
        props.points[chosen.value + 1]?.x ?? props.length,
        Math.max(props.points[chosen.value - 1]?.x ?? 0, p.x + by),
      ),
    })
  }
  switch (e.key) {
    case 'ArrowRight':
      e.ctrlKey ? moveX(stepX) : (chosen.value = Math.min(props.points.length - 1, chosen.value + 1))
      break
    case 'ArrowLeft':
      e.ctrlKey ? moveX(-stepX) : (chosen.value = Math.max(0, chosen.value - 1))
      break
    case 'ArrowUp':
      if (p) change(chosen.value, { y: Math.min(1, p.y + 0.02 * fine) })
      break
    case 'ArrowDown':
      if (p) change(chosen.value, { y: Math.max(0, p.y - 0.02 * fine) })
      break
    case '[':
      if (p) change(chosen.value, { bend: Math.max(-1, p.bend - 0.1) })
      break
    case ']':
      if (p) change(chosen.value, { bend: Math.min(1, p.bend + 0.1) })
      break
    case 'Home':
      chosen.value = 0
      break
    case 'End':
      chosen.value = props.points.length - 1
      break
    case 'Insert':
    case 'Enter': {
      if (!p) break
      const q = props.points[chosen.value + 1]
      const x = q ? (p.x + q.x) / 2 : Math.min(props.length, p.x + stepX)
      emit('change', replaceSpan(props.points, { from: x, to: x }, [{ x, y: shape.value.at(x), bend: 0 }]))
      chosen.value++
      break
    }
    case 'Delete':
    case 'Backspace':
      remove(chosen.value)
      chosen.value = Math.max(0, chosen.value - 1)
      break
    default:
      return
  }
  e.preventDefault()
  e.stopPropagation()
}

const spoken = computed(() => {
  const p = props.points[chosen.value]
  return p
    ? `point ${chosen.value + 1} of ${props.points.length}: at ${Math.round(p.x * 100) / 100}, ${Math.round(p.y * 100)} %${p.bend ? `, bent ${Math.round(p.bend * 100)} %` : ''}`
    : ''
})
</script>

<template>
  <div class="relative">
    <canvas
      ref="canvas"
      class="h-full w-full touch-none"
      :class="tool === 'points' ? 'cursor-default' : 'cursor-crosshair'"
      role="application"
      tabindex="0"
      :aria-label="`Curve ${name}: ${spoken}`"
      :title="TIP"
      @pointerdown="press"
      @dblclick="double"
      @keydown="keydown"
    />
    <slot />
  </div>
</template>
