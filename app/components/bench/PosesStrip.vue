<script setup lang="ts">
import { type Pose, poseAt, readPoses } from '@oleaje/core/effects/eq-poses'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import type { Effect } from '@oleaje/core/project/schema'
import { itemsOf } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { computed, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'

/** The poses of an EQ along the strip that Travel goes: taken from what is heard, moved, eased, diced. */
const props = defineProps<{ effect: Effect }>()
const { doc, host } = useSession()
const hand = useGesture()
const strip = ref<HTMLElement | null>(null)
const head = ref<HTMLElement | null>(null)
const chosen = ref(0)
const poses = computed(() => readPoses(props.effect.data?.poses))
const pose = computed(() => poses.value[chosen.value])

useFrame(() => { if (head.value) head.value.style.transform = `translateX(${host.telemetry.get(`live:${props.effect.id}.travel`, props.effect.params.travel ?? 0) * 100}%)` })

const keep = (label: string, next: readonly Pose[]): void => hand.edit(label, setData(props.effect.id, 'poses', next))

/** The bands as they are heard now: between poses, or as their gauges stand. */
function heard(): Pose['bands'] {
  const owner = doc.project && findOwner(doc.project, props.effect.id)
  const items = owner ? itemsOf(owner, 'bands') : []
  const at = new Float64Array(3)
  const travel = props.effect.params.travel ?? 0
  return items.map((b, i) => (poses.value.length >= 2 && poseAt(poses.value, travel, i, at)
    ? { frequency: at[0] ?? 1000, gain: at[1] ?? 0, q: at[2] ?? 1 } : { frequency: b.frequency ?? 1000, gain: b.gain ?? 0, q: b.q ?? 1 }))
}

function take(): void {
  const bands = heard()
  const n = poses.value.length
  // the first stands at the start, the second at the end, the others where Travel is
  const at = n === 0 ? 0 : n === 1 ? 1 : props.effect.params.travel ?? 0
  keep('Take a pose', [...poses.value, { at, ease: 0, bands }])
  chosen.value = n
}

function dice(): void {
  const p = pose.value
  if (!p) return
  const bands = p.bands.map((b) => ({ frequency: Math.min(18_000, Math.max(40, b.frequency * 2 ** (Math.random() * 2 - 1))), gain: Math.round((Math.random() * 30 - 15) * 10) / 10, q: 0.6 * 8 ** Math.random() }))
  keep('Dice the pose', poses.value.map((x, i) => (i === chosen.value ? { ...x, bands } : x)))
}

/** Changes places with the pose before or after. */
function swap(by: -1 | 1): void {
  const other = chosen.value + by
  const [a, b] = [pose.value, poses.value[other]]
  if (!a || !b) return
  keep('Reorder the poses', poses.value.map((p, i) => (i === chosen.value ? { ...p, bands: b.bands } : i === other ? { ...p, bands: a.bands } : p)))
  chosen.value = other
}

function drag(e: PointerEvent, i: number): void {
  const el = strip.value
  if (!el) return
  chosen.value = i
  const box = el.getBoundingClientRect()
  const move = (m: PointerEvent): void => keep('Move', poses.value.map((p, k) => (k === i ? { ...p, at: Math.min(poses.value[i + 1]?.at ?? 1, Math.max(poses.value[i - 1]?.at ?? 0, (m.clientX - box.left) / box.width)) } : p)))
  hand.drag(e, 'Move the pose', move)
}

function keydown(e: KeyboardEvent, i: number): void {
  const p = poses.value[i]
  if (!p) return
  const by = { ArrowRight: 0.02, ArrowLeft: -0.02 }[e.key]
  if (by) keep('Move the pose', poses.value.map((x, k) => (k === i ? { ...x, at: Math.min(poses.value[i + 1]?.at ?? 1, Math.max(poses.value[i - 1]?.at ?? 0, p.at + by)) } : x)))
  else if (e.key === 'Delete') keep('Remove the pose', poses.value.filter((_, k) => k !== i))
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <section class="mt-2 text-[13px]" aria-label="Poses">
    <div class="flex flex-wrap items-center gap-1">
      <span class="water-name mr-1 text-[16px]">Poses</span>
      <button class="small-button" title="Keeps the bands as they are heard now" @click="take">Take</button>
      <template v-if="pose">
        <button class="small-button" title="This pose becomes what is heard now" @click="keep('Replace the pose', poses.map((p, i) => (i === chosen ? { ...p, bands: heard() } : p)))">Replace</button>
        <button class="small-button" title="Another pose at random in its place" @click="dice">Dice</button>
        <button class="small-button" title="Travels here" @click="doc.edit('Travel', setParam(effect.id, 'travel', pose.at))">Go</button>
        <label>ease <TextField class="field w-[58px]" type="number" min="-100" max="100" step="10" :value="Math.round(pose.ease * 100)" title="Of the way to it: below 0 early, above 0 late" @change="keep('Ease the way', poses.map((p, i) => (i === chosen ? { ...p, ease: Math.min(1, Math.max(-1, Number(($event.target as HTMLInputElement).value) / 100)) } : p)))" @keydown.stop /></label>
        <button class="small-button" :disabled="chosen === 0" title="Changes places with the pose before it" aria-label="Pose earlier" @click="swap(-1)">‹</button>
        <button class="small-button" :disabled="chosen === poses.length - 1" title="Changes places with the pose after it" aria-label="Pose later" @click="swap(1)">›</button>
        <button class="small-button" @click="keep('Remove the pose', poses.filter((_, i) => i !== chosen))">Remove</button>
      </template>
      <span v-else class="text-second">Set the bands, take a pose; set them anew, take another; then Travel goes between them.</span>
    </div>
    <div v-if="poses.length" ref="strip" class="relative mx-2 mt-1 h-[24px] border-y border-line bg-shoal">
      <span ref="head" class="pointer-events-none absolute inset-0 will-change-transform" aria-hidden="true"><i class="absolute inset-y-0 left-0 w-[2px] bg-magenta" /></span>
      <button v-for="(p, i) in poses" :key="i" class="absolute top-0 h-full w-[20px] -translate-x-1/2 touch-none border text-[12px]" :class="i === chosen ? 'border-ink bg-ink text-paper' : 'border-second bg-sheet'" :style="{ left: `${p.at * 100}%` }" :aria-label="`Pose ${i + 1} at ${Math.round(p.at * 100)} %`" title="Drag, or arrows; Delete removes" @pointerdown="drag($event, i)" @keydown="keydown($event, i)">{{ i + 1 }}</button>
    </div>
  </section>
</template>
