import { freeName } from './free-name'
import { z } from 'zod'
import { effectDefinition } from '../effects/index'
import { nextLetter } from './motion-edits'
import { newBranch, newId, newSplit, newTrack, seedIn } from './new'
import { JsonTextError, readJson } from './json-text'
import { morphedSnapshots, takeSnapshots } from './morph'
import { branchesOf, innerLists, kindOf } from './nodes/index'
import { issueSentence } from './read'
import { id, name, values } from './schema-parts'
import {
  type Branch,
  type ChainNode,
  type Link,
  type Modulator,
  type Project,
  type Track,
  audioRefSchema,
  chainSchema,
  linkSchema,
  modulatorSchema,
  snapshotSchema,
} from './schema'
import type { Edit } from './edit'
import { dropStrayLinks } from './target-edits'
import { findOwner, heardChain, idsOf, nodesIn, placeOf, trackOf } from './walk'
import { type Spot, insertNodes } from './chain-edits'

export const PRESET_VERSION = 3

/**
 * A preset: effects in their order, a branch, or modulators, together with every modulator
 * and link that moves them. Seeds are part of it, so that it sounds the same in every project.
 */
export const presetSchema = z.object({
  format: z.literal('oleaje-preset'),
  version: z.literal(PRESET_VERSION),
  name,
  tags: z.array(z.string().max(40)).max(20).default([]),
  /** What it does, in a line. */
  about: z.string().max(400).default(''),
  /** Material that it suits. */
  materials: z.array(z.string().max(40)).max(20).default([]),
  /** The project and track that it was kept from; empty for one that ships. */
  origin: z.string().max(300).default(''),
  /**
   * What its modulators are kept for: effects to stand in a row, one branch of a split, or nothing but
   * themselves.
   */
  kind: z.enum(['chain', 'branch', 'modulators']),
  chain: chainSchema,
  /** The branch itself, without its effects. */
  branch: z.object({ id, name, params: values }).nullable().default(null),
  /**
   * The track whose whole chain it was, and its source: links to those go to the track that it is taken to in
   * place of its chain.
   */
  home: z.object({ track: id, source: id.nullable() }).nullable().default(null),
  modulators: z.array(modulatorSchema).max(128),
  links: z.array(linkSchema).max(1024),
  /** Snapshots that its morphs move between. */
  snapshots: z.array(snapshotSchema).max(64).default([]),
  /** Sounds that its effects work with. */
  audio: z.record(z.string().max(128), audioRefSchema).default({}),
})

export type Preset = z.infer<typeof presetSchema>

/** A preset that cannot be taken. The message is a sentence. */
export class PresetError extends Error {
  override name = 'PresetError'
}

