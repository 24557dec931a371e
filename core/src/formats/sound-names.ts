import { type AudioData, framesOf } from '../contract/audio'
import type { Project } from '../project/schema'
import { audioHash } from './hash'
import { resample } from './resample'

interface Sounds {
  readonly project: Project
  readonly audio: ReadonlyMap<string, AudioData>
}

/**
 * Brings the sounds of a project to its rate. What is another sound then has another name, here and wherever
 * the project uses it.
 */
export async function atProjectRate({ project, audio }: Sounds): Promise<Sounds> {
  const { sampleRate } = project
  if ([...audio.values()].every((sound) => sound.sampleRate === sampleRate)) return { project, audio }
  return underTrueNames({
    project,
    audio: new Map([...audio].map(([hash, sound]) => [hash, brought(sound, sampleRate)])),
  })
}

function brought(sound: AudioData, to: number): AudioData {
  if (sound.sampleRate === to) return sound
  return (
    sound.atRate?.(to) ?? {
      sampleRate: to,
      channels: sound.channels.map((c) => resample(c, sound.sampleRate, to)),
    }
  )
}

/**
 * A project whose sounds all have the names that their content gives them. Long ones have theirs, or the one
 * in `known`.
 */
export async function underTrueNames(
  { project, audio }: Sounds,
  known: ReadonlyMap<string, string> = new Map(),
): Promise<Sounds> {
  const names = new Map<string, string>()
  for (const [hash, sound] of audio)
    names.set(hash, known.get(hash) ?? (sound.pieces ? hash : await audioHash(sound)))
  if ([...names].every(([before, now]) => before === now)) return { project, audio }
  const refs = Object.entries(project.audio).map(([hash, ref]) => {
    const sound = audio.get(hash)
    return [
      names.get(hash) ?? hash,
      sound
        ? {
            ...ref,
            frames: framesOf(sound) || 1,
            channels: sound.pieces?.channelCount ?? sound.channels.length,
            sampleRate: sound.sampleRate,
          }
        : ref,
    ] as const
  })
  return {
    project: {
      ...project,
      tracks: renamed(project.tracks, names) as Project['tracks'],
      audio: Object.fromEntries(refs),
    },
    audio: new Map([...audio].map(([hash, sound]) => [names.get(hash) ?? hash, sound])),
  }
}

/**
 * Data in which every text or key that is one of the names is the new one: sources and effects name sounds by
 * their hash alone, projects list them under it.
 */
export function renamed(data: unknown, names: ReadonlyMap<string, string>): unknown {
  if (typeof data === 'string') return names.get(data) ?? data
  if (Array.isArray(data)) return data.map((x) => renamed(x, names))
  if (typeof data === 'object' && data !== null)
    return Object.fromEntries(Object.entries(data).map(([k, v]) => [names.get(k) ?? k, renamed(v, names)]))
  return data
}
