<script setup lang="ts">
import { setSource } from '@oleaje/core/project/chain-edits'
import type { Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Opens and closes the device of a live input, and says which it is. */
const props = defineProps<{ track: Track }>()
const { doc, bench, host, input } = useSession()
const isOpen = computed(() => bench.openInput === props.track.id)
const device = computed(() => (props.track.source?.device === 'microphone' ? 'microphone' : 'simulated'))

async function toggle(): Promise<void> {
  try {
    await input.open(isOpen.value ? null : device.value)
    bench.openInput = isOpen.value ? null : props.track.id
  } catch (error) {
    doc.trouble = sentence(error)
  }
}

/** Another device for the track; where the input is open, it goes on with that one. */
async function swap(): Promise<void> {
  const { source } = props.track
  if (!source) return
  const next = device.value === 'microphone' ? 'simulated' : 'microphone'
  doc.edit('Change input', setSource(props.track.id, { ...source, device: next }))
  if (!isOpen.value) return
  try {
    await input.open(next)
  } catch (error) {
    bench.openInput = null
    doc.trouble = sentence(error)
  }
}
</script>

<template>
  <div class="mt-1 flex flex-wrap gap-1">
    <button
      class="small-button"
      :aria-pressed="isOpen"
      title="Opens and closes the input"
      @click="toggle"
    >
      {{ isOpen ? 'Input open' : 'Open input' }}
    </button>
    <button
      class="small-button"
      :title="device === 'microphone' ? 'It hears the microphone' : 'It hears the simulated player'"
      @click="swap"
    >
      {{ device === 'microphone' ? 'Use simulated player' : 'Use microphone' }}
    </button>
    <span v-if="isOpen" class="text-[12px] text-second">{{ host.deviceLatency.toFixed(0) }} ms</span>
  </div>
</template>
