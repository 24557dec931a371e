<script setup lang="ts">
import { rename, removeTrack } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { isLong } from '@oleaje/core/formats/audio-file'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { amount } from '@oleaje/core/units/parameter'
import { Maximize2, Minimize2 } from '@lucide/vue'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { LONGEST, useHits } from '../../composables/useHits'
import { sourceFace } from '../pictures/index'

/** The source of a track: its picture with the playing part, its gauges, and its replacement. */
const props = defineProps<{ track: Track }>()
const { doc, host, shelf, screen } = useSession()
const source = computed(() => props.track.source)
const definition = computed(() => sourceDefinition(source.value?.type ?? ''))
const value = (param: string): number =>
  source.value?.params[param] ?? definition.value?.params[param]?.default ?? 0
const face = computed(() => sourceFace(source.value?.type ?? ''))
const controls = computed(() => face.value.controls)
const isSound = computed(() => !!source.value?.audio && !!definition.value?.params.start)
const found = useHits(() => props.track)
const audioRef = computed(() => (source.value?.audio ? doc.project?.audio[source.value.audio] : undefined))
const hasTempo = computed(() => isSound.value && !!definition.value?.params.tempo)
/** Length of what sounds, in bars of the song at the sound's own tempo. */
const bars = computed(() => {
  const r = audioRef.value
  return r
    ? ((((value('end') - value('start')) * r.frames) / r.sampleRate) * value('tempo')) /
        60 /
        (doc.project?.beatsPerBar ?? 4)
    : 0
})
const foundText = computed(() =>
  found.value
    ? `${Math.round(found.value.tempo * 100) / 100} bpm, ${found.value.beats} beats, from its hits`
    : audioRef.value && audioRef.value.frames > LONGEST * audioRef.value.sampleRate
      ? 'Longer than two minutes. Type its tempo or its length in bars.'
      : 'Analysing the hits…',
)
const barsSpec = amount('Length in bars', { min: 1 / 16, max: 512, default: 4 })

/** A source without a waveform is drawn as it sounds now. */
const canvas = useCanvas(({ g, width, height, color }) => {
  const middle = height / 2
  g.fillStyle = color('line')
  g.fillRect(0, Math.round(middle), width, 1)
  const ring = host.telemetry.memory.rings[0]
  const head = host.telemetry.memory.head[0] ?? 0
  if (!ring) return
  g.strokeStyle = color('deep')
  g.lineWidth = 1.5
  g.beginPath()
  for (let x = 0; x < width; x++)
    g.lineTo(
      x,
      middle -
        (ring[(head - 2048 + Math.floor((x / width) * 2048) + ring.length) % ring.length] ?? 0) *
          (middle - 6),
    )
  g.stroke()
})

function takeTempo(): void {
  const s = source.value
  if (s && found.value)
    doc.edit(
      'Set tempo of the sound',
      setParam(s.id, 'tempo', Math.min(300, Math.max(20, found.value.tempo))),
    )
}
function setBars(count: number): void {
  const s = source.value
  if (s && bars.value > 0)
    doc.edit(
      'Set length in bars',
      setParam(s.id, 'tempo', Math.min(300, Math.max(20, (value('tempo') * count) / bars.value))),
    )
}
/** Brings the loudest sample of what sounds to full level. */
function normalise(): void {
  const s = source.value
  const x = s?.audio ? host.sound(s.audio) : undefined
  if (!s || !x) return
  let peak = 0
  // of a long one, what is loudest in each stretch is known
  for (const c of x.long ? [x.long.peaks] : x.channels) {
    for (let i = Math.floor(value('start') * c.length); i < value('end') * c.length; i++)
      peak = Math.max(peak, Math.abs(c[i] ?? 0))
  }
  if (peak > 0) doc.edit('Normalise', setParam(s.id, 'level', Math.min(24, -20 * Math.log10(peak))))
}

