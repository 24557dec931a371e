import type { EffectPreset } from '../contract/effect'
import { hashText, mix32 } from '../dsp/random'
import { effectDefinition } from '../effects/index'
import { modulatorDefinition } from '../modulators/index'
import { sourceDefinition } from '../sources/index'
import { defaultsOf } from '../units/parameter'
import { newId } from './ids'
import { commonParams } from './nodes/common-params'
import { trackParams } from './targets'
import {
  type Effect,
  type Modulator,
  type Link,
  PROJECT_VERSION,
  type Project,
  type Source,
  type Track,
} from './schema'

export { newId } from './ids'
export { newGroup } from './nodes/group'
export { newLoopBack } from './nodes/loop-back'
export { newBranch, newSplit } from './nodes/split'

/**
 * The seed of all randomness in a new object. It is stored in the object, so that it sounds the same wherever
 * it is carried.
 */
export const newSeed = (id: string): number => mix32(hashText(id))

/** The seed of an object that has none of its own: that of its project and its id. */
export const seedIn = (project: { readonly seed: number }, id: string): number =>
  mix32(project.seed ^ hashText(id))

/** An effect with its defaults. @throws RangeError for an unknown type */
export function newEffect(type: string, params: Record<string, number> = {}, id = newId()): Effect {
  const definition = effectDefinition(type)
  if (!definition) throw new RangeError(`There is no effect called “${type}”.`)
  return {
    kind: 'effect',
    id,
    type,
    seed: newSeed(id),
    params: { ...defaultsOf({ ...definition.params, ...commonParams }), ...params },
    sidechain: null,
  }
}

/**
 * Lanes and data of a preset as a project keeps them: its own, so that editing one never reaches the other.
 */
export const setUpAs = (preset: EffectPreset): Pick<Effect, 'lanes' | 'data'> =>
  JSON.parse(JSON.stringify({ lanes: preset.lanes, data: preset.data })) as Pick<Effect, 'lanes' | 'data'>

/** An effect set up as a preset says. */
export function effectFrom(type: string, preset: EffectPreset, id = newId()): Effect {
  const { lanes, data } = setUpAs(preset)
  return { ...newEffect(type, preset.params, id), ...(lanes ? { lanes } : {}), ...(data ? { data } : {}) }
}

/** A modulator with its defaults. @throws RangeError for an unknown type */
export function newModulator(
  type: string,
  name: string,
  letter: string,
  hue: number,
  params: Record<string, number> = {},
  id = newId(),
): Modulator {
  const definition = modulatorDefinition(type)
  if (!definition) throw new RangeError(`There is no modulator called “${type}”.`)
  return {
    id,
    type,
    name,
    letter,
    hue,
    seed: newSeed(id),
    params: { ...defaultsOf(definition.params), ...params },
    listens: null,
    inputs: [],
  }
}

/** @throws RangeError for an unknown type */
export function newSource(
  type: string,
  params: Record<string, number> = {},
  audio: string | null = null,
  id = newId(),
): Source {
  const definition = sourceDefinition(type)
  if (!definition) throw new RangeError(`There is no source called “${type}”.`)
  return { id, type, seed: newSeed(id), params: { ...defaultsOf(definition.params), ...params }, audio }
}

export const newTrack = (name: string, source: Source | null, id = newId()): Track => ({
  id,
  name,
  kind: 'track',
  source,
  params: defaultsOf(trackParams),
  a: { nodes: [] },
  b: null,
  heard: 'a',
  modulators: [],
  snapshots: [],
  line: null,
})

/** A link from an output of a modulator to what it moves, between two places of the gauge. */
export const newLink = (
  source: string,
  output: string,
  target: Link['target'],
  from: number,
  to: number,
  id = newId(),
): Link => ({
  id,
  source,
  output,
  target,
  from,
  to,
  mode: 'floating',
  transpose: 0,
  amount: 1,
  curve: 0,
  law: 'scale',
  quantise: null,
  slewUp: 0,
  slewDown: 0,
  fan: null,
  on: true,
})

export const newProject = (name: string): Project => ({
  format: 'oleaje-project',
  version: PROJECT_VERSION,
  id: newId(),
  name,
  seed: 20_200,
  sampleRate: 48_000,
  tempo: 120,
  beatsPerBar: 4,
  loop: { on: true, start: 0, end: 16 },
  tracks: [{ ...newTrack('Mix', null), kind: 'mix' }],
  links: [],
  sends: [],
  sections: [],
  controls: [],
  snapshots: [],
  audio: {},
})
