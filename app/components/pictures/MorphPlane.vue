<script setup lang="ts">
import {
  MOST_PLACED,
  type PlacedSnapshot,
  placeOnCircle,
  placedSnapshots,
} from '@oleaje/core/modulators/morph'
import { morphedValues, placeSnapshots } from '@oleaje/core/project/morph'
import { SNAPSHOTS, takeSnapshot } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Modulator } from '@oleaje/core/project/schema'
import { together } from '@oleaje/core/project/edit'
import { Plus } from '@lucide/vue'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/** The plane of a morph: snapshots of its track that are dragged about, and the position among them. */
const props = defineProps<{ modulator: Modulator }>()
const { doc, host } = useSession()
const hand = useGesture()
const m = computed(() => props.modulator)
const track = computed(() => doc.project?.tracks.find((t) => t.modulators.some((x) => x.id === m.value.id)))
const points = computed(() => placedSnapshots(m.value.data))
const isLine = computed(() => (m.value.params.over ?? 0) === 1)
const stored = computed(() => track.value?.snapshots ?? [])
const moved = computed(() => (track.value ? morphedValues(track.value, points.value).size : 0))
const isOn = (snapshot: string): boolean => points.value.some((p) => p.snapshot === snapshot)
const at = (param: 'x' | 'y'): number => m.value.params[param] ?? 0.5
const now = (param: 'x' | 'y'): number => host.telemetry.get(`live:${m.value.id}.${param}`, at(param))

const EDGE = 10
const canvas = useCanvas(({ g, width, height, color }) => {
  const px = (x: number): number => EDGE + x * (width - 2 * EDGE)
  const py = (y: number): number => (isLine.value ? height / 2 : height - EDGE - y * (height - 2 * EDGE))
  const [x, y] = [px(now('x')), py(now('y'))]
  const hue = color(`hue-${m.value.hue}`)
  if (isLine.value) {
    g.strokeStyle = color('line')
    g.beginPath()
    g.moveTo(EDGE, height / 2)
    g.lineTo(width - EDGE, height / 2)
    g.stroke()
  }
  points.value.forEach((p, n) => {
    const weight = host.telemetry.get(n === 0 ? `mod:${m.value.id}` : `mod:${m.value.id}.weight ${n + 1}`, 0)
    g.strokeStyle = hue
    g.globalAlpha = 0.15 + 0.85 * Math.min(1, Math.max(0, weight))
    g.lineWidth = 1.5
    g.beginPath()
    g.moveTo(px(p.x), py(p.y))
    g.lineTo(x, y)
    g.stroke()
    g.globalAlpha = 1
    g.beginPath()
    g.arc(px(p.x), py(p.y), 9, 0, 2 * Math.PI)
    g.fillStyle = color('sheet')
    g.fill()
    g.stroke()
    g.fillStyle = color('ink')
    g.font = '12px "IBM Plex Sans Condensed"'
    g.textAlign = 'center'
    g.fillText(p.snapshot, px(p.x), py(p.y) + 4)
  })
  g.strokeStyle = color('second')
  g.lineWidth = 1
  g.beginPath()
  g.arc(px(at('x')), py(at('y')), 5, 0, 2 * Math.PI)
  g.stroke()
  g.fillStyle = color('magenta')
  g.beginPath()
  g.arc(x, y, 4, 0, 2 * Math.PI)
  g.fill()
})

const bounded = (v: number): number => Math.min(1, Math.max(0, v))
/** Where the pointer is on the plane, 0…1 both ways. */
function place(e: PointerEvent): { x: number; y: number } {
  const box = canvas.value?.getBoundingClientRect()
  if (!box) return { x: 0.5, y: 0.5 }
  return {
    x: bounded((e.clientX - box.left - EDGE) / (box.width - 2 * EDGE)),
    y: bounded(1 - (e.clientY - box.top - EDGE) / (box.height - 2 * EDGE)),
  }
}
/** Distance in px within which a press takes a point. */
const NEAR = 12
function press(e: PointerEvent): void {
  const box = canvas.value?.getBoundingClientRect()
  if (!box) return
  const p = place(e)
  const n = points.value.findIndex(
    (q) =>
      Math.hypot(
        (q.x - p.x) * (box.width - 2 * EDGE),
        isLine.value ? 0 : (q.y - p.y) * (box.height - 2 * EDGE),
      ) < NEAR,
  )
  const go = (move: PointerEvent): void => {
    const to = place(move)
    if (n >= 0) hand.edit('Move snapshot on the plane', movePoint(n, to.x, to.y))
    else
      hand.edit(
        'Morph',
        together(setParam(m.value.id, 'x', to.x), ...(isLine.value ? [] : [setParam(m.value.id, 'y', to.y)])),
      )
  }
  hand.drag(e, n >= 0 ? 'Move snapshot on the plane' : 'Morph', go)
  if (n < 0) go(e)
}
const movePoint = (n: number, x: number, y: number) =>
  placeSnapshots(
    m.value.id,
    points.value.map((p, i) => (i === n ? { ...p, x: bounded(x), y: bounded(y) } : p)),
  )

