<script setup lang="ts">
import { setArpeggio } from '@oleaje/core/project/note-edits'
import { type Arpeggio, type Track, arpeggioOrders, arpeggioSchema } from '@oleaje/core/project/schema'
import { beats, number, percent, semitones } from '@oleaje/core/units/parameter'
import { computed } from 'vue'
import { Switch } from '../ui/parts/switch'
import { useSession } from '../../composables/useSession'

/** How a track plays held notes one after the other. */
const props = defineProps<{ track: Track }>()
const emit = defineEmits<{ keep: [] }>()
const { doc } = useSession()
const set = computed<Arpeggio>(() => props.track.arpeggio ?? arpeggioSchema.parse({ on: false }))
const orders = arpeggioOrders.map((value) => ({ value, text: value }))
const specs = {
  octaves: number('Octaves', { min: 1, max: 5, default: 1, glide: 0 }),
  step: beats('Step', { min: 1 / 64, max: 16, default: 0.25 }),
  gate: percent('Gate', { min: 0.02, max: 4, default: 0.8 }),
  swing: percent('Swing', { max: 0.75, default: 0 }),
  count: number('Steps per cycle', { min: 0, max: 16, default: 0, glide: 0 }),
  transpose: semitones('Step transposition', { min: -48, max: 48, default: 0 }),
  velocity: percent('Step velocity', { max: 2, default: 1 }),
} as const

function change(part: Partial<Arpeggio>): void {
  doc.edit(
    'Set the arpeggio',
    setArpeggio(props.track.id, {
      ...(JSON.parse(JSON.stringify(set.value)) as Arpeggio),
      on: true,
      ...part,
    }),
  )
}
const resize = (count: number): void =>
  change({
    steps: Array.from(
      { length: Math.round(count) },
      (_, i) => set.value.steps[i] ?? { transpose: 0, velocity: 1 },
    ),
  })
const setStep = (index: number, part: Partial<Arpeggio['steps'][number]>): void =>
  change({ steps: set.value.steps.map((s, i) => (i === index ? { ...s, ...part } : { ...s })) })
</script>

<template>
  <div class="flex flex-col gap-1.5 text-small">
    <div class="flex flex-wrap items-center gap-2">
      <Switch
        class="switch"
        :model-value="set.on"
        aria-label="Arpeggio"
        title="Plays held notes one after the other"
        @update:model-value="(on: boolean) => change({ on })"
      >
        <span class="switch-thumb" />
        <span class="ml-10.5">{{ set.on ? 'on' : 'off' }}</span>
      </Switch>
      <ChoiceField
        label="Order"
        :model-value="set.order"
        :options="orders"
        @update:model-value="change({ order: $event })"
      />
      <button
        class="small-button"
        :aria-pressed="set.hold"
        title="Holds the chord until the next one is played"
        @click="change({ hold: !set.hold })"
      >
        Hold
      </button>
    </div>
    <div class="grid grid-cols-4 gap-2">
      <label v-for="k in ['octaves', 'step', 'gate', 'swing'] as const" :key="k"
        >{{ specs[k].name
        }}<ValueField
          class="w-full"
          :spec="specs[k]"
          :value="set[k]"
          @take="change({ [k]: k === 'octaves' ? Math.round($event) : $event })"
      /></label>
    </div>
    <label class="flex items-center gap-2"
      >Steps per cycle <ValueField class="w-12" :spec="specs.count" :value="set.steps.length" @take="resize"
    /></label>
    <div
      v-if="set.steps.length"
      class="grid max-h-40 grid-cols-[auto_1fr_1fr] items-center gap-1 overflow-y-auto"
    >
      <span class="text-second">Step</span>
      <span class="text-second">Transpose</span>
      <span class="text-second">Velocity</span>
      <template v-for="(s, i) in set.steps" :key="i">
        <span class="text-second">{{ i + 1 }}</span>
        <ValueField
          :spec="{ ...specs.transpose, name: `Transposition of step ${i + 1}` }"
          :value="s.transpose"
          @take="setStep(i, { transpose: Math.round($event) })"
        />
        <ValueField
          :spec="{ ...specs.velocity, name: `Velocity of step ${i + 1}` }"
          :value="s.velocity"
          @take="setStep(i, { velocity: $event })"
        />
      </template>
    </div>
    <div class="flex gap-2">
      <button
        class="small-button"
        :disabled="!set.on"
        title="Replaces the held notes with the played ones, and turns the arpeggio off"
        @click="emit('keep')"
      >
        Keep as notes
      </button>
      <button class="small-button" @click="doc.edit('Remove the arpeggio', setArpeggio(track.id, null))">
        Remove
      </button>
    </div>
  </div>
</template>
