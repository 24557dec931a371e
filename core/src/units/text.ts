import { exp2, log2, toDb } from '../dsp/math'
import { noteNames, noteOf } from './tuning'
import { type ParamSpec, isStepped, reachesSilence } from './parameter'

/**
 * A typed value that makes no sense for its parameter. The message is a sentence for the person who typed it.
 */
export class ValueTextError extends Error {
  override name = 'ValueTextError'
}

/**
 * Writes a value as people read it: `800 Hz`, `3.4 kHz`, `−6.0 dB`, `1/8.`, `low-pass`. Minus is a real minus
 * sign. The text, typed again, gives the same text: a value that rounding takes into the next
 * kind of text is written as that.
 */
export function formatValue(p: ParamSpec, value: number): string {
  const text = written(p, value)
  const read = named(p, plain(text)) ?? absolute(p, plain(text))
  return read === undefined ? text : written(p, read)
}

function written(p: ParamSpec, value: number): string {
  if (p.zero && Math.abs(value) < 0.0005) return p.zero
  if (p.places) return placeText(p.places, value)
  switch (p.unit) {
    case 'hertz': {
      const size = Math.abs(value)
      return size >= 10_000
        ? `${trim(value / 1000, 1)} kHz`
        : size >= 1000
          ? `${trim(value / 1000, 2)} kHz`
          : `${signed(value, size < 10 ? 3 : size < 100 ? 1 : 0, false)} Hz`
    }
    case 'seconds':
      return value >= 1
        ? `${trim(value, 2)} s`
        : `${trim(value * 1000, value < 0.01 ? 2 : value < 0.1 ? 1 : 0)} ms`
    case 'decibel':
      return reachesSilence(p) && value <= p.min ? '−∞ dB' : `${signed(value, 1, p.min < 0 && p.max > 0)} dB`
    case 'percent':
      return `${signed(value * 100, value < 0.1 && value > 0 ? 1 : 0, p.min < 0)} %`
    case 'semitones':
      return `${signed(value, 2, true)} st`
    case 'octaves':
      return formatOctaves(value)
    case 'degrees':
      return `${trim(value * 360, 0)}°`
    case 'ratio':
      return `${trim(value, value < 10 ? 2 : 1)} : 1`
    case 'factor':
      return `× ${signed(value, 3, false)}`
    case 'amount':
      return `${p.min < 0 && value >= 0.0005 ? '+' : ''}${trimZeros(value, 3)}`
    case 'pan':
      return Math.abs(value) < 0.005
        ? 'middle'
        : `${Math.round(Math.abs(value) * 100)} ${value < 0 ? 'left' : 'right'}`
    case 'beats':
      return formatLength(value)
    case 'toggle':
      return value >= 0.5 ? 'on' : 'off'
    case 'choice':
      return p.choices?.[Math.round(value)] ?? String(value)
    case 'note':
      return noteText(value)
    case 'tempo':
      return trimZeros(value, 2)
    case 'number':
      return isCount(p)
        ? String(Math.round(value))
        : signed(value, value !== 0 && Math.abs(value) < 0.5 ? 3 : Math.abs(value) < 10 ? 2 : 1, false)
  }
}

/**
 * Reads what a person would type. One rule holds for every field: what is typed replaces the value, a bare
 * number has the unit that is shown, and a sign is a sign. Units (`1.2k`, `-6dB`, `250ms`, `40%`), note
 * lengths (`1/8.`, `1/8t`, `3 bars`), note names for frequencies (`C#4`, `A♯4 +40 ct`) and names of choices
 * are understood. Changes of the present value need an operator: `+=2dB`, `-=5`, `x2`, `/3` (a factor of a
 * level is one of its amplitude); an interval on a pitch (`+7st`) can only be a change, and is one. Text that
 * was not changed gives the present value.
 * @throws ValueTextError for what makes no sense, and for what is out of range
 */
export function parseValue(p: ParamSpec, text: string, current: number): number {
  const t = plain(text)
  if (t === '') throw new ValueTextError(`Enter a value for ${p.name}.`)
  if (t === plain(formatValue(p, current))) return current
  // a name may begin with a sign, as the steps of a range do
  const value = named(p, t) ?? relative(p, t, current) ?? bare(p, t, current) ?? absolute(p, t)
  if (value === undefined || !Number.isFinite(value))
    throw new ValueTextError(`“${text.trim()}” is not a value for ${p.name}${hint(p)}.`)
  return withinRange(p, isCount(p) ? Math.round(value) : value, text)
}

