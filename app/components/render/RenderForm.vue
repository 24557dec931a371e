<script setup lang="ts">
import { type DeliveryOrder, fileRates, nameWords } from '@oleaje/core/render/delivery'
import { levelKinds } from '@oleaje/core/render/level'
import { rangeKinds } from '@oleaje/core/render/ranges'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'
import type { RenderWish } from '../../services/rendering'

/** What is rendered, and how it is written. */
const props = defineProps<{
  order: DeliveryOrder
  whats: readonly { readonly value: RenderWish; readonly text: string }[]
  tracks: readonly { readonly value: string; readonly text: string }[]
}>()
const emit = defineEmits<{ change: [to: Partial<DeliveryOrder>] }>()
const what = defineModel<RenderWish>('what', { required: true })
const track = defineModel<string>('track', { required: true })
const { doc, rendering } = useSession()

/** One field of the order. */
const field = <K extends keyof DeliveryOrder>(key: K) =>
  computed<DeliveryOrder[K]>({
    get: () => props.order[key],
    set: (value) => emit('change', { [key]: value } as Partial<DeliveryOrder>),
  })
const range = computed({
  get: () => props.order.range,
  set: (kind) =>
    emit('change', {
      range: kind,
      beats: props.order.beats ?? [doc.project?.loop.start ?? 0, doc.project?.loop.end ?? 4],
      begin: kind === 'loop' ? 'fresh' : 'song',
    }),
})
const begin = field('begin')
const begins = [
  { value: 'song', text: 'as in the song' },
  { value: 'fresh', text: 'from silence' },
] as const
/** A tail in seconds is a field of its own. */
const tail = computed({
  get: () =>
    typeof props.order.tail === 'number' ? (props.order.tail === 0 ? 'none' : 'seconds') : props.order.tail,
  set: (kind) => emit('change', { tail: kind === 'none' ? 0 : kind === 'seconds' ? 2 : kind }),
})
const tails = [
  { value: 'auto', text: 'until silent' },
  { value: 'none', text: 'none' },
  { value: 'seconds', text: 'seconds' },
  { value: 'folded', text: 'folded into the start' },
] as const
const rate = field('rate')
const rates = computed(() => [
  { value: 0, text: `as the project, ${(doc.project?.sampleRate ?? 48_000) / 1000} kHz` },
  ...fileRates.map((value) => ({ value, text: `${value / 1000} kHz` })),
])
const format = computed({
  get: () => props.order.format,
  set: (kind) =>
    emit('change', {
      format: kind,
      depth: kind === 'flac' && props.order.depth === 32 ? 24 : props.order.depth,
    }),
})
const formats = [
  { value: 'wav', text: 'WAV' },
  { value: 'flac', text: 'FLAC' },
  { value: 'mp3', text: 'MP3, 320 kbit/s' },
] as const
const depth = field('depth')
const depths = computed(
  () =>
    [
      { value: 16, text: '16 bit, dithered' },
      { value: 24, text: '24 bit' },
      ...(props.order.format === 'wav' ? [{ value: 32, text: '32 bit float' } as const] : []),
    ] as const,
)
const kind = computed({
  get: () => props.order.level.kind,
  set: (value) => emit('change', { level: { ...props.order.level, kind: value } }),
})

const setBeat = (end: 0 | 1, value: number): void => {
  const beats: [number, number] = [...(props.order.beats ?? [0, 4])]
  beats[end] = value
  emit('change', { beats })
}
const example = computed(() => rendering.plan.value.files[0]?.name ?? '')
</script>

<template>
  <form
    class="grid auto-rows-min grid-cols-[92px_1fr] items-center gap-x-2 gap-y-2"
    aria-label="Order"
    @submit.prevent
  >
    <ChoiceRow v-model="what" text="What" :options="whats" />
    <ChoiceRow v-if="tracks.length" v-model="track" text="Of" label="Track" :options="tracks" />
    <ChoiceRow v-model="range" text="Range" :options="rangeKinds" />
    <template v-if="order.range === 'beats'">
      <span>Beats</span>
      <span class="flex items-center gap-1">
        <NumberField
          label="First beat"
          :value="order.beats?.[0] ?? 0"
          :min="0"
          :max="100_000"
          @change="setBeat(0, $event)"
        />
        to
        <NumberField
          label="Last beat"
          :value="order.beats?.[1] ?? 4"
          :min="0"
          :max="100_000"
          @change="setBeat(1, $event)"
        />
      </span>
    </template>
    <ChoiceRow v-model="begin" text="Begins" :options="begins" />
    <ChoiceRow v-model="tail" text="Tail" :options="tails" />
    <template v-if="tail === 'seconds'">
      <span>Tail length</span>
      <NumberField
        label="Tail in seconds"
        :value="Number(order.tail)"
        :min="0.001"
        :max="600"
        @change="emit('change', { tail: $event })"
      />
    </template>
    <ChoiceRow v-model="rate" text="Rate" label="Sample rate" :options="rates" />
    <ChoiceRow v-model="format" text="Format" :options="formats" />
    <ChoiceRow v-if="order.format !== 'mp3'" v-model="depth" text="Depth" :options="depths" />
    <ChoiceRow v-model="kind" text="Level" :options="levelKinds" />
    <template v-if="kind === 'loudness'">
      <span>Target</span>
      <NumberField
        label="Loudness target in LUFS"
        unit="LUFS"
        :value="order.level.loudness"
        :min="-60"
        :max="0"
        @change="emit('change', { level: { ...order.level, loudness: $event } })"
      />
    </template>
    <template v-if="kind !== 'as it is'">
      <span>Ceiling</span>
      <NumberField
        label="Ceiling in dBTP"
        unit="dBTP"
        :value="order.level.ceiling"
        :min="-24"
        :max="0"
        @change="emit('change', { level: { ...order.level, ceiling: $event } })"
      />
    </template>
    <span>Name</span>
    <TextField
      class="field"
      :value="order.name"
      aria-label="Name pattern"
      :title="`These words are replaced: ${nameWords.join(' ')}`"
      @change="emit('change', { name: ($event.target as HTMLInputElement).value })"
      @keydown.stop
    />
    <span />
    <p class="text-small break-words text-second">{{ example }}</p>
    <span />
    <p class="text-tiny text-second">
      <template v-if="what === 'stems'"> All stems together are the mix before its effects. </template>
      <template v-else-if="what === 'wet'">Every Wet of the effects is at 100 %.</template>
      <template v-else-if="what === 'difference'">
        What the effects change: the sound less the same without effects.
      </template>
    </p>
  </form>
</template>
