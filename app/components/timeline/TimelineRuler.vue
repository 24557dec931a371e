<script setup lang="ts">
import { setLoop } from '@oleaje/core/project/song-edits'
import { computed, ref } from 'vue'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/** Bars, and the loop as a bar that is dragged out. A click moves the playhead. */
const props = defineProps<{ perBeat: number; beats: number }>()
const session = useSession()
const { doc } = session
const hand = useGesture()
const ruler = ref<HTMLElement | null>(null)
const bar = computed(() => doc.project?.beatsPerBar ?? 4)
/** Bars between two lines: where they lie close, every fourth, sixteenth and so on. */
const every = computed(() => {
  let n = 1
  while (n * bar.value * props.perBeat < 8) n *= 4
  return n
})
const bars = computed(() =>
  Array.from({ length: Math.ceil(props.beats / bar.value / every.value) }, (_, i) => i * every.value),
)

function press(e: PointerEvent): void {
  const el = ruler.value
  if (!el || e.button !== 0) return
  const box = el.getBoundingClientRect()
  const at = (m: PointerEvent): number => Math.max(0, (m.clientX - box.left) / props.perBeat)
  const start = at(e)
  let dragged = false
  const move = (m: PointerEvent): void => {
    if (Math.abs(at(m) - start) * props.perBeat < 4) return
    dragged = true
    const snap = (b: number): number => (m.shiftKey ? b : Math.round(b))
    const [from, to] = [snap(Math.min(start, at(m))), snap(Math.max(start, at(m)))]
    if (to - from >= 0.25) hand.edit('Loop', setLoop({ start: from, end: to, on: true }))
  }
  hand.drag(e, 'Set loop', move, () => {
    if (!dragged) void session.transport.goTo(start)
  })
}
</script>

<template>
  <div class="sticky top-0 z-20 flex h-7 border-b border-ink bg-sheet text-tiny text-second">
    <div class="sticky left-0 z-10 flex w-52.5 shrink-0 items-center border-r border-line bg-sheet pl-2">
      <span class="flex-1">Bars</span>
      <slot />
    </div>
    <div
      ref="ruler"
      class="relative flex-1 cursor-text touch-none"
      title="Drag to set the loop; Shift turns snap off. Click to move the playhead."
      @pointerdown="press"
    >
      <span
        v-for="b in bars"
        :key="b"
        class="absolute top-0 h-full border-l border-line pl-1 leading-7"
        :style="{ left: `${b * bar * perBeat}px` }"
        >{{ b % (perBeat * bar * every < 26 ? 4 * every : every) === 0 ? b + 1 : '' }}</span
      >
      <span
        v-if="doc.project"
        class="absolute bottom-0 h-1.25"
        :class="doc.project.loop.on ? 'bg-ink' : 'bg-line'"
        :style="{
          left: `${doc.project.loop.start * perBeat}px`,
          width: `${(doc.project.loop.end - doc.project.loop.start) * perBeat}px`,
        }"
      />
    </div>
  </div>
</template>
