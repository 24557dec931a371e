<script setup lang="ts">
import { effectDefinition } from '@oleaje/core/effects/index'
import { spacingLaws, tapPlace } from '@oleaje/core/dsp/tap-times'
import { together } from '@oleaje/core/project/edit'
import { pathOf } from '@oleaje/core/project/param-path'
import { setParam } from '@oleaje/core/project/value-edits'
import { laneItems } from '@oleaje/core/units/lane'
import { computed } from 'vue'
import { type Pen, useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'
import { drawSheet, line, type Sheet } from './profile'

/**
 * A field of echoes: time across, level up, each a body as wide as its filter lets through, leaning to its
 * side. Drag an echo across for its time, up and
 * down for its level. Of a Delay, the first echo is the one that is dragged.
 */
const props = defineProps<{ id: string }>()
const { doc, host, selection } = useSession()
const hand = useGesture()
const live = useLive(props.id)
const isTaps = computed(() => live.effect.value?.type === 'taps')
const spec = computed(() => effectDefinition('taps')?.lanes?.taps)
const FLOOR = -42
/** Lengths of the field in seconds. */
const WHOLES = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64]
let sheet: Sheet | null = null
let longest = 1

interface Echo {
  readonly time: number
  readonly db: number
  readonly side: number
  readonly filter: number
  readonly cutoff: number
  readonly pitch: number
  readonly comb: number
  readonly index: number
  readonly on: boolean
}

const beat = (): number => 60 / (doc.project?.tempo ?? 120)
const db = (x: number): number => 20 * Math.log10(Math.max(1e-6, x))

function echoesOf(v: Record<string, number>, now: boolean): Echo[] {
  if (isTaps.value) {
    const items = spec.value ? laneItems(spec.value, live.effect.value?.lanes?.taps) : []
    const whole = (v.sync ?? 1) >= 0.5 ? (v.length ?? 2) * beat() : (v.time ?? 1)
    return items.map((item, k) => {
      const of = (name: string): number => {
        const s = spec.value?.params[name]
        const set = item[name] ?? s?.default ?? 0
        const key = `live:${props.id}.taps[${k}].${name}`
        return now && s && host.telemetry.has(key) && s.law === 'linear'
          ? s.min + host.telemetry.get(key) * (s.max - s.min)
          : set
      }
      return {
        time: whole * tapPlace(v.law ?? 0, v.bend ?? 0, k, items.length, of('time')),
        db: of('level'),
        side: of('pan') * (v.spread ?? 1),
        filter: of('filter'),
        cutoff: of('cutoff'),
        pitch: of('pitch'),
        comb: of('comb'),
        index: k,
        on: of('on') >= 0.5,
      }
    })
  }
  const out: Echo[] = []
  const sides =
    (v.sides ?? 0) >= 0.5
      ? ([
          [(v.sync ?? 0) ? (v.length ?? 1) * beat() : (v.time ?? 0.2), -1],
          [(v.sync ?? 0) ? (v.lengthRight ?? 1) * beat() : (v.timeRight ?? 0.2), 1],
        ] as const)
      : ([[(v.sync ?? 0) ? (v.length ?? 1) * beat() : (v.time ?? 0.2), 0]] as const)
  for (const [t, side] of sides) {
    const fb = Math.abs(v.feedback ?? 0)
    const most = v.repeats ? v.repeats : 60
    for (
      let n = 1, level = 1;
      n <= most && n * t <= longest && db(level) > FLOOR;
      n++, level *= Math.min(0.99, fb)
    ) {
      // across the middle each time round, as far as the cross-feed goes
      const crossed = v.path ?? 0
      out.push({
        time: n * t,
        db: db(level),
        side: side !== 0 ? side * 0.7 : crossed > 0.02 ? (n % 2 ? -crossed : crossed) * 0.8 : 0,
        filter: 1,
        cutoff: Math.max(400, (v.highCut ?? 9000) * 0.86 ** (n - 1)),
        pitch: (v.pitch ?? 0) * n,
        comb: v.diffusion ?? 0,
        index: n - 1,
        on: true,
      })
    }
  }
  return out
}

