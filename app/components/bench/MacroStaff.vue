<script setup lang="ts">
import { ref } from 'vue'
import { focusWhenShown } from '../../focus/focus-when-shown'
import { useFrame } from '../../composables/useFrame'
import { useParam } from '../../composables/useParam'
import { useSession } from '../../composables/useSession'
import { useWheel } from '../../composables/wheel-steps'

/**
 * A macro: the tide gauge standing up, with all that a gauge can: it is set, typed, linked, ridden and
 * steered by a device.
 */
const props = defineProps<{ owner: string; name: string; hue: number }>()
const emit = defineEmits<{ ask: [] }>()
const { selection } = useSession()
const p = useParam(() => props.owner, 'value')
const staff = ref<HTMLElement | null>(null)
const water = ref<HTMLElement | null>(null)
const typing = ref(false)
useFrame(() => {
  if (water.value) water.value.style.transform = `scaleY(${p.liveNormalized()})`
})
const wheel = useWheel((by) => p.step(by))

function press(e: PointerEvent): void {
  const el = staff.value
  if (!el || e.button !== 0) return
  const at = (m: PointerEvent): number => {
    const box = el.getBoundingClientRect()
    return Math.min(1, Math.max(0, (box.bottom - m.clientY) / box.height))
  }
  if (selection.repointing) return p.repoint()
  if (selection.inHand && selection.inHand !== props.owner) {
    const hand = selection.inHand
    const start = at(e)
    addEventListener(
      'pointerup',
      (u: PointerEvent) => {
        if (Math.abs(at(u) - start) < 0.02) p.link(hand)
        else p.link(hand, { from: start, to: at(u) })
      },
      { once: true },
    )
    return
  }
  p.hand.drag(e, `Move ${props.name}`, (m) => p.setAt(m.shiftKey ? p.place.value - m.movementY / 600 : at(m)))
  if (!e.shiftKey) p.setAt(at(e))
}

/** The range of a link beside the staff. */
const rangeBox = (
  { from, to }: { from: number; to: number },
  hue: number,
  k: number,
): Record<string, string> => ({
  left: `${29 + 5 * k}px`,
  bottom: `${Math.min(from, to) * 100}%`,
  height: `${Math.max(0.03, Math.abs(to - from)) * 100}%`,
  background: `var(--hue-${hue})`,
})

function startTyping(): void {
  p.hand.cancel()
  typing.value = true
  void focusWhenShown(() => staff.value?.parentElement?.querySelector('input'))
}
function take(text: string): void {
  const wrong = p.type(text)
  if (wrong) throw new Error(wrong)
}
function done(): void {
  typing.value = false
  void focusWhenShown(() => staff.value)
}

function keydown(e: KeyboardEvent): void {
  if (e.ctrlKey || e.metaKey) return
  const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key]
  if (by) e.shiftKey ? p.setAt(p.place.value + by * 0.001) : p.step(by)
  else if (e.key === 'PageUp') p.step(1, true)
  else if (e.key === 'PageDown') p.step(-1, true)
  else if (e.key === 'Home') p.setAt(0)
  else if (e.key === 'End') p.setAt(1)
  else if (e.key === 'Backspace') p.reset()
  else if (e.key === 'Enter')
    selection.repointing
      ? p.repoint()
      : selection.inHand && selection.inHand !== props.owner
        ? p.link(selection.inHand)
        : startTyping()
  else if (e.key === 'm' || e.key === 'M') emit('ask')
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="relative">
    <div
      ref="staff"
      class="relative h-15.5 w-10 cursor-ns-resize touch-none"
      :class="{
        'outline-2 outline-magenta outline-dashed':
          (selection.inHand && selection.inHand !== owner) || selection.repointing,
      }"
      role="slider"
      tabindex="0"
      aria-orientation="vertical"
      :aria-label="`Macro ${name}`"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-valuenow="Math.round(p.place.value * 100)"
      :aria-valuetext="p.text.value"
      :title="`${name}: ${p.text.value}. Drag to set. Enter types, M links, W records a ride, I assigns a controller, Delete removes.`"
      :data-gauge="p.key.value"
      @pointerdown="press"
      @wheel="wheel"
      @dblclick="startTyping"
      @keydown="keydown"
    >
      <div class="absolute inset-y-0 left-1.5 w-3.75 border border-water bg-shoal">
        <div ref="water" class="absolute inset-0 origin-bottom scale-y-0 bg-deep" />
      </div>
      <div class="ticks absolute inset-y-0 left-5.25 w-1.5" />
      <i
        v-for="(l, k) in p.links.value"
        :key="l.link.id"
        class="absolute w-1"
        :style="rangeBox(l.ends, l.modulator?.hue ?? 0, k)"
        :title="`Moved by ${l.modulator?.name ?? ''}`"
      />
      <div
        class="pointer-events-none absolute left-0 h-0.5 w-7.5 translate-y-1/2 bg-ink"
        :style="{ bottom: `${p.place.value * 100}%` }"
      />
    </div>
    <TypedField
      v-if="typing"
      class="absolute top-4 left-0 z-20 w-15.5"
      :value="p.text.value"
      :label="`Value of ${name}`"
      :take="take"
      @done="done"
      @keydown.esc.stop="done"
      @focusout="typing = false"
    />
  </div>
</template>

<style scoped>
.ticks {
  background: repeating-linear-gradient(0deg, var(--line) 0 1px, transparent 1px 10%);
}
</style>
