import type { Edit } from './edit'
import { newId, newSeed, newTrack } from './new'
import type { Branch, ChainNode, Effect, Link, Listen, Project, Source, Split, Track } from './schema'
import { allNodes, dropStrayLinks, dropUnusedSounds } from './target-edits'
import { branchesOf, innerLists, kindOf, nodeKinds } from './nodes/index'
import { nameBranches } from './nodes/split'
import { findOwner, heardChain, holdsId, listOf, mixOf, nodesIn, placeOf, trackOf } from './walk'

export const addTrack =
  (track: Track): Edit =>
  (p) => {
    p.tracks.splice(p.tracks.length - 1, 0, track)
  }

export const removeTrack =
  (id: string): Edit =>
  (p) => {
    const track = trackOf(p, id)
    if (!track || track.kind === 'mix') return
    p.tracks.splice(p.tracks.indexOf(track), 1)
    dropStrayLinks(p)
    for (const t of p.tracks) {
      for (const m of t.modulators) if (m.listens?.track === id) m.listens = null
      if (t.source?.listens?.track === id) t.source.listens = null
      for (const node of allNodes(t))
        if (kindOf(node).listens?.(node)?.track === id) kindOf(node).stopListening?.(node)
    }
    dropUnusedSounds(p)
  }

export const renameTrack =
  (id: string, name: string): Edit =>
  (p) => {
    const track = trackOf(p, id)
    if (track && name.trim()) track.name = name.trim().slice(0, 120)
  }

export const setSource =
  (track: string, source: Source): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t || t.kind !== 'track') return
    t.source = source
    dropStrayLinks(p)
  }

/** Adds a track that plays audio, with the reference that keeps it findable. */
export const addAudioTrack =
  (name: string, source: Source, hash: string, ref: Project['audio'][string], id = newId()): Edit =>
  (p) => {
    p.audio[hash] = ref
    addTrack(newTrack(name, source, id))(p)
  }

/** Where a node goes: after a node, or at the start of a branch, group or track. */
export type Spot = { readonly after: string } | { readonly startOf: string }

/**
 * Gives a track another sound and leaves the rest of it as it is. What moved the old source moves the new one
 * where it can.
 */
export const replaceSound =
  (track: string, source: Source, ref: Project['audio'][string]): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t || t.kind === 'mix' || !source.audio) return
    p.audio[source.audio] = ref
    const before = t.source
    t.source = {
      ...source,
      id: before?.id ?? source.id,
      params: before?.type === source.type ? before.params : source.params,
    }
    dropUnusedSounds(p)
  }

export const addNode =
  (node: ChainNode, spot: Spot): Edit =>
  (p) => {
    const at = listAt(p, spot)
    at?.list.splice(at.index, 0, node)
  }

/** Puts nodes behind each other at a spot. False where there is no such spot. */
export function insertNodes(p: Project, nodes: readonly ChainNode[], spot: Spot): boolean {
  const at = listAt(p, spot)
  at?.list.splice(at.index, 0, ...nodes)
  return at !== undefined
}

export const removeNode =
  (id: string): Edit =>
  (p) => {
    take(p, id)
    dropStrayLinks(p)
    dropUnusedSounds(p)
  }

/** Moves a node to another spot. A spot inside the node itself changes nothing. */
export const moveNode =
  (id: string, spot: Spot): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'node') return
    const anchor = 'after' in spot ? spot.after : spot.startOf
    if (holdsId([found.node], anchor)) return
    if (!listAt(p, spot)) return
    const taken = take(p, id)
    if (!taken) return
    // the other state of the track it leaves may hold it too: then what arrives elsewhere is another thing,
    // linked alike
    const newIds = new Map<string, string>()
    const stays = allNodes(found.track).some(
      (n) => n.id === id || [...nodesIn([taken])].some((m) => m.id === n.id),
    )
    const node = stays && !listIn(found.track, spot) ? renewed(taken, newIds) : taken
    const at = listAt(p, spot)
    at?.list.splice(at.index, 0, node)
    copyLinks(p, newIds)
    // what was inside it under its old ids, and is in no other state, is gone
    dropStrayLinks(p)
  }

/** Moves a node one place along its own list. */
export const shiftNode =
  (id: string, by: -1 | 1): Edit =>
  (p) => {
    for (const track of p.tracks) {
      const place = placeOf(heardChain(track).nodes, id)
      if (!place) continue
      const to = place.index + by
      if (to < 0 || to >= place.list.length) return
      const [node] = place.list.splice(place.index, 1)
      if (node) place.list.splice(to, 0, node)
    }
  }

/** A copy of a node with new ids, directly behind it, together with the links that act on it. */
export const duplicateNode =
  (id: string, newIds: Map<string, string> = new Map()): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'node') return
    const copy = renewed(found.node, newIds)
    addNode(copy, { after: id })(p)
    copyLinks(p, newIds)
  }

/** Puts nodes that lie next to each other into a container of a kind. */
export const putAround =
  (kind: string, ids: readonly string[], id = newId()): Edit =>
  (p) => {
    const make = nodeKinds[kind]?.around?.make
    const gathered = ids[0] === undefined || !make ? null : gather(p, ids)
    if (gathered && make) gathered.list.splice(gathered.index, 0, make(gathered.nodes, id) as ChainNode)
  }

