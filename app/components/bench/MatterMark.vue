<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** How much a part contributes, as a thin bar or in figures, once What matters has measured it. */
const props = defineProps<{ of: string; bar?: boolean }>()
const { matters } = useSession()
/** Difference in dB of a full bar. */
const FULL = 12
const part = computed(() => (matters.isCurrent.value ? matters.found.value.get(props.of) : undefined))
const text = computed(() =>
  part.value ? (part.value.isIdle ? 'idle' : `${part.value.distance.total.toFixed(1)} dB`) : '',
)
const tip = computed(() => part.value?.reason || `Difference without it: ${text.value}`)
</script>

<template>
  <span
    v-if="part && bar"
    class="absolute inset-x-0 -bottom-2 h-1 border border-second bg-sheet"
    :class="part.isIdle ? 'border-dashed' : ''"
    :title="tip"
    ><i
      class="absolute inset-y-0 left-0 bg-magenta"
      :style="{ width: `${Math.min(100, (100 * part.distance.total) / FULL)}%` }"
  /></span>
  <span v-else-if="part" class="text-tiny text-second tabular-nums" :title="tip">{{ text }}</span>
</template>
