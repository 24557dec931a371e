import { readPads } from '@oleaje/core/sources/kit'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { noteNames, scales } from '@oleaje/core/units/tuning'

/** One row of the notes of a track: a key, or a pad of a kit. */
export interface Row {
  readonly pitch: number
  readonly name: string
  readonly isBlack: boolean
}

const MIDDLE = 60
/** The highest MIDI note. */
const HIGHEST = 127

export const describeNote = (pitch: number): string =>
  `${noteNames[((Math.round(pitch) % 12) + 12) % 12]}${Math.floor(Math.round(pitch) / 12) - 1}`

/** Whether a track has pads: its notes are steps of a grid then. */
export const hasPads = (track: Track): boolean => readPads(track.source?.data).length > 0

/** The rows of a track, the highest first: its pads, or all keys. */
export function rowsOf(track: Track): Row[] {
  const pads = readPads(track.source?.data)
  if (pads.length)
    return pads
      .map((pad, i) => ({
        pitch: Math.round(track.source?.lanes?.pads?.[i]?.note ?? MIDDLE),
        name: pad.name,
        isBlack: false,
      }))
      .reverse()
  return Array.from({ length: HIGHEST + 1 }, (_, i) => ({
    pitch: HIGHEST - i,
    name: describeNote(HIGHEST - i),
    isBlack: (noteNames[(HIGHEST - i) % 12] ?? '').length > 1,
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
