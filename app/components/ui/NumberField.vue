<script setup lang="ts">
/** A number within bounds, typed, with its unit behind it. */
const props = defineProps<{
  label: string
  value: number
  min: number
  max: number
  unit?: string
}>()
const emit = defineEmits<{ change: [value: number] }>()

const written = (v: number): string => String(v).replace('-', '−')
const shown = (v: number): string => written(Math.round(v * 1000) / 1000)
/** @throws with a sentence where the text is no number within the bounds */
function take(text: string): void {
  const value = Number(text.replace('−', '-').replace(/[^\d.-]+$/, ''))
  if (text.trim() === '' || !Number.isFinite(value) || value < props.min || value > props.max)
    throw new Error(`A number from ${written(props.min)} to ${written(props.max)} is expected.`)
  emit('change', value)
}
</script>

<template>
  <span class="flex items-center gap-1">
    <TypedField class="w-20" :label="label" :value="shown(value)" :take="take" />
    {{ unit }}
    <slot />
  </span>
</template>
