<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import type { ChartLayout } from './chart-layout'

/**
 * A small picture of a chain that is longer than its view. The frame marks the part in view; drag it to
 * scroll. Arrow keys walk the chart itself.
 */
const props = defineProps<{ chart: ChartLayout; view: HTMLElement | null; width: number }>()
const strip = ref<HTMLElement | null>(null)
const left = ref(0)
const isLong = computed(() => props.chart.width > props.width + 1)
const share = (px: number): string => `${(100 * px) / props.chart.width}%`

useEventListener(
  () => props.view,
  'scroll',
  () => {
    left.value = props.view?.scrollLeft ?? 0
  },
)
watch(
  () => props.chart,
  () => {
    left.value = props.view?.scrollLeft ?? 0
  },
)

function drag(e: PointerEvent): void {
  const box = strip.value?.getBoundingClientRect()
  if (!box || e.button !== 0) return
  const go = (m: PointerEvent): void => {
    const at = ((m.clientX - box.left) / box.width) * props.chart.width
    props.view?.scrollTo({ left: at - props.width / 2 })
  }
  followPointer(e, go)
  go(e)
}
</script>

<template>
  <div
    v-if="isLong"
    ref="strip"
    class="absolute bottom-1 left-1/2 z-10 h-3 w-48 -translate-x-1/2 cursor-ew-resize touch-none border border-line bg-sheet"
    title="The whole chain. Drag to scroll."
    aria-hidden="true"
    @pointerdown="drag"
  >
    <i
      v-for="n in chart.nodes"
      :key="n.node.id"
      class="absolute top-0.75 h-1 bg-deep"
      :style="{ left: share(n.x), width: share(n.width) }"
    />
    <i
      class="absolute -inset-y-px border border-ink"
      :style="{ left: share(left), width: share(Math.min(width, chart.width)) }"
    />
  </div>
</template>
