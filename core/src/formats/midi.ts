import { type MidiData, type MidiEvent, parseMidi, writeMidi } from 'midi-file'
import { limits, sentenceOf } from '../limits'
import type { Note, NoteLine } from '../project/schema'

/** A Standard MIDI File that cannot be taken. The message says what is wrong, to follow the file's name. */
export class MidiFileError extends Error {
  override name = 'MidiFileError'
}

/** The notes of one channel of one track of a file. */
export interface MidiPart {
  readonly name: string
  /** 0…15; 9 is that of drums by custom. */
  readonly channel: number
  readonly notes: readonly Note[]
  /** Place 0…1 over quarter notes, ½ for none. */
  readonly bend: NoteLine['bend']
  readonly pressure: NoteLine['pressure']
}

/** Notes of one pitch as they began, and how many of them have ended: the first ends first. */
interface Held {
  readonly begun: { readonly start: number; readonly velocity: number }[]
  ended: number
}

export interface MidiFile {
  readonly parts: readonly MidiPart[]
  /** The first tempo in bpm; null where the file has none. */
  readonly tempo: number | null
  /** How often the tempo changes after that, which a project cannot follow. */
  readonly tempoChanges: number
  readonly beatsPerBar: number | null
  /** Quarter notes to the end of the longest track. */
  readonly length: number
}

/** Ticks of a quarter note in files that are written: a multiple of every resolution in use up to 1,024. */
const TICKS = 15_360

/**
 * Reads a Standard MIDI File of type 0 or 1 (*Standard MIDI Files 1.0*, MIDI Manufacturers Association,
 * 1988). A track of several channels becomes a part for each. @throws MidiFileError
 */
export function readMidiFile(bytes: Uint8Array): MidiFile {
  if (bytes.length > limits.midiFile.most)
    throw new MidiFileError(sentenceOf('midiFile', Math.ceil(bytes.length / 1e6)))
  let data: MidiData
  checkLengths(bytes)
  try {
    data = parseMidi(bytes)
  } catch {
    throw new MidiFileError('it is not a Standard MIDI File, or it is truncated.')
  }
  const { format, ticksPerBeat } = data.header
  if (format === 2)
    throw new MidiFileError(
      'it is of type 2, whose tracks do not play together. Types 0 and 1 can be imported.',
    )
  if (!ticksPerBeat) throw new MidiFileError('its times are in SMPTE frames, not in beats.')
  const tempos: number[] = []
  let beatsPerBar: number | null = null
  let length = 0
  const parts: MidiPart[] = []
  data.tracks.forEach((track, index) => {
    const channels = new Map<
      number,
      { notes: Note[]; bend: NoteLine['bend']; pressure: NoteLine['pressure']; open: Map<number, Held> }
    >()
    let name = ''
    let ticks = 0
    const of = (channel: number) => {
      const known = channels.get(channel)
      if (known) return known
      const made = { notes: [], bend: [], pressure: [], open: new Map<number, Held>() }
      channels.set(channel, made)
      return made
    }
    for (const event of track) {
      ticks += event.deltaTime
      const at = ticks / ticksPerBeat
      if (event.type === 'trackName') name ||= fromBytes(event.text).trim().slice(0, 120)
      else if (event.type === 'setTempo') {
        if (event.microsecondsPerBeat > 0) tempos.push(60_000_000 / event.microsecondsPerBeat)
      } else if (event.type === 'timeSignature') beatsPerBar ??= (event.numerator * 4) / event.denominator
      else if (event.type === 'noteOn' && event.velocity > 0) {
        if (event.noteNumber > 127)
          throw new MidiFileError('it has notes that there are no keys for: it is damaged.')
        const { open } = of(event.channel)
        const held = open.get(event.noteNumber) ?? { begun: [], ended: 0 }
        open.set(event.noteNumber, held)
        held.begun.push({ start: at, velocity: Math.min(1, event.velocity / 127) })
      } else if (event.type === 'noteOff' || event.type === 'noteOn') {
        const { open, notes } = of(event.channel)
        // of two alike that sound at once, the first ends first
        const held = open.get(event.noteNumber)
        const begun = held?.begun[held.ended]
        if (held && begun) {
          held.ended++
          notes.push({
            start: begun.start,
            length: Math.max(1 / ticksPerBeat, at - begun.start),
            pitch: event.noteNumber,
            velocity: begun.velocity,
          })
        }
      } else if (event.type === 'pitchBend')
        of(event.channel).bend.push({ x: at, y: clamp01((event.value + 8192) / 16_384), bend: 0 })
      else if (event.type === 'channelAftertouch')
        of(event.channel).pressure.push({ x: at, y: clamp01(event.amount / 127), bend: 0 })
    }
    length = Math.max(length, ticks / ticksPerBeat)
    if (length > limits.beats.most) throw new MidiFileError(`${limits.beats.sentence}.`)
    for (const [channel, { notes, bend, pressure, open }] of [...channels].sort((a, b) => a[0] - b[0])) {
      // a note without an end sounds until the end
      for (const [pitch, held] of open)
        for (const { start, velocity } of held.begun.slice(held.ended))
          notes.push({
            start,
            length: Math.max(1 / ticksPerBeat, ticks / ticksPerBeat - start),
            pitch,
            velocity,
          })
      if (notes.length === 0) continue
      notes.sort((a, b) => a.start - b.start || a.pitch - b.pitch)
      parts.push({
        name: name || `Part ${index + 1}`,
        channel,
        notes,
        bend: thinned(bend),
        pressure: thinned(pressure),
      })
    }
  })
  for (const part of parts)
    if (part.notes.length > limits.notes.most)
      throw new MidiFileError(
        `its part “${part.name}” has ${part.notes.length.toLocaleString('en')} notes; ${limits.notes.sentence}.`,
      )
  return {
    parts,
    tempo: tempos[0] ?? null,
    tempoChanges: Math.max(
      0,
      tempos.filter((t, i) => i > 0 && Math.abs(t - (tempos[i - 1] ?? t)) > 1e-6).length,
    ),
    beatsPerBar,
    length,
  }
}

