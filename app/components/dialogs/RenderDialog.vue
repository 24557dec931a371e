<script setup lang="ts">
import type { WavDepth } from '@oleaje/core/formats/wav'
import { fileSave } from 'browser-fs-access'
import type { RenderFigures } from '@oleaje/core/render/render'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { computed, onBeforeUnmount, ref, shallowRef } from 'vue'
import { useSession } from '../../composables/useSession'
import type { Finish } from '../../workers/heavy'
import { sentence } from '../../services/sentence'

/** Prints the loop to a WAV file, in the worker, with progress. */
const session = useSession()
const { doc, screen } = session
const track = ref(screen.toPrint)
const depth = ref<WavDepth>(24)
const tail = ref<'auto' | '0'>('auto')
const parts = computed(() => [
  { value: '', text: 'the mix' },
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind === 'track')
    .map((t) => ({ value: t.id, text: `${t.name}, through the mix` })),
])
const tails = [
  { value: 'auto', text: 'until silent' },
  { value: '0', text: 'none' },
] as const
const depths = [
  { value: 16, text: '16 bit, dithered' },
  { value: 24, text: '24 bit' },
  { value: 32, text: '32 bit float' },
] as const
/** Tracks with a live input, which are silent in renders. */
const silent = computed(() =>
  (doc.project?.tracks ?? [])
    .filter(
      (t) =>
        t.source &&
        sourceDefinition(t.source.type)?.device &&
        (track.value === '' || track.value === t.id) &&
        (t.params.mute ?? 0) < 0.5,
    )
    .map((t) => t.name),
)
const seconds = computed(() =>
  (
    (((doc.project?.loop.end ?? 0) - (doc.project?.loop.start ?? 0)) * 60) /
    (doc.project?.tempo ?? 120)
  ).toFixed(2),
)
const progress = ref(-1)
const report = ref('')
let stop = (): void => {}
onBeforeUnmount(() => {
  screen.toPrint = ''
  stop()
})

/** Peak that a file is brought to where it went over, in dBTP. */
const CEILING = -1
const figures = shallowRef<RenderFigures | null>(null)
const text = (v: number): string => v.toFixed(1).replace('-', '−')

async function start(finish?: Finish): Promise<void> {
  report.value = ''
  figures.value = null
  progress.value = 0
  try {
    const job = session.rendering.start(
      { track: track.value || undefined, tail: tail.value === 'auto' ? 'auto' : 0 },
      depth.value,
      finish,
      (done) => {
        progress.value = done
      },
    )
    stop = job.stop
    const made = await job.done
    progress.value = -1
    if (!made) {
      report.value = 'Render cancelled. No file was written.'
      return
    }
    const of = doc.project?.tracks.find((t) => t.id === track.value)
    const name = `${doc.project?.name ?? 'render'}${of ? ` ${of.name}` : ''}.wav`
    await fileSave(made.blob, { fileName: name, extensions: ['.wav'], description: 'WAV sound' })
    figures.value = made.figures
    const { loudness, truePeakDb } = made.figures
    report.value = `Saved ${name}, ${(made.blob.size / 1e6).toFixed(1)} MB, ${text(loudness)} LUFS, ${text(truePeakDb)} dBTP.`
  } catch (error) {
    progress.value = -1
    report.value =
      error instanceof DOMException && error.name === 'AbortError'
        ? 'No file was written, because no location was chosen.'
        : sentence(error)
  }
}
const overText = computed(() => {
  const overs = figures.value?.overs ?? 0
  return overs === 0
    ? 'between samples'
    : `in ${overs} samples${depth.value === 32 ? '' : ', which are clipped'}`
})
/** Brings the highest peak to the ceiling, as far from 0 as it was. */
const normalise = (): Promise<void> =>
  start({ gain: 10 ** ((CEILING - (figures.value?.truePeakDb ?? CEILING)) / 20) })
</script>

<template>
  <BaseDialog title="Render" @close="screen.dialog = ''">
    <div class="grid gap-2" style="grid-template-columns: 120px 1fr">
      <ChoiceRow v-model="track" text="What" :options="parts" />
      <span>Range</span><span>the loop, {{ seconds }} s</span>
      <ChoiceRow v-model="tail" text="Tail" :options="tails" />
      <ChoiceRow v-model="depth" text="Depth" :options="depths" />
    </div>
    <div class="mt-3 flex items-center gap-3">
      <button
        v-if="progress < 0"
        class="plain-button"
        title="Renders the loop with its tail"
        @click="start()"
      >
        Render to WAV
      </button>
      <template v-else>
        <progress class="flex-1" :value="progress" max="1" aria-label="Render progress" /><button
          class="plain-button"
          @click="stop()"
        >
          Stop
        </button>
      </template>
      <p role="status" class="text-second">{{ report }}</p>
    </div>
    <p
      v-if="figures && (figures.overs > 0 || figures.truePeakDb > 0)"
      role="alert"
      class="mt-2 flex flex-wrap items-center gap-2 text-magenta"
    >
      The render exceeds 0 dBFS
      {{ overText }}.
      <button class="small-button" title="Renders again at a lower level" @click="normalise">
        Normalise to −1 dBTP
      </button>
      <button class="small-button" title="Renders again with a limiter" @click="start({ ceiling: CEILING })">
        Limit to −1 dBTP
      </button>
    </p>
    <p v-if="silent.length" role="status" class="mt-2 text-small text-magenta">
      {{ silent.join(', ') }}
      {{ silent.length === 1 ? 'is a live input. It is' : 'are live inputs. They are' }} silent in renders.
    </p>
    <p class="mt-2 text-small text-second">
      Solo, dry, level matching and the safety limiter do not affect renders.
    </p>
  </BaseDialog>
</template>
