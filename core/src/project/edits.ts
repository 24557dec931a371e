import { create } from 'mutative'
import type { EffectPreset } from '../effects/presets'
import { modulatorDefinition } from '../modulators/index'
import { fromPlace, toPlace } from '../units/scale'
import { defaultsOf, newBranch, newGroup, newId, newModulator, newSplit, newTrack, setUpAs } from './new'
import type { Branch, ChainNode, Control, Effect, Link, Listen, Modulator, NoteLine, Project, Section, Source, Split, Target, Track } from './schema'
import { pathOf } from './param-path'
import { endsToStore, findTarget, followsPitch, itemsOf, lanesOf, linkEnds, ownedItems, paramsOf, specAt, writeValue } from './targets'
import { findOwner, heardChain, innerLists, mixOf, nodesIn, placeOf, trackOf } from './walk'

/** A change of a project, written on a draft of it. Made by the functions below; carried out by {@link apply}. */
export type Edit = (draft: Project) => void

/** One step into a document and what stands there: JSON patch with a path of keys (as in RFC 6902, paths in parts). */
export interface Patch {
  readonly op: 'add' | 'remove' | 'replace'
  readonly path: readonly (string | number)[]
  readonly value?: unknown
}

export interface Change {
  readonly next: Project
  readonly patches: readonly Patch[]
  readonly inverse: readonly Patch[]
}

/** Carries an edit out. Pure: the project given stays as it was, and the parts that did not change are shared. */
export function apply(project: Project, edit: Edit): Change {
  const [next, patches, inverse] = create(project, (draft) => { edit(draft as Project) }, { enablePatches: { pathAsArray: true } })
  return { next, patches: patches as Patch[], inverse: inverse as Patch[] }
}

// Values

export const setParam = (owner: string, param: string, value: number): Edit => (p) => {
  const found = findOwner(p, owner)
  const spec = found && specAt(found, param)
  if (!found || !spec || !Number.isFinite(value)) return
  writeValue(found, param, Math.min(spec.max, Math.max(spec.min, value)))
}

/** Sets what a definition keeps as data: a drawn shape, a table. The owner's processor makes sense of it. */
export const setData = (owner: string, key: string, value: unknown): Edit => (p) => {
  const found = findOwner(p, owner)
  const holder = found?.kind === 'modulator' ? found.modulator : found?.kind === 'node' && found.node.kind === 'effect' ? found.node : undefined
  if (!holder) return
  holder.data ??= {}
  holder.data[key] = value as never
}

/** Adds an item to a lane, after the one at `index`, with the values of that one; the end where there is none. */
export const addLaneItem = (owner: string, lane: string, index: number, values: Record<string, number> = {}): Edit => (p) => {
  const found = findOwner(p, owner)
  const spec = found && lanesOf(found)[lane]
  if (!found || !spec || itemsOf(found, lane).length >= spec.most) return
  const items = ownedItems(found, lane)
  const at = Math.min(items.length, Math.max(0, index + 1))
  items.splice(at, 0, { ...(items[at - 1] ?? {}), ...values })
  shiftLaneTargets(p, owner, lane, at, 1)
}

/** Takes an item out of a lane, together with the links to it; no fewer than the lane must have are left. */
export const removeLaneItem = (owner: string, lane: string, index: number): Edit => (p) => {
  const found = findOwner(p, owner)
  const spec = found && lanesOf(found)[lane]
  const items = found && itemsOf(found, lane)
  if (!found || !spec || !items || items.length <= spec.least || index < 0 || index >= items.length) return
  ownedItems(found, lane).splice(index, 1)
  const hits = (t: Target): boolean => t.owner === owner && t.lane === lane && t.index === index
  p.links = p.links.filter((l) => !hits(l.target))
  p.controls = p.controls.filter((c) => !hits(c.target))
  dropStrayLinks(p)
  shiftLaneTargets(p, owner, lane, index + 1, -1)
}

