import { Random } from '../dsp/random'
import type { Edit } from '../project/edit'
import { branchesOf, innerLists } from '../project/nodes/index'
import { gaugeKey } from '../project/param-path'
import type { ChainNode, Link, Project, Track } from '../project/schema'
import { pathsOf, specAt, valueAt, writeValue } from '../project/targets'
import { type Owner, findOwner, heardChain, idsOf, mixOf, nodesIn, ownerId, trackOf } from '../project/walk'
import { type ParamSpec, isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'

/** What a throw is about: an effect or container with all in it, a branch, a modulator, a chain, or all. */
export interface DiceScope {
  readonly kind: 'node' | 'branch' | 'modulator' | 'chain' | 'project'
  /** Id of the node, branch or modulator, or of the track of a chain. */
  readonly id: string
}

/** What a throw may change. */
export const diceKinds = ['levels', 'times', 'tone', 'modulators', 'ranges', 'order'] as const
export type DiceKind = (typeof diceKinds)[number]

export interface DiceThrow {
  readonly scope: DiceScope
  /** Share of the range that values move by at most, 0…1. */
  readonly amount: number
  readonly kinds: readonly DiceKind[]
  readonly seed: number
}

/** Most dB that a level moves by, for the whole amount. */
const MOST_DB = 9
/** Feedback beyond this is not thrown: it would ring on. */
const MOST_FEEDBACK = 0.9
/** Parameters that a throw never changes: switches that silence, freeze, or make it another thing. */
const never = new Set([
  'on',
  'mute',
  'quality',
  'freeze',
  'hold',
  'latch',
  'stop',
  'trails',
  'repeats',
  'times',
  'mode',
  'trigger',
  'goes',
  'over',
])

/** Tracks that a scope reaches into. */
export function tracksOf(p: Project, scope: DiceScope): Track[] {
  if (scope.kind === 'project') return p.tracks.filter((t) => t !== mixOf(p))
  if (scope.kind === 'chain') return p.tracks.filter((t) => t.id === scope.id)
  const owner = findOwner(p, scope.id)
  return owner && 'track' in owner ? [owner.track] : []
}

/** Lists of nodes that a scope is about, with all lists within them. */
function listsOf(p: Project, scope: DiceScope): ChainNode[][] {
  const within = (list: ChainNode[]): ChainNode[][] => [
    list,
    ...list.flatMap((n) => innerLists(n).flatMap(within)),
  ]
  if (scope.kind === 'modulator') return []
  if (scope.kind === 'project' || scope.kind === 'chain')
    return tracksOf(p, scope).flatMap((t) => within(heardChain(t).nodes))
  const owner = findOwner(p, scope.id)
  if (owner?.kind === 'branch') return within(owner.branch.nodes)
  return owner?.kind === 'node' ? innerLists(owner.node).flatMap(within) : []
}

/** Nodes, branches, modulators and links that a scope is about. */
export function diceOwners(p: Project, scope: DiceScope): Owner[] {
  const tracks = tracksOf(p, scope)
  const own = findOwner(p, scope.id)
  if (scope.kind === 'modulator')
    return own?.kind === 'modulator'
      ? [own, ...p.links.filter((l) => l.source === scope.id).map((link): Owner => ({ kind: 'link', link }))]
      : []
  const ofNode = (node: ChainNode, track: Track): Owner[] =>
    [...nodesIn([node])].flatMap((n) => [
      { kind: 'node', node: n, track } as const,
      ...branchesOf(n).map((branch): Owner => ({ kind: 'branch', branch, node: n, track })),
    ])
  const nodes: Owner[] =
    scope.kind === 'node' || scope.kind === 'branch'
      ? own?.kind === 'node'
        ? ofNode(own.node, own.track)
        : own?.kind === 'branch'
          ? [own, ...own.branch.nodes.flatMap((n) => ofNode(n, own.track))]
          : []
      : tracks.flatMap((t) => heardChain(t).nodes.flatMap((n) => ofNode(n, t)))
  const ids = new Set(nodes.map(ownerId))
  const isWhole = scope.kind === 'chain' || scope.kind === 'project'
  const modulators: Owner[] = isWhole
    ? tracks.flatMap((track) =>
        track.modulators.map((modulator) => ({ kind: 'modulator', modulator, track }) as const),
      )
    : []
  for (const m of modulators) ids.add(ownerId(m))
  const links = p.links.filter((l) => ids.has(l.target.owner))
  return [...nodes, ...modulators, ...links.map((link): Owner => ({ kind: 'link', link }))]
}

/** The kind of change that a parameter belongs to; null for one that is never thrown. */
export function diceKindOf(owner: Owner, path: string, spec: ParamSpec): DiceKind | null {
  const name = path.slice(path.lastIndexOf('.') + 1)
  if (never.has(name) || spec.momentary) return null
  if (owner.kind === 'link') return name === 'amount' ? 'ranges' : null
  if (owner.kind === 'modulator') return 'modulators'
  if (spec.unit === 'decibel' || name === 'wet' || name === 'mix' || name === 'dry') return 'levels'
  if (spec.unit === 'seconds' || spec.unit === 'beats' || name === 'rate' || name === 'sync') return 'times'
  return 'tone'
}

/** Whether a parameter, or what carries it, is locked. */
export function isLocked(p: Pick<Project, 'locks'>, owner: Owner, path: string): boolean {
  const locks = p.locks ?? []
  if (locks.length === 0) return false
  const id = ownerId(owner)
  if (locks.includes(id) || locks.includes(gaugeKey(id, path))) return true
  // a locked effect keeps its branches and what moves it as they are
  if (owner.kind === 'branch') return locks.includes(owner.node.id)
  return (
    owner.kind === 'link' && (locks.includes(owner.link.source) || locks.includes(owner.link.target.owner))
  )
}

/** A value thrown around another one, 0…1 in `random` being from one side to the other. */
function thrown(spec: ParamSpec, path: string, value: number, amount: number, random: Random): number {
  const x = random.next()
  const y = random.next()
  if (isStepped(spec))
    return x < amount * 0.5 ? Math.floor(spec.min + y * (spec.max - spec.min + 0.999_999)) : value
  // triangular: small moves are likelier than large ones
  const move = (x + y - 1) * amount
  if (spec.unit === 'decibel') return Math.min(spec.max, Math.max(spec.min, value + MOST_DB * move))
  const at = toNormalized(spec, value) + move
  const place = at < 0 ? -at : at > 1 ? 2 - at : at
  const next = fromNormalized(spec, Math.min(1, Math.max(0, place)))
  if (!/feedback/i.test(path)) return next
  const most = Math.max(MOST_FEEDBACK, Math.abs(value))
  return Math.min(most, Math.max(-most, next))
}

/**
 * Throws all that a scope may change. The same throw of the same project gives the same result; nothing that
 * is locked changes.
 */
export const throwDice =
  ({ scope, amount, kinds, seed }: DiceThrow): Edit =>
  (p) => {
    const random = new Random(seed)
    for (const owner of diceOwners(p, scope)) {
      if (owner.kind === 'link' && kinds.includes('ranges') && !isLocked(p, owner, 'from'))
        throwRange(owner.link, amount, random)
      for (const path of pathsOf(owner)) {
        const spec = specAt(owner, path)
        const value = valueAt(owner, path)
        const kind = spec && diceKindOf(owner, path, spec)
        if (!spec || value === undefined || !kind || !kinds.includes(kind) || isLocked(p, owner, path))
          continue
        const next = thrown(spec, path, value, amount, random)
        if (next !== value) writeValue(owner, path, next)
      }
    }
    if (kinds.includes('order')) for (const list of listsOf(p, scope)) shuffle(p, list, amount, random)
  }

/** Moves both ends of a link, the range staying within its bounds. */
function throwRange(link: Link, amount: number, random: Random): void {
  const least = link.mode === 'floating' ? -1 : 0
  const width = Math.abs(link.to - link.from)
  for (const end of ['from', 'to'] as const)
    link[end] = Math.min(
      1,
      Math.max(least, link[end] + (random.next() - 0.5) * amount * Math.max(0.1, width)),
    )
}

/** Swaps neighbours of a list; what is locked keeps its place. */
function shuffle(p: Project, list: ChainNode[], amount: number, random: Random): void {
  const stays = (n: ChainNode | undefined): boolean => !n || idsOf(n).some((id) => p.locks?.includes(id))
  for (let i = list.length - 1; i > 0; i--) {
    const swaps = random.next() < amount * 0.7
    const [a, b] = [list[i - 1], list[i]]
    if (swaps && !stays(a) && !stays(b)) list.splice(i - 1, 2, b as ChainNode, a as ChainNode)
  }
}

/** Locks something for the dice, or unlocks it: an id, or a gauge by owner and path. */
export const toggleLock =
  (key: string): Edit =>
  (p) => {
    const locks = p.locks ?? []
    p.locks = locks.includes(key) ? locks.filter((x) => x !== key) : [...locks, key]
  }

/** All that throws change on some tracks: values by gauge, order of nodes by what holds them. */
export interface DiceState {
  readonly values: Readonly<Record<string, number>>
  readonly order: readonly (readonly string[])[]
}

/** The present state of what a scope is about. */
export function diceState(p: Project, scope: DiceScope): DiceState {
  const values = diceOwners(p, scope).flatMap((owner) =>
    pathsOf(owner).flatMap((path) => {
      const value = valueAt(owner, path)
      return value === undefined ? [] : [[gaugeKey(ownerId(owner), path), value] as const]
    }),
  )
  const levels = tracksOf(p, scope).map((t) => [gaugeKey(t.id, 'level'), t.params.level ?? 0] as const)
  return {
    values: Object.fromEntries([...values, ...levels]),
    order: listsOf(p, scope).map((list) => list.map((n) => n.id)),
  }
}

/** Goes back to a state of what a scope is about, as far as it is still there. */
export const restoreDice =
  (scope: DiceScope, { values, order }: DiceState): Edit =>
  (p) => {
    const write = (owner: Owner): void => {
      for (const path of pathsOf(owner)) {
        const value = values[gaugeKey(ownerId(owner), path)]
        if (value !== undefined && value !== valueAt(owner, path)) writeValue(owner, path, value)
      }
    }
    for (const owner of diceOwners(p, scope)) write(owner)
    for (const t of tracksOf(p, scope)) {
      const level = values[gaugeKey(t.id, 'level')]
      const track = trackOf(p, t.id)
      if (track && level !== undefined) track.params.level = level
    }
    for (const list of listsOf(p, scope)) {
      const wanted = order.find((ids) => ids.length === list.length && list.every((n) => ids.includes(n.id)))
      if (wanted) list.sort((a, b) => wanted.indexOf(a.id) - wanted.indexOf(b.id))
    }
  }