const wholeOf = (v: Record<string, number> | undefined): number =>
  !v
    ? 0
    : isTaps.value
      ? ((v.sync ?? 1) >= 0.5 ? (v.length ?? 2) * beat() : (v.time ?? 1)) * 1.04
      : Math.max(
          v.sync ? (v.length ?? 1) * beat() : (v.time ?? 0),
          (v.sides ?? 0) >= 0.5 ? (v.sync ? (v.lengthRight ?? 1) * beat() : (v.timeRight ?? 0)) : 0,
        ) * 4.6

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const most = Math.max(
    wholeOf(live.base.value),
    wholeOf(live.ends.value?.low),
    wholeOf(live.ends.value?.high),
  )
  longest = WHOLES.find((t) => t >= most) ?? 200
  const s = (sheet = sheetOf(pen))
  // notes of the song beneath, as far apart as can be told
  g.strokeStyle = color('line')
  g.setLineDash([1, 4])
  for (let b = beat(); b < longest && longest / beat() < 24; b += beat())
    line(g, s.x(b), s.top, s.x(b), s.bottom)
  g.setLineDash([])
  const now = live.now()
  for (const e of echoesOf(now, true)) drawEcho(pen, s, e)
  const ends = live.ends.value
  if (ends)
    for (const v of [ends.low, ends.high]) {
      g.strokeStyle = color(`hue-${ends.hue}`)
      g.setLineDash([3, 3])
      for (const e of echoesOf(v, false))
        line(g, s.x(e.time), s.y(Math.max(FLOOR, e.db)), s.x(e.time), s.bottom)
      g.setLineDash([])
    }
  for (const e of echoesOf(live.base.value, false)) if (isTaps.value || e.index === 0) drawHandle(pen, s, e)
  writeRound(pen, s, now)
})

function sheetOf(pen: Pen): Sheet {
  const marks = [0, 0.25, 0.5, 0.75, 1].map((k) => {
    const time = k * longest
    return [time, longest < 1 ? `${Math.round(time * 1000)} ms` : `${+time.toFixed(2)} s`] as const
  })
  const levels = [0, -12, -24, -36].map((level) => [level, `${level}`.replace('-', '−')] as const)
  return drawSheet(pen, { min: 0, max: longest, marks }, { min: FLOOR, max: 9, marks: levels })
}

/** How wide what a filter lets through is, as a share of all. */
function widthOf({ filter, cutoff }: Echo): number {
  if (filter === 0) return 1
  if (filter === 2) return 0.45
  const octaves = Math.log2(cutoff / 40) / 9
  return 0.3 + 0.7 * Math.max(0, Math.min(1, filter === 3 ? 1 - octaves : octaves))
}

/** An echo as it is now: as wide as what its filter lets through, and leaning to its side. */
function drawEcho({ g, color }: Pen, s: Sheet, e: Echo): void {
  const x = s.x(e.time)
  const y = s.y(Math.max(FLOOR, e.db))
  const widest = Math.min(16, (s.right - s.left) / 30)
  const wide = widest * widthOf(e)
  const lean = e.side * widest * 0.9
  const height = s.bottom - y
  const [low, high] = [s.bottom - height * 0.35, y + height * 0.25]
  g.beginPath()
  g.moveTo(x - wide, s.bottom)
  g.bezierCurveTo(x - wide * 0.7, low, x + lean - wide * 0.25, high, x + lean, y)
  g.bezierCurveTo(x + lean + wide * 0.25, high, x + wide * 0.7, low, x + wide, s.bottom)
  g.closePath()
  g.fillStyle = color('water')
  g.strokeStyle = color('deep')
  g.lineWidth = 1
  if (e.on) {
    g.globalAlpha = 0.85
    g.fill()
    g.globalAlpha = 1
    g.stroke()
  } else {
    g.setLineDash([2, 3])
    g.stroke()
    g.setLineDash([])
  }
  if (e.comb <= 0.02) return
  g.strokeStyle = color('ink')
  g.globalAlpha = 0.25 + 0.5 * e.comb
  for (let k = 1; k <= 3; k++) {
    const at = y + height * k * 0.22
    line(g, x + lean - wide * 0.3, at, x + lean + wide * 0.3, at)
  }
  g.globalAlpha = 1
}

