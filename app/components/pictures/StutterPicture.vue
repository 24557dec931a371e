<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { together } from '@oleaje/core/project/edit'
import { pathOf } from '@oleaje/core/project/param-path'
import { setParam } from '@oleaje/core/project/value-edits'
import { laneItems } from '@oleaje/core/units/lane'
import { computed } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { line } from './profile'
import { LevelTrail } from './level-trail'

/**
 * The wave that was, the slice that repeats with its reading head, and the gate row beneath: draw along it to
 * open steps, drag one up and down for its speed.
 */
const props = defineProps<{ id: string }>()
const hand = useGesture()
const live = useLive(props.id)
const trail = new LevelTrail(6)
const spec = computed(() => effectDefinition('stutter')?.lanes?.steps)
const items = computed(() => (spec.value ? laneItems(spec.value, live.effect.value?.lanes?.steps) : []))
const ROW = 46
let width = 0
let height = 0

const lengthText = (beats: number): string => {
  const names: [number, string][] = [
    [4, '1/1'],
    [2, '1/2'],
    [1, '1/4'],
    [0.5, '1/8'],
    [0.25, '1/16'],
    [0.125, '1/32'],
    [0.0625, '1/64'],
  ]
  return names.find(([b]) => Math.abs(b - beats) < 0.002)?.[1] ?? `${+beats.toFixed(3)} b`
}
const speedText = (s: number): string => `${s < 0 ? '◂ ' : ''}× ${Math.abs(s).toFixed(2).replace(/0$/, '')}`
const colour = (s: number): number => Math.min(1, Math.abs(s) / 2)

const canvas = useCanvas((pen, now) => {
  const { g, color } = pen
  width = pen.width
  height = pen.height
  const v = live.now()
  trail.push(now, live.peak())
  const bottom = height - ROW - 22
  const middle = bottom / 2 + 4
  g.fillStyle = color('water')
  g.beginPath()
  trail.outline(
    (age) => width - (age / trail.seconds) * width,
    (level) => middle - level * (bottom / 2 - 8),
    g,
  )
  trail.outline(
    (age) => width - (age / trail.seconds) * width,
    (level) => middle + level * (bottom / 2 - 8),
    g,
  )
  g.fill()
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textBaseline = 'middle'
  g.fillStyle = color('second')
  g.textAlign = 'left'
  g.fillText(`${trail.seconds} s ago`, 2, bottom + 8)
  g.textAlign = 'right'
  g.fillText('now', width - 2, bottom + 8)
  const open = live.readout('open') >= 0.5
  const start = live.readout('start')
  const slice = live.readout('slice')
  const place = live.readout('place')
  if (open && slice > 0) {
    const x0 = width - (start / trail.seconds) * width
    const w = Math.max(4, (slice / trail.seconds) * width)
    g.fillStyle = color('deep')
    g.globalAlpha = 0.22
    g.fillRect(x0, 8, w, bottom - 12)
    g.globalAlpha = 1
    g.strokeStyle = color('ink')
    g.lineWidth = 2
    line(g, x0, 8, x0, bottom - 4)
    line(g, x0 + w, 8, x0 + w, bottom - 4)
    const head = width - (place / trail.seconds) * width
    g.strokeStyle = color('magenta')
    line(g, head, 8, head, bottom - 4)
    const speed = live.readout('speed')
    g.fillStyle = color('magenta')
    g.beginPath()
    g.moveTo(head, 14)
    g.lineTo(head + (speed < 0 ? -8 : 8), 18)
    g.lineTo(head, 22)
    g.fill()
    g.fillStyle = color('ink')
    g.font = 'italic 14px Newsreader'
    g.textAlign = x0 > width / 2 ? 'right' : 'left'
    const pass = Math.round(live.readout('pass'))
    g.fillText(
      `${(v.sync ?? 1) >= 0.5 ? lengthText(v.sliceLength ?? 0.25) : `${Math.round((v.slice ?? 0) * 1000)} ms`}, ${pass === 0 ? 'first heard' : `pass ${pass}`}, ${speedText(speed)}`,
      x0 > width / 2 ? x0 - 6 : x0 + w + 6,
      bottom - 12,
    )
  } else {
    g.fillStyle = color('second')
    g.font = 'italic 14px Newsreader'
    g.textAlign = 'left'
    g.fillText('closed: sound passes through', 6, 14)
  }
  const n = items.value.length
  const cell = width / Math.max(1, n)
  const at = Math.round(live.readout('step'))
  g.textAlign = 'center'
  g.font = '12px "IBM Plex Sans Condensed"'
  items.value.forEach((item, k) => {
    const on = (item.on ?? 0) >= 0.5
    const speed = (item.speed ?? 1) * (v.speed ?? 1)
    const x = k * cell
    g.fillStyle = on ? color('deep') : color('sheet')
    g.globalAlpha = on ? 0.35 + 0.5 * colour(speed) : 1
    g.fillRect(x + 1, height - ROW, cell - 2, ROW - 4)
    g.globalAlpha = 1
    g.strokeStyle = k === at && (v.by ?? 0) === 0 ? color('magenta') : color('line')
    g.lineWidth = k === at && (v.by ?? 0) === 0 ? 2 : 1
    g.strokeRect(x + 1.5, height - ROW + 0.5, cell - 3, ROW - 5)
    if (!on) return
    g.fillStyle = color('ink')
    if (cell > 30) {
      g.fillText(
        (v.sync ?? 1) >= 0.5
          ? lengthText((v.sliceLength ?? 0.25) * (item.slice ?? 1))
          : `${Math.round((v.slice ?? 0) * (item.slice ?? 1) * 1000)}`,
        x + cell / 2,
        height - ROW + 13,
      )
      g.fillText(speedText(speed), x + cell / 2, height - ROW + 29)
    }
  })
})

