import type { Branch, Chain, ChainNode, Link, Modulator, Project, Source, Track } from './schema'

/** Anything with an id and parameters. */
export type Owner =
  | { readonly kind: 'node', readonly node: ChainNode, readonly track: Track }
  | { readonly kind: 'branch', readonly branch: Branch, readonly track: Track }
  | { readonly kind: 'modulator', readonly modulator: Modulator, readonly track: Track }
  | { readonly kind: 'track', readonly track: Track }
  | { readonly kind: 'source', readonly source: Source, readonly track: Track }
  | { readonly kind: 'link', readonly link: Link }

/** The chain of a track that is heard and edited now. */
export const heardChain = (track: Track): Chain => (track.heard === 'b' && track.b ? track.b : track.a)

/** The lists of nodes directly inside a node: none for an effect, one for a group, one per branch for a split. */
export const innerLists = (node: ChainNode): ChainNode[][] =>
  node.kind === 'effect' ? [] : node.kind === 'split' ? node.branches.map((b) => b.nodes) : [node.nodes]

/** All nodes of a list and of all that is nested in it, outer before inner, in signal order. */
export function* nodesIn(list: readonly ChainNode[]): Generator<ChainNode> {
  for (const node of list) {
    yield node
    for (const inner of innerLists(node)) yield* nodesIn(inner)
  }
}

/** Finds what carries an id in the project as it is heard. */
export function findOwner(project: Project, id: string): Owner | undefined {
  for (const track of project.tracks) {
    if (track.id === id) return { kind: 'track', track }
    if (track.source?.id === id) return { kind: 'source', source: track.source, track }
    for (const modulator of track.modulators) if (modulator.id === id) return { kind: 'modulator', modulator, track }
    for (const node of nodesIn(heardChain(track).nodes)) {
      if (node.id === id) return { kind: 'node', node, track }
      if (node.kind === 'split') for (const branch of node.branches) if (branch.id === id) return { kind: 'branch', branch, track }
    }
  }
  const link = project.links.find((l) => l.id === id)
  return link && { kind: 'link', link }
}

export const trackOf = (project: Project, id: string): Track | undefined => project.tracks.find((t) => t.id === id)

export const mixOf = (project: Project): Track => project.tracks[project.tracks.length - 1] as Track

export interface NodePlace { readonly list: ChainNode[], readonly index: number }

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