/** A value within the range; one that only the rounding of its text takes out of it is the end itself. */
function withinRange(p: ParamSpec, value: number, text: string): number {
  if (value >= p.min && value <= p.max) return value
  const end = value < p.min ? p.min : p.max
  if (written(p, value) === written(p, end)) return end
  throw new ValueTextError(
    `“${text.trim()}” is out of range. ${p.name} goes from ${formatValue(p, p.min)} to ${formatValue(p, p.max)}.`,
  )
}

/** A number that does not glide and has no names is a count. */
const isCount = (p: ParamSpec): boolean => p.unit === 'number' && p.glide === 0

/** As it is compared: in small letters, with one kind of minus, point, sharp and flat, and without spaces. */
const plain = (text: string): string =>
  text
    .trim()
    .toLowerCase()
    .replace(/[−–]/g, '-')
    .replace(/,/g, '.')
    .replace(/♯/g, '#')
    .replace(/♭/g, 'b')
    .replace(/\s+/g, '')

/** The value that a name stands for: of a choice, of a place, or of zero. */
const named = (p: ParamSpec, t: string): number | undefined =>
  p.zero && t === plain(p.zero) ? 0 : p.places ? placeNamed(p.places, t) : choiceNamed(p, t)

/** A place by its name, or how far it is on the way to the next: `band+40 %`. */
function placeText(places: readonly string[], value: number): string {
  const share = Math.round((value - Math.floor(value)) * 100)
  const at = share === 100 ? Math.ceil(value) : Math.floor(value)
  return share === 0 || share === 100 ? (places[at] ?? String(value)) : `${places[at]}+${share} %`
}

function placeNamed(places: readonly string[], t: string): number | undefined {
  const between = /^(.+?)\+(\d*\.?\d+)%?$/.exec(t)
  const at = places.findIndex((n) => plain(n).startsWith(between?.[1] ?? t))
  if (at < 0) return undefined
  return between ? Math.min(places.length - 1, at + Number(between[2]) / 100) : at
}

/**
 * The choice of this name, or of this number where its name begins with one, or else the first whose name
 * begins so.
 */
function choiceNamed(p: ParamSpec, t: string): number | undefined {
  const names = p.choices?.map(plain) ?? []
  const exact = names.indexOf(t)
  if (exact >= 0) return exact
  if (/^[+-]?\d*\.?\d+$/.test(t)) {
    const numbers = names.map((n) => (/^[+-]?\d*\.?\d+(?![\d./])/.test(n) ? Number.parseFloat(n) : NaN))
    const found = numbers.indexOf(Number(t))
    return found >= 0 && numbers.lastIndexOf(Number(t)) === found ? found : undefined
  }
  const found = names.findIndex((n) => n.startsWith(t))
  return found >= 0 ? found : undefined
}

/** Note lengths in quarter notes that the arrow keys step through, with their names. */
export const noteLengths: readonly { readonly beats: number; readonly name: string }[] = [
  64, 32, 16, 8, 4, 2, 1,
]
  .flatMap((d) => [
    { beats: ((4 / d) * 2) / 3, name: `1/${d}t` },
    { beats: 4 / d, name: `1/${d}` },
    { beats: (4 / d) * 1.5, name: `1/${d}.` },
  ])
  .concat([5, 7].flatMap((n) => [16, 8, 4].map((d) => ({ beats: (4 * n) / d, name: `${n}/${d}` }))))
  .concat([2, 3, 4, 6, 8, 12, 16].map((bars) => ({ beats: bars * 4, name: `${bars} bars` })))
  .sort((a, b) => a.beats - b.beats)