/** The base value: a ring on a stem. */
function drawHandle({ g, color }: Pen, s: Sheet, e: Echo): void {
  const x = s.x(e.time)
  const y = s.y(Math.max(FLOOR, e.db))
  const isChosen = isTaps.value && e.index === selection.shownItem
  g.strokeStyle = color('ink')
  g.lineWidth = isChosen ? 2.5 : 1.2
  line(g, x, y + 5, x, s.bottom)
  g.beginPath()
  g.arc(x, y, 4.5, 0, 7)
  g.fillStyle = isChosen ? color('ink') : color('sheet')
  g.fill()
  g.stroke()
  if (Math.abs(e.pitch) < 0.005 || (!isChosen && isTaps.value)) return
  g.fillStyle = color('ink')
  g.font = 'italic 14px Newsreader'
  g.textAlign = x > s.right - 40 ? 'right' : 'center'
  const text = `${e.pitch > 0 ? '+' : '−'}${Math.abs(+e.pitch.toFixed(2))} st`
  g.fillText(text, x, Math.max(s.top + 8, y - 14))
}

/** Text of the feedback, or of the frozen state. */
function writeRound({ g, color }: Pen, s: Sheet, now: Record<string, number>): void {
  const feedback = now.feedback ?? 0
  const from = Math.round(now.from ?? 0)
  const law = spacingLaws[now.law ?? 0] ?? ''
  const round = `${from > 0 ? `tap ${from}` : 'all taps'} feedback, ${Math.round(feedback * 100)} %`
  g.textAlign = 'left'
  g.font = '12px "IBM Plex Sans Condensed"'
  g.fillStyle = color('second')
  if (isTaps.value) g.fillText(Math.abs(feedback) > 0.001 ? `${law} · ${round}` : law, s.left + 6, s.top + 4)
  else if ((now.freeze ?? 0) >= 0.5) g.fillText('frozen', s.left + 6, s.top + 4)
}

/** Takes the nearest echo. */
function press(e: PointerEvent): void {
  const s = sheet
  if (!s) return
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const at = (m: PointerEvent): { t: number; level: number } => ({
    t: Math.max(0, ((m.clientX - box.left - s.left) / (s.right - s.left)) * longest),
    level: FLOOR + ((s.bottom - (m.clientY - box.top)) / (s.bottom - s.top)) * (9 - FLOOR),
  })
  const first = at(e)
  const echoes = echoesOf(live.base.value, false)
  const nearest = echoes.reduce(
    (best, c) => (Math.abs(c.time - first.t) < Math.abs((best?.time ?? 1e9) - first.t) ? c : best),
    echoes[0],
  )
  if (!nearest) return
  const v = live.base.value
  const move = (m: PointerEvent): void => {
    const { t, level } = at(m)
    if (isTaps.value) {
      const whole = (v.sync ?? 1) >= 0.5 ? (v.length ?? 2) * beat() : (v.time ?? 1)
      const of = (param: string, value: number) =>
        setParam(props.id, pathOf({ lane: 'taps', index: nearest.index, param }), value)
      const edits = [of('level', Math.min(6, level))]
      // across is time where the spacing is drawn, else the place between left and right
      if ((v.law ?? 0) === 4) edits.push(of('time', t / whole))
      hand.edit('Drag', together(...edits))
      return
    }
    const n = nearest.index + 1
    const right = nearest.side > 0 && (v.sides ?? 0) >= 0.5
    const edits = [
      v.sync
        ? setParam(props.id, right ? 'lengthRight' : 'length', t / n / beat())
        : setParam(props.id, right ? 'timeRight' : 'time', t / n),
    ]
    // further echoes are pulled up and down by the feedback
    if (n > 1) edits.push(setParam(props.id, 'feedback', Math.min(1.1, 10 ** (level / 20 / (n - 1)))))
    hand.edit('Drag', together(...edits))
  }
  if (isTaps.value) selection.shownItem = nearest.index
  hand.drag(e, isTaps.value ? 'Drag the tap' : 'Drag the echo', move)
}
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full touch-none"
    role="img"
    :aria-label="
      isTaps
        ? 'Taps over time and level. Drag a tap to move it.'
        : 'Echoes over time and level. Drag an echo to move it.'
    "
    @pointerdown="press"
  />
</template>
