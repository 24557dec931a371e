<script setup lang="ts">
/** A modulator's letter in its colour. Letter and colour always go together. */
defineProps<{ letter: string; hue: number; small?: boolean }>()
</script>

<template>
  <span
    class="water-name inline-flex shrink-0 items-center justify-center rounded-full font-medium leading-none"
    :class="small ? 'h-3.5 min-w-3.5 text-tiny' : 'h-5.5 min-w-5.5 text-plain'"
    :style="{ background: `var(--hue-${hue})`, color: 'var(--on-hue)' }"
    >{{ letter }}</span
  >
</template>