/** Frequency of a note name such as C#4, B♭2 or A4 +40 ct, with A4 = 440 Hz; undefined where it is none. */
export function noteFrequency(text: string): number | undefined {
  const m = /^([a-g])([#b]?)(-?\d)(?:([+-]\d*\.?\d+)ct)?$/.exec(plain(text))
  if (!m) return undefined
  const letter = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }[m[1] as 'c']
  const note =
    letter + (m[2] === '#' ? 1 : m[2] === 'b' ? -1 : 0) + 12 * Number(m[3]) + Number(m[4] ?? 0) / 100
  return 440 * exp2((note - 57) / 12)
}

/** The nearest note of a frequency and the distance to it, e.g. `A4 +3 ct`. */
export const noteName = (frequency: number): string => noteText(noteOf(frequency))

/** A MIDI note number as a name and the distance in cents: 69.03 is `A4 +3 ct`. */
export function noteText(number: number): string {
  const nearest = Math.round(number)
  const cents = Math.round((number - nearest) * 100)
  const name = noteNames[((nearest % 12) + 12) % 12]
  return `${name}${Math.floor(nearest / 12) - 1}${cents === 0 ? '' : ` ${cents > 0 ? '+' : '−'}${Math.abs(cents)} ct`}`
}

function relative(p: ParamSpec, t: string, current: number): number | undefined {
  // of a factor, × is how it is written, so it stands for the value itself
  const times = (p.unit === 'factor' ? /^([*/])(\d*\.?\d+)$/ : /^([x×*/])(\d*\.?\d+)$/).exec(t)
  if (times && !isStepped(p)) {
    const by = times[1] === '/' ? 1 / Number(times[2]) : Number(times[2])
    if (p.unit === 'decibel') return by > 0 ? current + toDb(by) : p.min
    return p.unit === 'note' ? current + 12 * log2(by) : current * by
  }
  const steps = /^([+-]\d*\.?\d+)(st|semitones?|ct|oct)$/.exec(t)
  if (steps && p.unit === 'note')
    return current + Number(steps[1]) * (steps[2] === 'oct' ? 12 : steps[2] === 'ct' ? 0.01 : 1)
  if (steps && p.unit === 'hertz')
    return current * exp2(Number(steps[1]) / (steps[2] === 'oct' ? 1 : steps[2] === 'ct' ? 1200 : 12))
  const sum = /^([+-])=(.+)$/.exec(t)
  if (!sum || isStepped(p)) return undefined
  const by = absolute(p, sum[2] ?? '')
  return by === undefined ? undefined : current + (sum[1] === '-' ? -by : by)
}

/**
 * A number without a unit, in the unit in which the present value is shown; where that is out of range and
 * the unit has a smaller one, in that. Undefined for units that have one scale alone.
 */
function bare(p: ParamSpec, t: string, current: number): number | undefined {
  if (!/^[+-]?\d*\.?\d+$/.test(t)) return undefined
  const typed = Number(t)
  const shown = written(p, current)
  const inUnit = (big: boolean, of: number): number | undefined =>
    big && typed * of >= p.min && typed * of <= p.max ? typed * of : undefined
  if (p.unit === 'hertz') return inUnit(shown.endsWith(' kHz'), 1000)
  if (p.unit === 'seconds') return inUnit(shown.endsWith(' s'), 1)
  if (p.unit === 'beats') return inUnit(shown.endsWith(' bars'), 4)
  if (p.unit === 'pan') return /^[+-]/.test(t) || !shown.endsWith('left') ? undefined : -typed / 100
  return undefined
}

function absolute(p: ParamSpec, t: string): number | undefined {
  if (p.unit === 'choice') return undefined
  if (p.unit === 'octaves') return parseOctaves(t)
  if (p.unit === 'toggle')
    return /^(on|yes|1|true)$/.test(t) ? 1 : /^(off|no|0|false)$/.test(t) ? 0 : undefined
  if (p.unit === 'beats') return parseLength(t)
  if (p.unit === 'pan') return parsePan(t)
  const pitch = p.unit === 'note' || p.unit === 'hertz' ? noteFrequency(t) : undefined
  if (pitch !== undefined) return p.unit === 'note' ? noteOf(pitch) : pitch
  if (p.unit === 'decibel' && /^-?(inf|∞|infinity|silence)(db)?$/.test(t)) return p.min
  const m = /^(?:[x×])?([+-]?\d*\.?\d+)(.*)$/.exec(t)
  if (!m) return undefined
  const scale = suffix(p, m[2] ?? '')
  return scale === undefined ? undefined : Number(m[1]) * scale
}

function suffix(p: ParamSpec, s: string): number | undefined {
  switch (p.unit) {
    case 'hertz':
      return { '': 1, 'hz': 1, 'k': 1000, 'khz': 1000, 'mhz': 0.001 }[s]
    case 'seconds':
      return { '': 0.001, 'ms': 0.001, 's': 1, 'sec': 1, 'µs': 1e-6, 'us': 1e-6 }[s]
    case 'decibel':
      return { '': 1, 'db': 1 }[s]
    case 'percent':
      return { '': 0.01, '%': 0.01 }[s]
    case 'semitones':
      return { '': 1, 'st': 1, 'ct': 0.01, 'oct': 12 }[s]
    case 'degrees':
      return { '': 1 / 360, '°': 1 / 360, 'deg': 1 / 360 }[s]
    case 'ratio':
      return { '': 1, ':1': 1 }[s]
    case 'tempo':
      return { '': 1, 'bpm': 1 }[s]
    default:
      return s === '' ? 1 : undefined
  }
}

/** Octaves and semitones, added up: `1oct`, `7st`, `1oct+7st`, `-20ct`; a bare number is octaves. */
function parseOctaves(t: string): number | undefined {
  if (/^[+-]?\d*\.?\d+$/.test(t)) return Number(t)
  const parts = [...t.matchAll(/([+-]?\d*\.?\d+)(octaves?|oct|semitones?|st|ct)/g)]
  if (parts.length === 0 || parts.map(([whole]) => whole).join('') !== t) return undefined
  return parts.reduce(
    (sum, [, n, unit]) => sum + Number(n) / (unit?.startsWith('o') ? 1 : unit === 'ct' ? 1200 : 12),
    0,
  )
}

function formatOctaves(value: number): string {
  const steps = Math.round(value * 1200) / 100
  const octaves = Math.trunc(steps / 12)
  const rest = Math.round((steps - 12 * octaves) * 100) / 100
  const part = (n: number, unit: string): string =>
    `${n > 0 ? '+' : ''}${String(n).replace('-', '−')} ${unit}`
  if (octaves === 0) return part(rest, 'st')
  return rest === 0 ? part(octaves, 'oct') : `${part(octaves, 'oct')} ${part(rest, 'st')}`
}

function parsePan(t: string): number | undefined {
  if (/^(m|middle|c|0)$/.test(t)) return 0
  const m = /^([+-]?\d*\.?\d+)%?(l|left|r|right)?$/.exec(t)
  if (!m) return undefined
  return (Number(m[1]) / 100) * (m[2]?.startsWith('l') ? -1 : 1)
}

function parseLength(t: string): number | undefined {
  const bars = /^(\d*\.?\d+)bars?$/.exec(t)
  if (bars) return Number(bars[1]) * 4
  const quarter = /^\+?(\d*\.?\d+)(beats?)?$/.exec(t)
  if (quarter) return Number(quarter[1])
  const m = /^(\d+)\/(\d+)(\.|t|d)?$/.exec(t)
  if (!m || Number(m[2]) === 0) return undefined
  return ((4 * Number(m[1])) / Number(m[2])) * (m[3] === 't' ? 2 / 3 : m[3] ? 1.5 : 1)
}

function formatLength(value: number): string {
  const known = noteLengths.find((n) => Math.abs(n.beats / value - 1) < 1e-6)
  if (known) return known.name
  const bars = value / 4
  if (bars >= 2 && Math.abs(bars * 8 - Math.round(bars * 8)) < 1e-6) return `${Number(bars.toFixed(3))} bars`
  for (const d of [4, 8, 16, 32]) {
    const n = (value * d) / 4
    if (Math.abs(n - Math.round(n)) < 1e-6) return `${Math.round(n)}/${d}`
  }
  return value >= 4 ? `${trim(value / 4, 2)} bars` : `${trim(value, 3)} beats`
}

function hint(p: ParamSpec): string {
  if (p.places) return `. Choose ${p.places.join(', ')}, or type a number from ${p.min} to ${p.max}`
  switch (p.unit) {
    case 'hertz':
      return '. Try 800, 1.2k, or a note such as C#4'
    case 'seconds':
      return '. Try 250ms or 1.5s'
    case 'decibel':
      return '. Try -6dB'
    case 'percent':
      return '. Try 40%'
    case 'note':
      return '. Try D3 or 62.5'
    case 'pan':
      return '. Try 30 left or middle'
    case 'beats':
      return '. Try 1/8., 1/4t, or 2 bars'
    case 'octaves':
      return '. Try +1 oct or −7 st'
    case 'factor':
      return '. Try 0.5 or *2'
    case 'choice':
      return `. Choose ${p.choices?.join(', ')}`
    case 'toggle':
      return '. Choose on or off'
    default:
      return ''
  }
}

/** A number with at most so many decimal places. */
const trimZeros = (v: number, digits: number): string =>
  String(Math.round(v * 10 ** digits) / 10 ** digits + 0).replace('-', '−')
const trim = (v: number, digits: number): string => v.toFixed(digits).replace('-', '−')
const signed = (v: number, digits: number, plus: boolean): string =>
  (plus && v > 0 ? '+' : '') + trim(Math.abs(v) < 0.5 * 10 ** -digits ? 0 : v, digits)
