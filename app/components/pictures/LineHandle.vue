<script setup lang="ts">
import { computed, ref } from 'vue'
import { useParam } from '../../composables/useParam'

/**
 * The part of a picture over the line of one parameter, such as a threshold: dragging it moves the line. The
 * parameter's gauge does the same by key.
 */
const props = defineProps<{
  owner: string
  param: string
  /** Values at the start and the end of the axis; from the top down, or from the left. */
  from: number
  to: number
  /** Margins of the picture around its axes, in pixels. */
  inset: { top: number; right: number; bottom: number; left: number }
  across?: boolean
}>()
const area = ref<HTMLElement | null>(null)
const p = useParam(
  () => props.owner,
  () => props.param,
)
const share = computed(() => Math.min(1, Math.max(0, (p.value.value - props.from) / (props.to - props.from))))

function press(e: PointerEvent): void {
  if (e.button !== 0) return
  p.hand.drag(e, `Set ${p.where.value} ${p.label.value.toLowerCase()}`, (m) => {
    const box = area.value?.getBoundingClientRect()
    const s = p.spec.value
    if (!box || !s) return
    const at = props.across ? (m.clientX - box.left) / box.width : (m.clientY - box.top) / box.height
    p.set(Math.min(s.max, Math.max(s.min, props.from + at * (props.to - props.from))))
  })
}
</script>

<template>
  <div
    v-if="p.spec.value"
    ref="area"
    class="pointer-events-none absolute"
    :style="{
      top: `${inset.top}px`,
      right: `${inset.right}px`,
      bottom: `${inset.bottom}px`,
      left: `${inset.left}px`,
    }"
  >
    <div
      class="pointer-events-auto absolute touch-none"
      :class="
        across
          ? 'inset-y-0 w-3 -translate-x-1/2 cursor-ew-resize'
          : 'inset-x-0 h-3 -translate-y-1/2 cursor-ns-resize'
      "
      :style="across ? { left: `${share * 100}%` } : { top: `${share * 100}%` }"
      :title="`Drags ${p.label.value.toLowerCase()}`"
      :data-line="`${owner}.${param}`"
      @pointerdown="press"
    />
  </div>
</template>
