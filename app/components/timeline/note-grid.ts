import { readPads } from '@oleaje/core/sources/kit'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { noteNames, scales } from '@oleaje/core/units/tuning'

/** One row of the notes of a track: a key, or a pad of a kit. */
export interface Row {
  readonly pitch: number
  readonly name: string
  readonly isBlack: boolean
}

/** Rows shown at the least, and above and below the notes that there are. */
const LEAST_ROWS = 25
const AROUND = 4
const MIDDLE = 60

export const describeNote = (pitch: number): string =>
  `${noteNames[((Math.round(pitch) % 12) + 12) % 12]}${Math.floor(Math.round(pitch) / 12) - 1}`

/** Whether a track has pads: its notes are steps of a grid then. */
export const hasPads = (track: Track): boolean => readPads(track.source?.data).length > 0

/** Keys that are shown: from the lowest to the highest. */
export interface Range {
  readonly low: number
  readonly high: number
}

/**
 * The keys around the notes of a track, and all that were shown before, so that nothing moves under the hand.
 */
export function rangeOf(track: Track, before?: Range): Range {
  const pitches = track.line?.notes.map((n) => Math.round(n.pitch)) ?? []
  if (before && pitches.every((p) => p >= before.low && p <= before.high)) return before
  let low = Math.min(...pitches, before ? before.low + AROUND : MIDDLE) - AROUND
  let high = Math.max(...pitches, before ? before.high - AROUND : MIDDLE) + AROUND
  while (high - low + 1 < LEAST_ROWS) {
    low--
    high++
  }
  return { low: Math.max(0, low), high: Math.min(127, high) }
}

/** The rows of a track, the highest first: its pads, or the keys of a range. */
export function rowsOf(track: Track, { low, high }: Range): Row[] {
  const pads = readPads(track.source?.data)
  if (pads.length)
    return pads
      .map((pad, i) => ({
        pitch: Math.round(track.source?.lanes?.pads?.[i]?.note ?? MIDDLE),
        name: pad.name,
        isBlack: false,
      }))
      .reverse()
  return Array.from({ length: high - low + 1 }, (_, i) => ({
    pitch: high - i,
    name: describeNote(high - i),
    isBlack: (noteNames[(high - i) % 12] ?? '').length > 1,
  }))
}

/** Whether a key belongs to a scale on a root. */
export const isInScale = (pitch: number, root: number, scale: number): boolean =>
  scales[scale]?.degrees.includes((((pitch - root) % 12) + 12) % 12) ?? true

/** A note as it is spoken. */
export const noteInWords = (n: NoteLine['notes'][number]): string =>
  `${describeNote(n.pitch)}, beat ${Math.round(n.start * 1000) / 1000 + 1}, ${Math.round(n.length * 1000) / 1000} long, velocity ${Math.round(n.velocity * 127)}`

/** Which note is drawn at a place, the last one on top; −1 for none. */
export function noteAt(line: NoteLine, beat: number, pitch: number, slack: number): number {
  for (let i = line.notes.length - 1; i >= 0; i--) {
    const n = line.notes[i]
    if (
      n &&
      Math.round(n.pitch) === pitch &&
      beat >= n.start - slack &&
      beat < n.start + Math.max(n.length, slack)
    )
      return i
  }
  return -1
}