const set = (index: number, param: string, value: number) =>
  setParam(props.id, pathOf({ lane: 'steps', index, param }), value)

/**
 * On the row: the first step pressed says whether the stroke opens or closes; up and down from an open one is
 * its speed. On the wave: across is the slice.
 */
function press(e: PointerEvent): void {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const y0 = e.clientY - box.top
  const n = items.value.length
  const cellAt = (m: PointerEvent): number =>
    Math.min(n - 1, Math.max(0, Math.floor(((m.clientX - box.left) / width) * n)))
  if (y0 < height - ROW) {
    const v = live.base.value
    const x0 = e.clientX
    const synced = (v.sync ?? 1) >= 0.5
    const from = synced ? (v.sliceLength ?? 0.25) : (v.slice ?? 0.1)
    const speed = v.speed ?? 1
    hand.drag(e, 'Drag the slice', (m) => {
      const dx = (m.clientX - x0) / width,
        dy = (e.clientY - m.clientY) / height
      hand.edit(
        'Drag',
        together(
          setParam(props.id, synced ? 'sliceLength' : 'slice', from * 2 ** (6 * dx)),
          ...(Math.abs(dy) > 0.03
            ? [
                setParam(
                  props.id,
                  'speed',
                  Math.max(-4, Math.min(4, speed + 4 * (dy - Math.sign(dy) * 0.03))),
                ),
              ]
            : []),
        ),
      )
    })
    return
  }
  const first = cellAt(e)
  const opens = (items.value[first]?.on ?? 0) < 0.5
  const speed = items.value[first]?.speed ?? 1
  let strokes = false
  let lifted = false
  const move = (m: PointerEvent): void => {
    const k = cellAt(m)
    if (k !== first) strokes = true
    const dy = (e.clientY - m.clientY) / 60
    if (!strokes && (lifted || Math.abs(dy) > 0.15)) {
      lifted = true
      hand.edit(
        'Drag',
        together(set(first, 'on', 1), set(first, 'speed', Math.max(-4, Math.min(4, speed + dy)))),
      )
    } else if (strokes) hand.edit('Draw', set(k, 'on', opens ? 1 : 0))
  }
  hand.drag(e, 'Draw the gate row', move, () => {})
  hand.edit('Draw', set(first, 'on', opens ? 1 : 0))
}
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full touch-none"
    role="img"
    aria-label="Waveform, repeated slice and gate row. Click steps to draw, drag a step up or down for its speed."
    @pointerdown="press"
  />
</template>
