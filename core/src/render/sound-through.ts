import { type AudioData, framesOf } from '../contract/audio'
import { atProjectRate } from '../formats/sound-names'
import { addAudioTrack } from '../project/chain-edits'
import { apply } from '../project/edit'
import { newProject, newSource } from '../project/new'
import { type Preset, takePresetInto } from '../project/preset'
import type { Project } from '../project/schema'
import { RenderError } from './render'

/** The track that the sound is on. */
export const SOUND_TRACK = 'sound'

/** Rates in Hz of the engine; a sound of another rate is brought to the usual one. */
const LEAST_RATE = 44_100
const MOST_RATE = 96_000
const USUAL_RATE = 48_000

/**
 * A project in which one sound goes through a chain, from its start to its end, which are those of the loop.
 * The same sound and preset always give the same project.
 * @param tempo in bpm, for times that are synced
 * @throws RenderError where the preset needs sounds of its own
 */
export async function soundThrough(
  preset: Preset,
  hash: string,
  sound: AudioData,
  tempo: number,
): Promise<{ readonly project: Project; readonly audio: ReadonlyMap<string, AudioData> }> {
  const rate = sound.sampleRate
  const isRate = Number.isInteger(rate) && rate >= LEAST_RATE && rate <= MOST_RATE
  const sampleRate = isRate ? rate : USUAL_RATE
  const frames = framesOf(sound)
  const ref = { name: 'sound', frames, channels: sound.channels.length || 2, sampleRate: rate }
  const start: Project = { ...newProject('sound'), id: 'sound-through', sampleRate, tempo }
  const source = newSource('loop', {}, hash)
  const { next } = apply(start, addAudioTrack('sound', source, hash, ref, SOUND_TRACK))
  const made = apply(next, takePresetInto(SOUND_TRACK, preset, { chainOf: SOUND_TRACK })).next
  for (const [needed, { name }] of Object.entries(made.audio))
    if (needed !== hash)
      throw new RenderError(
        `The preset works with the sound “${name}”, which is not there. Render it in the app.`,
      )
  const loop = { on: false, start: 0, end: (frames / rate) * (tempo / 60) }
  return atProjectRate({
    project: { ...withSteadyIds(made), loop },
    audio: new Map([[hash, sound]]),
  })
}

/** A project with numbers for the ids that were made just now, so that it is the same each time. */
function withSteadyIds(project: Project): Project {
  const text = JSON.stringify(project)
  const ids = new Map<string, string>()
  for (const [, id = ''] of text.matchAll(/"id":"([\w-]{10})"/g))
    if (!ids.has(id)) ids.set(id, `id-${ids.size}`)
  const steady = text.replace(
    /"([\w-]{10})(\.[^"]*)?"/g,
    (_, id: string, rest = '') => `"${ids.get(id) ?? id}${rest}"`,
  )
  return JSON.parse(steady) as Project
}
