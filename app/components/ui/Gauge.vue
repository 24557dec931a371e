<script setup lang="ts">
import { setLinkEnds } from '@oleaje/core/project/motion-edits'
import { isStepped } from '@oleaje/core/units/parameter'
import { fromNormalized } from '@oleaje/core/units/scale'
import { formatValue } from '@oleaje/core/units/text'
import { computed, nextTick, ref } from 'vue'
import type { TimePair } from '@oleaje/core/contract/effect'
import { followPointer } from '../../composables/follow-pointer'
import { useFrame } from '../../composables/useFrame'
import { typeEnds } from '../../composables/useLink'
import { sentence } from '../../services/sentence'
import { pressGaugeKey } from '../../composables/gauge-keys'
import { useParam } from '../../composables/useParam'
import { hueOfFirst } from '../../composables/morphed'
import { useSession } from '../../composables/useSession'
import { useWheel } from '../../composables/wheel-steps'

/**
 * A parameter as a tide gauge: the base as a dark mark, the range of each link as a band with two marks, the
 * live value as a dot. All three can be seen while it moves, and the first two dragged, stepped and typed.
 */
const props = defineProps<{ owner: string; param: string; name?: string; pair?: TimePair }>()
const emit = defineEmits<{ ask: []; link: [id: string] }>()

const session = useSession()
const { doc, selection } = session
const p = useParam(
  () => props.owner,
  () => props.param,
  () => props.pair,
)
const staff = ref<HTMLElement | null>(null)
const slider = ref<HTMLElement | null>(null)
const dot = ref<HTMLElement | null>(null)
const field = ref<HTMLInputElement | null>(null)
const typing = ref(false)
const typed = ref('')
const wrong = ref('')
/** Range being drawn for the modulator in hand. */
const drawn = ref<{ from: number; to: number } | null>(null)

const lit = computed(() => {
  const { pointed } = selection
  return (
    !!pointed &&
    (pointed.target === p.key.value || p.links.value.some((l) => l.link.source === pointed.modulator))
  )
})
const isMarked = computed(() => selection.marked.includes(p.key.value))
const handHue = computed(() => {
  const id = selection.inHand ?? selection.carried
  return doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)?.hue ?? 0
})
const tip = computed(
  () =>
    `${p.spec.value?.tip ?? ''}. Drag to set, Shift for fine. Enter types, M links, W records a ride, I assigns a controller, Backspace resets to ${p.spec.value ? formatValue(p.spec.value, p.spec.value.default) : ''}.`,
)

useFrame(() => {
  // a share of its own width, which is the staff's: asking for widths would cause a layout for every
  // gauge
  if (dot.value) dot.value.style.transform = `translateX(${p.liveNormalized() * 100}%)`
})

const placeAt = (e: PointerEvent): number => {
  const box = staff.value?.getBoundingClientRect()
  return box ? Math.min(1, Math.max(0, (e.clientX - box.left) / box.width)) : 0
}

function press(e: PointerEvent): void {
  if (e.button !== 0) return
  const start = placeAt(e)
  if (selection.repointing) return p.repoint()
  if (selection.inHand) {
    const hand = selection.inHand
    drawn.value = { from: start, to: start }
    followPointer(
      e,
      (m) => {
        drawn.value = { from: start, to: placeAt(m) }
      },
      (u) => {
        drawn.value = null
        const end = u instanceof PointerEvent ? placeAt(u) : start
        if (Math.abs(end - start) < 0.01) p.link(hand)
        else p.link(hand, { from: start, to: end })
      },
    )
    return
  }
  if (e.shiftKey) {
    // Shift and a click marks; Shift and a drag is fine setting
    let at = p.place.value
    let last = e.clientX
    let moved = false
    p.hand.drag(
      e,
      `Set ${p.label.value.toLowerCase()}`,
      (m) => {
        if (Math.abs(m.clientX - last) > 1) moved = true
        at += (m.clientX - last) / (staff.value?.clientWidth ?? 200) / 10
        last = m.clientX
        if (moved) p.setAt(at)
      },
      () => {
        if (!moved) mark()
      },
    )
    return
  }
  p.hand.drag(e, `Set ${p.where.value} ${p.label.value.toLowerCase()}`, (m) => {
    p.setAt(m.shiftKey ? p.place.value + m.movementX / (staff.value?.clientWidth ?? 200) / 10 : placeAt(m))
  })
  p.setAt(start)
}

