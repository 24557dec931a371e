<script setup lang="ts">
import type { useStretch } from './song-stretch'

/** What can be done with the chosen stretch of the song. */
defineProps<{ stretch: ReturnType<typeof useStretch> }>()
const plain = [
  { act: 'cut', text: 'cut', tip: 'Takes it out and keeps it to be pasted (Ctrl+X)' },
  { act: 'copy', text: 'copy', tip: 'Ctrl+C' },
  { act: 'paste', text: 'paste', tip: 'At the playhead, in place of what is there (Ctrl+V)' },
  { act: 'repeat', text: 'repeat', tip: 'Once more behind itself (Ctrl+D)' },
  { act: 'remove', text: 'empty', tip: 'Notes go, curves go straight over it (Delete)' },
] as const
</script>

<template>
  <div
    class="flex h-7 shrink-0 items-center gap-1 border-t border-line bg-sheet px-4 text-tiny"
    role="group"
    aria-label="Tools for the chosen stretch"
  >
    <span v-if="!stretch.words.value" class="text-second"
      >Shift-drag over lanes, or Shift and arrows in the song, choose a stretch of them.</span
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
        title="In half the time"
        aria-label="Half the time"
        @click="stretch.acts.scale(0.5)"
      >
        ½ time
      </button>
      <button
        class="small-button"
        title="In twice the time"
        aria-label="Twice the time"
        @click="stretch.acts.scale(2)"
      >
        2 × time
      </button>
      <button class="small-button" title="Chooses nothing (Esc)" @click="stretch.acts.none()">none</button>
    </template>
  </div>
</template>
