<script setup lang="ts">
import type { LabChart } from '@oleaje/core/lab/result'
import { seconds as secondsSpec } from '@oleaje/core/units/parameter'
import { fileOpen } from 'browser-fs-access'
import { refThrottled } from '@vueuse/core'
import { computed, defineAsyncComponent, shallowRef } from 'vue'
import { useSession } from '../../composables/useSession'

/** Steers the chain of the selected track towards a reference; the best states become cards below. */
const { doc, matching, selection } = useSession()
// the charts are large, and wanted only when a search runs: brought while the reference is chosen
const charts = import('../lab/CurveChart.vue')
const CurveChart = defineAsyncComponent(() => charts)
const FILE = 'file'
const length = secondsSpec('Time', { min: 5, max: 600, default: 60, tip: '' })
const kinds = [
  { value: 'texture', text: 'Similar sound' },
  { value: 'aligned', text: 'Same performance' },
] as const
const sources = computed(() => [
  ...(doc.project?.tracks ?? [])
    .filter((t) => t.kind === 'track' && t.id !== selection.track?.id)
    .map((t) => ({ value: t.id, text: `Track: ${t.name}` })),
  { value: FILE, text: 'A sound file…' },
])
const chosen = computed(() => {
  const of = matching.reference.value?.of
  return of && 'track' in of ? of.track : of ? FILE : ''
})
async function choose(value: string): Promise<void> {
  if (value !== FILE) {
    const name = doc.project?.tracks.find((t) => t.id === value)?.name ?? ''
    matching.reference.value = { name, of: { track: value } }
    return
  }
  const file = await fileOpen({
    mimeTypes: ['audio/*'],
    extensions: ['.wav', '.aif', '.aiff', '.flac', '.mp3', '.ogg'],
    description: 'Sounds',
  }).catch(() => null)
  if (file) await matching.take(file)
}
function drop(e: DragEvent): void {
  const [file] = e.dataTransfer?.files ?? []
  if (!file || /\.(zip|json|midi?)$/i.test(file.name)) return
  e.preventDefault()
  e.stopPropagation()
  void matching.take(file)
}

/** Tries come many times a second; the curve need not. */
const history = refThrottled(
  computed(() => matching.progress.value?.history ?? []),
  500,
)
const chart = computed((): LabChart => {
  return {
    id: 'match',
    title: 'Distance',
    x: { name: 'Tries', unit: '', scale: 'linear', from: 0 },
    y: { name: 'Distance', unit: 'dB', scale: 'linear', from: 0 },
    curves: [
      {
        name: 'Nearest so far',
        x: Float64Array.from(history.value, ([n]) => n),
        y: Float64Array.from(history.value, ([, db]) => db),
      },
    ],
  }
})
const curves = computed(() => chart.value.curves.map((c) => ({ ...c, overlay: 0, part: 0 })))
const cursors = shallowRef<readonly (number | null)[]>([null, null])
const figure = (db: number): string => `${db.toFixed(1)} dB`
const status = computed(() => {
  const { state, said, progress, reference } = matching
  if (said.value) return said.value
  const p = progress.value
  if (state.value !== 'idle' && !p?.evaluations) return 'Preparing the search…'
  if (p?.evaluations)
    return `${p.evaluations} tries: ${figure(p.start)} at first, now ${figure(p.best[0]?.loss ?? p.start)}`
  return reference.value ? `Reference: ${reference.value.name}` : 'Choose a reference, or drop a sound here.'
})
const parts = computed(() => {
  const d = matching.findings.value?.distance
  if (!d) return ''
  const figures = (['tone', 'envelope', 'movement', 'stereo'] as const).map((p) => `${p} ${figure(d[p])}`)
  return `Nearest: ${figures.join(', ')}`
})
</script>

<template>
  <section
    class="flex gap-3 border-b border-line bg-land px-3 py-2"
    aria-label="Match"
    @dragover.prevent
    @drop="drop"
  >
    <div class="flex min-w-0 flex-1 flex-col gap-1">
      <div class="flex flex-wrap items-center gap-2">
        <ChoiceField
          label="Reference"
          :model-value="chosen"
          :options="sources"
          tip="The sound that the chain is steered towards"
          @update:model-value="choose"
        />
        <ChoiceField
          v-model="matching.kind.value"
          label="Compare as"
          :options="kinds"
          tip="Same performance compares moment by moment, similar sound compares averages and movement"
        />
        <span class="text-second">Time</span>
        <ValueField
          class="w-20"
          :spec="length"
          :value="matching.seconds.value"
          title="Time of the search"
          @take="matching.seconds.value = $event"
        />
        <button
          v-if="matching.state.value === 'idle'"
          class="plain-button"
          :disabled="!matching.reference.value"
          title="Searches for values of this chain that sound like the reference"
          @click="matching.start()"
        >
          Search
        </button>
        <template v-else>
          <button
            class="plain-button"
            title="Shows the best so far; the search continues from there"
            @click="matching.state.value === 'running' ? matching.pause() : matching.resume()"
          >
            {{ matching.state.value === 'running' ? 'Pause' : 'Resume' }}
          </button>
          <button class="plain-button" title="Ends the search and shows the best" @click="matching.stop()">
            Stop
          </button>
        </template>
        <button
          v-if="matching.state.value === 'idle' && matching.progress.value?.best.length"
          class="plain-button"
          title="Adds the best four as snapshots, to morph between"
          @click="matching.keepAsSnapshots()"
        >
          Keep as snapshots
        </button>
      </div>
      <p class="text-small" role="status">{{ status }}</p>
      <p v-if="parts" class="text-small text-second">{{ parts }}</p>
      <p
        v-for="sentence in matching.findings.value?.outOfReach"
        :key="sentence"
        class="text-small text-magenta"
      >
        {{ sentence }}
      </p>
      <p v-if="matching.findings.value?.atBorder.length" class="text-small text-second">
        At the end of their range: {{ matching.findings.value.atBorder.join('; ') }}
      </p>
      <p
        v-if="matching.progress.value"
        class="truncate text-tiny text-second"
        :title="matching.progress.value.moving.join('; ')"
      >
        {{
          matching.progress.value.moving.length
            ? `Moves together: ${matching.progress.value.moving.join('; ')}`
            : 'Moves one parameter after the other.'
        }}
      </p>
    </div>
    <div v-if="history.length > 1" class="flex h-36 w-100 shrink-0 flex-col">
      <CurveChart v-model:cursors="cursors" class="flex-1" :chart="chart" :curves="curves" />
    </div>
  </section>
</template>
