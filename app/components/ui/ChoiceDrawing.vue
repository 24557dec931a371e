<script setup lang="ts">
import { choiceDrawings } from './choice-drawings'

/** The small drawing of a choice; nothing where it has none. */
defineProps<{ of: string }>()
</script>

<template>
  <svg
    v-if="choiceDrawings[of]"
    viewBox="0 0 16 10"
    width="16"
    height="10"
    fill="none"
    stroke="currentColor"
    stroke-width="1.3"
    aria-hidden="true"
  >
    <path :d="choiceDrawings[of]" />
  </svg>
</template>