const clamp01 = (x: number): number => Math.min(1, Math.max(0, x))

/** A course with as many points as a line takes: those that differ least from the one before go first. */
function thinned(points: NoteLine['bend']): NoteLine['bend'] {
  let kept = points
  for (let apart = 1 / 512; kept.length > limits.points.most; apart *= 2) {
    let last: NoteLine['bend'][number] | undefined
    const least = apart
    const next = kept.filter((p, i) => {
      if (last && i < kept.length - 1 && Math.abs(p.y - last.y) < least) return false
      last = p
      return true
    })
    // a course that leaps everywhere loses every second point
    kept = apart > 1 ? next.filter((_, i) => i % 2 === 0) : next
  }
  return kept
}

/**
 * Looks through all events for lengths that are no lengths: of more than four bytes, or beyond the end of
 * their track. The parser that follows would count with them for ever. @throws MidiFileError
 */
function checkLengths(bytes: Uint8Array): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const damaged = (): MidiFileError =>
    new MidiFileError('it is not a Standard MIDI File, or it is truncated.')
  let at = 0
  while (at + 8 <= bytes.length) {
    const isTrack = view.getUint32(at) === 0x4d54_726b
    const end = at + 8 + view.getUint32(at + 4)
    if (end > bytes.length) throw damaged()
    at += 8
    if (isTrack) checkTrack(bytes, at, end, damaged)
    at = end
  }
}

function checkTrack(bytes: Uint8Array, from: number, end: number, damaged: () => MidiFileError): void {
  let at = from
  const readLength = (): number => {
    let value = 0
    for (let k = 0; k < 4; k++) {
      if (at >= end) throw damaged()
      const byte = bytes[at++] as number
      value = value * 128 + (byte & 127)
      if (byte < 128) return value
    }
    throw damaged()
  }
  // what an event that names no kind of its own is
  let running = 0
  while (at < end) {
    readLength()
    if (at >= end) throw damaged()
    const byte = bytes[at] as number
    if (byte >= 128) at++
    const status = byte >= 128 ? byte : running
    if (byte >= 128 && byte < 0xf0) running = byte
    if (status === 0xff) {
      at++
      const length = readLength()
      at += length
    } else if (status === 0xf0 || status === 0xf7) {
      const length = readLength()
      at += length
    } else if (status < 128) throw damaged()
    else at += (status & 0xe0) === 0xc0 ? 1 : 2
    if (at > end) throw damaged()
  }
}

