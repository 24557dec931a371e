<script setup lang="ts">
import { DrawnShape, type Point, readPoints } from '@oleaje/core/dsp/drawn-shape'
import { firstCurve } from '@oleaje/core/modulators/curve'
import { type Span, closeEnds } from '@oleaje/core/project/curve-edits'
import { removeModulator } from '@oleaje/core/project/motion-edits'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import type { Modulator, Track } from '@oleaje/core/project/schema'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { readLinks } from '../../composables/useLink'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/** One curve along the song: its own length can be worked on, what repeats after it is drawn behind. */
const props = defineProps<{
  modulator: Modulator
  track: Track
  perBeat: number
  beats: number
  snap: number
  tool: 'points' | 'draw' | 'line'
  chosen: boolean
  span: Span | null
  closing: number | null
}>()
const USUAL_HEIGHT = 104
const emit = defineEmits<{ choose: [] }>()
const { doc, host, monitoring, preferences } = useSession()
const height = computed(() => preferences.laneHeights[props.modulator.id] ?? USUAL_HEIGHT)
const hand = useGesture()
const m = computed(() => props.modulator)
const length = computed(() => m.value.params.length ?? 16)
const points = computed<readonly Point[]>(() => {
  const read = readPoints(m.value.data?.points, 1024)
  return read.length ? read : firstCurve
})
const shape = computed(() => new DrawnShape(points.value))
const moves = computed(() =>
  doc.project
    ? readLinks(doc.project)
        .filter((l) => l.link.source === m.value.id)
        .map((l) => `${l.owner}, ${l.param.toLowerCase()}: ${l.from} – ${l.to}`)
    : [],
)
const lengthSpec = modulatorDefinition(props.modulator.type)?.params.length

const repeats = useCanvas(({ g, width, height, color }) => {
  g.strokeStyle = color(`hue-${m.value.hue}`)
  g.lineWidth = 1.2
  g.globalAlpha = 0.4
  const own = length.value * props.perBeat
  g.beginPath()
  for (let x = own; x <= width; x += 2) {
    const beat = x / props.perBeat
    g.lineTo(
      x,
      height - 5 - shape.value.at(beat - Math.floor(beat / length.value) * length.value) * (height - 10),
    )
  }
  g.stroke()
  g.setLineDash([3, 4])
  // ends that lie too close are none that could be seen
  if (own >= 3)
    for (let x = own; x <= width; x += own) {
      g.beginPath()
      g.moveTo(x, 0)
      g.lineTo(x, height)
      g.stroke()
    }
  g.setLineDash([])
  g.globalAlpha = 1
})

const followTip = computed(() =>
  (m.value.params.follows ?? 0) === 1
    ? 'Follows the song and jumps with its loop'
    : 'Runs on over the loop end, so that odd lengths shift',
)
</script>

<template>
  <div
    class="relative flex border-b border-line"
    :class="chosen ? 'bg-sheet' : ''"
    :style="{ height: `${height}px` }"
    :data-lane="`curve:${m.id}`"
    @pointerdown="emit('choose')"
    @focusin="emit('choose')"
  >
    <div
      class="sticky left-0 z-10 flex w-52.5 shrink-0 flex-col gap-1 border-r border-line px-2 py-1 text-tiny"
      :class="chosen ? 'border-l-3 border-l-ink bg-sheet' : 'bg-paper'"
    >
      <div class="flex items-center gap-1">
        <Badge :letter="m.letter || '·'" :hue="m.hue" small /><span
          class="water-name min-w-0 flex-1 truncate text-name"
          >{{ m.name }}</span
        ><button
          class="small-button"
          :aria-label="`Remove ${m.name}`"
          title="Removes the curve and its links"
          @click="doc.edit(`Remove ${m.name}`, removeModulator(m.id))"
        >
          ×
        </button>
      </div>
      <div class="flex items-center gap-1">
        <label>
          Length
          <ValueField
            v-if="lengthSpec"
            class="w-16.5"
            title="14 (beats), 3.5 bars, 7/8 …"
            :spec="{ ...lengthSpec, name: `Length of ${m.name}` }"
            :value="length"
            @take="doc.edit('Set curve length', setParam(m.id, 'length', $event))"
          />
        </label>
        <button
          class="small-button"
          :aria-pressed="(m.params.follows ?? 0) === 1"
          :title="followTip"
          @click="
            doc.edit('Change curve timing', setParam(m.id, 'follows', (m.params.follows ?? 0) === 1 ? 0 : 1))
          "
        >
          {{ (m.params.follows ?? 0) === 1 ? 'Song' : 'Own' }}
        </button>
      </div>
      <p class="overflow-hidden text-second" :title="moves.join('\n')">
        <span class="block truncate">{{ track.name }}</span>
        <span class="block truncate">{{ moves[0] ?? 'no links yet' }}</span>
        <span v-if="moves.length > 1">and {{ moves.length - 1 }} more</span>
      </p>
    </div>
    <div class="relative flex-1">
      <canvas ref="repeats" class="absolute inset-0 h-full w-full" aria-hidden="true" />
      <div
        class="absolute inset-y-0 left-0 border-r-2"
        :style="{ width: `${length * perBeat}px`, borderColor: `var(--hue-${m.hue})` }"
      >
        <CurveEditor
          class="h-full"
          :points="points"
          :length="length"
          :hue="m.hue"
          :name="m.name"
          :snap="snap"
          :grid="1"
          :tool="tool"
          :span="span"
          :preview="closing === null ? null : closeEnds(points, length, closing)"
          :playhead="() => (monitoring.playing ? host.telemetry.get(`read:mod:${m.id}:beat`, NaN) : NaN)"
          @begin="hand.begin('Draw the curve')"
          @end="hand.end()"
          @change="hand.edit('Draw the curve', setData(m.id, 'points', $event))"
        />
      </div>
    </div>
    <LaneResizer :lane="m.id" :name="m.name" :height="height" :least="56" :most="480" />
  </div>
</template>
