<script setup lang="ts">
import { useWindowSize } from '@vueuse/core'
import { computed } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import { useSession } from '../../composables/useSession'

/**
 * The dock at the bottom of every view: the transport, and two panes (three on a wide page) that show the
 * song or one of the listening views. Its upper edge is dragged; folded, it keeps the transport alone.
 */
const { doc, screen, preferences } = useSession()
const { width: pageWidth, height: pageHeight } = useWindowSize()
/** Width in px from which a third pane and a taller dock have room. */
const WIDE = 1600
const FOLDED = 40
const LEAST = 112
const isWide = computed(() => pageWidth.value >= WIDE)
const most = computed(() => Math.max(LEAST, Math.round(pageHeight.value * 0.5)))
const usual = computed(() => (isWide.value ? 200 : 136))
const isFolded = computed(() => preferences.dockHeight !== 0 && preferences.dockHeight < LEAST)
const height = computed(() =>
  isFolded.value ? FOLDED : Math.min(most.value, preferences.dockHeight || usual.value),
)
const panes = computed(() => (isWide.value ? [0, 1, 2] : [0, 1]))

function setHeight(px: number): void {
  preferences.dockHeight = px < LEAST * 0.75 ? FOLDED : Math.min(most.value, Math.max(LEAST, Math.round(px)))
}
function drag(e: PointerEvent): void {
  const from = e.clientY
  const start = height.value
  followPointer(e, (m) => setHeight(start + from - m.clientY))
}
function key(e: KeyboardEvent): void {
  const by = { ArrowUp: 16, ArrowDown: -16 }[e.key]
  if (by !== undefined) setHeight(isFolded.value && by > 0 ? LEAST : height.value + by)
  else if (e.key === 'Enter') toggle()
  else if (e.key === 'Home') setHeight(FOLDED)
  else if (e.key === 'End') setHeight(most.value)
  else return
  e.preventDefault()
  e.stopPropagation()
}
function toggle(): void {
  preferences.dockHeight = isFolded.value ? usual.value : FOLDED
}
</script>

<template>
  <footer
    class="dock relative grid shrink-0 border-t border-ink"
    :style="{ 'height': `${height}px`, '--panes': panes.length }"
    aria-label="Transport and listening"
  >
    <div
      class="absolute inset-x-0 -top-1 z-20 h-2 cursor-row-resize touch-none"
      role="separator"
      tabindex="0"
      aria-orientation="horizontal"
      aria-label="Height of the dock"
      :aria-valuenow="height"
      :aria-valuemin="FOLDED"
      :aria-valuemax="most"
      title="Drag to resize the dock; double-click to fold or unfold it"
      @pointerdown="drag"
      @dblclick="toggle"
      @keydown="key"
    />
    <TransportPanel class="border-r border-line" :folded="isFolded" />
    <template v-if="!isFolded">
      <DockPane
        v-for="i in panes"
        :key="`${doc.project?.id} ${i}`"
        :index="i"
        :class="i ? 'border-l border-line' : ''"
      />
    </template>
    <DockPane v-else-if="screen.enlargedPane !== null" :key="doc.project?.id" :index="screen.enlargedPane" />
  </footer>
</template>

<style scoped>
.dock {
  grid-template: minmax(0, 1fr) / 200px repeat(var(--panes), minmax(0, 1fr));
}
</style>
