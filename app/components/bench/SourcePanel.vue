<script setup lang="ts">
import { rename, removeTrack } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { useWave } from '../../composables/useWave'
import { sourceFace } from '../pictures/index'

/** What a track plays: its picture with the part that sounds, its gauges, and another sound for it. */
const props = defineProps<{ track: Track }>()
const { doc, bench, host, shelf } = useSession()
const hand = useGesture()
const source = computed(() => props.track.source)
const definition = computed(() => sourceDefinition(source.value?.type ?? ''))
const peaks = useWave(() => props.track)
const value = (param: string): number => source.value?.params[param] ?? definition.value?.params[param]?.default ?? 0
const face = computed(() => sourceFace(source.value?.type ?? ''))
const controls = computed(() => face.value.controls)
const isSound = computed(() => !!source.value?.audio && !!definition.value?.params.start)

const canvas = useCanvas(({ g, width, height, color }) => {
  const middle = height / 2
  g.fillStyle = color('line')
  g.fillRect(0, Math.round(middle), width, 1)
  const p = peaks.value
  if (p) {
    const [from, to] = [value('start'), value('end')]
    for (let x = 0; x < width; x++) {
      const at = x / width
      const h = (p[Math.floor(at * p.length)] ?? 0) * (middle - 6)
      g.fillStyle = color(at >= from && at <= to ? 'deep' : 'water')
      g.fillRect(x, middle - h, 1, Math.max(1, 2 * h))
    }
    g.fillStyle = color('ink')
    for (const at of [from, to]) g.fillRect(Math.min(width - 2, Math.round(at * width)), 0, 2, height)
    return
  }
  // what has no wave of its own is drawn as it sounds now
  const ring = host.telemetry.memory.rings[0]
  const head = host.telemetry.memory.head[0] ?? 0
  if (!ring) return
  g.strokeStyle = color('deep')
  g.lineWidth = 1.5
  g.beginPath()
  for (let x = 0; x < width; x++) g.lineTo(x, middle - (ring[(head - 2048 + Math.floor(x / width * 2048) + ring.length) % ring.length] ?? 0) * (middle - 6))
  g.stroke()
})

/** Drags the nearer end of what sounds. */
function press(e: PointerEvent): void {
  const { value: s } = source
  if (!s || !isSound.value || e.button !== 0) return
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const at = (m: PointerEvent): number => Math.min(1, Math.max(0, (m.clientX - box.left) / box.width))
  const end = Math.abs(at(e) - value('start')) < Math.abs(at(e) - value('end')) ? 'start' : 'end'
  const label = end === 'start' ? 'Set where the sound begins' : 'Set where the sound ends'
  const move = (m: PointerEvent): void => hand.edit(label, setParam(s.id, end, end === 'start' ? Math.min(at(m), value('end') - 0.001) : Math.max(at(m), value('start') + 0.001)))
  hand.drag(e, label, move)
  move(e)
}

function replace(): void {
  bench.replacing = props.track.id
  bench.dialog = 'track'
}
</script>

<template>
  <div class="grid min-h-0 flex-1 grid-cols-[minmax(260px,46%)_1fr]">
    <div class="flex min-h-0 flex-col border-r border-line p-3" :class="bench.enlarged ? 'enlarged' : ''">
      <header class="mb-2 flex items-center gap-2">
        <TextField
          class="min-w-0 flex-1 bg-transparent text-heading font-semibold"
          :value="track.name"
          aria-label="Name of the track"
          @change="doc.edit('Rename the track', rename(track.id, ($event.target as HTMLInputElement).value))"
          @keydown.stop
        />
        <span class="water-name text-name text-second">{{ doc.project ? sourceSummary(doc.project, track) : '' }}</span>
      </header>
      <component
        :is="face.picture"
        v-if="face.picture"
        :track="track"
      />
      <canvas
        v-else
        ref="canvas"
        class="min-h-0 w-full flex-1 touch-none border border-line"
        :class="isSound ? 'cursor-ew-resize' : ''"
        role="img"
        :aria-label="`What ${track.name} plays`"
        :title="isSound ? 'Drag the ends of what sounds' : ''"
        @pointerdown="press"
      />
      <component
        :is="face.below"
        v-if="face.below"
        class="mt-1"
        :track="track"
      />
      <component
        :is="controls"
        v-if="controls"
        :track="track"
      />
      <footer class="mt-2 flex flex-wrap gap-1">
        <button
          class="plain-button"
          title="Plays something else through the same chain"
          @click="replace"
        >
          Another sound…
        </button>
        <button
          class="plain-button"
          title="Source, chain, modulators and links once more (D on the track)"
          @click="shelf.duplicateTrack(track.id)"
        >
          Duplicate the track
        </button>
        <button
          class="plain-button"
          title="Delete on the track"
          @click="doc.edit(`Remove track ${track.name}`, removeTrack(track.id))"
        >
          Remove track
        </button>
      </footer>
    </div>
    <div class="min-h-0 overflow-y-auto px-3 py-2">
      <template v-if="source">
        <GaugeRow
          v-for="k in Object.keys(definition?.params ?? {})"
          :key="k"
          :owner="source.id"
          :param="k"
        />
      </template>
      <p class="water-name pt-2 text-name text-second">after the chain</p>
      <GaugeRow
        :owner="track.id"
        param="level"
        name="Track level"
      />
      <GaugeRow
        :owner="track.id"
        param="pan"
        name="Track pan"
      />
    </div>
  </div>
</template>

<style scoped>
.enlarged { position: absolute; inset: 0; z-index: 35; background: var(--sheet); border: 1px solid var(--ink); }
</style>
