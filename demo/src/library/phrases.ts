import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { fromDb } from '@oleaje/core/dsp/math'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import { apply, together, type Edit } from '@oleaje/core/project/edit'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { type Preset, takePresetInto } from '@oleaje/core/project/preset'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Project } from '@oleaje/core/project/schema'
import type { AudioData } from '@oleaje/core/contract/audio'
import { planRender, render } from '@oleaje/core/render/render'
import type { Stereo } from '@oleaje/core/analysis/sound-figures'
import type { Material } from './chain-maker'
import type { MacroAt } from './points'

/** What a chain is measured on: the sound of a material, a drum alone, or a test tone. */
export type Phrase = Material | 'snare' | 'hat' | 'crash' | 'sine'

/** Seconds of a phrase: two bars at 96 bpm. */
export const PHRASE_SECONDS = 5
/** Loudness of every phrase in LUFS. */
const LOUDNESS = -20

/** The sounds of the demo that a phrase is made of, by file. */
export const phraseFiles: Readonly<Record<Exclude<Phrase, 'sine'>, readonly string[]>> = {
  drums: ['deck-kit'],
  guitar: ['rope-guitar'],
  synth: ['galley-keys'],
  pad: ['fog-pad'],
  bass: ['hull-bass'],
  voice: ['foghorn-voice'],
  mix: ['deck-kit', 'hull-bass', 'galley-keys', 'fog-pad'],
  snare: ['deck-snare'],
  hat: ['deck-hat'],
  crash: ['deck-crash'],
}

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
function projectOf(phrase: Phrase, preset: Preset | null, macros: MacroAt): Project {
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
  macros: MacroAt,
  sound: (phrase: Phrase) => AudioData | null,
): Stereo {
  const plan = planRender(projectOf(phrase, preset, macros), { from: 0, to: PHRASE_SECONDS, tail: 0 })
  const out: [Float32Array, Float32Array] = [new Float32Array(plan.frames), new Float32Array(plan.frames)]
  let at = 0
  for (const { channels, done } of render(plan, (name) => sound(name as Phrase))) {
    channels.forEach((c, k) => out[k as 0].set(c.subarray(0, done - at), at))
    at = done
  }
  return out
}
