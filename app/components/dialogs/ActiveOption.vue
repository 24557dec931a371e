<script setup lang="ts" generic="T">
import { watch } from 'vue'

/** Tells which option a list has highlighted, which its package gives to the template alone. */
const { option } = defineProps<{ option: T | null }>()
const emit = defineEmits<{ change: [option: T | null] }>()
watch(
  () => option,
  (now) => emit('change', now),
  { immediate: true },
)
</script>

<template><span hidden /></template>
