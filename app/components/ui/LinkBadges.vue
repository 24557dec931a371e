<script setup lang="ts">
import type { useParam } from '../../composables/useParam'

/** The badges of what moves a gauge. A click on one asks for more about its link. */
defineProps<{ links: ReturnType<typeof useParam>['links']['value']; textOf: (place: number) => string }>()
const emit = defineEmits<{ ask: [id: string] }>()
</script>

<template>
  <button
    v-for="l in links"
    :key="l.link.id"
    :title="`${l.modulator?.name}: ${textOf(l.ends.from)} to ${textOf(l.ends.to)}. Click to edit the link`"
    :aria-label="`Link from ${l.modulator?.name}`"
    :class="{ 'opacity-40': !l.link.on }"
    @click="emit('ask', l.link.id)"
  >
    <Badge :letter="l.modulator?.letter ?? '?'" :hue="l.modulator?.hue ?? 0" />
  </button>
</template>
