import { type Distance, type Traits, distance, textureDistance, traitsOf } from '../analysis/distance'
import type { AudioData, Stereo } from '../contract/audio'
import { toDb } from '../dsp/math'
import { modulatorDefinition } from '../modulators/index'
import { removeNode } from '../project/chain-edits'
import { type Edit, apply, together } from '../project/edit'
import { removeLink, removeModulator } from '../project/motion-edits'
import { branchesOf } from '../project/nodes/index'
import type { ChainNode, Link, Project } from '../project/schema'
import { ownerName } from '../project/targets'
import { findOwner, heardChain, holdsId, nodesIn, ownerId, ownersIn, trackOf } from '../project/walk'
import { Replay, soundOf } from '../render/replay'
import { type Excerpt, draftOf, excerptPlan } from './excerpt'

type Audio = (hash: string) => AudioData | null

/** Something of a chain that could be left out. */
export interface Part {
  readonly id: string
  readonly kind: 'effect' | 'link' | 'modulator' | 'macro'
}

/** What a part contributes to the sound. */
export interface Contribution extends Part {
  /** Between the sound with and without it, at the same loudness. */
  readonly distance: Distance
  /** The difference of both, sample by sample, in dB of the sound with it; −Infinity where they are equal. */
  readonly residue: number
  /** Whether it can be left out and nobody would tell. */
  readonly isIdle: boolean
  /** Why it is idle, in a sentence, where that can be told. */
  readonly reason: string
}

/** Less than this in dB is not told apart. */
const IDLE = 0.1
/** Textures closer than this, in dB, have the same tone, and moments up to so far apart only other phases. */
const SAME_TEXTURE = 0.05
const OTHER_PHASE = 1
/** A residue above this in dB is heard where the sound is summed with something else. */
const AUDIBLE_RESIDUE = -40

/** All that can be left out of a track: its effects, the links to it, and what moves them. */
export function partsOf(project: Project, track: string): Part[] {
  const own = trackOf(project, track)
  if (!own) return []
  const nodes = [...nodesIn(heardChain(own).nodes)]
  const owners = new Set([
    own.id,
    ...nodes.flatMap((n) => [n.id, ...branchesOf(n).map((b) => b.id)]),
    ...ownersIn(own).map(ownerId),
  ])
  const links: Link[] = []
  for (let before = -1; before < links.length;) {
    before = links.length
    for (const link of project.links)
      if (!links.includes(link) && owners.has(link.target.owner)) {
        links.push(link)
        // links may move links
        owners.add(link.id)
      }
  }
  const sources = new Set(links.map((l) => l.source))
  const modulators = project.tracks
    .flatMap((t) => t.modulators)
    .filter((m) => own.modulators.includes(m) || sources.has(m.id))
  return [
    ...nodes.map((n): Part => ({ id: n.id, kind: 'effect' })),
    ...links.map((l): Part => ({ id: l.id, kind: 'link' })),
    ...modulators.map((m): Part => ({
      id: m.id,
      kind: modulatorDefinition(m.type)?.byHand ? 'macro' : 'modulator',
    })),
  ]
}

/** Leaves parts out. */
export const withoutParts = (parts: readonly Part[]): Edit =>
  together(
    ...parts.map(({ id, kind }) =>
      kind === 'effect' ? removeNode(id) : kind === 'link' ? removeLink(id) : removeModulator(id),
    ),
  )

/** A track as it is over an excerpt, with which it is compared without its parts. */
export class Comparison {
  private readonly replay: Replay
  private readonly whole: { readonly sound: Stereo; readonly traits: Traits }

  private readonly project: Project

  constructor(
    project: Project,
    private readonly track: string,
    private readonly excerpt: Excerpt,
    private readonly audio: Audio,
  ) {
    this.project = draftOf(project)
    this.replay = new Replay(excerptPlan(this.project, track, excerpt), audio)
    const { sound } = this.replay
    this.whole = { sound, traits: traitsOf(sound, project.sampleRate) }
  }

  private heard(project: Project): { readonly sound: Stereo; readonly traits: Traits } {
    const sound = this.replay.of(excerptPlan(project, this.track, this.excerpt))
    return { sound, traits: traitsOf(sound, project.sampleRate) }
  }

  /** What changes when all of some parts are left out. */
  without(parts: readonly Part[]): Distance {
    const { traits } = this.heard(apply(this.project, withoutParts(parts)).next)
    return distance(this.whole.traits, traits)
  }