/** Of the places on a circle, the one farthest from all points. */
function freePlace(): Pick<PlacedSnapshot, 'x' | 'y'> {
  const distance = (x: number, y: number): number =>
    Math.min(9, ...points.value.map((p) => Math.hypot(p.x - x, p.y - y)))
  return Array.from({ length: MOST_PLACED }, (_, i) => placeOnCircle(i, MOST_PLACED)).reduce((best, c) =>
    distance(c.x, c.y) > distance(best.x, best.y) + 1e-9 ? c : best,
  )
}
function toggle(snapshot: string): void {
  doc.edit(
    isOn(snapshot) ? `Take snapshot ${snapshot} off the plane` : `Put snapshot ${snapshot} on the plane`,
    placeSnapshots(
      m.value.id,
      isOn(snapshot)
        ? points.value.filter((p) => p.snapshot !== snapshot)
        : [...points.value, { snapshot, ...freePlace() }],
    ),
  )
}
const nextSlot = computed(() =>
  Array.from({ length: SNAPSHOTS }, (_, i) => i + 1).find(
    (slot) => !stored.value.some((s) => s.id === `${slot}`),
  ),
)
function store(): void {
  const slot = nextSlot.value
  if (!track.value || !slot) return
  doc.edit(
    `Store snapshot ${slot} on the plane`,
    together(
      takeSnapshot(track.value.id, slot),
      placeSnapshots(m.value.id, [...points.value, { snapshot: `${slot}`, ...freePlace() }]),
    ),
  )
}
/** Arrow keys on a snapshot's button move its point. */
function walk(e: KeyboardEvent, snapshot: string): void {
  const n = points.value.findIndex((p) => p.snapshot === snapshot)
  const p = points.value[n]
  const step = e.shiftKey ? 0.01 : 0.05
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[
    e.key
  ]
  if (!p || !by) return
  e.preventDefault()
  e.stopPropagation()
  doc.edit('Move snapshot on the plane', movePoint(n, p.x + (by[0] ?? 0), p.y + (by[1] ?? 0)), true)
}
const where = (snapshot: string): string => {
  const p = points.value.find((x) => x.snapshot === snapshot)
  return p ? `, at ${Math.round(100 * p.x)} %, ${Math.round(100 * p.y)} %` : ', not on the plane'
}
</script>

<template>
  <div class="py-1 text-small">
    <canvas
      ref="canvas"
      class="w-full touch-none border border-line bg-sheet"
      :class="isLine ? 'h-12' : 'h-36'"
      role="img"
      :aria-label="`${points.length} snapshots and the position among them. The gauges X and Y move it.`"
      title="Drag to morph. Drag a snapshot to move it."
      @pointerdown="press"
    />
    <div class="mt-1 flex flex-wrap items-center gap-1" role="group" aria-label="Snapshots of the morph">
      <button
        v-for="s in stored"
        :key="s.id"
        class="small-button"
        :aria-pressed="isOn(s.id)"
        :aria-label="`${s.name}${where(s.id)}`"
        :title="`${s.name}: click to put it on the plane or take it off; arrow keys move it`"
        :disabled="!isOn(s.id) && points.length >= MOST_PLACED"
        @click="toggle(s.id)"
        @keydown="walk($event, s.id)"
      >
        {{ s.id }}
      </button>
      <button
        class="small-button flex items-center gap-1"
        :disabled="!nextSlot || points.length >= MOST_PLACED"
        title="Stores all values of the track as a snapshot and puts it on the plane"
        @click="store"
      >
        <Plus :size="12" aria-hidden="true" /> Store here
      </button>
    </div>
    <p class="mt-1 text-tiny text-second">
      {{
        points.length < 2
          ? 'Store a snapshot, change the track, and store another one.'
          : moved
            ? `Moves ${moved} ${moved === 1 ? 'parameter' : 'parameters'}. Values that all snapshots share stay free to edit.`
            : 'The snapshots are alike: nothing to move.'
      }}
    </p>
  </div>
</template>
