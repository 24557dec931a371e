import { pow } from '@oleaje/core/dsp/math'
import { kitWith } from '@oleaje/core/project/kit-edits'
import { newSource, newTrack } from '@oleaje/core/project/new'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { FIRST_PAD } from '@oleaje/core/sources/kit'
import type { DemoSound } from './assemble'
import { type Drum, strokes } from './night-ferry'

/** The pads of the deck kit: what strikes them on tape, where they stand, and what they are called. */
const pads: readonly {
  readonly drum: Drum
  readonly name: string
  readonly file: string
  readonly pan: number
  readonly choke?: number
}[] = [
  { drum: 'kick', name: 'kick', file: 'one-kick', pan: 0 },
  { drum: 'snare', name: 'snare', file: 'one-snare', pan: 0.08 },
  { drum: 'hat', name: 'closed hat', file: 'one-hat', pan: 0.33, choke: 1 },
  { drum: 'open hat', name: 'open hat', file: 'one-open-hat', pan: 0.33, choke: 1 },
  { drum: 'crash', name: 'crash', file: 'one-crash', pan: -0.44 },
]

/** The deck kit as pads, and the two bars that it plays. */
export function deckKit(sounds: readonly DemoSound[], id: string, level: number): Track {
  const hashOf = (file: string): string => {
    const sound = sounds.find((s) => s.file === file)
    if (!sound) throw new RangeError(`The demo has no sound “${file}”.`)
    return sound.hash
  }
  const loudest = new Map(
    pads.map(({ drum }) => [
      drum,
      Math.max(
        ...strokes()
          .filter((s) => s.drum === drum)
          .map((s) => s.level),
      ),
    ]),
  )
  const source = kitWith(
    newSource('kit', { toLevel: 1, level: 4.7 }, null, `${id}-source`),
    pads.map(({ name, file }) => ({ name, audio: hashOf(file) })),
  )
  source.lanes = {
    pads: pads.map(({ drum, pan, choke = 0 }, i) => ({
      note: FIRST_PAD + i,
      level: Math.round((loudest.get(drum) ?? 0) * 10) / 10,
      pan,
      choke,
    })),
  }
  const notes = strokes()
    .map(({ drum, beat, level: db }) => ({
      start: Math.round(beat * 960) / 960,
      length: 0.2,
      pitch: FIRST_PAD + pads.findIndex((p) => p.drum === drum),
      // a velocity counts twice in dB
      velocity: Math.round(Math.max(1 / 127, pow(10, (db - (loudest.get(drum) ?? 0)) / 40)) * 127) / 127,
    }))
    .sort((a, b) => a.start - b.start || a.pitch - b.pitch)
  const line: NoteLine = { length: 8, notes, bend: [], pressure: [] }
  return { ...newTrack('Deck kit', source, id), params: { level, pan: 0, mute: 0 }, line }
}