/** Drags the base value by its mark, from where it stands: also where the end of a range lies over it. */
function pressBase(e: PointerEvent): void {
  if (e.button !== 0 || selection.inHand || selection.repointing) return
  e.stopPropagation()
  slider.value?.focus()
  const [from, x] = [p.place.value, e.clientX]
  p.hand.drag(e, `Set ${p.where.value} ${p.label.value.toLowerCase()}`, (m) => {
    p.setAt(from + (m.clientX - x) / (staff.value?.clientWidth ?? 200) / (m.shiftKey ? 10 : 1))
  })
}

/** Marks the gauge, so that it is linked together with others. */
function mark(): void {
  selection.marked = isMarked.value
    ? selection.marked.filter((k) => k !== p.key.value)
    : [...selection.marked, p.key.value]
}

/** Drags one end of a link's range. */
function pressEnd(e: PointerEvent, id: string, which: 'from' | 'to'): void {
  if (selection.inHand || e.button !== 0) return
  e.stopPropagation()
  p.hand.drag(e, `Set range of ${p.label.value.toLowerCase()}`, (m) => moveEnd(id, which, placeAt(m)))
}

function moveEnd(id: string, which: 'from' | 'to', to: number): void {
  const known = p.links.value.find((l) => l.link.id === id)
  if (known)
    p.hand.edit(
      `Set range of ${p.label.value.toLowerCase()}`,
      setLinkEnds(id, which === 'from' ? to : known.ends.from, which === 'to' ? to : known.ends.to),
    )
}

function endKey(e: KeyboardEvent, id: string, which: 'from' | 'to', now: number): void {
  const by = {
    ArrowRight: 0.01,
    ArrowUp: 0.01,
    ArrowLeft: -0.01,
    ArrowDown: -0.01,
    PageUp: 0.1,
    PageDown: -0.1,
  }[e.key]
  if (by !== undefined) moveEnd(id, which, Math.min(1, Math.max(0, now + by * (e.shiftKey ? 0.1 : 1))))
  else if (e.key === 'Home') moveEnd(id, which, 0)
  else if (e.key === 'End') moveEnd(id, which, 1)
  else if (e.key === 'Enter') typeEnd(id, which, now)
  else return
  e.preventDefault()
  e.stopPropagation()
}

function release(): void {
  const id = selection.carried
  if (!id) return
  selection.carried = null
  p.link(id)
}

const wheel = useWheel((by) => p.step(by))

function keydown(e: KeyboardEvent): void {
  if (e.ctrlKey || e.metaKey || e.altKey) return
  const s = p.spec.value
  if (!s) return
  const fine = e.shiftKey && !isStepped(s) && s.unit !== 'beats'
  const finely = fine
    ? { ArrowRight: 0.001, ArrowUp: 0.001, ArrowLeft: -0.001, ArrowDown: -0.001 }[e.key]
    : undefined
  if (finely) p.setAt(p.place.value + finely)
  else if (e.key === 'PageUp') p.step(1, true)
  else if (e.key === 'PageDown') p.step(-1, true)
  else if (e.key === ' ' && e.shiftKey) mark()
  else if (!pressGaugeKey(e.key, p, selection, { type: startTyping, ask: () => emit('ask') })) return
  e.preventDefault()
  e.stopPropagation()
}

/** The end of a link's range that is being typed; none for the base. */
const typedEnd = ref<{ id: string; which: 'from' | 'to' } | null>(null)
function typeEnd(id: string, which: 'from' | 'to', now: number): void {
  typedEnd.value = { id, which }
  void startTyping(endText(now))
}

async function startTyping(text?: string): Promise<void> {
  if (typing.value) return
  // what the first click of a double click has set is taken back
  p.hand.cancel()
  typed.value = text ?? p.text.value
  wrong.value = ''
  typing.value = true
  await nextTick()
  field.value?.select()
}

/**
 * Takes what was typed. What makes no sense stays to be seen, with its sentence, until it is put right or
 * taken back.
 */
