<script setup lang="ts">
import { glyphs } from './glyphs'

/** The small drawing of an effect. */
defineProps<{ of: string }>()
</script>

<template>
  <svg
    viewBox="0 0 24 14"
    width="24"
    height="14"
    fill="none"
    stroke="currentColor"
    stroke-width="1.4"
    stroke-linecap="round"
    aria-hidden="true"
  >
    <path :d="glyphs[of] ?? ''" />
  </svg>
</template>
