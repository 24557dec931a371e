<script setup lang="ts">
import { type Pose, poseHeard, readPoses, spaced } from '@oleaje/core/effects/eq-poses'
import { together } from '@oleaje/core/project/edit'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import type { Effect } from '@oleaje/core/project/schema'
import { itemsOf } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import { percent } from '@oleaje/core/units/parameter'
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
const poses = computed(() => readPoses(props.effect.data?.poses))
const travel = computed(() => props.effect.params.travel ?? 0)
/**
 * The chosen pose is the one that is heard: where travel stands, or the nearer of the two that it stands
 * between.
 */
const chosen = computed(() => poseHeard(poses.value, travel.value))
const pose = computed(() => poses.value[chosen.value])
const isOn = computed(() => Math.abs((pose.value?.at ?? 0) - travel.value) < 1e-6)
const easeSpec = percent('ease', { min: -1, default: 0 })

useFrame(() => {
  if (head.value)
    head.value.style.transform = `translateX(${host.telemetry.get(`live:${props.effect.id}.travel`, travel.value) * 100}%)`
})

/** Keeps other poses, with travel on one of them where that is said. */
function keep(label: string, next: readonly Pose[], on?: number): void {
  const at = on === undefined ? undefined : next[on]?.at
  hand.edit(
    label,
    together(
      setData(props.effect.id, 'poses', next),
      ...(at === undefined ? [] : [setParam(props.effect.id, 'travel', at)]),
    ),
  )
}
function go(i: number): void {
  doc.edit('Go to pose', setParam(props.effect.id, 'travel', poses.value[i]?.at ?? 0))
}

/** The bands as their gauges stand, which is as they are heard. */
function heard(): Pose['bands'] {
  const owner = doc.project && findOwner(doc.project, props.effect.id)
  return (owner ? itemsOf(owner, 'bands') : []).map((b) => ({
    frequency: b.frequency ?? 1000,
    gain: b.gain ?? 0,
    q: b.q ?? 1,
  }))
}

/**
 * Keeps what is heard as a pose behind the chosen one. All poses make room for it, and it becomes the chosen
 * one.
 */
function take(): void {
  const at = poses.value.length === 0 ? 0 : chosen.value + 1
  const next = [...poses.value]
  next.splice(at, 0, { at: 0, ease: 0, bands: heard() })
  keep('Store pose', spaced(next), at)
}

function dice(): void {
  const p = pose.value
  if (!p) return
  const bands = p.bands.map((b) => ({
    frequency: Math.min(18_000, Math.max(40, b.frequency * 2 ** (Math.random() * 2 - 1))),
    gain: Math.round((Math.random() * 30 - 15) * 10) / 10,
    q: 0.6 * 8 ** Math.random(),
  }))
  keep(
    'Randomise pose',
    poses.value.map((x, i) => (i === chosen.value ? { ...x, bands } : x)),
    chosen.value,
  )
}

/** Changes places with the pose before or after. */
function swap(by: -1 | 1): void {
  const other = chosen.value + by
  const [a, b] = [pose.value, poses.value[other]]
  if (!a || !b) return
  keep(
    'Reorder the poses',
    poses.value.map((p, i) =>
      i === chosen.value ? { ...p, bands: b.bands } : i === other ? { ...p, bands: a.bands } : p,
    ),
    other,
  )
}

function remove(i: number): void {
  const next = spaced(poses.value.filter((_, k) => k !== i))
  keep('Remove the pose', next, next.length ? Math.min(i, next.length - 1) : undefined)
}

/** Moves a pose along the strip, between its neighbours; travel goes with the one that it stands on. */
function moveTo(i: number, at: number): void {
  const place = Math.min(poses.value[i + 1]?.at ?? 1, Math.max(poses.value[i - 1]?.at ?? 0, at))
  keep(
    'Move the pose',
    poses.value.map((p, k) => (k === i ? { ...p, at: place } : p)),
    i,
  )
}

function drag(e: PointerEvent, i: number): void {
  const el = strip.value
  if (!el) return
  const box = el.getBoundingClientRect()
  let moved = false
  hand.drag(
    e,
    'Move the pose',
    (m) => {
      moved ||= Math.abs(m.clientX - e.clientX) > 3
      if (moved) moveTo(i, (m.clientX - box.left) / box.width)
    },
    () => {
      if (!moved) go(i)
    },
  )
}

function keydown(e: KeyboardEvent, i: number): void {
  const p = poses.value[i]
  if (!p) return
  const by = { ArrowRight: 0.02, ArrowLeft: -0.02 }[e.key]
  if (by) moveTo(i, p.at + by)
  else if (e.key === 'Delete') remove(i)
  else if (e.key === 'Enter') go(i)
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <section class="mt-1 text-small" aria-label="Poses">
    <div class="flex flex-wrap items-center gap-1">
      <span class="water-name mr-1 text-large">Poses</span>
      <button
        class="small-button"
        title="Stores the current bands as a pose after the selected one"
        @click="take"
      >
        Store
      </button>
      <template v-if="pose">
        <button class="small-button" title="Randomises the selected pose" @click="dice">Randomise</button>
        <label title="Curve of the morph to this pose: below 0 early, above 0 late">
          ease
          <ValueField
            class="w-14.5"
            :spec="easeSpec"
            :value="pose.ease"
            @take="
              keep(
                'Set pose curve',
                poses.map((p, i) => (i === chosen ? { ...p, ease: $event } : p)),
              )
            "
          />
        </label>
        <button
          class="small-button"
          :disabled="chosen === 0"
          title="Moves the pose earlier"
          aria-label="Pose earlier"
          @click="swap(-1)"
        >
          ‹
        </button>
        <button
          class="small-button"
          :disabled="chosen === poses.length - 1"
          title="Moves the pose later"
          aria-label="Pose later"
          @click="swap(1)"
        >
          ›
        </button>
        <button class="small-button" title="Removes the pose (Delete)" @click="remove(chosen)">Remove</button>
        <span class="text-second" role="status">
          {{ isOn ? `gauges edit pose ${chosen + 1}` : `between poses; gauges edit pose ${chosen + 1}` }}
        </span>
      </template>
      <span v-else class="text-second"
        >Set the bands and store a pose, then set them again and store another. Travel morphs between
        them.</span
      >
    </div>
    <div v-if="poses.length" ref="strip" class="relative mx-2 mt-1 h-6 border-y border-line bg-shoal">
      <span ref="head" class="pointer-events-none absolute inset-0" aria-hidden="true"
        ><i class="absolute inset-y-0 left-0 w-0.5 bg-magenta"
      /></span>
      <button
        v-for="(p, i) in poses"
        :key="i"
        class="absolute top-0 h-full w-5 -translate-x-1/2 touch-none border text-tiny"
        :class="i === chosen ? 'border-ink bg-ink text-paper' : 'border-second bg-sheet'"
        :style="{ left: `${p.at * 100}%` }"
        :aria-label="`Pose ${i + 1} at ${Math.round(p.at * 100)} %`"
        :aria-pressed="i === chosen"
        title="Click to jump to this pose; drag or use the arrow keys to move it"
        @pointerdown="drag($event, i)"
        @keydown="keydown($event, i)"
      >
        {{ i + 1 }}
      </button>
    </div>
  </section>
</template>
