<script setup lang="ts">
import { nextTick, ref } from 'vue'

/** A value in a table: plain text until it is clicked or Enter is pressed on it, then a field. Keeps long tables light. */
defineProps<{ text: string, label: string }>()
const emit = defineEmits<{ change: [text: string] }>()
const field = ref<HTMLInputElement | null>(null)
const button = ref<HTMLButtonElement | null>(null)
const editing = ref(false)

async function edit(): Promise<void> {
  editing.value = true
  await nextTick()
  field.value?.select()
}

/** Takes what was typed; with Enter the focus stays on the cell. */
async function leave(take: boolean, stay: boolean): Promise<void> {
  if (!editing.value) return
  const typed = field.value?.value ?? ''
  editing.value = false
  if (take) emit('change', typed)
  if (!stay) return
  await nextTick()
  button.value?.focus()
}
</script>

<template>
  <input v-if="editing" ref="field" class="field h-[26px] w-full" :value="text" :aria-label="label" @keydown.enter.stop.prevent="leave(true, true)" @keydown.esc.stop="leave(false, true)" @blur="leave(true, false)">
  <button v-else ref="button" class="cell" :aria-label="`${label}: ${text}`" @click="edit">{{ text }}</button>
</template>

<style scoped>
.cell { width: 100%; height: 26px; padding: 0 6px; text-align: left; border-bottom: 1px solid var(--line); white-space: nowrap; overflow: hidden; }
</style>
