import { effectDefinition } from '../effects/index'
import { modulatorDefinition } from '../modulators/index'
import { sourceDefinition } from '../sources/index'
import { type ParamSpec, type ParamSpecs, beats, factor, gain, pan, percent, toggle } from '../units/parameter'
import { fromPlace, toPlace } from '../units/scale'
import type { Link, Project, Target } from './schema'
import { type Owner, findOwner } from './walk'

/** What every effect has besides its own parameters; the engine does these, with the dry path in time. */
export const commonParams = {
  on: toggle('On', true, 'Switches the effect off and on without a click'),
  wet: percent('Wet', { default: 1, tip: 'Share of the processed sound; the rest is dry, in time with it' }),
} satisfies ParamSpecs

export const trackParams = {
  level: gain('Level', { min: -72, max: 12, default: 0, tip: 'Level of the track in the mix' }),
  pan: pan('Pan', { tip: 'Place between left and right' }),
  mute: toggle('Mute', false, 'Silences the track, also in a render'),
} satisfies ParamSpecs

export const branchParams = {
  level: gain('Level', { min: -72, max: 12, default: 0, tip: 'Level of the branch where the paths merge' }),
  pan: pan('Pan', { tip: 'Place between left and right' }),
  polarity: factor('Polarity', { min: -1, max: 1, default: 1, tip: '1 as it is, −1 inverted, and all between' }),
  mute: toggle('Mute', false, 'Silences the branch'),
} satisfies ParamSpecs

export const groupParams = {
  on: commonParams.on,
  wet: commonParams.wet,
} satisfies ParamSpecs

export const splitParams = {
  on: commonParams.on,
  position: percent('Position', { default: 0, tip: 'Which branch sounds, gliding from one to the next' }),
} satisfies ParamSpecs

export const loopBackParams = {
  on: commonParams.on,
  length: beats('Length', { min: 1 / 16, max: 16, default: 1, tip: 'Time of the whole way round' }),
  feedback: percent('Feedback', { max: 1.2, default: 0.5, tip: 'How much comes round again' }),
} satisfies ParamSpecs

/** The parameters of an owner by name, or undefined where its type is unknown to this version. */
export function paramsOf(owner: Owner): ParamSpecs | undefined {
  switch (owner.kind) {
    case 'track': return trackParams
    case 'source': return sourceDefinition(owner.source.type)?.params
    case 'modulator': return modulatorDefinition(owner.modulator.type)?.params
    case 'branch': return branchParams
    case 'node': {
      if (owner.node.kind === 'group') return groupParams
      if (owner.node.kind === 'split') return splitParams
      if (owner.node.kind === 'loop-back') return loopBackParams
      const own = effectDefinition(owner.node.type)?.params
      return own && { ...own, ...commonParams }
    }
  }
}

/** The stored values of an owner. */
export function valuesOf(owner: Owner): Record<string, number> {
  switch (owner.kind) {
    case 'track': return owner.track.params
    case 'source': return owner.source.params
    case 'modulator': return owner.modulator.params
    case 'branch': return owner.branch.params
    case 'node': return owner.node.params
  }
}

/** A name for an owner that a person knows it by. */
export function ownerName(owner: Owner): string {
  switch (owner.kind) {
    case 'track': return owner.track.name
    case 'source': return `${owner.track.name} source`
    case 'modulator': return owner.modulator.name
    case 'branch': return owner.branch.name
    case 'node': return owner.node.name ?? (owner.node.kind === 'effect' ? effectDefinition(owner.node.type)?.name ?? owner.node.type : owner.node.kind === 'split' ? 'Split' : owner.node.kind === 'group' ? 'Group' : 'Loop-back')
  }
}

export interface FoundTarget { readonly owner: Owner, readonly spec: ParamSpec, readonly base: number }

/** Looks a target up: its owner, what its parameter is, and where its base stands. */
export function findTarget(project: Project, target: Target): FoundTarget | undefined {
  const owner = findOwner(project, target.owner)
  const spec = owner && paramsOf(owner)?.[target.param]
  return owner && spec && { owner, spec, base: valuesOf(owner)[target.param] ?? spec.default }
}

/** The two ends of a link as places on its target's staff, kept inside it: what the gauge draws. */
export function linkEnds(link: Pick<Link, 'from' | 'to' | 'mode' | 'amount'>, spec: ParamSpec, base: number): { from: number, to: number } {
  const at = toPlace(spec, base)
  const end = (x: number) => Math.min(1, Math.max(0, at + link.amount * (link.mode === 'floating' ? x : x - at)))
  return { from: end(link.from), to: end(link.to) }
}

/** What to store in a link so that its ends stand at the given places. */
export function endsToStore(mode: Link['mode'], spec: ParamSpec, base: number, from: number, to: number): { from: number, to: number } {
  const at = mode === 'floating' ? toPlace(spec, base) : 0
  return { from: from - at, to: to - at }
}

/** Values at the two ends of a link, in the target's own unit. */
export function linkValues(link: Link, spec: ParamSpec, base: number): { from: number, to: number } {
  const ends = linkEnds(link, spec, base)
  return { from: fromPlace(spec, ends.from), to: fromPlace(spec, ends.to) }
}
