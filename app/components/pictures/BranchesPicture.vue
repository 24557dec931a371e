<script setup lang="ts">
import type { MeasuredResponse } from '@oleaje/core/analysis/measured-response'
import type { Split } from '@oleaje/core/project/schema'
import { useIntervalFn } from '@vueuse/core'
import { shallowRef, watch } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/**
 * The branches of a split, each with its level as it flows now and with what it does to each frequency,
 * measured in the background.
 */
const props = defineProps<{ split: Split }>()
const session = useSession()
const { doc, host, monitoring } = session
const measured = shallowRef<ReadonlyMap<string, MeasuredResponse>>(new Map())
const held = new Map<string, number>()
/** Quiet end of the levels, and reach of the responses up and down, in dB. */
const FLOOR = -54
const REACH = 24
let wanted = true
let busy = false

watch(
  () => props.split,
  () => {
    wanted = true
  },
)
useIntervalFn(() => void measure(), 300)

async function measure(): Promise<void> {
  if (!wanted || busy || !doc.project) return
  busy = true
  wanted = false
  const { sampleRate } = doc.project
  const found = new Map<string, MeasuredResponse>()
  try {
    for (const b of props.split.branches)
      found.set(
        b.id,
        await session.heavy.call.chainResponse(
          JSON.parse(JSON.stringify(b.nodes)) as typeof b.nodes,
          sampleRate,
        ),
      )
    measured.value = found
  } finally {
    busy = false
  }
}

const canvas = useCanvas(({ g, width, height, color }) => {
  const { branches } = props.split
  const row = height / branches.length
  const left = 96
  branches.forEach((b, k) => {
    const [top, bottom] = [k * row + 3, (k + 1) * row - 3]
    const muted =
      (b.params.mute ?? 0) >= 0.5 ||
      (monitoring.soloBranches.length > 0 && !monitoring.soloBranches.includes(b.id))
    const peak = host.telemetry.get(`peak:branch:${b.id}`)
    const db = peak > 0.0001 ? 20 * Math.log10(peak) : -90
    const before = held.get(b.id) ?? -90
    const now = db > before ? db : before + (db - before) * 0.12
    held.set(b.id, now)
    g.fillStyle = color(muted ? 'second' : 'ink')
    g.font = 'italic 15px Newsreader'
    g.textAlign = 'left'
    g.textBaseline = 'middle'
    g.fillText(b.name, 2, top + (bottom - top) / 2 - 6, left - 16)
    g.font = '12px "IBM Plex Sans Condensed"'
    g.fillStyle = color('second')
    g.fillText(
      now < -80 ? '−∞ dB' : `${now.toFixed(1).replace('-', '−')} dB`,
      2,
      top + (bottom - top) / 2 + 10,
    )
    // the level as it flows, from the bottom up
    const share = Math.max(0, Math.min(1, (now - FLOOR) / -FLOOR))
    g.fillStyle = color('shoal')
    g.fillRect(left - 12, top, 6, bottom - top)
    g.fillStyle = peak > 1 ? color('magenta') : color('deep')
    g.fillRect(left - 12, bottom - share * (bottom - top), 6, share * (bottom - top))
    const middle = top + (bottom - top) / 2
    g.fillStyle = color('line')
    g.fillRect(left, Math.round(middle), width - left, 1)
    const r = measured.value.get(b.id)
    if (!r) return
    const y = (v: number): number =>
      Math.min(bottom, Math.max(top, middle - ((v / REACH) * (bottom - top)) / 2))
    g.beginPath()
    for (let x = left; x <= width; x += 2) {
      const hz = 30 * 600 ** ((x - left) / (width - left))
      g.lineTo(
        x,
        y(
          20 * Math.log10((r.magnitude[Math.round((hz / r.sampleRate) * r.frames)] ?? 0) + 1e-6) +
            (b.params.level ?? 0),
        ),
      )
    }
    g.strokeStyle = color(muted ? 'line' : 'ink')
    g.lineWidth = 1.8
    g.stroke()
  })
})
</script>

<template>
  <canvas
    ref="canvas"
    class="w-full"
    role="img"
    aria-label="Level and frequency response of each branch"
    title="Shows the current level and the response from 30 Hz to 18 kHz, ±24 dB"
  />
</template>
