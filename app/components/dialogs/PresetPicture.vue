<script setup lang="ts">
import { presetOfNew } from '@oleaje/core/project/preset'
import type { ChainNode } from '@oleaje/core/project/schema'
import { watchDebounced } from '@vueuse/core'
import { onBeforeUnmount, shallowRef } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import type { PicturedSound } from '../../workers/preset-picture'

/** Two seconds of the selected track through a preset: level over time above, spectrum below. */
const props = defineProps<{ node: ChainNode; name: string }>()
const { shelf } = useSession()
const shown = shallowRef<{ dry: PicturedSound; wet: PicturedSound } | null>(null)
/** Time in ms for which a choice must stand before it is pictured. */
const WAIT = 120
let asked = 0
onBeforeUnmount(() => asked++)
watchDebounced(
  () => props.node,
  async (node) => {
    const mine = ++asked
    const made = await shelf.pictureOf(presetOfNew(node, props.name)).catch(() => null)
    if (mine === asked) shown.value = made
  },
  { immediate: true, debounce: WAIT },
)

/** Levels of the spectrum's picture in dB. */
const TOP = 0
const FLOOR = -90
const canvas = useCanvas(({ g, width, height, color, still }) => {
  still([shown.value], (s) => {
    const half = height / 2
    s.strokeStyle = color('line')
    s.strokeRect(0, Math.round(half) + 0.5, width, 0)
    const now = shown.value
    if (!now) return
    const line = (of: Float32Array, y: (v: number) => number): void => {
      s.beginPath()
      of.forEach((v, i) => s.lineTo((i / (of.length - 1)) * width, y(v)))
    }
    const loudest = Math.max(0.05, ...now.dry.peaks, ...now.wet.peaks)
    const level = (v: number): number => half - 4 - (v / loudest) * (half - 8)
    const band = (db: number): number => half + Math.min(half, ((TOP - db) / (TOP - FLOOR)) * half)
    for (const [part, y, bottom] of [
      ['peaks', level, half - 4],
      ['bands', band, height],
    ] as const) {
      line(now.wet[part], y)
      s.lineTo(width, bottom)
      s.lineTo(0, bottom)
      s.fillStyle = color('water')
      s.fill()
      line(now.wet[part], y)
      s.strokeStyle = color('ink')
      s.lineWidth = 1.4
      s.stroke()
      line(now.dry[part], y)
      s.setLineDash([3, 3])
      s.strokeStyle = color('hue-3')
      s.stroke()
      s.setLineDash([])
    }
  })
  g.globalAlpha = 1
})
</script>

<template>
  <figure>
    <canvas
      ref="canvas"
      class="h-32 w-full border border-line"
      role="img"
      :aria-label="`Level and spectrum of the selected track through ${name}`"
    />
    <figcaption class="text-tiny text-second">
      {{
        shown ? 'Level and spectrum of this track: dry dashed, processed filled' : 'Preparing the picture…'
      }}
    </figcaption>
  </figure>
</template>
