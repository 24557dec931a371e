import { log2 } from '../dsp/math'
import { modulatorDefinition } from '../modulators/index'
import { sourceDefinition } from '../sources/index'
import { type LaneSpecs, laneItems } from '../units/lane'
import {
  type ParamSpec,
  type ParamSpecs,
  amount,
  gain,
  isStepped,
  pan,
  percent,
  toggle,
} from '../units/parameter'
import { fromNormalized, middleOf, toNormalized } from '../units/scale'
import { branchParams } from './nodes/branch-params'
import { kindOf } from './nodes/index'
import { lanePlace, pathOf } from './param-path'
import type { Link, Project, Target } from './schema'
import { type Owner, carrierOf, findOwner, heardChain, nodesIn, ownerId } from './walk'

export const trackParams = {
  level: gain('Level', { min: -72, max: 12, default: 0, tip: 'Level of the track in the mix' }),
  pan: pan('Pan', { tip: 'Pan position' }),
  mute: toggle('Mute', false, 'Mutes the track, also in renders', { edit: 'switched' }),
} satisfies ParamSpecs

/** An end of a link: a place on the range of its target, or a distance from the base where it is floating. */
const end = (name: string): ParamSpec =>
  amount(name, { min: -1, max: 1, default: 0, glide: 0, tip: 'An end of the range of the link' })

/** Parameters of a link: its amount, its switch and its two ends. */
export const linkParams = {
  from: end('Minimum'),
  to: end('Maximum'),
  amount: percent('Amount', {
    default: 1,
    tip: 'Scales the range of the link',
  }),
  on: toggle('On', true, 'Turns the link on or off without a click', { edit: 'switched' }),
} satisfies ParamSpecs

/** Parameters of a send: by how much, and whether. */
export const sendParams = {
  level: gain('Send', { min: -72, max: 12, default: -12, tip: 'Level of the send' }),
  on: toggle('On', true, 'Turns the send on or off without a click', { edit: 'switched' }),
} satisfies ParamSpecs

/**
 * The parameters of an owner by name, those of lanes left out; undefined where its type is unknown to this
 * version.
 */
export function paramsOf(owner: Owner): ParamSpecs | undefined {
  switch (owner.kind) {
    case 'track':
      return trackParams
    case 'source':
      return sourceDefinition(owner.source.type)?.params
    case 'modulator':
      return modulatorDefinition(owner.modulator.type)?.params
    case 'branch':
      return branchParams
    case 'link':
      return linkParams
    case 'send':
      return sendParams
    case 'node':
      return kindOf(owner.node).params(owner.node)
  }
}

const noLanes: LaneSpecs = {}

/** The lanes of an owner, by name. */
export function lanesOf(owner: Owner): LaneSpecs {
  switch (owner.kind) {
    case 'modulator':
      return modulatorDefinition(owner.modulator.type)?.lanes ?? noLanes
    case 'source':
      return sourceDefinition(owner.source.type)?.lanes ?? noLanes
    case 'node':
      return kindOf(owner.node).lanes?.(owner.node) ?? noLanes
    default:
      return noLanes
  }
}

/** Where an owner's lanes and data are kept; undefined for one that has none. */
export const holderOf = (
  owner: Owner,
): { lanes?: Record<string, Record<string, number>[]>; data?: Record<string, unknown> } | undefined =>
  owner.kind === 'modulator'
    ? owner.modulator
    : owner.kind === 'source'
      ? owner.source
      : owner.kind === 'node'
        ? owner.node
        : undefined

/** The items of one of an owner's lanes, as stored or as they start. */
export function itemsOf(owner: Owner, lane: string): readonly Readonly<Record<string, number>>[] {
  const spec = lanesOf(owner)[lane]
  return spec ? laneItems(spec, holderOf(owner)?.lanes?.[lane]) : []
}

/** The parameters of a lane's items that have an effect as the owner is set, in their order. */
export function shownColumns(owner: Owner | undefined, lane: string): (readonly [string, ParamSpec])[] {
  const spec = owner && lanesOf(owner)[lane]
  if (!spec) return []
  const value = (param: string): number => valueAt(owner, param) ?? 0
  return Object.entries(spec.params).filter(([param]) => spec.applies?.(param, value) ?? true)
}

/**
 * What the parameter at a path is; undefined where there is none. A path to every item of a lane has that of
 * any.
 */
