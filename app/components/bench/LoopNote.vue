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
  const stands = round <= least * 1.0005 ? ' It stands there.' : ''
  text.value.textContent = `A round takes ${ms(round)}; the least is ${ms(least)}, which what is inside and the way back take.${stands}`
})
</script>

<template>
  <p class="text-second">What comes out of it goes in again. <span ref="text" /></p>
</template>
