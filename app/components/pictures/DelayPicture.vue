<script setup lang="ts">
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'
import { drawSheet, line } from './profile'

/** The echoes on a time line: left ones stand up, right ones hang down, as high as they are loud. */
const props = defineProps<{ id: string }>()
const { doc } = useSession()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const beat = 60 / (doc.project?.tempo ?? 120)
  const time = (v: Record<string, number>): number => ((v.sync ?? 0) >= 0.5 ? (v.length ?? 1) * beat : v.time ?? 0.1)
  const longest = Math.max(...[live.base.value, live.ends.value?.low, live.ends.value?.high].map((v) => (v ? time(v) : 0)))
  const nice = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((t) => t >= longest * 5) ?? 40
  const marks = [0, 0.25, 0.5, 0.75, 1].map((k) => [k * nice, nice < 1 ? `${Math.round(k * nice * 1000)} ms` : `${k * nice} s`] as const)
  const s = drawSheet(pen, { min: 0, max: nice, marks }, { min: -1, max: 1, marks: [[1, 'L'], [0, ''], [-1, 'R']] })
  const echoes = (v: Record<string, number>, stroke: string, width: number, dash: number[]): void => {
    const t = time(v)
    const fb = Math.min(0.98, v.feedback ?? 0)
    g.strokeStyle = stroke
    g.lineWidth = width
    g.setLineDash(dash)
    for (let n = 1, level = 1; n * t <= nice && level > 0.02 && n < 200; n++, level *= fb) {
      const pingPong = v.path === 1
      if (!pingPong || n % 2 === 1) line(g, s.x(n * t), s.y(0), s.x(n * t), s.y(level * 0.95))
      if (!pingPong || n % 2 === 0) line(g, s.x(n * t), s.y(0), s.x(n * t), s.y(-level * 0.95))
    }
    g.setLineDash([])
  }
  const ends = live.ends.value
  if (ends) for (const v of [ends.low, ends.high]) echoes(v, color(`hue-${ends.hue}`), 1, [4, 4])
  echoes(live.base.value, color('second'), 1, [])
  echoes(live.now(), color('deep'), 6, [])
  g.strokeStyle = color('ink')
  g.lineWidth = 2
  line(g, s.left, s.y(0), s.right, s.y(0))
  g.fillStyle = color('magenta')
  const h = Math.min(1, live.peak()) * (s.bottom - s.top) / 2
  g.fillRect(s.left - 2, s.y(0) - h, 4, 2 * h)
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Echoes over time, left above, right below" />
</template>
