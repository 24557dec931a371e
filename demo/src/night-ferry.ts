import { toDb } from '@oleaje/core/dsp/math'
import { Random } from '@oleaje/core/dsp/random'
import { Tape, bassNote, foghorn, keysNote, kick, master, metal, padNote, pluck, snare } from './voices'

/** Chords of the four bars: D minor, B flat, F, C. Bass note first, then the voices above. */
const chords = [
  [38, 62, 65, 69],
  [34, 62, 65, 70],
  [41, 60, 65, 69],
  [36, 60, 64, 67],
] as const

/** All tapes of the harbour play, by file name: what is in them, and whether both sides differ. */
export const tapes: readonly {
  readonly file: string
  readonly title: string
  readonly stereo: boolean
  readonly record: () => Float32Array[]
}[] = [
  { file: 'deck-kit', title: 'Deck kit', stereo: true, record: deckKit },
  { file: 'deck-kick', title: 'Deck kit, kick', stereo: false, record: stem('kick') },
  { file: 'deck-snare', title: 'Deck kit, snare', stereo: false, record: stem('snare') },
  { file: 'deck-hat', title: 'Deck kit, closed hat', stereo: false, record: stem('hat') },
  { file: 'deck-open-hat', title: 'Deck kit, open hat', stereo: false, record: stem('open hat') },
  { file: 'deck-crash', title: 'Deck kit, crash', stereo: false, record: stem('crash') },
  { file: 'one-kick', title: 'Stroke, kick', stereo: false, record: () => struck(kick()) },
  { file: 'one-snare', title: 'Stroke, snare', stereo: false, record: () => struck(snare(1, 1)) },
  {
    file: 'one-hat',
    title: 'Stroke, closed hat',
    stereo: false,
    record: () => struck(metal(102, 0.028, 7800, 0.12)),
  },
  {
    file: 'one-open-hat',
    title: 'Stroke, open hat',
    stereo: false,
    record: () => struck(metal(214, 0.16, 7000, 0.5)),
  },
  { file: 'one-crash', title: 'Stroke, crash', stereo: false, record: () => struck(metal(7, 0.9, 3800, 3)) },
  { file: 'rope-guitar', title: 'Rope guitar', stereo: false, record: ropeGuitar },
  { file: 'fog-pad', title: 'Fog pad', stereo: true, record: fogPad },
  { file: 'hull-bass', title: 'Hull bass', stereo: false, record: hullBass },
  { file: 'galley-keys', title: 'Galley keys', stereo: false, record: galleyKeys },
  { file: 'foghorn-voice', title: 'Foghorn voice', stereo: false, record: foghornVoice },
  { file: 'line-in', title: 'Line performance', stereo: false, record: linePerformance },
]

export type Drum = 'kick' | 'snare' | 'hat' | 'open hat' | 'crash'

/** Every stroke of the kit's two bars, in the order in which they are laid on tape. */
export function strokes(): { drum: Drum; sound: Float64Array; beat: number; level: number; pan: number }[] {
  const all: ReturnType<typeof strokes> = []
  const hit = (drum: Drum, sound: Float64Array, beat: number, level: number, pan = 0): void => {
    all.push({ drum, sound, beat, level, pan })
  }
  const random = new Random(96)
  const low = kick()
  for (const beat of [0, 1.5, 2.75, 4, 5.5, 6.25]) hit('kick', low, beat, beat % 4 === 0 ? 0 : -2)
  for (const beat of [1, 3, 5, 7]) hit('snare', snare(beat, 1), beat, -3, 0.05)
  for (const beat of [2.75 + 1, 6.75]) hit('snare', snare(50 + beat, 0.8), beat, -14, 0.05)
  for (let i = 0; i < 32; i++) {
    const beat = i / 4 + (i % 2 ? 0.035 : 0)
    if (i === 14 || i === 30) hit('open hat', metal(200 + i, 0.16, 7000, 0.5), beat, -13, 0.25)
    else if (random.next() > (i % 2 ? 0.25 : 0))
      hit('hat', metal(100 + i, 0.028, 7800, 0.12), beat, (i % 4 === 2 ? -11 : -16) - 3 * random.next(), 0.25)
  }
  hit('crash', metal(7, 0.9, 3800, 3), 0, -17, -0.35)
  return all
}

