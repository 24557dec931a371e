<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { LiveInput } from '../../services/live-input'

/** Opens and closes the device of a live input, and says which it is. */
const props = defineProps<{ track: Track }>()
const { bench, host, input } = useSession()
const isOpen = computed(() => bench.openInput === props.track.id)
const device = computed(() => LiveInput.deviceOf(props.track))
</script>

<template>
  <div class="mt-1 flex flex-wrap gap-1">
    <button
      class="small-button"
      :aria-pressed="isOpen"
      title="Opens and closes the input"
      @click="input.toggle(track)"
    >
      {{ isOpen ? 'Input open' : 'Open input' }}
    </button>
    <button
      class="small-button"
      :title="device === 'microphone' ? 'It hears the microphone' : 'It hears the simulated player'"
      @click="input.swap(track)"
    >
      {{ device === 'microphone' ? 'Use simulated player' : 'Use microphone' }}
    </button>
    <span v-if="isOpen" class="text-tiny text-second">{{ host.deviceLatency.toFixed(0) }} ms</span>
  </div>
</template>
