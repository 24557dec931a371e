<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { drawSheet, line } from './profile'

/**
 * A harmonic sound before and after the shift: the partials of A2 move by as many hertz each, and with
 * feedback again and again. Drag across.
 */
const props = defineProps<{ id: string }>()
const hand = useGesture()
const live = useLive(props.id)
const PARTIALS = 12
const FUNDAMENTAL = 110

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const v = live.now()
  const shift = v.shift ?? 0
  const top = Math.abs(shift) > 1500 ? 8000 : Math.abs(shift) > 300 ? 4000 : 2000
  const s = drawSheet(
    pen,
    { min: 0, max: top, marks: [0, 0.25, 0.5, 0.75, 1].map((k) => [k * top, `${k * top}`] as const) },
    {
      min: -40,
      max: 3,
      marks: [
        [0, '0'],
        [-20, '−20'],
        [-40, '−40'],
      ],
    },
  )
  for (let h = 1; h <= PARTIALS; h++) {
    const db = -20 * Math.log10(h)
    g.strokeStyle = color('line')
    g.lineWidth = 6
    line(g, s.x(FUNDAMENTAL * h), s.y(db), s.x(FUNDAMENTAL * h), s.bottom)
    const fb = Math.abs(v.feedback ?? 0)
    for (
      let pass = 1, level = db;
      pass < 24 && level > -40;
      pass++, level += 20 * Math.log10(Math.max(1e-3, fb))
    ) {
      for (const way of (v.way ?? 0) >= 0.5 ? [1, -1] : [1]) {
        const hz = Math.abs(FUNDAMENTAL * h + way * shift * pass)
        if (hz > top) continue
        g.strokeStyle = color(way === 1 ? 'ink' : 'deep')
        g.globalAlpha = pass === 1 ? 1 : 0.45
        g.lineWidth = pass === 1 ? 2 : 1
        line(g, s.x(hz), s.y(level), s.x(hz), s.bottom)
      }
      if (fb < 0.01) break
    }
    g.globalAlpha = 1
  }
  g.fillStyle = color('second')
  g.textAlign = 'right'
  g.fillText(
    `${shift >= 0 ? '+' : '−'}${Math.abs(shift).toFixed(Math.abs(shift) < 10 ? 2 : 0)} Hz${(v.way ?? 0) >= 0.5 ? ', right inverted' : ''}`,
    s.right - 4,
    s.top + 8,
  )
})

function press(e: PointerEvent): void {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const from = live.base.value.shift ?? 0
  hand.drag(e, 'Drag the shift', (m) => {
    const d = (m.clientX - e.clientX) / box.width
    hand.edit(
      'Drag',
      setParam(props.id, 'shift', from + Math.sign(d) * (Math.abs(d) * 60 + Math.abs(d) ** 3 * 4000)),
    )
  })
}
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full cursor-ew-resize touch-none"
    role="img"
    aria-label="Partials before and after the shift. Drag sideways."
    @pointerdown="press"
  />
</template>
