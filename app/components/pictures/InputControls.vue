<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { computed, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import { LiveInput } from '../../services/live-input'

/**
 * The device of a live input: opened and closed, chosen, its way measured; with a lamp for what was too loud,
 * and the highest peak.
 */
const props = defineProps<{ track: Track }>()
const { doc, host, input, preferences, devices } = useSession()
const lamp = ref<HTMLElement | null>(null)
const peakText = ref<HTMLElement | null>(null)
const isOpen = computed(() => devices.openInput === props.track.id)
const device = computed(() => LiveInput.deviceOf(props.track))
const choices = computed(() =>
  [...LiveInput.simulated, ...devices.inputDevices].map((d) => ({ value: d.id, text: d.name })),
)
const round = computed(() => preferences.roundTrips[device.value])
const roundText = computed(() => {
  const rate = doc.project?.sampleRate ?? 48_000
  return round.value === undefined
    ? 'not measured'
    : `${((round.value / rate) * 1000).toFixed(1)} ms, ${round.value} samples`
})

let told = 0
useFrame((now) => {
  if (now - told < 60) return
  told = now
  const peak = isOpen.value ? host.telemetry.get(`read:source:${props.track.id}:peak`) : 0
  if (lamp.value)
    lamp.value.hidden = !isOpen.value || host.telemetry.get(`read:source:${props.track.id}:clip`) < 0.5
  if (!peakText.value) return
  const level = peak > 0.00003 ? (20 * Math.log10(peak)).toFixed(1).replace('-', '−') : '−∞'
  peakText.value.textContent = `${level} dB`
})
</script>

<template>
  <div class="mt-1 flex flex-wrap items-center gap-1 text-tiny">
    <button
      class="small-button"
      :aria-pressed="isOpen"
      title="Opens and closes the input"
      @click="input.toggle(track)"
    >
      {{ isOpen ? 'Input open' : 'Open input' }}
    </button>
    <ChoiceField
      label="Device"
      hide-label
      tip="What is heard; real ones have their names once the browser has allowed one"
      :model-value="device"
      :options="choices"
      @update:model-value="input.choose(track, $event)"
    />
    <button
      class="small-button"
      :aria-pressed="preferences.monitorsInput"
      title="Whether the input is heard while it is open; recorded it is anyhow"
      @click="input.setMonitored(!preferences.monitorsInput)"
    >
      {{ preferences.monitorsInput ? 'heard' : 'not heard' }}
    </button>
    <span v-if="isOpen" class="flex items-center gap-1 text-second">
      <b ref="lamp" class="text-magenta" role="status" hidden>too loud</b>
      peak <span ref="peakText">−∞ dB</span>
    </span>
    <span v-if="isOpen" class="w-full text-second">
      <button
        class="small-button"
        title="Sends a click to the output and waits for it to come in: connect one to the other, or hold the microphone to the speaker"
        @click="input.measure(track)"
      >
        measure the way round
      </button>
      {{ roundText }}
    </span>
  </div>
</template>
