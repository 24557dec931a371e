<script setup lang="ts">
import { computed, ref } from 'vue'

/**
 * An input whose value is taken when it is left or by Enter (`@change`). What is being typed stays, whatever
 * is drawn around it meanwhile; Escape takes it back. After Enter, the next key is a shortcut again.
 */
const { value } = defineProps<{ value: string | number | undefined }>()

/** The typed text; null while the value is shown. */
const draft = ref<string | null>(null)
const shown = computed(() => draft.value ?? value ?? '')

function takeBack(event: KeyboardEvent): void {
  if (draft.value === null) return
  event.stopPropagation()
  draft.value = null
  const field = event.target as HTMLInputElement
  field.value = String(value ?? '')
}
</script>

<template>
  <input
    class="text-ellipsis"
    :value="shown"
    @input="draft = ($event.target as HTMLInputElement).value"
    @change="draft = null"
    @blur="draft = null"
    @keydown.esc="takeBack"
    @keydown.enter="($event.target as HTMLInputElement).blur()"
  />
</template>
