<script setup lang="ts">
import { Pane, Splitpanes } from 'splitpanes'
import 'splitpanes/dist/splitpanes.css'
import { useWindowSize } from '@vueuse/core'
import { computed, onMounted } from 'vue'
import { useSession } from '../composables/useSession'
import { preference } from '../stores/preference'

/** The Bench: build and listen. */
const { doc } = useSession()
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
const left = computed(() => atLeast(14.7, 192))
const right = computed(() => atLeast(22.3, 268))
const size = (name: string, i: number, otherwise: number): number => sizes.value[name]?.[i] ?? otherwise
</script>

<template>
  <Splitpanes class="h-full" :push-other-panes="false" @resized="keep('columns', $event.panes ?? $event)">
    <Pane :size="size('columns', 0, left)" min-size="11"><TrackList /></Pane>
    <Pane :size="size('columns', 1, 100 - left - right)" min-size="40" class="relative">
      <Splitpanes horizontal :push-other-panes="false" @resized="keep('rows', $event.panes ?? $event)">
        <Pane :size="size('rows', 0, 34)" min-size="20"><ChartView /></Pane>
        <Pane :size="size('rows', 1, 66)" min-size="30"><NodePanel /></Pane>
      </Splitpanes>
    </Pane>
    <Pane :size="size('columns', 2, right)" min-size="16">
      <Splitpanes horizontal :push-other-panes="false" @resized="keep('right', $event.panes ?? $event)">
        <Pane :size="size('right', 0, 51)" min-size="20"><ModulatorPanel /></Pane>
        <Pane :size="size('right', 1, 49)" min-size="16"><ListeningPanel :key="doc.project?.id" /></Pane>
      </Splitpanes>
    </Pane>
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
