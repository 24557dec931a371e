import { log2 } from '../dsp/math'

/** Scales by name: which of the twelve semitones above the root belong to them. */
export const scales: readonly { readonly name: string; readonly degrees: readonly number[] }[] = [
  { name: 'semitones', degrees: [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11] },
  { name: 'major', degrees: [0, 2, 4, 5, 7, 9, 11] },
  { name: 'minor', degrees: [0, 2, 3, 5, 7, 8, 10] },
  { name: 'dorian', degrees: [0, 2, 3, 5, 7, 9, 10] },
  { name: 'pentatonic', degrees: [0, 3, 5, 7, 10] },
  { name: 'whole tones', degrees: [0, 2, 4, 6, 8, 10] },
  { name: 'fifths', degrees: [0, 7] },
  { name: 'octaves', degrees: [0] },
]

export const noteNames = ['C', 'C♯', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B'] as const

/** MIDI note number, with its fraction, of a frequency in Hz; A4 = 440 Hz is 69. */
export const noteOf = (hz: number): number => 69 + 12 * log2(hz / 440)

/**
 * Distance in semitones to the nearest degree for each sixteenth of a semitone within an octave, by scale.
 */
const nearest: readonly Float64Array[] = scales.map(({ degrees }) =>
  Float64Array.from({ length: 12 * 16 }, (_, i) => {
    const x = i / 16
    let best = Infinity
    for (const d of degrees)
      for (const octave of [-12, 0, 12]) if (Math.abs(d + octave - x) < Math.abs(best - x)) best = d + octave
    return best
  }),
)

/** The note of a scale on `root` (0 for C) that is nearest to a note number with a fraction. */
export function inScale(note: number, root: number, scale: number): number {
  const octave = Math.floor((note - root) / 12)
  const within = note - root - 12 * octave
  return root + 12 * octave + nearest[scale][Math.min(191, (within * 16 + 0.5) | 0)]
}

/**
 * So many notes of a chord from a root upwards: every second degree of a scale of six or seven, every degree
 * of one with fewer; semitones as they are.
 */
export function chordOf(root: number, scale: number, count: number): number[] {
  const { degrees } = scales[scale]
  const step = degrees.length === 6 || degrees.length === 7 ? 2 : 1
  return Array.from(
    { length: count },
    (_, i) => root + 12 * Math.floor((i * step) / degrees.length) + degrees[(i * step) % degrees.length],
  )
}
