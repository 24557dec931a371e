<script setup lang="ts">
import { onBeforeUnmount } from 'vue'
import { useParam } from '../../composables/useParam'

/**
 * A button that sets a parameter to its maximum while it is pressed, by pointer or by Space or Enter.
 * Released, it restores the former value.
 */
const props = defineProps<{ owner: string; param: string }>()
const p = useParam(
  () => props.owner,
  () => props.param,
)

/** The value before the press; null while the button is up. */
let before: number | null = null
const ends = ['pointerup', 'pointercancel', 'blur'] as const

function press(): void {
  const s = p.spec.value
  if (!s || before !== null) return
  before = p.value.value
  p.hand.begin(`Press ${p.label.value.toLowerCase()} of ${p.where.value}`)
  p.set(s.max)
  for (const end of ends) addEventListener(end, release)
}
function release(): void {
  if (before === null) return
  p.set(before)
  before = null
  p.hand.end()
  for (const end of ends) removeEventListener(end, release)
}
onBeforeUnmount(release)

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
    @pointerdown.left="press"
    @keydown="keydown"
    @keyup="keyup"
  >
    Press
  </button>
</template>
