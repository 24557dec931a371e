<script setup lang="ts" generic="T extends string | number">
import { Listbox, ListboxButton, ListboxLabel, ListboxOption, ListboxOptions } from './parts/listbox'
import { ChevronDown } from '@lucide/vue'
import { computed } from 'vue'

/** One of several named values, in a list that opens. */
const { modelValue, options } = defineProps<{
  modelValue: T
  options: readonly { readonly value: T; readonly text: string }[]
  label: string
  tip?: string
  hideLabel?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
/** Keys are the list's own, but for the Escape that closes what it stands in. */
const own = (e: KeyboardEvent): void => {
  if (e.key !== 'Escape') e.stopPropagation()
}
const chosen = computed(() => options.find((o) => o.value === modelValue)?.text ?? '')
</script>

<template>
  <Listbox
    as="div"
    class="relative inline-flex items-center gap-1"
    :model-value="modelValue"
    @update:model-value="(v: T) => emit('update:modelValue', v)"
  >
    <ListboxLabel :class="hideLabel ? 'sr-only' : ''">{{ label }}</ListboxLabel>
    <ListboxButton class="field flex min-w-0 items-center gap-1 text-left" :title="tip" @keydown="own">
      <span class="min-w-0 flex-1 truncate">{{ chosen }}</span><ChevronDown :size="12" aria-hidden="true" />
    </ListboxButton>
    <ListboxOptions class="list-options right-0" @keydown.stop>
      <ListboxOption
        v-for="o in options"
        :key="o.value"
        v-slot="{ active, selected }"
        :value="o.value"
        as="template"
      >
        <li
          class="cursor-default px-2 py-0.5 whitespace-nowrap"
          :class="[active ? 'bg-water' : '', selected ? 'font-semibold' : '']"
        >
          {{ o.text }}
        </li>
      </ListboxOption>
    </ListboxOptions>
  </Listbox>
</template>
