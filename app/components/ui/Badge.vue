<script setup lang="ts">
/** A modulator's letter in its colour. Letter and colour always go together. */
defineProps<{ letter: string, hue: number, small?: boolean }>()
</script>

<template>
  <span
    class="water-name inline-flex shrink-0 items-center justify-center rounded-full font-medium leading-none"
    :class="small ? 'h-[14px] min-w-[14px] text-[12px]' : 'h-[22px] min-w-[22px] text-[14px]'"
    :style="{ background: `var(--hue-${hue})`, color: 'var(--on-hue)' }"
  >{{ letter }}</span>
</template>