/** Makes a lane so many items long: cut at its end, or its last item repeated. */
export const setLaneLength = (owner: string, lane: string, length: number): Edit => (p) => {
  const found = findOwner(p, owner)
  if (!found) return
  for (let n = itemsOf(found, lane).length; n < length; n++) addLaneItem(owner, lane, n - 1)(p)
  for (let n = itemsOf(found, lane).length; n > length; n--) removeLaneItem(owner, lane, n - 1)(p)
}

export const setTempo = (tempo: number): Edit => (p) => { p.tempo = Math.min(300, Math.max(20, tempo)) }
export const setLoop = (loop: Partial<Project['loop']>): Edit => (p) => {
  Object.assign(p.loop, loop)
  if (p.loop.end < p.loop.start) [p.loop.start, p.loop.end] = [p.loop.end, p.loop.start]
}
export const renameProject = (name: string): Edit => (p) => { p.name = name.slice(0, 120) || p.name }

// Tracks

export const addTrack = (track: Track): Edit => (p) => { p.tracks.splice(p.tracks.length - 1, 0, track) }

export const removeTrack = (id: string): Edit => (p) => {
  const track = trackOf(p, id)
  if (!track || track.kind === 'mix') return
  p.tracks.splice(p.tracks.indexOf(track), 1)
  dropStrayLinks(p)
  for (const t of p.tracks) {
    for (const m of t.modulators) if (m.listens?.track === id) m.listens = null
    for (const node of allNodes(t)) if (node.kind === 'effect' && node.sidechain?.track === id) node.sidechain = null
  }
}

export const renameTrack = (id: string, name: string): Edit => (p) => {
  const track = trackOf(p, id)
  if (track && name.trim()) track.name = name.trim().slice(0, 120)
}

export const setSource = (track: string, source: Source): Edit => (p) => {
  const t = trackOf(p, track)
  if (!t || t.kind !== 'track') return
  t.source = source
  dropStrayLinks(p)
}

/** Adds a track that plays audio, with the reference that keeps it findable. */
export const addAudioTrack = (name: string, source: Source, hash: string, ref: Project['audio'][string], id = newId()): Edit => (p) => {
  p.audio[hash] = ref
  addTrack(newTrack(name, source, id))(p)
}

// Chains

/** Where a node goes: after a node, or at the start of a branch, group or track. */
export type Spot = { readonly after: string } | { readonly startOf: string }

function listAt(p: Project, spot: Spot): { list: ChainNode[], index: number } | undefined {
  for (const track of p.tracks) {
    const chain = heardChain(track)
    if ('after' in spot) {
      const place = placeOf(chain.nodes, spot.after)
      if (place) return { list: place.list, index: place.index + 1 }
      continue
    }
    if (track.id === spot.startOf) return { list: chain.nodes, index: 0 }
    for (const node of nodesIn(chain.nodes)) {
      if (node.kind === 'split') {
        const branch = node.branches.find((b) => b.id === spot.startOf)
        if (branch) return { list: branch.nodes, index: 0 }
      } else if (node.kind !== 'effect' && node.id === spot.startOf) return { list: node.nodes, index: 0 }
    }
  }
  return undefined
}

const listIn = (track: Track, spot: Spot): boolean => {
  const anchor = 'after' in spot ? spot.after : spot.startOf
  return track.id === anchor || [...nodesIn(heardChain(track).nodes)].some((n) => n.id === anchor || (n.kind === 'split' && n.branches.some((b) => b.id === anchor)))
}

export const addNode = (node: ChainNode, spot: Spot): Edit => (p) => {
  const at = listAt(p, spot)
  at?.list.splice(at.index, 0, node)
}

export const removeNode = (id: string): Edit => (p) => {
  take(p, id)
  dropStrayLinks(p)
}

