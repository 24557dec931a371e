import {
  type Frames,
  type SoundFigures,
  framesOf,
  share,
  soundFigures,
  unlike,
} from '@oleaje/core/analysis/sound-figures'
import type { Stereo } from '@oleaje/core/contract/audio'
import { log2 } from '@oleaje/core/dsp/math'
import type { MacroPlaces } from '@oleaje/core/render/phrase'

/** What a chain is for, as the change of one figure that it makes. */
export interface Point {
  /** A figure, with what it needs. */
  readonly figure:
    | { readonly of: 'brightness' | 'movement' | 'width' | 'crest' | 'fill' | 'unlike' | 'bend' | 'sameness' }
    | { readonly of: 'band'; readonly from: number; readonly to: number }
    | { readonly of: 'repeat'; readonly seconds: number }
  /** Least change in the unit of the figure; negative for at least so much less. */
  readonly least: number
  /** Macros while it is measured. */
  readonly at?: MacroPlaces
  /** Macros of what it is compared with; the dry sound by default. */
  readonly against?: MacroPlaces
}

const units = {
  brightness: 'octaves',
  movement: 'dB',
  width: 'dB',
  crest: 'dB',
  fill: 'dB',
  unlike: 'dB',
  bend: 'cents',
  sameness: '%',
  band: 'dB',
  repeat: '%',
}

const names = {
  brightness: 'Brightness',
  movement: 'Movement',
  width: 'Width',
  crest: 'Crest',
  fill: 'Level of gaps',
  unlike: 'Difference by band',
  bend: 'Pitch deviation',
  sameness: 'Likeness to dry',
}

/** A sound of which figures are asked. */
export class Measured {
  private known: { figures: SoundFigures; frames: Frames } | null = null

  constructor(
    readonly sound: Stereo,
    readonly rate: number,
  ) {}

  private get all(): { figures: SoundFigures; frames: Frames } {
    const frames = this.known?.frames ?? framesOf(this.sound, this.rate)
    return (this.known ??= { frames, figures: soundFigures(this.sound, this.rate, frames) })
  }

  get figures(): SoundFigures {
    return this.all.figures
  }

  /** Change of a figure from another sound to this one. */
  changeFrom(before: Measured, figure: Point['figure']): number {
    switch (figure.of) {
      case 'unlike':
        return unlike(this.all.frames, before.all.frames)
      case 'band':
        return (
          share(this.all.frames, figure.from, figure.to) - share(before.all.frames, figure.from, figure.to)
        )
      case 'brightness':
        return log2(Math.max(1, this.figures.brightness) / Math.max(1, before.figures.brightness))
      case 'bend':
        return bendOf(this) - bendOf(before)
      case 'sameness':
        return 100 * (samenessOf(this, before) - 1)
      case 'repeat':
        return 100 * (repeatOf(this, figure.seconds) - repeatOf(before, figure.seconds))
      default:
        return this.figures[figure.of] - before.figures[figure.of]
    }
  }
}

/** Standard deviation of the pitch of a sine in cents, from the times between its rising zeros. */
function bendOf({ sound: [left], rate }: Measured): number {
  const periods: number[] = []
  let last = NaN
  for (let i = Math.floor(rate / 4); i < left.length; i++) {
    const a = left[i - 1] as number
    const b = left[i] as number
    if (a < 0 && b >= 0) {
      const at = i - b / (b - a)
      if (at > last) periods.push(at - last)
      last = at
    }
  }
  const cents = periods.map((p) => -1200 * log2(p))
  const mean = cents.reduce((sum, c) => sum + c, 0) / Math.max(1, cents.length)
  return Math.sqrt(cents.reduce((sum, c) => sum + (c - mean) ** 2, 0) / Math.max(1, cents.length))
}

/** Correlation of the waveforms of two sounds, 0…1. */
function samenessOf({ sound: [a] }: Measured, { sound: [b] }: Measured): number {
  let both = 0
  let first = 0
  let second = 0
  for (let i = 0; i < a.length; i++) {
    const x = a[i] as number
    const y = b[i] as number
    both += x * y
    first += x * x
    second += y * y
  }
  return first > 0 && second > 0 ? Math.abs(both) / Math.sqrt(first * second) : 0
}

/** How much the level's course resembles itself some seconds later, −1…1. */
function repeatOf({ sound: [left, right], rate }: Measured, seconds: number): number {
  const hop = Math.floor(rate / 200)
  const levels: number[] = []
  for (let at = 0; at + hop <= left.length; at += hop) {
    let power = 0
    for (let i = at; i < at + hop; i++) power += (left[i] as number) ** 2 + (right[i] as number) ** 2
    levels.push(Math.sqrt(power / hop))
  }
  const lag = Math.round(seconds * 200)
  const mean = levels.reduce((sum, x) => sum + x, 0) / levels.length
  let both = 0
  let all = 0
  for (let i = 0; i < levels.length; i++) {
    const x = (levels[i] as number) - mean
    all += x * x
    if (i >= lag) both += x * ((levels[i - lag] as number) - mean)
  }
  return all > 0 ? both / all : 0
}

const hertz = (hz: number): string => (hz >= 1000 ? `${hz / 1000} kHz` : `${hz} Hz`)

const bandName = (from: number, to: number): string =>
  to >= 20_000
    ? `above ${hertz(from)}`
    : from <= 20
      ? `below ${hertz(to)}`
      : `from ${hertz(from)} to ${hertz(to)}`

/** Name of the figure of a point. */
export function figureName({ figure }: Point): string {
  if (figure.of === 'band') return `Energy ${bandName(figure.from, figure.to)}`
  if (figure.of === 'repeat') return `Repetition after ${figure.seconds} s`
  return names[figure.of]
}

/** A change of a point in words: “Brightness −1.4 octaves, Darker at 100 % against 0 %”. */
export function inWords(point: Point, change: number): string {
  const text = `${change < 0 ? '−' : '+'}${Math.abs(change).toFixed(point.figure.of === 'bend' ? 0 : 1)} ${units[point.figure.of]}`
  const places = (at: MacroPlaces = {}): string =>
    Object.entries(at)
      .map(([name, value]) => `${name} at ${Math.round(100 * value)} %`)
      .join(', ')
  const when = [places(point.at), point.against ? `against ${places(point.against)}` : 'against dry'].filter(
    Boolean,
  )
  return `${figureName(point)} ${text}, ${when.join(' ')}`
}