  /** What one part contributes. */
  of(part: Part): Contribution {
    const { whole, project } = this
    const next = apply(project, withoutParts([part])).next
    const sound = this.replay.of(excerptPlan(next, this.track, this.excerpt))
    const residue = residueOf(whole.sound, sound)
    // what is equal in every sample need not be compared
    const traits = residue === -Infinity ? whole.traits : traitsOf(sound, project.sampleRate)
    const apart = residue === -Infinity ? zero : distance(whole.traits, traits)
    const isIdle = isIdleAt(apart) || isPhaseAlone(apart, whole.traits, traits)
    return { ...part, distance: apart, residue, isIdle, reason: isIdle ? this.reasonOf(part, residue) : '' }
  }

  private reasonOf(part: Part, residue: number): string {
    const { project, whole } = this
    if (whole.traits.loudness <= -120) return 'The track is silent in this excerpt.'
    if (residue > AUDIBLE_RESIDUE && part.kind === 'effect')
      return 'Changes only the phase, which is audible where this sound is mixed with its dry signal.'
    const owner = findOwner(project, part.id)
    if (owner?.kind === 'node') return this.reasonOfNode(owner.node, part)
    if (owner?.kind === 'link') return this.reasonOfLink(owner.link, part)
    return project.links.some((l) => l.source === part.id) ? 'All of its links are idle.' : 'It has no links.'
  }

  private reasonOfNode(node: ChainNode, part: Part): string {
    const { project } = this
    const isMoved = (path: string): boolean =>
      project.links.some((l) => l.target.owner === node.id && l.target.param === path)
    if (node.params.on !== undefined && node.params.on < 0.5 && !isMoved('on')) return 'It is off.'
    if (node.params.wet === 0 && !isMoved('wet')) return 'Wet is at 0 %.'
    return this.isHeardAt(node.id, part) ? 'Masked by an effect after it.' : ''
  }

  private reasonOfLink(link: Link, part: Part): string {
    const { project } = this
    if (link.amount === 0) return 'Its amount is 0.'
    if (link.from === link.to) return 'Its range is zero.'
    const source = findOwner(project, link.source)
    if (source?.kind === 'modulator' && source.modulator.listens) {
      const listened = soundOf(excerptPlan(project, source.modulator.listens.track, this.excerpt), this.audio)
      if (listened.every((side) => side.every((x) => Math.abs(x) < SILENT)))
        return 'The track that it follows is silent here.'
    }
    const target = findOwner(project, link.target.owner)
    if (target?.kind !== 'node' && target?.kind !== 'branch') return ''
    const { node } = target
    const ofNode = this.reasonOfNode(node, { id: node.id, kind: 'effect' })
    if (ofNode && !ofNode.startsWith('Masked')) return `${ownerName(target)}: ${ofNode}`
    return this.isHeardAt(node.id, part) ? 'Masked by an effect after it.' : ''
  }

  /** Whether a part is heard where the chain ends after a node. */
  private isHeardAt(node: string, part: Part): boolean {
    const ended = apply(this.project, endAfter(this.track, node)).next
    const [one, other] = [ended, apply(ended, withoutParts([part])).next].map((p) => this.heard(p).traits)
    return one !== undefined && other !== undefined && !isIdleAt(distance(one, other))
  }
}

/** Samples below this (−120 dBFS) are silence. */
const SILENT = 1e-6

const isIdleAt = ({ total, loudness, stereo }: Distance): boolean =>
  total < IDLE && loudness < IDLE && stereo < IDLE

const isPhaseAlone = ({ total, loudness, stereo }: Distance, a: Traits, b: Traits): boolean =>
  isIdleAt({ ...zero, loudness, stereo }) && total < OTHER_PHASE && textureDistance(a, b).total < SAME_TEXTURE

const zero: Distance = { total: 0, tone: 0, envelope: 0, movement: 0, loudness: 0, stereo: 0 }

/** Ends the chain of a track after the node that is, or holds, this one. */
const endAfter =
  (track: string, node: string): Edit =>
  (p) => {
    const own = trackOf(p, track)
    if (!own) return
    const { nodes } = heardChain(own)
    const at = nodes.findIndex((n) => n.id === node || holdsId([n], node))
    if (at >= 0) together(...nodes.slice(at + 1).map((n) => removeNode(n.id)))(p)
  }

/** The difference of two sounds in dB of the first. */
function residueOf(a: Stereo, b: Stereo): number {
  let [left, whole] = [0, 0]
  for (const side of [0, 1] as const)
    for (let i = 0; i < a[side].length; i++) {
      left += (a[side][i] - (b[side][i] ?? 0)) ** 2
      whole += a[side][i] ** 2
    }
  return whole > 0 ? toDb(left / whole) / 2 : -Infinity
}