/** Moves a node to another spot. A spot inside the node itself changes nothing. */
export const moveNode = (id: string, spot: Spot): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'node') return
  const anchor = 'after' in spot ? spot.after : spot.startOf
  if (anchor === id || [...nodesIn(innerLists(found.node).flat())].some((n) => n.id === anchor || (n.kind === 'split' && n.branches.some((b) => b.id === anchor)))) return
  if (found.node.kind === 'split' && found.node.branches.some((b) => b.id === anchor)) return
  if (!listAt(p, spot)) return
  const taken = take(p, id)
  if (!taken) return
  // the other state of the track it leaves may hold it too: then what arrives elsewhere is another thing, linked alike
  const newIds = new Map<string, string>()
  const stays = allNodes(found.track).some((n) => n.id === id || [...nodesIn([taken])].some((m) => m.id === n.id))
  const node = stays && !listIn(found.track, spot) ? renewed(taken, newIds) : taken
  const at = listAt(p, spot)
  at?.list.splice(at.index, 0, node)
  copyLinks(p, newIds)
  // what was inside it under its old ids, and is in no other state, is gone
  dropStrayLinks(p)
}

/** Moves a node one place along its own list. */
export const shiftNode = (id: string, by: -1 | 1): Edit => (p) => {
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
export const duplicateNode = (id: string, newIds: Map<string, string> = new Map()): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'node') return
  const copy = renewed(found.node, newIds)
  addNode(copy, { after: id })(p)
  copyLinks(p, newIds)
}

/** Puts nodes that lie next to each other on the first of two branches; the second is a straight copy. Both at −6 dB. */
export const splitAround = (ids: readonly string[], splitId = newId()): Edit => (p) => {
  const first = ids[0]
  const gathered = gather(p, ids)
  if (first === undefined || !gathered) return
  const through = newBranch('through', -6)
  through.nodes = gathered.nodes
  gathered.list.splice(gathered.index, 0, newSplit([through, newBranch('straight', -6)], splitId))
}

/** Puts nodes that lie next to each other into a group. */
export const groupAround = (ids: readonly string[], name = 'Group', groupId = newId()): Edit => (p) => {
  const gathered = gather(p, ids)
  if (gathered) gathered.list.splice(gathered.index, 0, newGroup(name, gathered.nodes, groupId))
}

/** Takes a container away and leaves what is inside in its place: for a split, the nodes of its branches in order. */
export const unwrap = (id: string): Edit => (p) => {
  for (const track of p.tracks) {
    const place = placeOf(heardChain(track).nodes, id)
    const node = place?.list[place.index]
    if (!place || !node || node.kind === 'effect') continue
    place.list.splice(place.index, 1, ...innerLists(node).flat())
  }
  dropStrayLinks(p)
}

export const addBranch = (split: string, branch: Branch): Edit => (p) => {
  const found = findOwner(p, split)
  if (found?.kind === 'node' && found.node.kind === 'split' && found.node.branches.length < 8) found.node.branches.push(branch)
}

export const removeBranch = (id: string): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'branch') return
  for (const node of nodesIn(heardChain(found.track).nodes)) {
    if (node.kind === 'split' && node.branches.includes(found.branch) && node.branches.length > 1) node.branches.splice(node.branches.indexOf(found.branch), 1)
  }
  dropStrayLinks(p)
}

export const setSplitMode = (id: string, mode: Split['mode']): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind === 'node' && found.node.kind === 'split') found.node.mode = mode
}

export const rename = (id: string, name: string): Edit => (p) => {
  const found = findOwner(p, id)
  const text = name.trim().slice(0, 120)
  if (!found || !text) return
  if (found.kind === 'node') found.node.name = text
  else if (found.kind === 'branch') found.branch.name = text
  else if (found.kind === 'modulator') found.modulator.name = text
  else if (found.kind === 'track') found.track.name = text
}

