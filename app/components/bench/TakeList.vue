<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Recordings of a track: heard, kept as tracks, or taken away. */
const props = defineProps<{ track: Track }>()
const { takes, recording } = useSession()
const isRecording = computed(() => recording.recordingTrack === props.track.id)
</script>

<template>
  <div class="contents" role="group" aria-label="Takes">
    <button
      class="small-button"
      :aria-pressed="isRecording"
      title="Records the track dry and wet, in time with the song (Shift+T)"
      @click="takes.toggle(track)"
    >
      {{ isRecording ? 'Stop take' : 'Record' }}
    </button>
    <ul v-if="track.takes?.length" class="w-full text-tiny">
      <li
        v-for="t in track.takes"
        :key="t.id"
        class="flex items-center gap-1 border-b border-dotted border-line py-0.5"
      >
        <span class="min-w-0 flex-1 truncate">{{ t.name }}</span>
        <TakeActions :track="track" :take="t" />
      </li>
    </ul>
  </div>
</template>
