<script setup lang="ts">
import { rename, removeTrack } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { isLong } from '@oleaje/core/formats/audio-file'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { amount } from '@oleaje/core/units/parameter'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { useHits, zeroCrossing } from '../../composables/useHits'
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
const found = useHits(() => props.track)
/** Marks along the sound: where it begins, where the loop goes back to, where it ends. */
const marks = computed(() => ['start', 'loopFrom', 'end'].filter((k) => definition.value?.params[k]))
const markNames: Record<string, string> = {
  start: 'where the sound begins',
  loopFrom: 'where the loop goes back to',
  end: 'where the sound ends',
}
const audioRef = computed(() => (source.value?.audio ? doc.project?.audio[source.value.audio] : undefined))
const hasTempo = computed(() => isSound.value && !!definition.value?.params.tempo)
/** Length of what sounds, in bars of the song at the sound's own tempo. */
const bars = computed(() => {
  const r = audioRef.value
  return r ? ((((value('end') - value('start')) * r.frames) / r.sampleRate) * value('tempo')) / 60 / (doc.project?.beatsPerBar ?? 4) : 0
})
const DRAG =
  'Drag the ends of what sounds, Shift for the place the loop goes back to; near hits they snap to these, ' +
  'else to where the wave crosses zero, Alt for anywhere'
const foundText = computed(() =>
  found.value
    ? `${Math.round(found.value.tempo * 100) / 100} bpm, ${found.value.beats} beats, by its hits`
    : 'Its hits are being looked for',
)
const barsSpec = amount('Length in bars', { min: 1 / 16, max: 512, default: 4 })

const canvas = useCanvas(({ g, width, height, color }) => {
  const middle = height / 2
  g.fillStyle = color('line')
  g.fillRect(0, Math.round(middle), width, 1)
  const p = peaks.value
  if (p) {
    const [from, to] = [value('start'), value('end')]
    g.fillStyle = color('line')
    for (const at of found.value?.hits ?? []) g.fillRect(Math.round(at * width), 0, 1, height)
    for (let x = 0; x < width; x++) {
      const at = x / width
      const h = (p[Math.floor(at * p.length)] ?? 0) * (middle - 6)
      g.fillStyle = color(at >= from && at <= to ? 'deep' : 'water')
      g.fillRect(x, middle - h, 1, Math.max(1, 2 * h))
    }
    g.fillStyle = color('ink')
    for (const at of [from, to]) g.fillRect(Math.min(width - 2, Math.round(at * width)), 0, 2, height)
    if (marks.value.includes('loopFrom') && value('loopFrom') > from) {
      g.fillStyle = color('magenta')
      g.fillRect(Math.round(value('loopFrom') * width), 0, 2, height)
    }
    return
  }
  // what has no wave of its own is drawn as it sounds now
  const ring = host.telemetry.memory.rings[0]
  const head = host.telemetry.memory.head[0] ?? 0
  if (!ring) return
  g.strokeStyle = color('deep')
  g.lineWidth = 1.5
  g.beginPath()
  for (let x = 0; x < width; x++)
    g.lineTo(x, middle - (ring[(head - 2048 + Math.floor((x / width) * 2048) + ring.length) % ring.length] ?? 0) * (middle - 6))
  g.stroke()
})

/** A place along the sound brought to a hit that is near, or else to where the sound crosses zero. */
function snapped(at: number, width: number): number {
  const hit = (found.value?.hits ?? []).find((h) => Math.abs(h - at) * width < 5)
  if (hit !== undefined) return hit
  const x = source.value?.audio ? host.sound(source.value.audio)?.channels[0] : undefined
  return x ? zeroCrossing(x, Math.round(at * x.length), 480) / x.length : at
}

/** Keys of a mark: along the sound, by a pixel or to the next hit. */
function step(e: KeyboardEvent, mark: string): void {
  const s = source.value
  if (!s || (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight')) return
  const way = e.key === 'ArrowLeft' ? -1 : 1
  const hits = found.value?.hits ?? []
  const now = value(mark)
  const next = e.shiftKey ? (way > 0 ? hits.find((h) => h > now + 1e-4) : hits.findLast((h) => h < now - 1e-4)) : now + way * 0.002
  if (next === undefined) return
  doc.edit(`Set ${markNames[mark]}`, setParam(s.id, mark, Math.min(1, Math.max(0, next))))
  e.preventDefault()
  e.stopPropagation()
}

function takeTempo(): void {
  const s = source.value
  if (s && found.value) doc.edit('Take the tempo that was found', setParam(s.id, 'tempo', Math.min(300, Math.max(20, found.value.tempo))))
}
function setBars(count: number): void {
  const s = source.value
  if (s && bars.value > 0)
    doc.edit('Set the length in bars', setParam(s.id, 'tempo', Math.min(300, Math.max(20, (value('tempo') * count) / bars.value))))
}
/** Brings the loudest sample of what sounds to full level. */
function normalise(): void {
  const s = source.value
  const x = s?.audio ? host.sound(s.audio) : undefined
  if (!s || !x) return
  let peak = 0
  // of a long one, what is loudest in each stretch is known
  for (const c of x.long ? [x.long.peaks] : x.channels) {
    for (let i = Math.floor(value('start') * c.length); i < value('end') * c.length; i++) peak = Math.max(peak, Math.abs(c[i] ?? 0))
  }
  if (peak > 0) doc.edit('Normalise', setParam(s.id, 'level', Math.min(24, -20 * Math.log10(peak))))
}

/** Drags the nearest mark of what sounds. */
function press(e: PointerEvent): void {
  const { value: s } = source
  if (!s || !isSound.value || e.button !== 0) return
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const at = (m: PointerEvent): number => Math.min(1, Math.max(0, (m.clientX - box.left) / box.width))
  const end =
    e.shiftKey && marks.value.includes('loopFrom')
      ? 'loopFrom'
      : Math.abs(at(e) - value('start')) < Math.abs(at(e) - value('end'))
        ? 'start'
        : 'end'
  const label = `Set ${markNames[end]}`
  const move = (m: PointerEvent): void => {
    const place = m.altKey ? at(m) : snapped(at(m), box.width)
    hand.edit(label, setParam(s.id, end, end === 'end' ? Math.max(place, value('start') + 0.001) : Math.min(place, value('end') - 0.001)))
  }
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
        :title="isSound ? DRAG : ''"
        @pointerdown="press"
      />
      <div v-if="isSound" class="mt-1 flex flex-wrap items-center gap-1 text-tiny">
        <button
          v-for="mark in marks"
          :key="mark"
          class="small-button"
          :aria-label="`Move ${markNames[mark]}: ${Math.round(value(mark) * 1000) / 10} %`"
          title="Arrows move it, Shift+arrows to the next hit"
          @keydown="step($event, mark)"
        >
          {{ mark === 'loopFrom' ? 'loop from' : mark }}
        </button>
        <button
          class="small-button"
          title="Brings the loudest sample of what sounds to full level"
          @click="normalise"
        >
          normalise
        </button>
        <template v-if="hasTempo">
          <label>bars <ValueField
            class="w-12"
            :spec="barsSpec"
            :value="bars"
            @take="setBars"
          /></label>
          <button
            class="small-button"
            :disabled="!found"
            :title="foundText"
            @click="takeTempo"
          >
            find tempo
          </button>
        </template>
      </div>
      <LongSoundNote
        v-if="audioRef && definition?.inPieces && isLong(audioRef.frames, audioRef.sampleRate)"
        :track="track"
        :sound="audioRef"
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
.enlarged {
  position: absolute;
  inset: 0;
  z-index: 35;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
</style>
