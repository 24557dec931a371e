<script setup lang="ts">
import { followPointer } from '../../composables/follow-pointer'
import { useSession } from '../../composables/useSession'

/** The lower edge of a lane: drag it, or step it with the arrow keys, to make the lane taller or shorter. */
const props = defineProps<{ lane: string; name: string; height: number; least: number; most: number }>()
const { preferences } = useSession()
const LANES_KEPT = 200

const others = (): [string, number][] =>
  Object.entries(preferences.laneHeights).filter(([lane]) => lane !== props.lane)
function set(height: number): void {
  const size = Math.round(Math.min(props.most, Math.max(props.least, height)))
  preferences.laneHeights = { ...Object.fromEntries(others().slice(-LANES_KEPT)), [props.lane]: size }
}
function drag(e: PointerEvent): void {
  if (e.button !== 0) return
  e.stopPropagation()
  const [from, y] = [props.height, e.clientY]
  followPointer(e, (m) => set(from + m.clientY - y))
}
function reset(): void {
  preferences.laneHeights = Object.fromEntries(others())
}
function keydown(e: KeyboardEvent): void {
  const by = { ArrowDown: 8, ArrowUp: -8, PageDown: 40, PageUp: -40 }[e.key]
  if (by === undefined && e.key !== 'Backspace') return
  e.preventDefault()
  e.stopPropagation()
  if (by === undefined) reset()
  else set(props.height + by)
}
</script>

<template>
  <div
    class="absolute inset-x-0 -bottom-1 z-20 h-2 cursor-row-resize touch-none"
    role="separator"
    tabindex="0"
    aria-orientation="horizontal"
    :aria-label="`Height of ${name}`"
    :aria-valuenow="height"
    :aria-valuemin="least"
    :aria-valuemax="most"
    title="Drag to resize the lane; double-click to reset its height"
    @pointerdown="drag"
    @dblclick="reset"
    @keydown="keydown"
  />
</template>
