import type { DrawnShape } from '@oleaje/core/dsp/drawn-shape'
import { lfoWave } from '@oleaje/core/dsp/lfo-wave'
import { smoothDrift } from '@oleaje/core/modulators/drift'
import { stepValueAt } from '@oleaje/core/modulators/steps'
import type { Modulator, NoteLine } from '@oleaje/core/project/schema'
import { noteText } from '@oleaje/core/units/text'
import type { Pen } from '../../composables/useCanvas'

/** Data for the small picture of a modulator. */
export interface TraceContext {
  readonly pen: Pen
  readonly modulator: Modulator
  /** Its value now; not a number while the engine does not give it. */
  readonly value: number
  /** Readouts of its processor, and its other outputs. */
  readonly read: (name: string) => number
  readonly output: (name: string) => number
  /** One of its parameters as it is set. */
  readonly set: (param: string, otherwise: number) => number
  readonly seed: number
  /** Height at which a value 0…1 is drawn. */
  readonly y: (v: number) => number
  /** Recent values, newest last, and additional state. */
  readonly past: Trail
  readonly beside: Trail
  readonly isPlaying: boolean
  /** The shape that is drawn by hand under a key of its data. */
  readonly drawn: (key: string) => DrawnShape
  readonly items: readonly Readonly<Record<string, number>>[]
  readonly line: NoteLine | null
  readonly beat: number
}
export type Trace = (context: TraceContext) => void

/** Values of the last pictures. */
export class Trail {
  private readonly values = new Float32Array(120).fill(NaN)
  private head = 0
  readonly length = this.values.length
  push(value: number): void {
    this.values[(this.head = (this.head + 1) % this.length)] = value
  }
  /** From the oldest, 0, to the newest. */
  at(i: number): number {
    return this.values[(this.head + 1 + i) % this.length] ?? NaN
  }
  get newest(): number {
    return this.values[this.head] ?? NaN
  }
}

/** Recent values, for modulators whose course is not known in advance. */
export const trailTrace: Trace = ({ pen, past, y, value }) => trail(pen, past, y, value)

export const lfoTrace: Trace = (c) => {
  const { pen, set, seed, y, value } = c
  const shape = set('shape', 0)
  if (shape === 5 || shape === 6) return trailTrace(c)
  const drawn = shape === 7 ? c.drawn('shape') : null
  const wave = (x: number): number =>
    drawn ? drawn.at(x - Math.floor(x)) : lfoWave(shape, x, set('width', 0.5), seed)
  course(pen, wave, y)
  mark(pen, (c.read('phase') || 0) * pen.width, Number.isNaN(value) ? y(wave(set('phase', 0))) : y(value))
}

/** Smooth drift is known beforehand: the right half shows what comes. */
export const driftTrace: Trace = (c) => {
  const turned = c.read('turned')
  if (c.set('kind', 0) !== 0 || Number.isNaN(turned)) return trailTrace(c)
  course(c.pen, (x) => smoothDrift(c.seed, turned + (x - 0.5) * 4 * c.set('speed', 0.3)), c.y, 0.5)
  mark(c.pen, c.pen.width / 2, c.y(c.value))
}

export const stepsTrace: Trace = ({ pen: { g, width, height }, items, read, set, seed, y }) => {
  const now = Math.round(read('step'))
  const w = width / items.length
  for (const [i, s] of items.entries()) {
    g.globalAlpha = i === now ? 1 : 0.35
    const level = s.level ?? 0.5
    g.fillRect(i * w + 0.5, y(level), Math.max(1, w - 1), height - 2 - y(level))
  }
  g.globalAlpha = 1
  if (set('direction', 0) === 1 && items.length)
    g.fillRect(stepValueAt(0, items.length, 1, seed) * w, height - 2, 6, 2)
}

export const curveTrace: Trace = ({ pen, drawn, set, read, y, value }) => {
  const length = set('length', 16)
  const shape = drawn('points')
  course(pen, (x) => shape.at(x * length), y)
  const beat = read('beat')
  mark(
    pen,
    (Number.isNaN(beat) ? 0 : beat / length) * pen.width,
    y(Number.isNaN(value) ? shape.at(0) : value),
  )
}

export const envelopeTrace: Trace = ({ pen, set: live, y, read, value }) => {
  const { g, width } = pen
  const stage = read('stage')
  const way = read('way')
  const parts = [live('attack', 0.01), live('hold', 0), live('decay', 0.3), 0, live('release', 0.4)].map(
    (s) => Math.sqrt(s),
  )
  parts[3] = 0.25 * (Math.max(...parts) || 1)
  const whole = parts.reduce((a, b) => a + b, 0) || 1
  const ends: number[] = []
  let x = 0
  for (const p of parts) ends.push((x += (p / whole) * (width - 6)))
  const sustain = live('sustain', 0.4)
  g.beginPath()
  g.moveTo(0, y(0))
  for (const [i, v] of [1, 1, sustain, sustain, 0].entries()) g.lineTo(ends[i] ?? 0, y(v))
  g.stroke()
  const k = Math.round(stage) - 1
  if (Number.isNaN(stage) || k < 0) mark(pen, 3, y(0))
  else mark(pen, (ends[k - 1] ?? 0) + ((ends[k] ?? 0) - (ends[k - 1] ?? 0)) * (k === 3 ? 0.5 : way), y(value))
}