function take(goesOn = true): void {
  if (!typing.value) return
  wrong.value = (typedEnd.value ? takeEnd(typedEnd.value) : p.type(typed.value)) ?? ''
  if (!wrong.value) leaveTyping(goesOn)
}

/** Takes the text for an end of a range; gives the sentence where it makes no sense. */
function takeEnd({ id, which }: { id: string; which: 'from' | 'to' }): string | undefined {
  try {
    typeEnds(session, [id], which, typed.value)
    return undefined
  } catch (error) {
    return sentence(error)
  }
}

function leaveTyping(goesOn = true): void {
  if (!typing.value) return
  typing.value = false
  typedEnd.value = null
  wrong.value = ''
  if (goesOn) void nextTick(() => slider.value?.focus())
}

/** Hue of the first that moves it; null where nothing does. */
const movedBy = computed(() => hueOfFirst(p.links.value, p.morphs.value))
/** Where a range lies along the staff, in the colour of its modulator. */
const bandOf = ({ from, to }: { from: number; to: number }, hue: number): Record<string, string> => ({
  left: `${Math.min(from, to) * 100}%`,
  width: `${Math.abs(to - from) * 100}%`,
  background: `var(--hue-${hue})`,
})
/** Where the range of one of several links lies: the bands stack thinly. */
const stacked = (i: number, isOn: boolean): Record<string, string | number> => {
  const n = p.links.value.length
  return { top: `${8 + (i * 9) / n}px`, height: `${9 / n}px`, opacity: isOn ? 0.4 : 0.12 }
}

const endText = (at: number): string =>
  p.spec.value ? formatValue(p.spec.value, fromNormalized(p.spec.value, at)) : ''
</script>

