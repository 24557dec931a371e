<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { drawSheet, line } from './profile'

/**
 * How far pitch has departed over the last ten seconds, in cents, newest at the right. Drag up and down:
 * `param` follows, so many of its units for the height.
 */
const props = defineProps<{ id: string; param: string; unit: number; from: 'cents' | 'speed' }>()
const hand = useGesture()
const live = useLive(props.id)
const FRAMES = 300
const past = new Float32Array(FRAMES).fill(NaN)
const second = new Float32Array(FRAMES).fill(NaN)
let at = 0

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const speed = live.readout('speed')
  const cents =
    props.from === 'cents'
      ? live.readout('cents')
      : Math.abs(speed) < 0.02
        ? NaN
        : 1200 * Math.log2(Math.abs(speed))
  past[(at = (at + 1) % FRAMES)] = cents
  second[at] = live.readout('cents2') || NaN
  let most = 20
  for (const v of [...past, ...second]) if (Math.abs(v) > most) most = Math.abs(v)
  const top = [20, 50, 100, 200, 500, 1200, 2400].find((t) => t >= most) ?? 4800
  const s = drawSheet(
    pen,
    {
      min: -10,
      max: 0,
      marks: [
        [-10, '10 s ago'],
        [-5, '5 s'],
        [0, 'now'],
      ],
    },
    {
      min: -top,
      max: top,
      marks: [-1, -0.5, 0, 0.5, 1].map((k) => [k * top, `${k < 0 ? '−' : ''}${Math.abs(k * top)}`] as const),
    },
  )
  const draw = (values: Float32Array, stroke: string, width: number): void => {
    g.strokeStyle = stroke
    g.lineWidth = width
    g.beginPath()
    let begun = false
    for (let i = 0; i < FRAMES; i++) {
      const v = values[(at + 1 + i) % FRAMES] ?? NaN
      if (Number.isNaN(v)) {
        begun = false
        continue
      }
      const x = s.left + ((s.right - s.left) * i) / (FRAMES - 1)
      if (begun) g.lineTo(x, s.y(v))
      else g.moveTo(x, s.y(v))
      begun = true
    }
    g.stroke()
  }
  draw(second, color('second'), 1.5)
  draw(past, color('ink'), 2)
  g.fillStyle = color('magenta')
  g.beginPath()
  if (!Number.isNaN(cents)) g.arc(s.right, s.y(cents), 4, 0, 7)
  g.fill()
  g.fillStyle = color('second')
  g.textAlign = 'left'
  const behind = live.readout('behind')
  const short = live.readout('short')
  g.fillText(
    props.from === 'speed'
      ? `${speed < 0 ? 'backwards, ' : ''}× ${Math.abs(speed || 0).toFixed(2)} · ${(behind || 0).toFixed(2)} s behind live`
      : `${(cents || 0).toFixed(0).replace('-', '−')} cents`,
    s.left + 6,
    s.top + 6,
  )
  if (short > 0) {
    g.fillStyle = color('magenta')
    g.fillText(
      `This depth at this rate needs ±${Math.round(short * 1000)} ms. Choose a longer reach.`,
      s.left + 6,
      s.top + 22,
    )
  }
  g.strokeStyle = color('line')
  line(g, s.left, s.y(0), s.right, s.y(0))
})

function press(e: PointerEvent): void {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const from = live.base.value[props.param] ?? 0
  hand.drag(e, 'Drag the pitch', (m) => {
    hand.edit(
      'Drag',
      setParam(props.id, props.param, from + ((e.clientY - m.clientY) / box.height) * props.unit),
    )
  })
}
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full cursor-ns-resize touch-none"
    role="img"
    aria-label="Pitch deviation in cents over the last ten seconds. Drag up or down."
    @pointerdown="press"
  />
</template>