export const setSidechain = (effect: string, listen: Listen | null): Edit => (p) => {
  const found = findOwner(p, effect)
  if (found?.kind === 'node' && found.node.kind === 'effect') found.node.sidechain = listen
}

/** Switches between the two states of a chain. The first time, B starts as a copy of A. */
export const hear = (track: string, state: 'a' | 'b'): Edit => (p) => {
  const t = trackOf(p, track)
  if (!t) return
  if (state === 'b' && !t.b) t.b = JSON.parse(JSON.stringify(t.a)) as Track['a']
  t.heard = state
}

/** Makes the other state the same as the one heard. */
export const copyToOther = (track: string): Edit => (p) => {
  const t = trackOf(p, track)
  if (!t) return
  const copy = JSON.parse(JSON.stringify(heardChain(t))) as Track['a']
  if (t.heard === 'a') t.b = copy
  else t.a = copy
  dropStrayLinks(p)
}

// Modulators and links

/** The next free badge letter of a project: a … z, then aa, ab … */
export function nextLetter(p: Project): string {
  const taken = new Set(p.tracks.flatMap((t) => t.modulators.map((m) => m.letter)))
  for (let i = 0; ; i++) {
    const letter = i < 26 ? String.fromCharCode(97 + i) : String.fromCharCode(96 + Math.floor(i / 26)) + String.fromCharCode(97 + (i % 26))
    if (!taken.has(letter)) return letter
  }
}

export const addModulator = (track: string, type: string, o: { id?: string, name?: string, params?: Record<string, number>, listens?: Listen | null } = {}): Edit => (p) => {
  const t = trackOf(p, track)
  const definition = modulatorDefinition(type)
  if (!t || !definition) return
  const letter = nextLetter(p)
  const count = p.tracks.flatMap((x) => x.modulators).filter((m) => m.type === type).length
  const used = p.tracks.flatMap((x) => x.modulators).length
  const m = newModulator(type, o.name ?? `${definition.name}${count ? ` ${count + 1}` : ''}`, letter, used % 8, o.params, o.id)
  m.listens = o.listens ?? (definition.listens ? { track, point: 'before' } : null)
  t.modulators.push(m)
}

export const removeModulator = (id: string): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'modulator') return
  found.track.modulators.splice(found.track.modulators.indexOf(found.modulator), 1)
  dropStrayLinks(p)
}

/** A copy of a modulator with its own letter, with or without copies of the links it drives. */
export const duplicateModulator = (id: string, withLinks: boolean, copyId = newId()): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'modulator') return
  const used = p.tracks.flatMap((x) => x.modulators).length
  const copy: Modulator = { ...(JSON.parse(JSON.stringify(found.modulator)) as Modulator), id: copyId, letter: nextLetter(p), hue: used % 8, name: `${found.modulator.name} 2` }
  found.track.modulators.splice(found.track.modulators.indexOf(found.modulator) + 1, 0, copy)
  if (withLinks) for (const link of p.links.filter((l) => l.source === id)) p.links.push({ ...(JSON.parse(JSON.stringify(link)) as Link), id: newId(), source: copyId })
}

/** Lets a modulator work on another's output; null takes it away. A modulator never works on itself. */
export const setInput = (modulator: string, slot: number, input: { source: string, output: string } | null): Edit => (p) => {
  const found = findOwner(p, modulator)
  if (found?.kind !== 'modulator' || slot < 0 || slot > 3 || input?.source === modulator) return
  const { inputs } = found.modulator
  while (inputs.length <= slot) inputs.push(null)
  inputs[slot] = input
}

export const setListens = (modulator: string, listen: Listen | null): Edit => (p) => {
  const found = findOwner(p, modulator)
  if (found?.kind === 'modulator') found.modulator.listens = listen
}

/**
 * Links a modulator to a parameter, with its ends at two places of the staff. A modulator that moves the parameter
 * already gets its range drawn anew instead of a second link.
 */
