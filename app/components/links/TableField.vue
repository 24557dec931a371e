<script setup lang="ts">
import { nextTick, ref } from 'vue'

/**
 * A value in a table: plain text until it is clicked or Enter is pressed on it, then a field. Keeps long
 * tables light.
 */
defineProps<{ text: string; label: string; take: (text: string) => void }>()
const field = ref<{ $el: HTMLElement } | null>(null)
const button = ref<HTMLButtonElement | null>(null)
const editing = ref(false)

async function edit(): Promise<void> {
  editing.value = true
  await nextTick()
  field.value?.$el.querySelector('input')?.focus()
}

/** Back to plain text; the focus stays on the cell. */
async function leave(): Promise<void> {
  editing.value = false
  await nextTick()
  button.value?.focus()
}

/** Left by the pointer or by Tab: what was refused stays to be seen. */
async function lost(): Promise<void> {
  await nextTick()
  if (!field.value?.$el.querySelector('[aria-invalid=true]')) editing.value = false
}
</script>

<template>
  <TypedField
    v-if="editing"
    ref="field"
    class="h-6.5 w-full"
    :value="text"
    :label="label"
    :take="take"
    @done="leave"
    @focusout="lost"
    @keydown.esc.stop="leave"
  />
  <button v-else ref="button" class="cell" :aria-label="`${label}: ${text}`" @click="edit">
    {{ text }}
  </button>
</template>

<style scoped>
.cell {
  width: 100%;
  height: 26px;
  padding: 0 6px;
  text-align: left;
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
}
</style>
