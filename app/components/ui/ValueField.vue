<script setup lang="ts">
import type { ParamSpec } from '@oleaje/core/units/parameter'
import { formatValue, parseValue } from '@oleaje/core/units/text'

/** A value with a unit, typed and shown as people write it. */
const { spec, value } = defineProps<{ spec: ParamSpec; value: number }>()
const emit = defineEmits<{ take: [value: number]; done: []; refused: [is: boolean] }>()
</script>

<template>
  <TypedField
    :value="formatValue(spec, value)"
    :label="spec.name"
    :take="(text: string) => emit('take', parseValue(spec, text, value))"
    @done="emit('done')"
    @refused="emit('refused', $event)"
  />
</template>