export const addLink = (source: string, target: Target, from: number, to: number, o: { id?: string, mode?: Link['mode'], output?: string } = {}): Edit => (p) => {
  const found = findTarget(p, target)
  const modulator = findOwner(p, source)
  if (!found || modulator?.kind !== 'modulator') return
  const outputs = modulatorDefinition(modulator.modulator.type)?.outputs ?? []
  const output = o.output && outputs.includes(o.output) ? o.output : outputs[0] ?? 'value'
  const stepped = found.spec.unit === 'choice' || found.spec.unit === 'toggle'
  const mode = stepped ? 'fixed' : o.mode ?? (output === 'pitch' && followsPitch(found.spec) ? 'pitch' : 'floating')
  const ends = endsToStore(mode, found.spec, found.base, from, to)
  const known = p.links.find((l) => l.source === source && l.output === output && sameTarget(l.target, target))
  if (known) Object.assign(known, ends, { mode })
  else p.links.push({ id: o.id ?? newId(), source, output, target, ...ends, mode, transpose: 0, amount: 1, curve: 0, quantise: null, slewUp: 0, slewDown: 0, fan: null, on: true })
}

/** What can be changed of a link as it is. */
export type LinkChange = Partial<Pick<Link, 'from' | 'to' | 'amount' | 'curve' | 'slewUp' | 'slewDown' | 'quantise' | 'fan' | 'transpose' | 'on'>>

export const updateLink = (id: string, change: LinkChange): Edit => updateLinks([id], change)

export const updateLinks = (ids: readonly string[], change: LinkChange): Edit => (p) => {
  for (const link of p.links) if (ids.includes(link.id)) Object.assign(link, change)
}

/** Multiplies the amounts of several links, each kept between 0 and its full range. */
export const scaleAmounts = (ids: readonly string[], factor: number): Edit => (p) => {
  for (const link of p.links) if (ids.includes(link.id)) link.amount = Math.min(1, Math.max(0, link.amount * factor))
}

/** Gives a link another modulator or output as its source. */
export const setLinkSource = (id: string, source: string, output?: string): Edit => (p) => {
  const link = p.links.find((l) => l.id === id)
  const found = findOwner(p, source)
  if (!link || found?.kind !== 'modulator') return
  const outputs = modulatorDefinition(found.modulator.type)?.outputs ?? []
  link.source = source
  link.output = output && outputs.includes(output) ? output : outputs[0] ?? 'value'
}

/** Points a link at another parameter; its range keeps its places on the staff. */
export const setLinkTarget = (id: string, target: Target): Edit => (p) => {
  const link = p.links.find((l) => l.id === id)
  const before = link && findTarget(p, link.target)
  const after = findTarget(p, target)
  if (!link || !after || target.owner === link.id) return
  const stepped = after.spec.unit === 'choice' || after.spec.unit === 'toggle'
  if (before) {
    const ends = linkEnds({ ...link, amount: 1 }, before.spec, before.base)
    const mode = stepped ? 'fixed' : link.mode
    Object.assign(link, endsToStore(mode, after.spec, after.base, ends.from, ends.to), { mode })
  }
  link.target = target
  if (target.lane === undefined || target.index !== undefined) link.fan = null
}

/**
 * Points the links of a modulator at another place: a single one at the parameter given, several at those of the same
 * names on its owner; a link to what that owner does not have stays where it is.
 */
export const pointLinks = (modulator: string, target: Target): Edit => (p) => {
  const own = p.links.filter((l) => l.source === modulator && l.id !== target.owner)
  const first = own[0]
  if (own.length === 1 && first) return setLinkTarget(first.id, target)(p)
  for (const link of own) if (link.target.owner === first?.target.owner) setLinkTarget(link.id, { ...link.target, owner: target.owner })(p)
}

/**
 * Teaches a macro one end of what it does to a parameter: with the macro at that end, the parameter stands at `place`. A
 * parameter that it did not move before keeps its base at the other end.
 */
