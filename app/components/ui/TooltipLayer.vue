<script setup lang="ts">
import { autoUpdate, flip, offset, shift, useFloating } from '@floating-ui/vue'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'

/**
 * Shows the title of whatever is pointed at or focused by key, in the look of the page and at once where the
 * browser's own would come late or, for the keyboard, never.
 */
const WAIT_MS = 600
const anchor = ref<HTMLElement | null>(null)
const bubble = ref<HTMLElement | null>(null)
const text = ref('')
/** In a list that runs down the page, a tooltip stands beside its line and never covers the next one. */
const placement = computed(() => {
  if (anchor.value?.closest('[data-region=tracks], [role=menu]')) return 'right' as const
  return anchor.value?.closest('[data-region=modulators]') ? ('left' as const) : ('bottom-start' as const)
})
const { floatingStyles } = useFloating(anchor, bubble, {
  placement,
  strategy: 'fixed',
  middleware: [offset(6), flip(), shift({ padding: 4 })],
  whileElementsMounted: autoUpdate,
})
let timer: ReturnType<typeof setTimeout> | undefined

function hide(): void {
  clearTimeout(timer)
  // the title is the element's again: tests, screen readers and the browser find it there
  if (anchor.value && text.value && !anchor.value.title) anchor.value.title = text.value
  anchor.value = null
  text.value = ''
}

function show(el: HTMLElement, byPointer: boolean): void {
  if (!el.title || !el.isConnected) return
  text.value = el.title
  anchor.value = el
  // the browser shall not show it once more; for the keyboard it does not anyway
  if (byPointer) el.title = ''
}

function over(e: Event, wait: number, byPointer: boolean): void {
  const el = (e.target as Element | null)?.closest<HTMLElement>('[title]:not([title=""])') ?? null
  if (el === anchor.value) return
  hide()
  if (el) timer = setTimeout(() => show(el, byPointer), wait)
}
useEventListener(document, 'pointerover', (e) => over(e, WAIT_MS, true))
useEventListener(document, 'focusin', (e) => {
  if ((e.target as Element).matches(':focus-visible')) over(e, 2 * WAIT_MS, false)
})
useEventListener(document, ['pointerdown', 'keydown', 'wheel', 'focusout'], hide, {
  capture: true,
  passive: true,
})
</script>

<template>
  <div
    v-if="text"
    ref="bubble"
    role="tooltip"
    class="pointer-events-none z-[60] max-w-80 border border-ink bg-sheet px-2 py-1 text-tiny leading-snug"
    :style="floatingStyles"
  >
    {{ text }}
  </div>
</template>