/** Whether a text may be that of a preset: cheap enough to ask of any clipboard. */
export const looksLikePreset = (text: string): boolean =>
  text.length < 8_000_000 && /^\s*\{[\s\S]{0,400}"oleaje-preset"/.test(text)

/** Reads the text of a preset, of this version or an older one. @throws PresetError */
export function readPreset(text: string): Preset {
  let raw: unknown
  try {
    raw = readJson(text, 'preset')
  } catch (error) {
    throw error instanceof JsonTextError ? new PresetError(error.message) : error
  }
  return checkPreset(raw)
}

/** A preset of an older version with what has been added since. */
export const upgraded = (preset: Partial<Preset>): Partial<Preset> => ({
  about: '',
  materials: [],
  origin: '',
  snapshots: [],
  ...preset,
  version: PRESET_VERSION,
})

/** Checks a preset that came as data. @throws PresetError */
export function checkPreset(raw: unknown): Preset {
  if (typeof raw !== 'object' || raw === null || (raw as { format?: unknown }).format !== 'oleaje-preset')
    throw new PresetError('This is not an Oleaje preset: its “format” field is missing or different.')
  const { version } = raw as { version?: unknown }
  if (typeof version === 'number' && version > PRESET_VERSION)
    throw new PresetError(
      `This preset was made by a newer Oleaje (version ${version}); this version reads up to ${PRESET_VERSION}.`,
    )
  // the first version knew chains only; the second had neither description, material nor origin
  const result = presetSchema.safeParse(
    version === 1
      ? { ...raw, version: PRESET_VERSION, kind: 'chain' }
      : version === 2
        ? upgraded(raw as Partial<Preset>)
        : raw,
  )
  if (!result.success) throw new PresetError(issueSentence(result.error.issues[0], 'preset'))
  const preset = result.data
  if (
    preset.kind === 'modulators'
      ? preset.modulators.length === 0
      : preset.kind === 'chain' && preset.chain.nodes.length === 0
  )
    throw new PresetError('This preset is empty.')
  return preset
}

/** Effects of a preset that this program does not know, each once. They are kept, and pass sound as it is. */
export const unknownEffects = (preset: Preset): string[] => [
  ...new Set(
    [...nodesIn(preset.chain.nodes)].flatMap((n) =>
      n.kind === 'effect' && !effectDefinition(n.type) ? [n.type] : [],
    ),
  ),
]

const copyOf = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T

/** Effects as a preset, in the order in which they stand in their list. Undefined where there are none. */
export function presetOfNodes(p: Project, ids: readonly string[], name: string): Preset | undefined {
  const track = p.tracks.find((t) => ids.some((id) => placeOf(heardChain(t).nodes, id)))
  if (!track) return undefined
  const wanted = new Set(ids)
  const nodes: ChainNode[] = []
  // of something within something that is taken as well, the outer one holds it already
  const gather = (list: readonly ChainNode[]): void => {
    for (const node of list) {
      if (wanted.has(node.id)) nodes.push(node)
      else for (const inner of innerLists(node)) gather(inner)
    }
  }
  gather(heardChain(track).nodes)
  return nodes.length ? presetOf(p, track, { kind: 'chain', nodes, name }) : undefined
}

/** A new effect or container as a preset, to be put into a chain like any other. */
export const presetOfNew = (node: ChainNode, name: string): Preset => ({
  format: 'oleaje-preset',
  version: PRESET_VERSION,
  name,
  tags: [],
  about: '',
  materials: [],
  origin: '',
  kind: 'chain',
  chain: { nodes: [node] },
  branch: null,
  home: null,
  modulators: [],
  links: [],
  snapshots: [],
  audio: {},
})

/** The active chain of a track, with all of its modulators and macros. */
export function presetOfTrack(p: Project, id: string, name?: string): Preset | undefined {
  const track = trackOf(p, id)
  if (!track) return undefined
  return presetOf(p, track, {
    kind: 'chain',
    nodes: heardChain(track).nodes,
    modulators: track.modulators,
    home: { track: id, source: track.source?.id ?? null },
    name: name ?? track.name,
  })
}

export function presetOfBranch(p: Project, id: string): Preset | undefined {
  const found = findOwner(p, id)
  return found?.kind === 'branch'
    ? presetOf(p, found.track, {
        kind: 'branch',
        nodes: found.branch.nodes,
        branch: found.branch,
        name: found.branch.name,
      })
    : undefined
}

/** Modulators by themselves, with the links among them and to whatever they move. */
export function presetOfModulators(p: Project, ids: readonly string[], name: string): Preset | undefined {
  const track = p.tracks.find((t) => t.modulators.some((m) => ids.includes(m.id)))
  const modulators = p.tracks.flatMap((t) => t.modulators).filter((m) => ids.includes(m.id))
  return track && presetOf(p, track, { kind: 'modulators', nodes: [], modulators, name })
}

/** Placeholder for the track of a preset, where the preset listens to it. */
const OWN = 'own-track'

/** The tracks that a preset listens to, by id; its own stands among them as no track's. */
export const listensTo = (preset: Preset): string[] => listensIn(preset).map((l) => l.track)

interface Kept {
  readonly kind: Preset['kind']
  readonly nodes: readonly ChainNode[]
  readonly name: string
  readonly branch?: Branch
  readonly modulators?: readonly Modulator[]
  readonly home?: Preset['home']
}

function presetOf(
  p: Project,
  track: Track,
  { kind, nodes, name, branch, modulators: first = [], home = null }: Kept,
): Preset {
  const all = new Map(p.tracks.flatMap((t) => t.modulators.map((m) => [m.id, m] as const)))
  const owners = new Set([...nodesIn(nodes)].flatMap(idsOf))
  for (const id of [branch?.id, home?.track, home?.source]) if (id) owners.add(id)
  const modulators = new Map(first.map((m) => [m.id, m]))
  const links = new Map<string, Link>()
  // what moves something that is taken is taken with it, and what moves that
  for (let before = -1; before !== modulators.size + links.size;) {
    before = modulators.size + links.size
    for (const link of p.links) {
      const source = all.get(link.source)
      const within =
        owners.has(link.target.owner) || links.has(link.target.owner) || modulators.has(link.target.owner)
      if (!source || !(within || (kind === 'modulators' && modulators.has(link.source)))) continue
      // a fan’s random places are carried along: under another id they would be others
      links.set(link.id, link.fan ? { ...link, seed: link.seed ?? seedIn(p, link.id) } : link)
      modulators.set(source.id, source)
    }
    for (const m of [...modulators.values()])
      for (const input of m.inputs) {
        const source = input && all.get(input.source)
        if (source) modulators.set(source.id, source)
      }
  }
  const audio = Object.fromEntries(
    [...nodesIn(nodes)].flatMap((n) => {
      const hash = n.kind === 'effect' && typeof n.data?.audio === 'string' ? n.data.audio : ''
      const ref = p.audio[hash]
      return ref ? [[hash, ref]] : []
    }),
  )
  const order = [...all.keys()]
  const preset = copyOf({
    format: 'oleaje-preset',
    version: PRESET_VERSION,
    name,
    tags: tagsOf(nodes, [...modulators.values()]),
    about: '',
    materials: [],
    origin: `${p.name}, ${track.name}`,
    kind,
    chain: { nodes: [...nodes] },
    branch: branch ? { id: branch.id, name: branch.name, params: branch.params } : null,
    home,
    modulators: [...modulators.values()].sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id)),
    links: [...links.values()],
    snapshots: morphedSnapshots(track, [...modulators.values()]),
    audio,
  } satisfies Preset)
  for (const heard of listensIn(preset)) if (heard.track === track.id) heard.track = OWN
  return preset
}