export const learnEnd = (macro: string, target: Target, end: 'from' | 'to', place: number): Edit => (p) => {
  const found = findTarget(p, target)
  if (!found || target.owner === macro) return
  const known = (): Link | undefined => p.links.find((l) => l.source === macro && sameTarget(l.target, target))
  if (!known()) {
    const base = toPlace(found.spec, found.base)
    addLink(macro, target, base, base, { mode: 'fixed' })(p)
  }
  const link = known()
  if (!link) return
  const now = linkEnds({ ...link, amount: 1 }, found.spec, found.base)
  const ends = { ...now, [end]: Math.min(1, Math.max(0, place)) }
  Object.assign(link, { mode: 'fixed', amount: 1 }, endsToStore('fixed', found.spec, found.base, ends.from, ends.to))
}

/** Moves the ends of a link to places of its target's staff, whatever its mode. */
export const setLinkEnds = (id: string, from: number, to: number): Edit => (p) => {
  const link = p.links.find((l) => l.id === id)
  const found = link && findTarget(p, link.target)
  if (link && found) Object.assign(link, endsToStore(link.mode, found.spec, found.base, from, to))
}

/** Changes between floating and fixed; the range stays where it stands now. */
export const setLinkMode = (id: string, mode: Link['mode']): Edit => (p) => {
  const link = p.links.find((l) => l.id === id)
  const found = link && findTarget(p, link.target)
  if (!link || !found || link.mode === mode) return
  if (mode === 'pitch' && !followsPitch(found.spec)) return
  const { from, to } = linkEnds({ ...link, amount: 1 }, found.spec, found.base)
  Object.assign(link, endsToStore(mode, found.spec, found.base, from, to), { mode })
}

export const removeLink = (id: string): Edit => removeLinks([id])

export const removeLinks = (ids: readonly string[]): Edit => (p) => {
  p.links = p.links.filter((l) => !ids.includes(l.id))
  dropStrayLinks(p)
}

/** Sets a parameter by its place on the staff. */
export const setPlace = (owner: string, param: string, place: number): Edit => (p) => {
  const found = findOwner(p, owner)
  const spec = found && specAt(found, param)
  if (spec) setParam(owner, param, fromPlace(spec, place))(p)
}

/** All parameters of an owner back to their defaults. */
export const resetParams = (owner: string): Edit => (p) => {
  const found = findOwner(p, owner)
  const specs = found && paramsOf(found)
  if (found && specs) for (const [param, value] of Object.entries(defaultsOf(specs))) writeValue(found, param, value)
}

/** Sets an effect up as a preset says: what it does not say goes to its default, and its data and lanes are those of the preset. */
export const takePreset = (id: string, preset: EffectPreset): Edit => (p) => {
  const found = findOwner(p, id)
  if (found?.kind !== 'node' || found.node.kind !== 'effect') return
  resetParams(id)(p)
  for (const [param, value] of Object.entries(preset.params)) setParam(id, param, value)(p)
  const { lanes, data } = setUpAs(preset)
  if (lanes) found.node.lanes = lanes
  else delete found.node.lanes
  if (data) found.node.data = data
  else delete found.node.data
}

/** Gives an effect a sound of its own: a response. The sound becomes part of the project. */
export const setEffectSound = (id: string, hash: string | null, ref?: Project['audio'][string]): Edit => (p) => {
  if (hash && ref) p.audio[hash] = ref
  setData(id, 'audio', hash)(p)
}

// Song

/** Sets the notes that a track's Notes modulators play; null for none. */
export const setNoteLine = (track: string, line: NoteLine | null): Edit => (p) => {
  const t = trackOf(p, track)
  if (t) t.line = line
}

export const addSection = (section: Section): Edit => (p) => {
  p.sections.push(section)
  p.sections.sort((a, b) => a.start - b.start)
}

