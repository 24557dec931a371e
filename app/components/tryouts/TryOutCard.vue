<script setup lang="ts">
import { Volume2 } from '@lucide/vue'
import { computed } from 'vue'
import { paintSpectrogram } from '../../drawing/spectrogram'
import { useCanvas } from '../../composables/useCanvas'
import type { Card } from '../../services/try-outs'

/** One variant: its picture, its figures, and what differs from the first. */
const props = defineProps<{ card: Card; first: boolean; heard: boolean; parent: boolean }>()
const emit = defineEmits<{
  focus: []
  keydown: [e: KeyboardEvent]
  parent: []
  apply: []
  keep: []
  discard: []
}>()
const canvas = useCanvas(({ width, height, still }) => {
  still([props.card.result], (g) => {
    if (props.card.result) paintSpectrogram(g, props.card.result.picture, { x: 0, y: 0, width, height })
  })
})
const text = (v: number): string => v.toFixed(1).replace('-', '−')
const hertz = (hz: number): string => (hz >= 1000 ? `${(hz / 1000).toFixed(1)} kHz` : `${Math.round(hz)} Hz`)
const figures = computed(() => {
  const f = props.card.result?.figures
  if (!f) return props.card.failed || 'Computing…'
  if (f.loudness <= -70) return props.card.isWhole ? 'silent' : 'Computing…'
  return `${text(f.loudness)} LUFS · brightness ${hertz(f.brightness)} · movement ${text(f.movement)} dB`
})
</script>

<template>
  <article
    class="border bg-sheet p-2"
    :class="[heard ? 'border-magenta' : 'border-line', card.failed ? 'opacity-70' : '']"
    tabindex="0"
    data-card
    :aria-busy="!card.isWhole && !card.failed"
    :aria-label="`${card.name}. ${figures}. ${card.words || (first ? 'The present state' : 'No difference')}`"
    @focus="emit('focus')"
    @keydown="emit('keydown', $event)"
  >
    <h3 class="flex items-center gap-1 truncate font-semibold">
      {{ card.name }}<Volume2 v-if="heard" :size="14" class="text-magenta" aria-hidden="true" />
    </h3>
    <canvas
      ref="canvas"
      class="h-20 w-full border border-line"
      role="img"
      :aria-label="`Spectrogram of ${card.name}`"
    />
    <p class="truncate text-tiny">{{ figures }}</p>
    <p class="line-clamp-2 h-8 text-tiny text-second" :title="card.words">
      {{ card.words || (first ? 'The present state' : 'No difference') }}
    </p>
    <div class="flex gap-1">
      <button class="small-button" title="Makes it the state of the track (Enter)" @click="emit('apply')">
        Apply
      </button>
      <button
        class="small-button"
        :aria-pressed="parent"
        title="Chooses it as a parent for breeding"
        @click="emit('parent')"
      >
        Parent
      </button>
      <button class="small-button" title="Keeps its chain on the Shelf" @click="emit('keep')">Keep</button>
      <button class="small-button ml-auto" title="Removes the card (Delete)" @click="emit('discard')">
        Discard
      </button>
    </div>
  </article>
</template>