/** All that a preset listens to, to be changed. */
const listensIn = (preset: Preset): { track: string; branch?: string }[] => [
  ...[...nodesIn(preset.chain.nodes)].flatMap((n) => kindOf(n).listens?.(n) ?? []),
  ...preset.modulators.flatMap((m) => m.listens ?? []),
]

/** Names of its content as search words. */
const tagsOf = (nodes: readonly ChainNode[], modulators: readonly Modulator[]): string[] =>
  [
    ...new Set([
      ...[...nodesIn(nodes)].map((n) => (n.kind === 'effect' ? n.type : n.kind)),
      ...modulators.map((m) => m.type),
    ]),
  ].slice(0, 20)

/**
 * Where a preset goes: behind or at the start of something, around the chosen effects, in place of them, or
 * into a split.
 */
export type PresetPlacing =
  | { readonly at: Spot }
  | { readonly around: readonly string[] }
  | { readonly instead: readonly string[] }
  | { readonly intoSplit: string }
  /** In place of the whole chain. */
  | { readonly chainOf: string }

/** Ids of the inserted effects and modulators of a preset. */
export interface Taken {
  readonly nodes: readonly string[]
  readonly modulators: readonly string[]
}

/**
 * Takes a preset into the chain of a track, with new ids and free letters. What it listened to on a track
 * that is not here becomes the track that it is taken to; links to what is not here are left out.
 * @param taken is given the new ids
 * @param shares links to modulators that the track has already, instead of copying them
 */