/** The followed level, its threshold, and the times above it. */
export const followerTrace: Trace = (c) => {
  const {
    pen: { g, width, height },
    set,
    y,
    beside,
  } = c
  if (c.isPlaying) beside.push(c.output('gate'))
  const threshold = y(set('threshold', 0.25))
  g.globalAlpha = 0.5
  g.setLineDash([2, 3])
  g.beginPath()
  g.moveTo(0, threshold)
  g.lineTo(width, threshold)
  g.stroke()
  g.setLineDash([])
  g.globalAlpha = 0.25
  for (let i = 0; i < beside.length; i++)
    if (beside.at(i) > 0.5) g.fillRect(((width - 6) * i) / (beside.length - 1), height - 4, 1.5, 3)
  g.globalAlpha = 1
  trailTrace(c)
}

/** The pitch that it hears, fainter the less sure it is, and its name. */
export const pitchTrace: Trace = (c) => {
  const { pen, value, y, beside } = c
  if (c.isPlaying) beside.push(c.output('confidence'))
  pen.g.globalAlpha = 0.3 + 0.7 * (beside.newest || 0)
  trail(pen, c.past, (v) => y(Math.max(0, Math.min(1, (v * 128 - 36) / 48))), value)
  pen.g.globalAlpha = 1
  if (!Number.isNaN(value) && value > 0) write(pen, noteText(Math.round(value * 128)))
}

/** The notes from a beat ago to three beats ahead, and the one followed now. */
export const notesTrace: Trace = ({ pen, line, beat, value }) => {
  const { g, width, height } = pen
  const notes = line?.notes ?? []
  const low = Math.min(127, ...notes.map((n) => n.pitch)) - 2
  const high = Math.max(0, ...notes.map((n) => n.pitch)) + 2
  const span = 8
  for (const n of notes) {
    const length = line?.length || 1e9
    for (const round of line?.length ? [-1, 0, 1] : [0]) {
      const start = n.start + (Math.floor(beat / length) + round) * (line?.length ?? 0)
      const x = ((start - beat + 2) / span) * width
      const w = Math.max(2, (n.length / span) * width)
      if (x + w < 0 || x > width) continue
      g.globalAlpha = 0.3 + 0.7 * n.velocity
      g.fillRect(x, height - 4 - ((n.pitch - low) / Math.max(1, high - low)) * (height - 8), w - 1, 3)
    }
  }
  g.globalAlpha = 0.6
  g.fillRect((2 / span) * width, 0, 1, height)
  g.globalAlpha = 1
  if (!Number.isNaN(value) && value > 0) write(pen, noteText(Math.round(value * 128)))
}
/** Where a hand has put it. */
export const handTrace: Trace = ({ pen, set, value }) => {
  const { g, width, height } = pen
  const at = Number.isNaN(value) ? set('value', 0.5) : value
  g.globalAlpha = 0.35
  g.fillRect(0, height / 2 - 5, width * at, 10)
  g.globalAlpha = 1
  mark(pen, at * (width - 8) + 4, height / 2)
}

/** A known course over the width; what lies before `now` fainter. */
function course({ g, width }: Pen, f: (x: number) => number, y: (v: number) => number, now = 0): void {
  for (const [from, to, alpha] of [
    [0, now, 0.35],
    [now, 1, 1],
  ] as const) {
    g.globalAlpha = alpha
    g.beginPath()
    for (let px = from * width; px <= to * width; px++) g.lineTo(px, y(f(px / width)))
    g.stroke()
  }
  g.globalAlpha = 1
}

/** Values of the last two seconds, newest at the right. */
function trail(pen: Pen, past: Trail, y: (v: number) => number, value: number): void {
  const { g, width } = pen
  g.beginPath()
  for (let i = 0; i < past.length; i++) {
    const v = past.at(i)
    if (!Number.isNaN(v)) g.lineTo(((width - 6) * i) / (past.length - 1), y(v))
  }
  g.stroke()
  if (!Number.isNaN(value)) mark(pen, width - 6, y(value))
}

function mark({ g }: Pen, x: number, y: number): void {
  g.beginPath()
  g.arc(x, y, 3.5, 0, 7)
  g.fill()
}

function write({ g, width, color }: Pen, text: string): void {
  g.font = '12px "IBM Plex Sans Condensed"'
  g.fillStyle = color('ink')
  g.textAlign = 'right'
  g.textBaseline = 'top'
  g.fillText(text, width - 3, 2)
}
