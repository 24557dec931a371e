<script setup lang="ts">
import { Pane, Splitpanes } from 'splitpanes'
import 'splitpanes/dist/splitpanes.css'
import { useWindowSize } from '@vueuse/core'
import { computed, onMounted } from 'vue'
import { preference } from '../stores/preference'

/** The Bench: build and listen. */
const sizes = preference<Record<string, number[]>>('panels', {})
onMounted(nameSplitters)

/** Says what the dividers between panels are, which their package leaves open. */
function nameSplitters(): void {
  document.querySelectorAll('.splitpanes__splitter').forEach((el, i) => {
    el.setAttribute('aria-label', `Divider ${i + 1} between panels`)
    el.setAttribute('aria-valuenow', '50')
  })
}

function keep(name: string, panes: { size: number }[]): void {
  sizes.value = { ...sizes.value, [name]: panes.map((p) => p.size) }
}
/** A share of the page for a column that needs so many px. */
const { width } = useWindowSize()
const atLeast = (share: number, px: number): number => Math.max(share, (100 * px) / width.value)
const left = computed(() => atLeast(14, 200))
const right = computed(() => atLeast(20, 290))
const size = (name: string, i: number, otherwise: number): number => sizes.value[name]?.[i] ?? otherwise
</script>

<template>
  <Splitpanes class="h-full" :push-other-panes="false" @resized="keep('columns', $event.panes ?? $event)">
    <Pane :size="size('columns', 0, left)" min-size="11"><TrackList /></Pane>
    <Pane :size="size('columns', 1, 100 - left - right)" min-size="40" class="relative">
      <div class="flex h-full flex-col">
        <ChartView />
        <NodePanel class="min-h-0 flex-1" />
      </div>
    </Pane>
    <Pane :size="size('columns', 2, right)" min-size="16"><ModulatorPanel /></Pane>
  </Splitpanes>
</template>

<style>
.splitpanes__splitter {
  background: var(--line);
  position: relative;
  flex: none;
}
.splitpanes--vertical > .splitpanes__splitter {
  width: 1px;
  cursor: col-resize;
}
.splitpanes--horizontal > .splitpanes__splitter {
  height: 1px;
  cursor: row-resize;
}
.splitpanes__splitter::before {
  content: '';
  position: absolute;
  inset: -3px;
  z-index: 10;
}
</style>
