import { LoudnessMeter } from '../dsp/loudness'
import { fromDb } from '../dsp/math'
import { setNoteLine } from '../project/note-edits'
import { apply, together, type Edit } from '../project/edit'
import { newProject, newSource, newTrack } from '../project/new'
import { type Preset, takePresetInto } from '../project/preset'
import { setParam } from '../project/value-edits'
import type { Project } from '../project/schema'
import type { AudioData, Stereo } from '../contract/audio'
import { planRender, render } from './render'

/** Material that a chain may suit, and that there is a phrase of. */
export const materials = ['drums', 'guitar', 'synth', 'pad', 'bass', 'voice', 'mix'] as const

export type Material = (typeof materials)[number]

/** What a chain is measured on: the sound of a material, a drum alone, or a test tone. */
export type Phrase = Material | 'snare' | 'hat' | 'crash' | 'sine'

/** Places of macros by their names, 0…1. */
export type MacroPlaces = Readonly<Record<string, number>>

/** Seconds of a phrase: two bars at 96 bpm. */
export const PHRASE_SECONDS = 5
/** Loudness of every phrase in LUFS. */
const LOUDNESS = -20

/** The sum of sounds, brought to the loudness of a phrase. */
export function phraseOf(sounds: readonly AudioData[]): AudioData {
  const rate = sounds[0]?.sampleRate ?? 48_000
  const sum: [Float32Array, Float32Array] = [
    new Float32Array(PHRASE_SECONDS * rate),
    new Float32Array(PHRASE_SECONDS * rate),
  ]
  for (const { channels } of sounds)
    sum.forEach((side, k) => {
      const from = channels[k] ?? channels[0] ?? side
      for (let i = 0; i < side.length; i++) side[i] = (side[i] as number) + (from[i] ?? 0)
    })
  const meter = new LoudnessMeter(rate)
  meter.process(...sum)
  const gain = fromDb(LOUDNESS - meter.integrated)
  for (const side of sum) for (let i = 0; i < side.length; i++) side[i] = (side[i] as number) * gain
  return { sampleRate: rate, channels: sum }
}

/** A short tune in D minor, for chains that follow notes. */
const tune = [62, 65, 69, 67, 74, 70, 65, 62].map((pitch, i) => ({
  start: i,
  length: 0.9,
  pitch,
  velocity: 0.5 + 0.5 * ((i % 3) / 2),
}))

const TRACK = 'phrase'

/** A project of one track that plays a phrase, through a preset or nothing. */
function projectOf(phrase: Phrase, preset: Preset | null, macros: MacroPlaces): Project {
  const source =
    phrase === 'sine'
      ? newSource('tone', { wave: 0, frequency: 220, level: LOUDNESS + 3 }, null, 'phrase-source')
      : newSource('loop', { tempo: 96 }, phrase, 'phrase-source')
  const project = { ...newProject('Phrase'), tempo: 96, loop: { on: true, start: 0, end: 8 } }
  project.tracks.unshift(newTrack('Phrase', source, TRACK))
  project.audio =
    phrase === 'sine'
      ? {}
      : { [phrase]: { name: phrase, frames: PHRASE_SECONDS * 48_000, channels: 2, sampleRate: 48_000 } }
  const edits: Edit[] = [setNoteLine(TRACK, { length: 8, notes: tune, bend: [], pressure: [] })]
  if (preset) edits.push(takePresetInto(TRACK, preset, { chainOf: TRACK }))
  const made = apply(project, together(...edits)).next
  return Object.entries(macros).reduce((p, [name, value]) => {
    const macro = p.tracks[0]?.modulators.find((m) => m.type === 'macro' && m.name === name)
    if (!macro) throw new RangeError(`“${preset?.name ?? ''}” has no macro “${name}”.`)
    return apply(p, setParam(macro.id, 'value', value)).next
  }, made)
}

/** Renders a phrase through a preset, or dry. `sound` gives the phrases made of sounds. */
export function phraseThrough(
  phrase: Phrase,
  preset: Preset | null,
  macros: MacroPlaces,
  sound: (phrase: Phrase) => AudioData | null,
): Stereo {
  const sampleRate = sound(phrase)?.sampleRate ?? 48_000
  const plan = planRender(
    { ...projectOf(phrase, preset, macros), sampleRate },
    { from: 0, to: PHRASE_SECONDS, tail: 0 },
  )
  const out: [Float32Array, Float32Array] = [new Float32Array(plan.frames), new Float32Array(plan.frames)]
  let at = 0
  for (const { channels, done } of render(plan, (name) => sound(name as Phrase))) {
    channels.forEach((c, k) => out[k as 0].set(c.subarray(0, done - at), at))
    at = done
  }
  return out
}