export const updateSection = (id: string, change: Partial<Omit<Section, 'id'>>): Edit => (p) => {
  const section = p.sections.find((s) => s.id === id)
  if (!section) return
  Object.assign(section, change)
  if (section.end < section.start) [section.start, section.end] = [section.end, section.start]
}

export const removeSection = (id: string): Edit => (p) => { p.sections = p.sections.filter((s) => s.id !== id) }

/** Lets a control of a device steer a parameter; one that does already is learnt anew. */
export const setControl = (control: Control): Edit => (p) => {
  p.controls = [...p.controls.filter((c) => c.id !== control.id && !sameTarget(c.target, control.target)), control]
}

export const removeControl = (id: string): Edit => (p) => { p.controls = p.controls.filter((c) => c.id !== id) }

// Helpers

export const sameTarget = (a: Target, b: Target): boolean => a.owner === b.owner && pathOf(a) === pathOf(b)

const allNodes = (t: Track): ChainNode[] => [...nodesIn(t.a.nodes), ...(t.b ? nodesIn(t.b.nodes) : [])]

/** Keeps targets on their items when a lane grows or shrinks before them. */
function shiftLaneTargets(p: Project, owner: string, lane: string, from: number, by: number): void {
  for (const { target } of [...p.links, ...p.controls]) if (target.owner === owner && target.lane === lane && target.index !== undefined && target.index >= from) target.index += by
}

/** Links, controls and inputs whose modulator or target is gone from both states of every chain. */
function dropStrayLinks(p: Project): void {
  const owners = new Set<string>()
  const sources = new Set<string>()
  for (const t of p.tracks) {
    owners.add(t.id)
    if (t.source) owners.add(t.source.id)
    for (const m of t.modulators) {
      owners.add(m.id)
      sources.add(m.id)
    }
    for (const n of allNodes(t)) {
      owners.add(n.id)
      if (n.kind === 'split') for (const b of n.branches) owners.add(b.id)
    }
  }
  // a link that goes takes those with it that move its amount
  for (const link of p.links) owners.add(link.id)
  for (let before = -1; before !== p.links.length;) {
    before = p.links.length
    for (let i = p.links.length - 1; i >= 0; i--) {
      const link = p.links[i]
      if (!link || (owners.has(link.target.owner) && sources.has(link.source))) continue
      p.links.splice(i, 1)
      owners.delete(link.id)
    }
  }
  if (p.controls.some((c) => !owners.has(c.target.owner))) p.controls = p.controls.filter((c) => owners.has(c.target.owner))
  for (const t of p.tracks) for (const m of t.modulators) if (m.inputs.some((i) => i && !sources.has(i.source))) m.inputs = m.inputs.map((i) => (i && sources.has(i.source) ? i : null))
}

function take(p: Project, id: string): ChainNode | undefined {
  for (const track of p.tracks) {
    const place = placeOf(heardChain(track).nodes, id)
    if (place) return place.list.splice(place.index, 1)[0]
  }
  return undefined
}

/** Takes nodes that lie next to each other in one list out of it. */
function gather(p: Project, ids: readonly string[]): { list: ChainNode[], index: number, nodes: ChainNode[] } | undefined {
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
    if (n.kind === 'split') n.branches.forEach(rename)
  }
  return copy
}

function copyLinks(p: Project, newIds: Map<string, string>): void {
  for (const link of [...p.links]) {
    const owner = newIds.get(link.target.owner)
    if (owner) p.links.push({ ...(JSON.parse(JSON.stringify(link)) as Link), id: newId(), target: { ...link.target, owner } })
  }
}

/** An effect of the heard chains by id. */
export function effectOf(project: Project, id: string): Effect | undefined {
  const found = findOwner(project, id)
  return found?.kind === 'node' && found.node.kind === 'effect' ? found.node : undefined
}

export const selectableTrack = (project: Project): Track => project.tracks[0] ?? mixOf(project)
