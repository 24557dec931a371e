import { branchesOf, innerLists, kindOf } from './nodes/index'
import type { Branch, Chain, ChainNode, Link, Modulator, Project, Send, Source, Track } from './schema'

/** Anything with an id and parameters. */
export type Owner =
  | { readonly kind: 'node'; readonly node: ChainNode; readonly track: Track }
  | { readonly kind: 'branch'; readonly branch: Branch; readonly node: ChainNode; readonly track: Track }
  | { readonly kind: 'modulator'; readonly modulator: Modulator; readonly track: Track }
  | { readonly kind: 'track'; readonly track: Track }
  | { readonly kind: 'source'; readonly source: Source; readonly track: Track }
  | { readonly kind: 'link'; readonly link: Link }
  | { readonly kind: 'send'; readonly send: Send }

/** The active chain of a track: A or B. */
export const heardChain = (track: Track): Chain => (track.heard === 'b' && track.b ? track.b : track.a)

/** All nodes of a list and of all that is nested in it, outer before inner, in signal order. */
export function* nodesIn(list: readonly ChainNode[]): Generator<ChainNode> {
  for (const node of list) {
    yield node
    for (const inner of innerLists(node)) yield* nodesIn(inner)
  }
}

/** Nodes and branches of a track's active chain, in signal order, and its modulators. */
export const ownersIn = (track: Track): Owner[] => [
  ...[...nodesIn(heardChain(track).nodes)].flatMap((node): Owner[] => [
    { kind: 'node', node, track },
    ...branchesOf(node).map((branch): Owner => ({ kind: 'branch', branch, node, track })),
  ]),
  ...track.modulators.map((modulator): Owner => ({ kind: 'modulator', modulator, track })),
]

/** The object with the id. */
export function carrierOf<O extends Owner>(owner: O): Carrier<O> {
  return (owner as unknown as Record<string, unknown>)[owner.kind] as Carrier<O>
}
/** Each kind of owner has what it carries under its own name. */
type Carrier<O extends Owner> = {
  [K in Owner['kind']]: Extract<Owner, { kind: K }>[K & keyof Extract<Owner, { kind: K }>]
}[O['kind']]

export const ownerId = (owner: Owner): string => carrierOf(owner).id

/** Finds the object with an id in the active chains of a project. */
export function findOwner(project: Project, id: string): Owner | undefined {
  for (const track of project.tracks) {
    if (track.id === id) return { kind: 'track', track }
    if (track.source?.id === id) return { kind: 'source', source: track.source, track }
    for (const modulator of track.modulators)
      if (modulator.id === id) return { kind: 'modulator', modulator, track }
    for (const node of nodesIn(heardChain(track).nodes)) {
      if (node.id === id) return { kind: 'node', node, track }
      for (const branch of branchesOf(node))
        if (branch.id === id) return { kind: 'branch', branch, node, track }
    }
  }
  const send = project.sends.find((s) => s.id === id)
  if (send) return { kind: 'send', send }
  const link = project.links.find((l) => l.id === id)
  return link && { kind: 'link', link }
}

export const trackOf = (project: Project, id: string): Track | undefined =>
  project.tracks.find((t) => t.id === id)

export const mixOf = (project: Project): Track => project.tracks[project.tracks.length - 1] as Track

export interface NodePlace {
  readonly list: ChainNode[]
  readonly index: number
}

/** The list that holds a node, and its place there, in one chain. */
export function placeOf(list: ChainNode[], id: string): NodePlace | undefined {
  const index = list.findIndex((n) => n.id === id)
  if (index >= 0) return { list, index }
  for (const node of list) {
    for (const inner of innerLists(node)) {
      const found = placeOf(inner, id)
      if (found) return found
    }
  }
  return undefined
}

/** The ids that a node carries: its own and those of its branches. */
export const idsOf = (node: ChainNode): string[] => [node.id, ...branchesOf(node).map((b) => b.id)]

/** Whether something in a list of nodes carries an id, however deep. */
export const holdsId = (list: readonly ChainNode[], id: string): boolean =>
  [...nodesIn(list)].some((node) => idsOf(node).includes(id))

/** The list that an id stands for where something is put at its start: that of a branch or of a container. */
export function listOf(list: readonly ChainNode[], id: string): ChainNode[] | undefined {
  for (const node of nodesIn(list)) {
    if (node.id === id) return kindOf(node).inside?.(node)
    const branch = branchesOf(node).find((b) => b.id === id)
    if (branch) return branch.nodes
  }
  return undefined
}
