<script setup lang="ts">
import type { Project } from '@oleaje/core/project/schema'
import { impulseNames } from '@oleaje/core/dsp/impulses'
import { impulseShape } from '@oleaje/core/effects/convolver'
import { together } from '@oleaje/core/project/edit'
import { setData, setEffectSound } from '@oleaje/core/project/value-edits'
import { percent } from '@oleaje/core/units/parameter'
import { computed, ref, shallowRef, watch } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'

/**
 * The response as it is used: which one, trimmed, stretched, faded, Reversed; or a sound that is brought
 * in.
 */
const props = defineProps<{ id: string }>()
const session = useSession()
const { doc, host } = session
const live = useLive(props.id)
const shape = computed(() => impulseShape(live.effect.value?.data))
const peaks = shallowRef<Float32Array | null>(null)
const seconds = ref(0)
const PLACES = 600

watch(
  () => [shape.value, host.sound(shape.value.audio ?? '')] as const,
  async ([s, sound]) => {
    const rate = doc.project?.sampleRate ?? 48_000
    const found = await session.heavy.call.impulsePeaks(s, sound ? [...sound.channels] : null, rate, PLACES)
    if (s !== shape.value) return
    peaks.value = found.peaks
    seconds.value = found.seconds
  },
  { immediate: true },
)

const canvas = useCanvas(({ g, width, height, color }) => {
  const p = peaks.value
  g.strokeStyle = color('line')
  g.beginPath()
  g.moveTo(0, height / 2)
  g.lineTo(width, height / 2)
  g.stroke()
  if (!p) return
  const most = p.reduce((m, v) => Math.max(m, v), 1e-6)
  g.fillStyle = color('deep')
  for (let x = 0; x < width; x++) {
    // in decibels, so that a tail can be seen
    const db = 20 * Math.log10((p[Math.floor((x / width) * PLACES)] ?? 0) / most + 1e-5)
    const h = Math.max(0.5, ((db + 70) / 70) * (height / 2 - 4))
    g.fillRect(x, height / 2 - h, 1, 2 * h)
  }
  g.fillStyle = color('second')
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'right'
  g.textBaseline = 'bottom'
  g.fillText(`${seconds.value.toFixed(2)} s`, width - 2, height - 2)
})

const keep = (key: string, value: unknown): void =>
  doc.edit('Change the response', setData(props.id, key, value))

function choose(name: string): void {
  doc.edit('Choose a response', together(setEffectSound(props.id, null), setData(props.id, 'impulse', name)))
}

const fields = {
  start: percent('start', { max: 0.99, default: 0 }),
  end: percent('end', { min: 0.01, default: 1 }),
  stretch: percent('stretch', { min: 0.25, max: 4, default: 1 }),
  fade: percent('fade', { default: 0 }),
} as const
const responses = computed(() => [
  ...(shape.value.audio
    ? [{ value: 'own', text: doc.project?.audio[shape.value.audio]?.name ?? 'own file' }]
    : []),
  ...impulseNames.map((n) => ({ value: n, text: n })),
])

/** Works with a sound that was brought in. */
const take = (hash: string, about: Project['audio'][string]): void =>
  doc.edit(`Use ${about.name} as a response`, setEffectSound(props.id, hash, about))
</script>

<template>
  <div class="flex flex-col text-small">
    <div class="flex flex-wrap items-center gap-2 pb-1">
      <ChoiceField
        label="Response"
        :model-value="shape.audio ? 'own' : shape.name"
        :options="responses"
        @update:model-value="choose"
      />
      <SoundButton tip="Imports a sound file as impulse response" @taken="take" />
    </div>
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1 border border-line"
      role="img"
      aria-label="Impulse response over time, in decibels"
    />
    <div class="flex flex-wrap items-center gap-2 pt-1">
      <label v-for="(spec, key) in fields" :key="key"
        >{{ spec.name }}
        <ValueField class="w-14.5" :spec="spec" :value="shape[key]" @take="keep(key, $event)"
      /></label>
      <button
        class="small-button"
        :aria-pressed="shape.reverse"
        title="Reverses the impulse response"
        @click="keep('reverse', !shape.reverse)"
      >
        Reversed
      </button>
    </div>
  </div>
</template>