function record(drums: readonly Drum[] | null): Tape {
  const tape = new Tape(8)
  for (const s of strokes()) if (!drums || drums.includes(s.drum)) tape.add(s.sound, s.beat, s.level, s.pan)
  return tape
}

function deckKit(): Float32Array[] {
  return master(record(null), -4)
}

/** One drum of the kit by itself, in its place in the two bars. */
function stem(drum: Drum): () => Float32Array[] {
  return () => master(record([drum]), -8)
}

/** One stroke by itself, as loud as the drum is on tape. */
const struck = (sound: Float64Array): Float32Array[] => [Float32Array.from(sound, (x) => 0.5 * x)]

function ropeGuitar(): Float32Array[] {
  const tape = new Tape(16)
  const random = new Random(3)
  const pattern = [0, 2, 1, 3, 2, 1, 3, 2]
  chords.forEach((chord, bar) => {
    const voices = [chord[0] + 12, chord[1] - 12, chord[2] - 12, chord[3] - 12]
    pattern.forEach((v, i) => {
      const beat = bar * 4 + i / 2 + (random.next() - 0.5) * 0.02
      tape.add(
        pluck(voices[v] as number, 1.9, bar * 16 + i, i % 4 === 0 ? 0.85 : 0.5),
        Math.max(0, beat),
        i % 4 === 0 ? 0 : -3 - 2 * random.next(),
      )
    })
  })
  return master(tape, -5)
}

function fogPad(): Float32Array[] {
  const tape = new Tape(16)
  chords.forEach((chord, bar) => {
    for (const [i, note] of [chord[1], chord[2], chord[3], chord[0] + 12].entries()) {
      tape.add(padNote(note, 3.6, bar * 5 + i, 0), bar * 4, 0, -0.9)
      tape.add(padNote(note, 3.6, bar * 5 + i, 1), bar * 4, 0, 0.9)
    }
  })
  return master(tape, -6)
}

function hullBass(): Float32Array[] {
  const tape = new Tape(16)
  chords.forEach(([root], bar) => {
    for (const [beat, length, step] of [
      [0, 1.4, 0],
      [1.5, 0.45, 0],
      [2.75, 0.3, 12],
      [3, 0.9, 0],
      [3.5, 0.4, 7],
    ] as const) {
      tape.add(bassNote(root + step, length * 0.625 + 0.06), bar * 4 + beat, step === 12 ? -3 : 0)
    }
  })
  return master(tape, -5)
}

function galleyKeys(): Float32Array[] {
  const tape = new Tape(16)
  chords.forEach((chord, bar) => {
    for (const [beat, velocity] of [
      [0.5, 0.7],
      [1.75, 1],
      [3.25, 0.55],
    ] as const) {
      for (const [i, note] of chord.slice(1).entries())
        tape.add(keysNote(note, 1.5, velocity), bar * 4 + beat + i * 0.012, -4)
      tape.add(keysNote(chord[2] + 9, 1.2, velocity * 0.7), bar * 4 + beat + 0.04, -6)
    }
  })
  return master(tape, -6)
}

function foghornVoice(): Float32Array[] {
  const tape = new Tape(16)
  tape.add(foghorn(38, 3.4), 0, 0)
  tape.add(foghorn(33, 2.2), 10, -3)
  return master(tape, -6)
}

function linePerformance(): Float32Array[] {
  const tape = new Tape(16)
  const riff = [
    [0, 50, 1],
    [0.75, 53, 0.6],
    [1.5, 57, 0.8],
    [2.5, 55, 0.7],
    [3.5, 53, 0.5],
    [4, 58, 1],
    [5, 57, 0.6],
    [6, 53, 0.8],
    [7.25, 50, 0.6],
    [8, 57, 1],
    [9, 60, 0.9],
    [9.75, 57, 0.6],
    [11, 53, 0.8],
    [12, 55, 1],
    [12.75, 52, 0.6],
    [13.5, 48, 0.7],
    [15, 52, 0.5],
  ] as const
  for (const [beat, note, velocity] of riff)
    tape.add(pluck(note, 1.7, note * 3 + beat * 8, velocity), beat, toDb(velocity))
  return master(tape, -8)
}