<template>
  <div
    v-if="p.spec.value"
    class="grid items-center gap-x-2"
    style="grid-template-columns: 88px minmax(60px, 1fr) 78px auto"
    :class="{ 'bg-shoal': isMarked }"
    @pointerenter="selection.pointed = { target: p.key.value }"
    @pointerleave="selection.pointed = null"
  >
    <span class="line-clamp-2 leading-tight" :class="lit ? 'text-magenta' : ''" @click="slider?.focus()">{{
      name ?? p.label.value
    }}</span>
    <div ref="staff" class="relative h-6.5 touch-none select-none" @pointerup="release">
      <div
        class="absolute inset-x-0 top-2 h-2.25 border border-water bg-shoal"
        :class="{
          'outline-2 outline-magenta outline-dashed':
            selection.inHand || selection.carried || selection.repointing,
        }"
      />
      <div
        class="absolute top-2 left-0 h-2.25 bg-deep"
        :style="{ width: `${p.place.value * 100}%`, opacity: movedBy === null ? 1 : 0.25 }"
      />
      <div
        class="absolute inset-x-0 top-4.25 h-1.25"
        style="background: repeating-linear-gradient(90deg, var(--line) 0 1px, transparent 1px 5%)"
      />
      <div
        ref="slider"
        class="absolute inset-0 z-10"
        :class="selection.inHand || selection.carried ? 'cursor-crosshair' : 'cursor-ew-resize'"
        role="slider"
        tabindex="0"
        :aria-label="`${name ?? p.label.value}, ${p.where.value}`"
        :aria-valuemin="0"
        :aria-valuemax="100"
        :aria-valuenow="Math.round(p.place.value * 100)"
        :aria-valuetext="p.text.value"
        :title="tip"
        :data-gauge="p.key.value"
        @pointerdown="press"
        @wheel="wheel"
        @dblclick="startTyping()"
        @keydown="keydown"
      />
      <div
        v-for="{ modulator, ends } in p.morphs.value"
        :key="modulator.id"
        class="absolute top-2.5 h-1.25 opacity-50"
        :style="bandOf(ends, modulator.hue)"
      />
      <template v-for="(l, i) in p.links.value" :key="l.link.id">
        <div class="absolute" :style="[bandOf(l.ends, l.modulator?.hue ?? 0), stacked(i, l.link.on)]" />
        <span
          v-for="which in ['from', 'to'] as const"
          :key="which"
          class="absolute top-1 z-20 h-4.25 w-2.25 -translate-x-1/2 cursor-col-resize touch-none"
          role="slider"
          tabindex="0"
          :aria-label="`${which === 'from' ? 'Minimum' : 'Maximum'} of ${l.modulator?.name ?? ''} on ${p.label.value}`"
          :aria-valuemin="0"
          :aria-valuemax="100"
          :aria-valuenow="Math.round(l.ends[which] * 100)"
          :aria-valuetext="endText(l.ends[which])"
          :title="`${l.modulator?.name ?? ''}: ${which === 'from' ? 'minimum' : 'maximum'} ${endText(l.ends[which])}`"
          :style="{ left: `${l.ends[which] * 100}%` }"
          @pointerdown="pressEnd($event, l.link.id, which)"
          @dblclick.stop="typeEnd(l.link.id, which, l.ends[which])"
          @keydown="endKey($event, l.link.id, which, l.ends[which])"
          ><i
            class="mx-auto block h-full w-0.5"
            :style="{ background: `var(--hue-${l.modulator?.hue ?? 0})` }"
        /></span>
      </template>
      <div v-if="drawn" class="absolute top-1.5 h-3.25 opacity-60" :style="bandOf(drawn, handHue)" />
      <div
        class="pointer-events-none absolute top-0.5 h-5 w-0.5 -translate-x-1/2 bg-ink"
        :style="{ left: `${p.place.value * 100}%` }"
      >
        <i
          class="absolute -top-px left-1/2 block -translate-x-1/2 border-x-4 border-t-5 border-x-transparent border-t-ink"
        />
      </div>
      <span
        v-if="p.links.value.length"
        class="absolute top-0 z-30 h-2.25 w-3.25 -translate-x-1/2 cursor-ew-resize touch-none"
        title="Drags the base value"
        :style="{ left: `${p.place.value * 100}%` }"
        @pointerdown="pressBase"
      />
      <!-- the layer of the dot moves by its own width, which must not make the panel wider -->
      <div
        v-if="movedBy !== null"
        class="pointer-events-none absolute -inset-x-1.5 top-2 h-2.5 overflow-hidden"
      >
        <div ref="dot" class="absolute inset-x-1.5 inset-y-0">
          <i
            class="absolute -left-1.25 block h-2.5 w-2.5 rounded-full border border-sheet"
            :style="{ background: `var(--hue-${movedBy})` }"
          />
        </div>
      </div>
    </div>
    <div class="relative text-right">
      <input
        v-if="typing"
        ref="field"
        v-model="typed"
        class="field w-full text-right"
        :aria-label="
          typedEnd
            ? `${typedEnd.which === 'from' ? 'Minimum' : 'Maximum'} of ${p.label.value}`
            : `Value of ${p.label.value}`
        "
        :aria-invalid="wrong !== ''"
        @keydown.enter.stop.prevent="take()"
        @keydown.esc.stop="leaveTyping()"
        @keydown.stop
        @blur="take(false)"
      />
      <button
        v-else
        class="w-full truncate text-right font-semibold"
        :title="`Type a value for ${p.label.value}`"
        tabindex="-1"
        @click="startTyping()"
      >
        {{ p.text.value }}
      </button>
      <p
        v-if="wrong"
        role="alert"
        class="absolute right-0 top-full z-20 w-56 border border-magenta bg-sheet p-1 text-left text-tiny"
      >
        {{ wrong }}
      </p>
    </div>
    <span class="flex min-w-6 items-center gap-0.5">
      <button
        v-if="pair"
        class="small-button min-w-7.5"
        :title="
          p.otherOf()?.isSynced
            ? 'Note length. Click for Hz or seconds.'
            : 'Hz or seconds. Click for a note length.'
        "
        :aria-label="`${p.label.value} ${p.otherOf()?.isSynced ? 'in its own unit' : 'as a note length'}`"
        @click="p.swapPair()"
      >
        {{ p.otherOf()?.isSynced ? '♩' : p.spec.value.unit === 'hertz' ? 'Hz' : 's' }}
      </button>
      <MomentaryButton v-if="p.spec.value.momentary" :owner="owner" :param="param" />
      <LinkBadges :links="p.links.value" :text-of="endText" @ask="emit('link', $event)" />
      <MorphBadges :morphs="p.morphs.value" :text-of="endText" />
      <LockMark :of="p.key.value" :name="p.label.value" />
    </span>
  </div>
</template>