const actions = computed(() => [
  [
    {
      text: 'Replace sound…',
      tip: 'Plays another sound through the same chain',
      run: () => {
        screen.replacing = props.track.id
        screen.dialog = 'track'
      },
    },
    {
      text: 'Duplicate track',
      tip: 'Copies the track with its chain, modulators and links',
      run: () => shelf.duplicateTrack(props.track.id),
    },
  ],
  [
    {
      text: 'Remove track',
      tip: 'Undo restores it',
      run: () => doc.edit(`Remove ${props.track.name}`, removeTrack(props.track.id)),
    },
  ],
])
</script>

<template>
  <header class="flex h-10 shrink-0 items-center gap-2 border-b border-line px-3">
    <TextField
      class="w-36 min-w-17 shrink truncate bg-transparent text-heading font-semibold"
      :value="track.name"
      aria-label="Track name"
      title="Type a new name"
      @change="doc.edit('Rename track', rename(track.id, ($event.target as HTMLInputElement).value))"
      @keydown.stop
    />
    <span class="water-name min-w-0 flex-1 truncate text-name text-second">{{
      doc.project ? sourceSummary(doc.project, track) : ''
    }}</span>
    <button
      class="small-button"
      :aria-pressed="screen.enlarged"
      :aria-label="screen.enlarged ? 'Restore the picture' : 'Enlarge the picture'"
      title="Enlarges the picture, or restores its size (Z)"
      @click="screen.enlarged = !screen.enlarged"
    >
      <component :is="screen.enlarged ? Minimize2 : Maximize2" :size="14" aria-hidden="true" />
    </button>
    <ActionMenu small label="Actions for the source" tip="Replace, duplicate, remove" :groups="actions" />
  </header>
  <div class="relative grid min-h-0 flex-1 grid-cols-[minmax(260px,46%)_1fr]">
    <div class="flex min-h-0 flex-col border-r border-line p-3" :class="screen.enlarged ? 'enlarged' : ''">
      <component :is="face.picture" v-if="face.picture" :track="track" />
      <SoundMarks v-else-if="isSound" :key="source?.audio ?? ''" :track="track" :found="found">
        <button
          class="small-button"
          title="Sets the level so that the loudest sample reaches 0 dBFS"
          @click="normalise"
        >
          Normalise
        </button>
        <template v-if="hasTempo">
          <label>Bars <ValueField class="w-12" :spec="barsSpec" :value="bars" @take="setBars" /></label>
          <button class="small-button" :disabled="!found" :title="foundText" @click="takeTempo">
            Find tempo
          </button>
        </template>
      </SoundMarks>
      <canvas
        v-else
        ref="canvas"
        class="min-h-0 w-full flex-1 border border-line"
        role="img"
        :aria-label="`Output of ${track.name}`"
      />
      <LongSoundNote
        v-if="audioRef && definition?.inPieces && isLong(audioRef.frames, audioRef.sampleRate)"
        :track="track"
        :sound="audioRef"
      />
      <component :is="face.below" v-if="face.below" class="mt-1" :track="track" />
      <component :is="controls" v-if="controls" :track="track" />
    </div>
    <div class="min-h-0 overflow-x-hidden overflow-y-auto px-3 py-1">
      <div v-if="source" class="gauges grid gap-x-4">
        <MiniGauge
          v-for="k in Object.keys(definition?.params ?? {})"
          :key="k"
          :owner="source.id"
          :param="k"
        />
      </div>
      <h3 class="water-name pt-2 text-name text-second">After the chain</h3>
      <div class="gauges grid gap-x-4">
        <MiniGauge :owner="track.id" param="level" name="Track level" />
        <MiniGauge :owner="track.id" param="pan" name="Track pan" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.gauges {
  grid-template-columns: repeat(auto-fill, minmax(max(180px, 40%), 1fr));
}
.enlarged {
  position: absolute;
  inset: 0;
  z-index: 35;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
</style>
