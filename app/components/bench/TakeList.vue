<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Recordings of a track: heard, kept as tracks, or taken away. */
const props = defineProps<{ track: Track }>()
const { bench, takes } = useSession()
const isRecording = computed(() => bench.recordingTrack === props.track.id)
const sides = ['dry', 'wet'] as const
</script>

<template>
  <div
    class="contents"
    role="group"
    aria-label="Takes"
  >
    <button
      class="small-button"
      :aria-pressed="isRecording"
      title="Records what goes into the chain and what comes out, in time with the song; once more ends the take"
      @click="takes.toggle(track)"
    >
      {{ isRecording ? 'End take' : 'Record' }}
    </button>
    <ul v-if="track.takes?.length" class="w-full text-tiny">
      <li
        v-for="t in track.takes"
        :key="t.id"
        class="flex flex-wrap items-center gap-1 border-b border-dotted border-line py-0.5"
      >
        <span class="w-full truncate">{{ t.name }}</span>
        <template v-for="side in sides" :key="side">
          <button
            class="small-button"
            :aria-pressed="bench.heardTake === `${t.id} ${side}`"
            :aria-label="`Listen to ${t.name}, ${side}`"
            @click="takes.hear(t, side)"
          >
            hear {{ side }}
          </button>
          <button
            class="small-button"
            :aria-label="`Keep ${t.name}, ${side}`"
            :title="side === 'dry' ? 'On a new track, through the same chain' : 'On a new track, as it came out of the chain'"
            @click="takes.keep(track, t, side)"
          >
            keep {{ side }}
          </button>
        </template>
        <button
          class="small-button"
          :aria-label="`Remove ${t.name}`"
          title="Undo brings it back"
          @click="takes.remove(track, t)"
        >
          ×
        </button>
      </li>
    </ul>
  </div>
</template>
