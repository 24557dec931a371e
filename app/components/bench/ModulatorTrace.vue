<script setup lang="ts">
import { DrawnShape, readPoints } from '@oleaje/core/dsp/drawn-shape'
import { hashText, mix32 } from '@oleaje/core/dsp/random'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import type { Modulator } from '@oleaje/core/project/schema'
import { itemsOf, lanesOf } from '@oleaje/core/project/targets'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { modulatorFace } from '../pictures/index'
import { Trail } from '../pictures/traces'

/**
 * A modulator's own picture: what it will do next where that can be known (a wave, a row, a curve, an
 * envelope, the notes to come), what it did where it cannot (what it hears, what it is made of), and where it
 * is.
 */
const props = defineProps<{ modulator: Modulator }>()
const { doc, host, monitoring } = useSession()
const past = new Trail()
const beside = new Trail()
const track = computed(() =>
  doc.project?.tracks.find((t) => t.modulators.some((m) => m.id === props.modulator.id)),
)
const items = computed(() => {
  const owner = track.value && { kind: 'modulator' as const, modulator: props.modulator, track: track.value }
  const [lane] = owner ? Object.keys(lanesOf(owner)) : []
  return owner && lane ? itemsOf(owner, lane) : []
})
const set = (param: string, otherwise: number): number => props.modulator.params[param] ?? otherwise
const shape = computed(() => {
  const { data, type } = props.modulator
  const definition = modulatorDefinition(type)
  const drawing = definition?.draws?.((k) => set(k, definition.params[k]?.default ?? 0))
  const points = drawing ? readPoints(data?.[drawing.key], 1024) : []
  return new DrawnShape(points.length ? points : (drawing?.first ?? []))
})
const seed = computed(
  () => props.modulator.seed ?? mix32((doc.project?.seed ?? 0) ^ hashText(props.modulator.id)),
)

const canvas = useCanvas((pen) => {
  const { modulator } = props
  const { telemetry } = host
  const value = telemetry.get(`mod:${modulator.id}`, NaN)
  if (monitoring.playing) past.push(value)
  pen.g.strokeStyle = pen.g.fillStyle = pen.color(`hue-${modulator.hue}`)
  pen.g.lineWidth = 1.6
  modulatorFace(modulator.type).trace({
    pen,
    modulator,
    value,
    set,
    past,
    beside,
    seed: seed.value,
    items: items.value,
    line: track.value?.line ?? null,
    read: (name) => telemetry.get(`read:mod:${modulator.id}:${name}`, NaN),
    output: (name) => telemetry.get(`mod:${modulator.id}.${name}`, NaN),
    drawn: () => shape.value,
    y: (v) => pen.height - 4 - v * (pen.height - 8),
    isPlaying: monitoring.playing,
    beat: telemetry.fixed('beat'),
  })
})
</script>

<template>
  <canvas ref="canvas" class="h-8.5 w-22 border border-line" aria-hidden="true" />
</template>
