<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

defineProps<{ title: string, wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <Dialog :open="true" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-ink opacity-30" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center overflow-y-auto pt-[12vh]">
      <DialogPanel class="border border-ink bg-sheet p-4" :class="wide ? 'w-[640px]' : 'w-[460px]'" @keydown.stop>
        <header class="mb-2 flex items-center justify-between"><DialogTitle class="panel-title">{{ title }}</DialogTitle><button class="small-button" aria-label="Close" @click="emit('close')">×</button></header>
        <slot />
      </DialogPanel>
    </div>
  </Dialog>
</template>
