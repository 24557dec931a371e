<script setup lang="ts">
import { reverbDecayAt } from '@oleaje/core/effects/reverb'
import { earlyReflections } from '@oleaje/core/effects/reverb-entry'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'
import { drawCurve, drawSheet, frequencyAt, frequencyAxis, line } from './profile'

/** Decay time over frequency, and the tail itself as it is heard now. */
const props = defineProps<{ id: string }>()
const { doc } = useSession()
const live = useLive(props.id)
const past = new Float32Array(160)
let at = 0

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const rate = doc.project?.sampleRate ?? 48_000
  const most = Math.max(
    ...[live.base.value, live.ends.value?.low, live.ends.value?.high].map((v) =>
      v ? (v.decay ?? 1) * Math.max(1, v.lows ?? 1, v.highs ?? 1) : 0,
    ),
  )
  const top = [0.5, 1, 2, 5, 10, 20, 40, 60].find((t) => t >= most * 1.1) ?? 60
  const s = drawSheet(pen, frequencyAxis, {
    min: 0,
    max: top,
    marks: [0, 0.25, 0.5, 0.75, 1].map((k) => [k * top, `${+(k * top).toFixed(2)} s`] as const),
  })
  past[(at = (at + 1) % past.length)] = live.peak()
  g.fillStyle = color('shoal')
  for (let i = 0; i < past.length; i++) {
    const db = 20 * Math.log10(Math.max(1e-4, past[(at + 1 + i) % past.length] ?? 0))
    const h = Math.max(0, (db + 60) / 60) * (s.bottom - s.top)
    g.fillRect(
      s.left + ((s.right - s.left) * i) / past.length,
      s.bottom - h,
      (s.right - s.left) / past.length + 0.6,
      h,
    )
  }
  const curve =
    (v: Record<string, number>) =>
    (x: number): number =>
      s.y(reverbDecayAt(v as never, frequencyAt(s, x, 20, 20_000), rate))
  drawCurve(pen, s, curve(live.now()), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, curve(live.base.value), { color: color('second'), width: 1 })
  // the early pattern along the upper edge: the first tenth of a second over the whole width, left up and
  // right down
  const values = live.now()
  if ((values.early ?? 0) > 0) {
    const y0 = s.top + 22
    g.strokeStyle = color('magenta')
    g.lineWidth = 2
    g.globalAlpha = 0.4 + 0.6 * (values.early ?? 0)
    for (const e of earlyReflections(Math.round(values.character ?? 0))) {
      const x = s.left + ((s.right - s.left) * e.time) / 0.1
      line(g, x, y0, x, y0 + (e.isLeft ? -1 : 1) * 16 * Math.abs(e.level))
    }
    g.globalAlpha = 1
    g.fillStyle = color('second')
    g.textAlign = 'right'
    g.fillText('early, 100 ms', s.right - 4, y0 + 20)
  }
  const ends = live.ends.value
  if (ends)
    for (const v of [ends.low, ends.high])
      drawCurve(pen, s, curve(v), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
})
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full"
    role="img"
    aria-label="Decay time over frequency, and the current tail"
  />
</template>
