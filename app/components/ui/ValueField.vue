<script setup lang="ts">
import type { ParamSpec } from '@oleaje/core/units/parameter'
import { formatValue, parseValue } from '@oleaje/core/units/text'

/** A value with a unit, typed and shown as people write it. */
const { spec, value, check } = defineProps<{
  spec: ParamSpec
  value: number
  /** The sentence that says why a value cannot be taken; nothing where it can. */
  check?: (value: number) => string | undefined
}>()
const emit = defineEmits<{ take: [value: number]; done: []; refused: [is: boolean] }>()

function take(text: string): void {
  const read = parseValue(spec, text, value)
  const why = check?.(read)
  if (why) throw new Error(why)
  emit('take', read)
}
</script>

<template>
  <TypedField
    :value="formatValue(spec, value)"
    :label="spec.name"
    :take="take"
    @done="emit('done')"
    @refused="emit('refused', $event)"
  />
</template>