/**
 * Takes a container away and leaves what is inside in its place: for a split, the nodes of its branches in
 * order.
 */
export const unwrap =
  (id: string): Edit =>
  (p) => {
    for (const track of p.tracks) {
      const place = placeOf(heardChain(track).nodes, id)
      const node = place?.list[place.index]
      if (!place || !node || !innerLists(node).length) continue
      place.list.splice(place.index, 1, ...innerLists(node).flat())
    }
    dropStrayLinks(p)
  }

export const addBranch =
  (split: string, branch: Branch): Edit =>
  (p) => {
    const found = findOwner(p, split)
    if (found?.kind === 'node' && found.node.kind === 'split' && found.node.branches.length < 8) {
      found.node.branches.push(branch)
      nameBranches(found.node)
    }
  }

export const removeBranch =
  (id: string): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'branch') return
    const branches = branchesOf(found.node)
    if (branches.length > 1) branches.splice(branches.indexOf(found.branch), 1)
    if (found.node.kind === 'split') nameBranches(found.node)
    dropStrayLinks(p)
  }

export const setSplitMode =
  (id: string, mode: Split['mode']): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'node' || found.node.kind !== 'split') return
    found.node.mode = mode
    nameBranches(found.node)
  }

export const rename =
  (id: string, name: string): Edit =>
  (p) => {
    const found = findOwner(p, id)
    const text = name.trim().slice(0, 120)
    if (!found || !text) return
    if (found.kind === 'node') found.node.name = text
    else if (found.kind === 'branch') found.branch.name = text
    else if (found.kind === 'modulator') found.modulator.name = text
    else if (found.kind === 'track') found.track.name = text
  }

export const setSidechain =
  (effect: string, listen: Listen | null): Edit =>
  (p) => {
    const found = findOwner(p, effect)
    if (found?.kind === 'node' && found.node.kind === 'effect') found.node.sidechain = listen
  }

/** Switches between the two states of a chain. The first time, B starts as a copy of A. */
export const hear =
  (track: string, state: 'a' | 'b'): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t) return
    if (state === 'b' && !t.b) t.b = JSON.parse(JSON.stringify(t.a)) as Track['a']
    t.heard = state
  }

/** Makes the other state the same as the one heard. */
export const copyToOther =
  (track: string): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t) return
    const copy = JSON.parse(JSON.stringify(heardChain(t))) as Track['a']
    if (t.heard === 'a') t.b = copy
    else t.a = copy
    dropStrayLinks(p)
  }

/** An effect of the heard chains by id. */
export function effectOf(project: Project, id: string): Effect | undefined {
  const found = findOwner(project, id)
  return found?.kind === 'node' && found.node.kind === 'effect' ? found.node : undefined
}

export const selectableTrack = (project: Project): Track => project.tracks[0] ?? mixOf(project)

function listAt(p: Project, spot: Spot): { list: ChainNode[]; index: number } | undefined {
  for (const track of p.tracks) {
    const chain = heardChain(track)
    if ('after' in spot) {
      const place = placeOf(chain.nodes, spot.after)
      if (place) return { list: place.list, index: place.index + 1 }
      continue
    }
    const list = track.id === spot.startOf ? chain.nodes : listOf(chain.nodes, spot.startOf)
    if (list) return { list, index: 0 }
  }
  return undefined
}

const listIn = (track: Track, spot: Spot): boolean => {
  const anchor = 'after' in spot ? spot.after : spot.startOf
  return track.id === anchor || holdsId(heardChain(track).nodes, anchor)
}

function take(p: Project, id: string): ChainNode | undefined {
  for (const track of p.tracks) {
    const place = placeOf(heardChain(track).nodes, id)
    if (place) return place.list.splice(place.index, 1)[0]
  }
  return undefined
}

/** Takes nodes that lie next to each other in one list out of it. */
function gather(
  p: Project,
  ids: readonly string[],
): { list: ChainNode[]; index: number; nodes: ChainNode[] } | undefined {
  for (const track of p.tracks) {
    const places = ids.map((id) => placeOf(heardChain(track).nodes, id))
    const list = places[0]?.list
    if (!list || places.some((x) => x?.list !== list)) continue
    const indices = places.map((x) => x?.index ?? 0).sort((a, b) => a - b)
    const first = indices[0] ?? 0
    if ((indices[indices.length - 1] ?? 0) - first !== indices.length - 1) return undefined
    return { list, index: first, nodes: list.splice(first, indices.length) }
  }
  return undefined
}

function renewed<N extends ChainNode>(node: N, newIds: Map<string, string>): N {
  const copy = JSON.parse(JSON.stringify(node)) as N
  const rename = (x: { id: string }) => {
    const id = newIds.get(x.id) ?? newId()
    newIds.set(x.id, id)
    x.id = id
  }
  for (const n of nodesIn([copy])) {
    rename(n)
    // two that are random alike would only be louder
    if ('seed' in n) n.seed = newSeed(n.id)
    branchesOf(n).forEach(rename)
  }
  return copy
}

function copyLinks(p: Project, newIds: Map<string, string>): void {
  for (const link of [...p.links]) {
    const owner = newIds.get(link.target.owner)
    if (owner)
      p.links.push({
        ...(JSON.parse(JSON.stringify(link)) as Link),
        id: newId(),
        target: { ...link.target, owner },
      })
  }
}
