<script setup lang="ts">
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useSession } from '../../composables/useSession'

/** How long a loop's round takes now, and the least it can take with what is inside. */
const props = defineProps<{ id: string }>()
const { host } = useSession()
const text = ref<HTMLElement | null>(null)
const ms = (seconds: number): string =>
  seconds >= 1 ? `${seconds.toFixed(2)} s` : `${(seconds * 1000).toFixed(1)} ms`

useFrame(() => {
  const round = host.telemetry.get(`read:loop:${props.id}:round`)
  const least = host.telemetry.get(`read:loop:${props.id}:least`)
  if (!text.value || round <= 0) return
  const stands = round <= least * 1.0005 ? ' The time is at the minimum.' : ''
  text.value.textContent = `One pass takes ${ms(round)}. The minimum is ${ms(least)}, the latency of the effects inside.${stands}`
})
</script>

<template>
  <p class="text-second">The output is fed back into the input. <span ref="text" /></p>
</template>
