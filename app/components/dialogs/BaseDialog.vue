<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '../ui/parts/dialog'
import { onUnmounted } from 'vue'

/** A panel over the Bench. Its first field or button has the focus; Esc closes it. */
defineProps<{ title: string; wide?: boolean; size?: string }>()
const emit = defineEmits<{ close: [] }>()

// the package makes the page behind inert, and has been seen to leave it so where a dialog closed while it
// was still opening; at once, so that the focus can go to what the dialog led to, and once more when all of
// it has ended
function freePage(): void {
  if (document.querySelector('[role=dialog]')) return
  for (const el of Array.from(document.body.children)) {
    el.removeAttribute('inert')
    el.removeAttribute('aria-hidden')
  }
}
onUnmounted(() => {
  freePage()
  requestAnimationFrame(freePage)
})
</script>

<template>
  <Dialog :open="true" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-(--veil)" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center overflow-y-auto pt-[8vh]">
      <DialogPanel
        class="relative border border-ink bg-sheet p-4"
        :class="size ?? (wide ? 'w-170' : 'w-115')"
        @keydown.stop
        @keydown.esc="emit('close')"
      >
        <DialogTitle class="panel-title mb-2">{{ title }}</DialogTitle>
        <slot />
        <!-- last in order, so that the dialog's own first control gets the focus -->
        <button class="small-button absolute right-3 top-3" aria-label="Close" @click="emit('close')">
          ×
        </button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
