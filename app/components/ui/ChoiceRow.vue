<script setup lang="ts" generic="V extends string | number">
/** A choice in a form: what it is on the left, the choice on the right. */
defineProps<{
  text: string
  label?: string
  options: readonly { readonly value: V; readonly text: string }[]
}>()
const chosen = defineModel<V>({ required: true })
</script>

<template>
  <span>{{ text }}</span>
  <ChoiceField v-model="chosen" :label="label ?? text" hide-label :options="options" />
</template>
