<script setup lang="ts">
import { rename, removeTrack } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { isLong } from '@oleaje/core/formats/audio-file'
import { setParam } from '@oleaje/core/project/value-edits'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { amount } from '@oleaje/core/units/parameter'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { sourceSummary } from '../../composables/useSummary'
import { LONGEST, useHits } from '../../composables/useHits'
import { sourceFace } from '../pictures/index'

/** What a track plays: its picture with the part that sounds, its gauges, and another sound for it. */
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
    ? `${Math.round(found.value.tempo * 100) / 100} bpm, ${found.value.beats} beats, by its hits`
    : audioRef.value && audioRef.value.frames > LONGEST * audioRef.value.sampleRate
      ? 'Longer than two minutes: its hits are not looked for, type its tempo or its bars'
      : 'Its hits are being looked for',
)
const barsSpec = amount('Length in bars', { min: 1 / 16, max: 512, default: 4 })

/** What has no wave of its own is drawn as it sounds now. */
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
      'Take the tempo that was found',
      setParam(s.id, 'tempo', Math.min(300, Math.max(20, found.value.tempo))),
    )
}
function setBars(count: number): void {
  const s = source.value
  if (s && bars.value > 0)
    doc.edit(
      'Set the length in bars',
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

function replace(): void {
  screen.replacing = props.track.id
  screen.dialog = 'track'
}
</script>

<template>
  <div class="grid min-h-0 flex-1 grid-cols-[minmax(260px,46%)_1fr]">
    <div class="flex min-h-0 flex-col border-r border-line p-3" :class="screen.enlarged ? 'enlarged' : ''">
      <header class="mb-2 flex items-center gap-2">
        <TextField
          class="min-w-0 flex-1 bg-transparent text-heading font-semibold"
          :value="track.name"
          aria-label="Name of the track"
          @change="doc.edit('Rename the track', rename(track.id, ($event.target as HTMLInputElement).value))"
          @keydown.stop
        />
        <span class="water-name text-name text-second">{{
          doc.project ? sourceSummary(doc.project, track) : ''
        }}</span>
      </header>
      <component :is="face.picture" v-if="face.picture" :track="track" />
      <SoundMarks v-else-if="isSound" :key="source?.audio ?? ''" :track="track" :found="found">
        <button
          class="small-button"
          title="Brings the loudest sample of what sounds to full level"
          @click="normalise"
        >
          normalise
        </button>
        <template v-if="hasTempo">
          <label>bars <ValueField class="w-12" :spec="barsSpec" :value="bars" @take="setBars" /></label>
          <button class="small-button" :disabled="!found" :title="foundText" @click="takeTempo">
            find tempo
          </button>
        </template>
      </SoundMarks>
      <canvas
        v-else
        ref="canvas"
        class="min-h-0 w-full flex-1 border border-line"
        role="img"
        :aria-label="`What ${track.name} plays`"
      />
      <LongSoundNote
        v-if="audioRef && definition?.inPieces && isLong(audioRef.frames, audioRef.sampleRate)"
        :track="track"
        :sound="audioRef"
      />
      <component :is="face.below" v-if="face.below" class="mt-1" :track="track" />
      <component :is="controls" v-if="controls" :track="track" />
      <footer class="mt-2 flex flex-wrap gap-1">
        <button class="plain-button" title="Plays something else through the same chain" @click="replace">
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
        <GaugeRow v-for="k in Object.keys(definition?.params ?? {})" :key="k" :owner="source.id" :param="k" />
      </template>
      <p class="water-name pt-2 text-name text-second">after the chain</p>
      <GaugeRow :owner="track.id" param="level" name="Track level" />
      <GaugeRow :owner="track.id" param="pan" name="Track pan" />
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