export function specAt(owner: Owner, path: string): ParamSpec | undefined {
  const place = lanePlace(path)
  if (!place) return paramsOf(owner)?.[path]
  const lane = lanesOf(owner)[place.lane]
  return lane && (place.index === undefined || place.index < itemsOf(owner, place.lane).length)
    ? lane.params[place.param]
    : undefined
}

/**
 * Where the parameter at a path stands, in its own unit; for a path to every item, the middle of them on its
 * scale, or the first choice.
 */
export function valueAt(owner: Owner, path: string): number | undefined {
  const place = lanePlace(path)
  const spec = specAt(owner, path)
  if (!spec) return undefined
  if (place && place.index === undefined && !isStepped(spec))
    return middleOf(
      spec,
      itemsOf(owner, place.lane).map((item) => item[place.param] ?? spec.default),
    )
  if (place) return itemsOf(owner, place.lane)[place.index ?? 0]?.[place.param] ?? spec.default
  if (owner.kind === 'link') return linkValue(owner.link, path)
  return plainValues(owner)[path] ?? spec.default
}

/** The value of a parameter of a link. */
const linkValue = (link: Link, path: string): number | undefined =>
  path === 'on'
    ? link.on
      ? 1
      : 0
    : path === 'from' || path === 'to' || path === 'amount'
      ? link[path]
      : undefined

/** Values of all parameters of a link. */
export const linkSettings = ({ amount, on, from, to }: Link): Record<string, number> => ({
  amount,
  on: on ? 1 : 0,
  from,
  to,
})

/**
 * Sets the parameter at a path; for a path to every item, that of each. The owner must be part of a draft.
 */
export function writeValue(owner: Owner, path: string, value: number): void {
  const place = lanePlace(path)
  if (!place) {
    if (owner.kind !== 'link') plainValues(owner)[path] = value
    else if (path === 'on') owner.link.on = value >= 0.5
    else if (path === 'from' || path === 'to' || path === 'amount') owner.link[path] = value
    return
  }
  const items = ownedItems(owner, place.lane)
  items.forEach((item, i) => {
    if (place.index === undefined || place.index === i) item[place.param] = value
  })
}

/**
 * The items of a lane in a draft, to be changed; written out first where the owner still has those it started
 * with.
 */
export function ownedItems(owner: Owner, lane: string): Record<string, number>[] {
  const holder = holderOf(owner)
  if (!holder) return []
  holder.lanes ??= {}
  return (holder.lanes[lane] ??= itemsOf(owner, lane).map((item) => ({ ...item })))
}

/** Every parameter of an owner by its path. */
export function pathsOf(owner: Owner): string[] {
  const lanes = Object.entries(lanesOf(owner)).flatMap(([lane, spec]) =>
    itemsOf(owner, lane).flatMap((_, index) =>
      Object.keys(spec.params).map((param) => pathOf({ lane, index, param })),
    ),
  )
  return [...Object.keys(paramsOf(owner) ?? {}), ...lanes]
}

/** Name of a parameter, with the number of its lane item. */
export function paramName(owner: Owner, path: string): string {
  const place = lanePlace(path)
  const name = specAt(owner, path)?.name ?? path
  if (!place) return name
  const item = lanesOf(owner)[place.lane]?.item ?? place.lane
  return place.index === undefined ? `${name} of every ${item}` : `${name} of ${item} ${place.index + 1}`
}

export const plainValues = (owner: Exclude<Owner, { kind: 'link' }>): Record<string, number> =>
  carrierOf(owner).params

/** A name for an owner that a person knows it by. */
export function ownerName(owner: Owner): string {
  switch (owner.kind) {
    case 'track':
      return owner.track.name
    case 'source':
      return `${owner.track.name} source`
    case 'modulator':
      return owner.modulator.name
    case 'branch':
      return owner.branch.name
    case 'link':
      return 'Link'
    case 'send':
      return 'Send'
    case 'node':
      return owner.node.name ?? kindOf(owner.node).title(owner.node)
  }
}

/**
 * The same where several owners are told apart: a link by its two ends, effects and modulators of one name by
 * numbers in their order.
 */
export function nameAmong(project: Project, owner: Owner): string {
  if (owner.kind === 'node') {
    const { track } = owner
    return numbered(
      owner,
      [...nodesIn(heardChain(track).nodes)].map((node) => ({ kind: 'node', node, track })),
    )
  }
  if (owner.kind === 'modulator') {
    const { track } = owner
    return numbered(
      owner,
      track.modulators.map((modulator) => ({ kind: 'modulator', modulator, track })),
    )
  }
  if (owner.kind !== 'link') return ownerName(owner)
  const { source, target } = owner.link
  const [from, to] = [findOwner(project, source), findOwner(project, target.owner)]
  if (!from || !to) return ownerName(owner)
  return `${nameAmong(project, from)} on ${gaugeName(project, to, pathOf(target))}`
}

