<script setup lang="ts">
import { ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useParam } from '../../composables/useParam'

/** A macro: the tide gauge standing up. */
const props = defineProps<{ owner: string, name: string, hue: number }>()
const p = useParam(() => props.owner, 'value')
const staff = ref<HTMLElement | null>(null)
const water = ref<HTMLElement | null>(null)
useFrame(() => { if (water.value) water.value.style.transform = `scaleY(${p.liveNormalized()})` })

function press(e: PointerEvent): void {
  const el = staff.value
  if (!el || e.button !== 0) return
  const at = (m: PointerEvent): number => {
    const box = el.getBoundingClientRect()
    return (box.bottom - m.clientY) / box.height
  }
  const move = (m: PointerEvent): void => p.setAt(m.shiftKey ? p.place.value - m.movementY / 600 : at(m))
  p.hand.drag(e, `Move ${props.name}`, move)
  if (!e.shiftKey) p.setAt(at(e))
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
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div
    ref="staff" class="relative h-[62px] w-[34px] cursor-ns-resize touch-none" role="slider" tabindex="0" aria-orientation="vertical" :aria-label="`Macro ${name}`" aria-valuemin="0" aria-valuemax="100"
    :aria-valuenow="Math.round(p.place.value * 100)" :aria-valuetext="p.text.value" :title="`${name}: ${p.text.value}`" :data-gauge="p.key.value" @pointerdown="press" @wheel.prevent="p.step($event.deltaY < 0 ? 1 : -1)" @keydown="keydown"
  >
    <div class="absolute inset-y-0 left-[6px] w-[15px] border border-water bg-shoal"><div ref="water" class="absolute inset-0 origin-bottom scale-y-0 bg-deep will-change-transform" /></div>
    <div class="absolute inset-y-0 left-[21px] w-[6px]" style="background: repeating-linear-gradient(0deg, var(--line) 0 1px, transparent 1px 10%)" />
    <div class="pointer-events-none absolute left-0 h-[2px] w-[30px] translate-y-1/2 bg-ink" :style="{ bottom: `${p.place.value * 100}%` }" />
  </div>
</template>
