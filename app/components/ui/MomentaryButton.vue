<script setup lang="ts">
import { useParam } from '../../composables/useParam'

/** A button that sets a parameter to its maximum while it is pressed, by pointer or by Space or Enter. */
const props = defineProps<{ owner: string; param: string }>()
const p = useParam(
  () => props.owner,
  () => props.param,
)

function press(): void {
  const s = p.spec.value
  if (!s || p.value.value === s.max) return
  p.hand.begin(`Press ${p.label.value.toLowerCase()} of ${p.where.value}`)
  p.set(s.max)
  for (const end of ['pointerup', 'pointercancel', 'blur']) addEventListener(end, release, { once: true })
}
function release(): void {
  const s = p.spec.value
  if (s) p.set(s.min)
  p.hand.end()
}

function keydown(e: KeyboardEvent): void {
  if (e.key !== ' ' && e.key !== 'Enter') return
  e.preventDefault()
  e.stopPropagation()
  if (!e.repeat) press()
}
function keyup(e: KeyboardEvent): void {
  if (e.key === ' ' || e.key === 'Enter') release()
}
</script>

<template>
  <button
    class="small-button"
    title="Holds it on while pressed. Space or Enter presses it."
    :aria-label="`Press ${p.label.value}, ${p.where.value}`"
    :aria-pressed="p.value.value === p.spec.value?.max"
    @pointerdown="press"
    @keydown="keydown"
    @keyup="keyup"
  >
    Press
  </button>
</template>
