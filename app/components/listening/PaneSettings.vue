<script setup lang="ts">
import { inject } from 'vue'
import { paneRoom } from './pane-room'

/**
 * The settings of a view in a dock pane: a line above the picture where the pane is enlarged, else a panel
 * that opens over it.
 */
const room = inject(paneRoom, null)
</script>

<template>
  <div
    v-if="!room || room.isEnlarged.value || room.showsSettings.value"
    class="flex flex-wrap items-center gap-1 text-tiny"
    :class="
      room && !room.isEnlarged.value ? 'absolute top-0 right-0 z-30 border border-ink bg-sheet p-1' : 'pb-1'
    "
  >
    <slot />
  </div>
</template>
