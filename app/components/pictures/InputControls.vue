<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { computed, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'
import { LiveInput } from '../../services/live-input'

/**
 * The device of a live input: opened and closed, chosen, its way measured; with a lamp for what was clipped,
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
      title="Turns the input on or off"
      @click="input.toggle(track)"
    >
      {{ isOpen ? 'Input on' : 'Turn input on' }}
    </button>
    <ChoiceField
      label="Device"
      hide-label
      tip="Chooses the input device. Names appear once the browser allows access."
      :model-value="device"
      :options="choices"
      @update:model-value="input.choose(track, $event)"
    />
    <button
      class="small-button"
      :aria-pressed="preferences.monitorsInput"
      title="Monitors the input. Recording works either way."
      @click="input.setMonitored(!preferences.monitorsInput)"
    >
      {{ preferences.monitorsInput ? 'Monitor on' : 'Monitor off' }}
    </button>
    <span v-if="isOpen" class="flex items-center gap-1 text-second">
      <b ref="lamp" class="text-magenta" role="status" hidden>clipped</b>
      peak <span ref="peakText">−∞ dB</span>
    </span>
    <span v-if="isOpen" class="w-full text-second">
      <button
        class="small-button"
        title="Measures the round-trip latency with a click. Connect output to input, or hold the microphone to the speaker."
        @click="input.measure(track)"
      >
        Measure latency
      </button>
      {{ roundText }}
    </span>
  </div>
</template>
