<script setup lang="ts">
import type { useStretch } from './song-stretch'

/** Tools for the selected range of the song. */
defineProps<{ stretch: ReturnType<typeof useStretch> }>()
const plain = [
  { act: 'cut', text: 'Cut', tip: 'Cuts the range (Ctrl+X)' },
  { act: 'copy', text: 'Copy', tip: 'Copies the range (Ctrl+C)' },
  { act: 'paste', text: 'Paste', tip: 'Pastes at the playhead and overwrites (Ctrl+V)' },
  { act: 'repeat', text: 'Repeat', tip: 'Repeats the range once (Ctrl+D)' },
  { act: 'remove', text: 'Clear', tip: 'Removes notes and flattens curves in the range (Delete)' },
] as const
</script>

<template>
  <div
    class="flex h-7 shrink-0 items-center gap-1 border-t border-line bg-sheet px-4 text-tiny"
    role="group"
    aria-label="Tools for the selected range"
  >
    <span v-if="!stretch.words.value" class="text-second"
      >Shift+drag over lanes, or press Shift and the arrow keys, to select a range.</span
    >
    <template v-else>
      <span class="mr-2">{{ stretch.words.value }}</span>
      <button
        v-for="p in plain"
        :key="p.act"
        class="small-button"
        :title="p.tip"
        :disabled="p.act === 'paste' && !stretch.copied.value"
        @click="stretch.acts[p.act]()"
      >
        {{ p.text }}
      </button>
      <button
        class="small-button"
        title="Halves the length of the range"
        aria-label="Half length"
        @click="stretch.acts.scale(0.5)"
      >
        ½ time
      </button>
      <button
        class="small-button"
        title="Doubles the length of the range"
        aria-label="Double length"
        @click="stretch.acts.scale(2)"
      >
        2 × time
      </button>
      <button class="small-button" title="Clears the selection (Esc)" @click="stretch.acts.none()">
        Deselect
      </button>
    </template>
  </div>
</template>