export const takePresetInto =
  (
    track: string,
    preset: Preset,
    placing: PresetPlacing,
    taken: (t: Taken) => void = () => {},
    shares = false,
  ): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t) return
    const copy = copyOf(preset)
    const here = new Set(p.tracks.map((x) => x.id))
    for (const heard of listensIn(copy)) if (!here.has(heard.track)) heard.track = track
    const ids = new Map<string, string>()
    const renew = (x: { id: string }): void => {
      const id = newId()
      ids.set(x.id, id)
      x.id = id
    }
    for (const node of nodesIn(copy.chain.nodes)) {
      renew(node)
      branchesOf(node).forEach(renew)
    }
    const target = place(p, t.id, copy, placing)
    if (!target) return
    if (preset.branch && target.branch) ids.set(preset.branch.id, target.branch)
    if (preset.home && 'chainOf' in placing) {
      ids.set(preset.home.track, track)
      if (preset.home.source && t.source) ids.set(preset.home.source, t.source.id)
    }
    const isShared = (m: { id: string }): boolean => shares && t.modulators.some((own) => own.id === m.id)
    const shared = new Set(copy.modulators.filter(isShared).map((m) => m.id))
    for (const id of shared) ids.set(id, id)
    copy.modulators = copy.modulators.filter((m) => !shared.has(m.id))
    copy.links = copy.links.filter((l) => !shared.has(l.target.owner))
    for (const m of copy.modulators) {
      renew(m)
      m.letter = nextLetter(p)
      t.modulators.push(m as Modulator)
    }
    for (const m of copy.modulators)
      m.inputs = m.inputs.map((input) =>
        input && ids.has(input.source) ? { ...input, source: ids.get(input.source) ?? '' } : null,
      )
    for (const heard of listensIn(copy)) {
      const branch =
        heard.branch && (ids.get(heard.branch) ?? (findOwner(p, heard.branch) ? heard.branch : undefined))
      if (branch) heard.branch = branch
      else delete heard.branch
    }
    for (const link of copy.links) renew(link)
    for (const link of copy.links) {
      const source = ids.get(link.source)
      // modulators in a preset of their own keep their links to existing targets
      const owner =
        ids.get(link.target.owner) ??
        (preset.kind === 'modulators' && findOwner(p, link.target.owner) ? link.target.owner : undefined)
      if (source && owner) p.links.push({ ...link, source, target: { ...link.target, owner } } as Link)
    }
    for (const [hash, ref] of Object.entries(copy.audio)) p.audio[hash] ??= ref
    takeSnapshots(t, copy, ids)
    dropStrayLinks(p)
    taken({ nodes: copy.chain.nodes.map((n) => n.id), modulators: copy.modulators.map((m) => m.id) })
  }

/** Puts the effects of a preset where they shall be. */
function place(
  p: Project,
  track: string,
  preset: Preset,
  placing: PresetPlacing,
): { branch?: string } | undefined {
  const { nodes } = preset.chain as { nodes: ChainNode[] }
  const t = trackOf(p, track)
  if (!t) return undefined
  if (preset.kind === 'modulators') return {}
  if ('intoSplit' in placing) {
    const found = findOwner(p, placing.intoSplit)
    if (found?.kind !== 'node' || found.node.kind !== 'split' || found.node.branches.length >= 8)
      return undefined
    const branch = { ...newBranch(preset.branch?.name ?? preset.name), nodes }
    Object.assign(branch.params, preset.branch?.params)
    found.node.branches.push(branch)
    return { branch: branch.id }
  }
  if ('chainOf' in placing) {
    heardChain(t).nodes = nodes
    return {}
  }
  if ('at' in placing) return insertNodes(p, nodes, placing.at) ? {} : undefined
  const chosen = 'around' in placing ? placing.around : placing.instead
  const at = chosen[0] === undefined ? undefined : placeOf(heardChain(t).nodes, chosen[0])
  if (!at) return undefined
  const gone = at.list.filter((n) => chosen.includes(n.id))
  const rest = at.list.filter((n) => !chosen.includes(n.id))
  if ('instead' in placing)
    at.list.splice(0, at.list.length, ...rest.slice(0, at.index), ...nodes, ...rest.slice(at.index))
  else {
    const [as, beside] = [newBranch('as it was', -6), newBranch(preset.name.slice(0, 40), -6)]
    as.nodes = gone
    beside.nodes = nodes
    at.list.splice(
      0,
      at.list.length,
      ...rest.slice(0, at.index),
      newSplit([as, beside]),
      ...rest.slice(at.index),
    )
  }
  return {}
}

/** A copy of a track with its source, its chain, its modulators and what moves them, behind it. */
export const duplicateTrack =
  (id: string, copyId = newId()): Edit =>
  (p) => {
    const t = trackOf(p, id)
    if (!t || t.kind === 'mix') return
    const preset = presetOfTrack(p, id)
    const copy = {
      ...copyOf(t),
      id: copyId,
      name: freeName(
        t.name,
        p.tracks.map((x) => x.name),
      ),
      a: newTrack('', null).a,
      b: null,
      heard: 'a' as const,
      modulators: [],
      snapshots: [],
    }
    if (copy.source) copy.source.id = newId()
    p.tracks.splice(p.tracks.indexOf(t) + 1, 0, copy)
    for (const send of p.sends.filter((s) => s.from === id))
      p.sends.push({ ...copyOf(send), id: newId(), from: copyId })
    if (preset) takePresetInto(copyId, preset, { chainOf: copyId })(p)
  }
