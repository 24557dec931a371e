<script setup lang="ts">
import { addLaneItem, removeLaneItem, setLaneLength, setParam } from '@oleaje/core/project/value-edits'
import { number } from '@oleaje/core/units/parameter'
import { pathOf } from '@oleaje/core/project/param-path'
import type { Modulator } from '@oleaje/core/project/schema'
import { itemsOf } from '@oleaje/core/project/targets'
import { computed, ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/** The row of a Steps modulator: heights dragged as bars, glide and chance of the chosen step below. */
const props = defineProps<{ modulator: Modulator }>()
const { doc, host, selection, monitoring } = useSession()
const hand = useGesture()
const chosen = ref(0)
const track = computed(() => selection.track)
const items = computed(() =>
  track.value ? itemsOf({ kind: 'modulator', modulator: props.modulator, track: track.value }, 'steps') : [],
)
/**
 * Whether the gauges below are those of every step at once: what is linked to them is fanned over the row.
 */
const every = ref(false)
const path = (param: string, index = chosen.value): string => pathOf({ lane: 'steps', index, param })
const gaugePath = (param: string): string => (every.value ? pathOf({ lane: 'steps', param }) : path(param))

const canvas = useCanvas(({ g, width, height, color }) => {
  const n = items.value.length
  const now = monitoring.playing
    ? Math.round(host.telemetry.get(`read:mod:${props.modulator.id}:step`, -1))
    : -1
  items.value.forEach((item, i) => {
    const w = width / n
    const live = host.telemetry.get(`live:${props.modulator.id}.${path('level', i)}`, item.level ?? 0.5)
    const y = height - 3 - live * (height - 6)
    g.fillStyle = color(`hue-${props.modulator.hue}`)
    g.globalAlpha = (i === now ? 0.9 : 0.3) * (0.35 + 0.65 * (item.chance ?? 1))
    g.fillRect(i * w + 1, y, w - 2, height - y)
    g.globalAlpha = 1
    g.strokeStyle = color(`hue-${props.modulator.hue}`)
    g.lineWidth = 2
    g.beginPath()
    const glide = (item.glide ?? 0) * w
    g.moveTo(i * w + 1, y + (glide ? Math.min(height - y, 6) : 0))
    g.lineTo(i * w + 1 + glide, y)
    g.lineTo((i + 1) * w - 1, y)
    g.stroke()
    if (i === chosen.value) {
      g.fillStyle = color('ink')
      g.fillRect(i * w + 1, height - 3, w - 2, 3)
    }
  })
})

function press(e: PointerEvent): void {
  const el = canvas.value
  if (!el) return
  const box = el.getBoundingClientRect()
  const set = (m: PointerEvent): void => {
    const i = Math.min(
      items.value.length - 1,
      Math.max(0, Math.floor(((m.clientX - box.left) / box.width) * items.value.length)),
    )
    chosen.value = i
    hand.edit(
      'Step',
      setParam(
        props.modulator.id,
        path('level', i),
        Math.min(1, Math.max(0, 1 - (m.clientY - box.top - 3) / (box.height - 6))),
      ),
    )
  }
  hand.drag(e, 'Draw steps', set)
  set(e)
}

function keydown(e: KeyboardEvent): void {
  const item = items.value[chosen.value]
  const level = item?.level ?? 0.5
  if (e.key === 'ArrowRight') chosen.value = Math.min(items.value.length - 1, chosen.value + 1)
  else if (e.key === 'ArrowLeft') chosen.value = Math.max(0, chosen.value - 1)
  else if (e.key === 'ArrowUp' || e.key === 'ArrowDown')
    doc.edit(
      'Set step',
      setParam(
        props.modulator.id,
        path('level'),
        Math.min(1, Math.max(0, level + (e.key === 'ArrowUp' ? 0.05 : -0.05) * (e.shiftKey ? 0.2 : 1))),
      ),
    )
  else if (e.key === 'Enter') doc.edit('Add step', addLaneItem(props.modulator.id, 'steps', chosen.value))
  else if (e.key === 'Delete') remove()
  else return
  e.preventDefault()
  e.stopPropagation()
}

function remove(): void {
  doc.edit('Remove step', removeLaneItem(props.modulator.id, 'steps', chosen.value))
  chosen.value = Math.min(chosen.value, items.value.length - 1)
}

const spoken = computed(() => {
  const level = Math.round((items.value[chosen.value]?.level ?? 0.5) * 100)
  return `Steps of ${props.modulator.name}: step ${chosen.value + 1} of ${items.value.length}, ${level} %`
})
const count = number('Number of steps', { min: 1, max: 32, default: 8, glide: 0 })
</script>

<template>
  <div class="py-1">
    <canvas
      ref="canvas"
      class="h-16 w-full touch-none border border-line"
      role="application"
      tabindex="0"
      :aria-label="spoken"
      title="Drag to draw levels. Arrow keys select and set, Enter adds a step, Delete removes it."
      @pointerdown="press"
      @keydown="keydown"
    />
    <div class="flex items-center gap-1 py-1 text-small">
      <span class="flex-1">{{
        every ? `all ${items.length} steps` : `step ${chosen + 1} of ${items.length}`
      }}</span>
      <button
        class="small-button"
        :aria-pressed="every"
        title="Edits all steps at once. A link to all steps can be fanned out."
        @click="every = !every"
      >
        All
      </button>
      <ValueField
        class="w-12"
        :spec="count"
        :value="items.length"
        title="Number of steps, from 1 to 32"
        @take="doc.edit('Set number of steps', setLaneLength(modulator.id, 'steps', $event))"
      />
    </div>
    <MiniGauge
      v-for="k in ['level', 'glide', 'chance']"
      :key="`${k}${every ? '*' : chosen}`"
      :owner="modulator.id"
      :param="gaugePath(k)"
    />
  </div>
</template>
