<script setup lang="ts">
import { filterResponse, inDb } from '@oleaje/core/analysis/response'
import { setParam } from '@oleaje/core/project/value-edits'
import { formatValue } from '@oleaje/core/units/text'
import { ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { type Sheet, drawCurve, drawSheet, frequencyAt, frequencyAxis, phaseAxis } from './profile'

/**
 * Magnitude or phase: base thin, live bold over filled water, the two ends of the motion dashed. The peak can
 * be dragged.
 */
const props = defineProps<{ id: string }>()
const { doc } = useSession()
const hand = useGesture()
const live = useLive(props.id)
const phase = ref(false)
let sheet: Sheet | null = null
type Values = Parameters<typeof filterResponse>[0]

const canvas = useCanvas((pen) => {
  const { color } = pen
  sheet = drawSheet(
    pen,
    frequencyAxis,
    phase.value
      ? phaseAxis
      : {
          min: -48,
          max: 24,
          marks: [
            [18, '+18'],
            [12, '12'],
            [0, '0'],
            [-12, '−12'],
            [-24, '−24'],
            [-36, '−36'],
          ],
        },
  )
  const s = sheet
  const rate = doc.project?.sampleRate ?? 48_000
  const curve =
    (v: Record<string, number>) =>
    (x: number): number => {
      const r = filterResponse(v as unknown as Values, frequencyAt(s, x, 20, 20_000), rate)
      return s.y(phase.value ? (r.phase * 180) / Math.PI : inDb(r.magnitude))
    }
  const now = live.now()
  drawCurve(pen, s, curve(now), {
    color: color('ink'),
    width: 2.5,
    fill: phase.value ? undefined : color('water'),
  })
  drawCurve(pen, s, curve(live.base.value), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends) {
    for (const [v, name] of [
      [ends.low, 'lowest'],
      [ends.high, 'highest'],
    ] as const) {
      drawCurve(pen, s, curve(v), { color: color(`hue-${ends.hue}`), width: 1.3, dash: [4, 4] })
      pen.g.font = 'italic 14px Newsreader'
      pen.g.fillStyle = color(`hue-${ends.hue}`)
      const x = s.x(v.cutoff ?? 1000)
      pen.g.textAlign = x > s.right - 70 ? 'right' : x < s.left + 70 ? 'left' : 'center'
      pen.g.fillText(
        `${name} ${formatValue(live.specs.value.cutoff!, v.cutoff ?? 0)}`,
        x,
        name === 'highest' ? s.top + 10 : s.top + 26,
      )
    }
  }
  if (!phase.value) {
    const x = s.x(now.cutoff ?? 1000)
    pen.g.fillStyle = color('ink')
    pen.g.beginPath()
    pen.g.arc(x, Math.max(s.top, Math.min(s.bottom, curve(now)(x))), 5, 0, 7)
    pen.g.fill()
  }
})

function drag(e: PointerEvent): void {
  const s = sheet
  const el = e.currentTarget as HTMLElement
  if (!s || phase.value) return
  const box = el.getBoundingClientRect()
  let last = e.clientY
  const move = (m: PointerEvent): void => {
    hand.edit('Drag', setParam(props.id, 'cutoff', frequencyAt(s, m.clientX - box.left, 20, 20_000)))
    hand.edit(
      'Drag',
      setParam(props.id, 'resonance', (live.base.value.resonance ?? 1) * 1.02 ** (last - m.clientY)),
    )
    last = m.clientY
  }
  hand.drag(e, 'Drag the filter', move)
}
</script>

<template>
  <div class="flex flex-col">
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1 cursor-move touch-none"
      role="img"
      aria-label="Response of the filter, live"
      title="Drag sideways for cutoff, up or down for resonance"
      @pointerdown="drag"
    />
    <div class="flex gap-3 pt-1 text-small" role="group" aria-label="Response">
      <button
        :class="!phase ? 'border-b-2 border-magenta font-semibold' : 'text-second'"
        :aria-pressed="!phase"
        @click="phase = false"
      >
        Magnitude
      </button>
      <button
        :class="phase ? 'border-b-2 border-magenta font-semibold' : 'text-second'"
        :aria-pressed="phase"
        @click="phase = true"
      >
        Phase
      </button>
    </div>
  </div>
</template>
