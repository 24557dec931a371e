<script setup lang="ts">
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from './parts/listbox'
import { RadioGroup, RadioGroupOption } from './parts/radio-group'
import { Switch } from './parts/switch'
import { ChevronDown } from '@lucide/vue'
import { formatValue } from '@oleaje/core/units/text'
import { computed, nextTick, ref } from 'vue'
import { useFrame } from '../../composables/useFrame'
import { pressGaugeKey } from '../../composables/gauge-keys'
import { useParam } from '../../composables/useParam'
import { hueOfFirst } from '../../composables/morphed'
import { useSession } from '../../composables/useSession'

/**
 * A choice or a switch, with the powers of a gauge: a row of segments for up to five short words, a list for
 * more, a switch for on and off. Arrows step, Enter types, M links, Backspace goes to the default; a mark
 * says where it stands while something moves it.
 */
const props = defineProps<{ owner: string; param: string; name?: string }>()
const emit = defineEmits<{ ask: []; link: [id: string] }>()
const { selection } = useSession()
const p = useParam(
  () => props.owner,
  () => props.param,
)
const root = ref<HTMLElement | null>(null)
const mark = ref<HTMLElement | null>(null)
const typing = ref(false)

/** Letters that a row of segments has room for. */
const ROOM = 24
const choices = computed(() => p.spec.value?.choices ?? ['off', 'on'])
const form = computed(() =>
  p.spec.value?.unit === 'toggle'
    ? 'switch'
    : choices.value.length <= 5 && choices.value.join('').length <= ROOM
      ? 'segments'
      : 'list',
)
const at = computed(() => Math.round(p.value.value))
const label = computed(() => `${props.name ?? p.label.value}, ${p.where.value}`)
const tip = computed(
  () =>
    `${p.spec.value?.tip ?? ''}. Arrow keys step, Enter types, M links, Backspace resets to ${p.spec.value ? formatValue(p.spec.value, p.spec.value.default) : ''}.`,
)
const movedBy = computed(() => hueOfFirst(p.links.value, p.morphs.value))
const isMoved = computed(() => movedBy.value !== null)

useFrame(() => {
  if (!mark.value) return
  const live = Math.round(p.liveValue())
  if (form.value === 'segments') mark.value.style.transform = `translateX(${live * 100}%)`
  else mark.value.textContent = choices.value[live] ?? ''
})

const endText = (place: number): string => choices.value[Math.round(place * (choices.value.length - 1))] ?? ''

/** With a modulator in hand, a press says where its lowest is and the release where its highest is. */
function press(e: PointerEvent): void {
  if (!selection.inHand && !selection.repointing) return
  e.preventDefault()
  e.stopPropagation()
  if (selection.repointing) return p.repoint()
  const hand = selection.inHand ?? ''
  const start = segmentAt(e)
  addEventListener(
    'pointerup',
    (u: PointerEvent) => {
      const end = segmentAt(u)
      const last = choices.value.length - 1
      if (start === end) p.link(hand)
      else p.link(hand, { from: start / last, to: end / last })
    },
    { once: true },
  )
}
function segmentAt(e: PointerEvent): number {
  const box = root.value?.getBoundingClientRect()
  return box
    ? Math.min(
        choices.value.length - 1,
        Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * choices.value.length)),
      )
    : 0
}

function release(): void {
  const id = selection.carried
  if (!id) return
  selection.carried = null
  p.link(id)
}

function keydown(e: KeyboardEvent): void {
  if (e.ctrlKey || e.metaKey || e.altKey || typing.value) return
  // an open list goes its own way
  if (form.value === 'list' && root.value?.querySelector('[aria-expanded=true]')) return
  if (!pressGaugeKey(e.key, p, selection, { type: startTyping, ask: () => emit('ask') })) return
  e.preventDefault()
  e.stopPropagation()
  void nextTick(() => root.value?.querySelector<HTMLElement>('[tabindex="0"], button')?.focus())
}

async function startTyping(): Promise<void> {
  typing.value = true
  await nextTick()
  root.value?.querySelector('input')?.focus()
}

function take(text: string): void {
  const wrong = p.type(text)
  if (wrong) throw new Error(wrong)
}

