<script setup lang="ts">
import { heldSounds } from '../../composables/held-sounds'
import type { Project } from '@oleaje/core/project/schema'
import { GRAIN_BUFFER } from '@oleaje/core/effects/grains'
import { together } from '@oleaje/core/project/edit'
import { setEffectSound, setParam } from '@oleaje/core/project/value-edits'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'
import { LevelTrail } from './level-trail'
import { line } from './profile'

/**
 * The wave that was, and above it the cloud: each grain where it reads, as long as it is, as high as its
 * pitch. Drag across for the place, up and down for its scatter.
 */
const props = defineProps<{ id: string }>()
const session = useSession()
const { doc, host } = session
const hand = useGesture()
const live = useLive(props.id)
const trail = new LevelTrail(GRAIN_BUFFER, 300)
let width = 1
const hash = computed(() =>
  typeof live.effect.value?.data?.audio === 'string' ? live.effect.value.data.audio : null,
)
// grains are of all of a sound at once, so long ones are none of them
const sounds = computed(() => heldSounds(doc.project))

/** Source of the grains: the input, or a sound of the project. */
const choices = computed(() => [
  { value: '', text: 'input' },
  ...sounds.value.map(([value, about]) => ({ value, text: about.name })),
])

function choose(value: string): void {
  if (value === '') return doc.edit('Grains of the input', setParam(props.id, 'from', 0))
  doc.edit('Grains of a sound', together(setEffectSound(props.id, value), setParam(props.id, 'from', 1)))
}

/** Largest sample of each of so many parts of the sound that grains are of. */
let known: { hash: string; peaks: Float32Array } | null = null
function peaksOf(parts: number): Float32Array | null {
  const { value } = hash
  const samples = value ? host.sound(value)?.channels[0] : undefined
  if (!value || !samples) return null
  if (known?.hash === value && known.peaks.length === parts) return known.peaks
  const peaks = new Float32Array(parts)
  for (let i = 0; i < samples.length; i++) {
    const k = Math.floor((i / samples.length) * parts)
    peaks[k] = Math.max(peaks[k] ?? 0, Math.abs(samples[i] ?? 0))
  }
  known = { hash: value, peaks }
  return peaks
}

const canvas = useCanvas((pen, now) => {
  const { g, color, height } = pen
  width = pen.width
  const v = live.now()
  const inSound = (v.from ?? 0) >= 0.5
  if (live.readout('frozen') < 0.5) trail.push(now, live.peak())
  const ground = height - 22
  const x = (place: number): number => (inSound ? place : 1 - place) * width
  g.fillStyle = color('water')
  g.beginPath()
  if (!inSound)
    trail.outline(
      (age) => x(age / GRAIN_BUFFER),
      (level) => ground - level * ground * 0.3,
      g,
    )
  if (inSound) {
    const peaks = peaksOf(200)
    peaks?.forEach((peak, k) => {
      g.rect((k / 200) * width, ground - peak * ground * 0.3, width / 200 + 0.5, peak * ground * 0.3)
    })
  }
  g.fill()
  // where grains may come from
  const scatter = v.scatter ?? 0
  const place = v.place ?? 0
  g.fillStyle = color('deep')
  g.globalAlpha = 0.14
  g.fillRect(
    Math.min(x(place - scatter), x(place + scatter)),
    4,
    Math.max(2, 2 * scatter * width),
    ground - 4,
  )
  g.globalAlpha = 1
  g.strokeStyle = color('ink')
  g.lineWidth = 2
  line(g, x(place), 4, x(place), ground)
  const middle = ground * 0.42
  const reach = Math.max(14, Math.abs(v.pitch ?? 0) + (v.pitchScatter ?? 0) + 2)
  const y = (st: number): number => middle - (st / reach) * (middle - 14)
  g.strokeStyle = color('line')
  line(g, 0, y(0), width, y(0))
  const length = inSound ? 0 : GRAIN_BUFFER
  for (let k = 0; k < 24; k++) {
    const at = live.readout(`place${k}`)
    if (!(at >= 0)) continue
    const w = Math.max(4, inSound ? 10 : (live.readout(`size${k}`) / length) * width)
    g.fillStyle = color('magenta')
    g.globalAlpha = 0.75
    g.beginPath()
    g.ellipse(x(at), y(live.readout(`pitch${k}`)), w, 4, 0, 0, 7)
    g.fill()
  }
  g.globalAlpha = 1
  g.fillStyle = color('second')
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textBaseline = 'middle'
  g.textAlign = 'left'
  g.fillText(inSound ? 'start of the sound' : `${GRAIN_BUFFER} s ago`, 2, height - 9)
  g.textAlign = 'right'
  g.fillText(inSound ? 'end' : 'now', width - 2, height - 9)
  g.textAlign = 'center'
  g.fillText(
    `${Math.round(live.readout('active') || 0)} grains${live.readout('frozen') >= 0.5 ? ' · frozen' : ''}`,
    width / 2,
    height - 9,
  )
})

function press(e: PointerEvent): void {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const inSound = (live.base.value.from ?? 0) >= 0.5
  const scatter = live.base.value.scatter ?? 0
  const move = (m: PointerEvent): void => {
    const x = Math.min(1, Math.max(0, (m.clientX - box.left) / box.width))
    const dy = (e.clientY - m.clientY) / box.height
    hand.edit(
      'Drag',
      together(
        setParam(props.id, 'place', inSound ? x : 1 - x),
        setParam(props.id, 'scatter', Math.min(1, Math.max(0, scatter + 0.5 * dy))),
      ),
    )
  }
  hand.drag(e, 'Drag the cloud', move)
  move(e)
}

/** Works with a sound that was brought in. */
const take = (hash: string, about: Project['audio'][string]): void =>
  doc.edit(
    `Grains of ${about.name}`,
    together(setEffectSound(props.id, hash, about), setParam(props.id, 'from', 1)),
  )
</script>

<template>
  <div class="flex flex-col text-small">
    <div class="flex items-center gap-2 pb-1">
      <ChoiceField
        label="Grains of"
        :model-value="(live.base.value.from ?? 0) >= 0.5 && hash ? hash : ''"
        :options="choices"
        @update:model-value="choose"
      />
      <SoundButton tip="Imports a sound file to granulate" @taken="take" />
    </div>
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1 touch-none"
      role="img"
      aria-label="Grains over their source. Drag sideways for position, up or down for scatter."
      @pointerdown="press"
    />
  </div>
</template>
