<script setup lang="ts">
import type { Track } from '@oleaje/core/project/schema'
import { noteNames } from '@oleaje/core/units/tuning'
import { onBeforeUnmount, ref } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import { useSession } from '../../composables/useSession'

/** Keys to be played with the pointer, harder further down; dragged across, each sounds in turn. */
const props = defineProps<{ track: Track }>()
const { host } = useSession()
const LOW = 36
const COUNT = 49
const keys = Array.from({ length: COUNT }, (_, i) => LOW + i)
const isBlack = (note: number): boolean => (noteNames[note % 12] ?? '').length > 1
const sounding = ref<number | null>(null)

function begin(note: number, velocity: number): void {
  end()
  sounding.value = note
  host.note(props.track.id, note, velocity)
}
function end(): void {
  if (sounding.value !== null) host.note(props.track.id, sounding.value, 0)
  sounding.value = null
}
onBeforeUnmount(end)

function press(e: PointerEvent): void {
  if (e.button !== 0) return
  const strip = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const at = (m: PointerEvent): void => {
    const note =
      keys[Math.min(COUNT - 1, Math.max(0, Math.floor(((m.clientX - strip.left) / strip.width) * COUNT)))] ??
      LOW
    if (note !== sounding.value)
      begin(note, 0.25 + 0.75 * Math.min(1, Math.max(0, (m.clientY - strip.top) / strip.height)))
  }
  at(e)
  followPointer(e, at, end, end)
}
</script>

<template>
  <div
    class="relative flex h-9 shrink-0 touch-none border border-line"
    role="img"
    :aria-label="`Keys that play ${track.name}`"
    title="Click to play; lower on a key is louder. Drag to glide. Shift+P uses the computer keyboard."
    @pointerdown="press"
  >
    <span
      v-for="k in keys"
      :key="k"
      class="pointer-events-none flex-1 border-r border-line"
      :class="k === sounding ? 'bg-deep' : isBlack(k) ? 'bg-ink opacity-80' : 'bg-sheet'"
      ><span v-if="k % 12 === 0" class="pl-0.5 text-tiny text-second">{{
        Math.floor(k / 12) - 1
      }}</span></span
    >
  </div>
</template>