async function done(): Promise<void> {
  typing.value = false
  await nextTick()
  root.value?.querySelector<HTMLElement>('[tabindex="0"], button')?.focus()
}
</script>

<template>
  <div
    v-if="p.spec.value"
    class="choice-gauge grid items-center gap-x-2"
    @pointerenter="selection.pointed = { target: p.key.value }"
    @pointerleave="selection.pointed = null"
  >
    <span class="line-clamp-2 leading-tight" :title="p.spec.value.tip">{{ name ?? p.label.value }}</span>
    <div
      ref="root"
      class="relative flex min-h-6.5 items-center"
      :class="{
        'outline-2 outline-magenta outline-dashed':
          selection.inHand || selection.carried || selection.repointing,
      }"
      :data-gauge="p.key.value"
      :title="tip"
      @keydown.capture="keydown"
      @pointerdown.capture="press"
      @pointerup="release"
    >
      <TypedField
        v-if="typing"
        class="w-full"
        :value="p.text.value"
        :label="`Value of ${p.label.value}`"
        :take="take"
        @done="done"
        @keydown.esc.stop="done"
      />
      <Switch
        v-else-if="form === 'switch'"
        :model-value="at === 1"
        class="switch"
        :aria-label="label"
        @update:model-value="(on: boolean) => p.set(on ? 1 : 0)"
      >
        <span class="switch-thumb" />
        <span class="ml-10.5 text-small">{{ at === 1 ? 'on' : 'off' }}</span>
      </Switch>
      <RadioGroup
        v-else-if="form === 'segments'"
        :model-value="at"
        class="flex w-full"
        :aria-label="label"
        @update:model-value="(v: number) => p.set(v)"
      >
        <RadioGroupOption
          v-for="(text, i) in choices"
          :key="text"
          v-slot="{ checked }"
          as="template"
          :value="i"
        >
          <button type="button" class="segment" :class="checked ? 'bg-ink text-paper' : 'bg-sheet'">
            <ChoiceDrawing :of="text" />
            <span class="truncate">{{ text }}</span>
          </button>
        </RadioGroupOption>
        <i
          v-if="isMoved"
          ref="mark"
          class="mark"
          :style="{
            width: `${100 / choices.length}%`,
            background: `var(--hue-${movedBy})`,
          }"
        />
      </RadioGroup>
      <Listbox
        v-else
        as="div"
        class="relative w-full"
        :model-value="at"
        @update:model-value="(v: number) => p.set(v)"
      >
        <ListboxButton
          class="field flex w-full items-center gap-1 text-left"
          :aria-label="`${label}: ${p.text.value}`"
        >
          <ChoiceDrawing :of="p.text.value" />
          <span class="min-w-0 flex-1 truncate font-semibold">{{ p.text.value }}</span>
          <ChevronDown :size="12" aria-hidden="true" />
        </ListboxButton>
        <ListboxOptions class="list-options left-0">
          <ListboxOption
            v-for="(text, i) in choices"
            :key="text"
            v-slot="{ active, selected }"
            :value="i"
            as="template"
          >
            <li
              class="flex cursor-default items-center gap-2 px-2 py-0.5 whitespace-nowrap"
              :class="[active ? 'bg-water' : '', selected ? 'font-semibold' : '']"
            >
              <ChoiceDrawing :of="text" />
              {{ text }}
            </li>
          </ListboxOption>
        </ListboxOptions>
      </Listbox>
      <span v-if="isMoved && form !== 'segments'" class="ml-2 text-tiny whitespace-nowrap text-second">
        now <b ref="mark" class="text-ink" />
      </span>
    </div>
    <span class="flex min-w-6 gap-0.5">
      <MomentaryButton v-if="p.spec.value.momentary" :owner="owner" :param="param" />
      <LinkBadges :links="p.links.value" :text-of="endText" @ask="emit('link', $event)" />
      <MorphBadges :morphs="p.morphs.value" :text-of="endText" />
      <LockMark :of="p.key.value" :name="p.label.value" />
    </span>
  </div>
</template>

<style scoped>
.choice-gauge {
  grid-template-columns: 88px minmax(60px, 1fr) auto;
}
.mark {
  position: absolute;
  bottom: -2px;
  left: 0;
  height: 3px;
  pointer-events: none;
}
</style>