/** Name of an owner, with its number where others have the same name. */
function numbered(owner: Owner, all: readonly Owner[]): string {
  const name = ownerName(owner)
  const alike = all.filter((o) => ownerName(o) === name).map(ownerId)
  return alike.length > 1 && alike.includes(ownerId(owner))
    ? `${name} ${alike.indexOf(ownerId(owner)) + 1}`
    : name
}

/** Name of a parameter in a chain: “Delay 2 feedback”, “Swell on Filter cutoff, minimum”. */
export function gaugeName(project: Project, owner: Owner, path: string): string {
  const [name, param] = [nameAmong(project, owner), paramName(owner, path).toLowerCase()]
  if (name.toLowerCase() === param) return name
  return owner.kind === 'link' ? `${name}, ${param}` : `${name} ${param}`
}

/** Name of an engine step by its key, which holds a kind and an id. */
export function stepName(project: Project, key: string): string {
  const owner = findOwner(project, key.slice(key.indexOf(':') + 1).replace(/[#~].*$/, ''))
  return owner ? `“${ownerName(owner)}”` : 'A part of the engine'
}

/** A parameter, whose it is, and where its base stands in its own unit. */
export interface FoundTarget {
  readonly owner: Owner
  readonly spec: ParamSpec
  readonly base: number
}

/** Looks a target up: its owner, what its parameter is, and where its base stands. */
export function findTarget(project: Project, target: Target): FoundTarget | undefined {
  const owner = findOwner(project, target.owner)
  return owner && targetOf(owner, target)
}

/** The same where its owner has been found already. */
export function targetOf(owner: Owner, target: Target): FoundTarget | undefined {
  const path = pathOf(target)
  const spec = specAt(owner, path)
  return spec && { owner, spec, base: valueAt(owner, path) ?? spec.default }
}

/**
 * The two ends of a link as places on its target's range, kept inside it: what the gauge draws. In pitch
 * mode, the notes C1 and C7.
 */
export function linkEnds(
  link: Pick<Link, 'from' | 'to' | 'mode' | 'amount' | 'transpose'>,
  spec: ParamSpec,
  base: number,
): { from: number; to: number } {
  const at = toNormalized(spec, base)
  const ends =
    link.mode === 'pitch'
      ? ([noteNormalized(spec, 24 + link.transpose), noteNormalized(spec, 96 + link.transpose)] as const)
      : ([link.from, link.to] as const)
  const end = (x: number) =>
    Math.min(1, Math.max(0, at + link.amount * (link.mode === 'floating' ? x : x - at)))
  return { from: end(ends[0]), to: end(ends[1]) }
}

/**
 * Where a MIDI note stands on a range: by its frequency, its period, or as a number of semitones. May lie
 * outside 0…1.
 */
export function noteNormalized(spec: ParamSpec, note: number): number {
  const octaves = (note - 69) / 12
  if (spec.unit === 'hertz' && spec.law === 'log')
    return (log2(440 / spec.min) + octaves) / log2(spec.max / spec.min)
  if (spec.unit === 'seconds' && spec.law === 'log')
    return (log2(1 / 440 / spec.min) - octaves) / log2(spec.max / spec.min)
  return (note - spec.min) / (spec.max - spec.min)
}

/** Whether a parameter can follow a note one-to-one. */
export const followsPitch = (spec: ParamSpec): boolean =>
  (spec.law === 'log' && (spec.unit === 'hertz' || spec.unit === 'seconds')) || spec.unit === 'note'

/** Values to store in a link so that its ends are at the given positions. */
export function endsToStore(
  mode: Link['mode'],
  spec: ParamSpec,
  base: number,
  from: number,
  to: number,
): { from: number; to: number } {
  const at = mode === 'floating' ? toNormalized(spec, base) : 0
  const bounded = (x: number) => Math.min(1, Math.max(-1, x))
  return { from: bounded(from - at), to: bounded(to - at) }
}

/** Values at the two ends of a link, in the target's own unit. */
export function linkValues(link: Link, spec: ParamSpec, base: number): { from: number; to: number } {
  const ends = linkEnds(link, spec, base)
  return { from: fromNormalized(spec, ends.from), to: fromNormalized(spec, ends.to) }
}
