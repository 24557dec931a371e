import { listensTo, presetOfTrack } from '../project/preset'
import type { Project, Track } from '../project/schema'
import { trackAlone } from '../project/track-alone'
import { heardChain, nodesIn, trackOf } from '../project/walk'
import { modulatorDefinition } from '../modulators/index'
import { soundsOf } from '../sources/index'
import { feedSource } from './feed'

/** What drives an exported chain: sound of the host page, or notes that play the track’s own source. */
export type ChainForm = 'effect' | 'notes'

/** A macro as a parameter of the module. */
export interface ChainMacro {
  /** Id of the modulator. */
  readonly id: string
  /** Name in code, unique within the module. */
  readonly key: string
  readonly name: string
  /** 0…1 where it starts. */
  readonly value: number
}

/** What an exported module plays. */
export interface ChainData {
  readonly name: string
  readonly form: ChainForm
  readonly track: string
  readonly project: Project
  readonly macros: readonly ChainMacro[]
}

/** An export with what it needs and what it leaves out. */
export interface ChainExport {
  readonly data: ChainData
  /** Ids of the parts that it uses. */
  readonly effects: readonly string[]
  readonly modulators: readonly string[]
  readonly sources: readonly string[]
  /** Hashes of the sounds that go into the module. */
  readonly sounds: readonly string[]
  /** Names of tracks that the chain listens to, which are not there. */
  readonly missed: readonly string[]
}

/**
 * The chain of a track as a module plays it: by itself at unity, with everything that moves it. Seeds and ids
 * stay, so that it gives the samples that a render of the project gives.
 * @throws with a sentence where it cannot be
 */
export function chainExport(project: Project, track: string, form: ChainForm, name: string): ChainExport {
  const found = trackOf(project, track)
  if (!found) throw new Error('The track that was to be exported is gone.')
  if (form === 'notes' && !found.source)
    throw new Error('This track has no source that notes could play. Export it for the sound of a page.')
  const own: Track = {
    ...found,
    source:
      form === 'notes'
        ? found.source
        : { id: `${track}-feed`, type: feedSource.id, params: {}, seed: 1, audio: null },
    a: heardChain(found),
    b: null,
    heard: 'a',
    line: null,
    takes: undefined,
    print: undefined,
  }
  const preset = presetOfTrack(project, track, name)
  const sounds = new Set([...Object.keys(preset?.audio ?? {}), ...(own.source ? soundsOf(own.source) : [])])
  const alone = trackAlone(project, own)
  const plain: Project = {
    ...alone,
    name,
    sections: [],
    controls: [],
    snapshots: [],
    locks: undefined,
    measurements: undefined,
    audio: Object.fromEntries(Object.entries(project.audio).filter(([hash]) => sounds.has(hash))),
  }
  const listens = preset ? listensTo(preset) : []
  return {
    data: { name, form, track, project: plain, macros: macrosOf(own) },
    effects: [...new Set([...nodesIn(own.a.nodes)].flatMap((n) => (n.kind === 'effect' ? [n.type] : [])))],
    modulators: [...new Set(own.modulators.map((m) => m.type))],
    sources: form === 'notes' && own.source ? [own.source.type] : [],
    sounds: [...sounds].filter((hash) => hash in project.audio),
    missed: [...listens].filter((id) => id !== track).flatMap((id) => trackOf(project, id)?.name ?? []),
  }
}

/** Macros of a track with names for code: `dark-water` of Dark water, numbered where two are alike. */
function macrosOf(track: Track): ChainMacro[] {
  const taken = new Set<string>()
  return track.modulators
    .filter((m) => modulatorDefinition(m.type)?.isMacro)
    .map((m) => {
      const stem = codeName(m.name) || 'macro'
      let key = stem
      for (let n = 2; taken.has(key); n++) key = `${stem}-${n}`
      taken.add(key)
      return { id: m.id, key, name: m.name, value: m.params.value ?? 0.5 }
    })
}

/** A name in small letters and figures, with hyphens between. */
export const codeName = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40)