type WrittenLine = Readonly<Pick<NoteLine, 'bend' | 'pressure' | 'length'>> & {
  readonly notes: readonly Note[]
}

/**
 * Writes lines of notes as a Standard MIDI File: of type 0 for one, else of type 1 with a track of its own
 * for the tempo.
 */
export function writeMidiFile(
  lines: readonly { readonly name: string; readonly line: WrittenLine; readonly channel?: number }[],
  tempo: number,
  beatsPerBar: number,
): Uint8Array {
  const head: MidiEvent[] = [
    { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: Math.round(60_000_000 / tempo) },
    {
      deltaTime: 0,
      meta: true,
      type: 'timeSignature',
      numerator: beatsPerBar,
      denominator: 4,
      metronome: 24,
      thirtyseconds: 8,
    },
  ]
  const tracks = lines.map(({ name, line, channel = 0 }) => {
    const timed: { at: number; order: number; event: MidiEvent }[] = []
    const put = (beats: number, order: number, event: MidiEvent): void => {
      timed.push({ at: Math.round(beats * TICKS), order, event })
    }
    for (const n of line.notes) {
      const noteNumber = Math.min(127, Math.max(0, Math.round(n.pitch)))
      const start = Math.round(n.start * TICKS)
      put(n.start, 2, {
        deltaTime: 0,
        type: 'noteOn',
        channel,
        noteNumber,
        velocity: Math.max(1, Math.round(n.velocity * 127)),
      })
      // an end comes before a beginning at the same time, but never before its own
      timed.push({
        at: Math.max(start + 1, Math.round((n.start + n.length) * TICKS)),
        order: 0,
        event: { deltaTime: 0, type: 'noteOff', channel, noteNumber, velocity: 64 },
      })
    }
    for (const p of line.bend)
      put(p.x, 1, {
        deltaTime: 0,
        type: 'pitchBend',
        channel,
        value: Math.min(8191, Math.round(p.y * 16_384) - 8192),
      })
    for (const p of line.pressure)
      put(p.x, 1, { deltaTime: 0, type: 'channelAftertouch', channel, amount: Math.round(p.y * 127) })
    timed.sort((a, b) => a.at - b.at || a.order - b.order)
    let before = 0
    const events = timed.map(({ at, event }) => {
      const deltaTime = at - before
      before = at
      return { ...event, deltaTime }
    })
    const end = Math.max(0, Math.round(line.length * TICKS) - before)
    return [
      { deltaTime: 0, meta: true, type: 'trackName', text: toBytes(name) } satisfies MidiEvent,
      ...events,
      { deltaTime: end, meta: true, type: 'endOfTrack' } satisfies MidiEvent,
    ] as MidiEvent[]
  })
  const [first] = tracks
  const all =
    tracks.length === 1 && first
      ? [[...head, ...first]]
      : [[...head, { deltaTime: 0, meta: true, type: 'endOfTrack' } as MidiEvent], ...tracks]
  return Uint8Array.from(
    writeMidi({
      header: { format: all.length === 1 ? 0 : 1, numTracks: all.length, ticksPerBeat: TICKS },
      tracks: all,
    }),
  )
}

/** Text of a file is bytes, one to a character; names are written as UTF-8. */
const toBytes = (text: string): string =>
  encodeURIComponent(text).replace(/%([0-9A-F]{2})/g, (_, hex: string) =>
    String.fromCharCode(parseInt(hex, 16)),
  )
function fromBytes(text: string): string {
  try {
    return decodeURIComponent(
      Array.from(text, (c) => `%${c.charCodeAt(0).toString(16).padStart(2, '0')}`).join(''),
    )
  } catch {
    return text
  }
}
