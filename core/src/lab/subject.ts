import { partOf } from '../analysis/chain-response'
import type { AudioData } from '../contract/audio'
import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import { apply } from '../project/edit'
import { splitGaugeKey } from '../project/param-path'
import type { ChainNode, Project, Track } from '../project/schema'
import { specAt, valueAt, writeValue } from '../project/targets'
import { trackAlone, withoutEffects } from '../project/track-alone'
import { findOwner, heardChain, nodesIn, trackOf } from '../project/walk'
import { fromNormalized, toNormalized } from '../units/scale'

/** Part of a track’s chain that is measured. */
export const labScopes = ['chain', 'up to here', 'branch', 'effect'] as const
export type LabScope = (typeof labScopes)[number]

/** A state of a chain, or a part of it, to be measured. */
export interface LabSubject {
  readonly name: string
  /** The project in that state. */
  readonly project: Project
  readonly track: string
  readonly scope: LabScope
  /** The node that a scope other than the whole chain goes by. */
  readonly node?: string
}

/** The nodes that are measured; none where the node is not there. */
export function nodesOf(subject: LabSubject): readonly ChainNode[] {
  const track = trackOf(subject.project, subject.track)
  const nodes = track ? heardChain(track).nodes : []
  const { scope, node } = subject
  if (scope === 'chain' || node === undefined) return nodes
  if (scope === 'effect') return [...nodesIn(nodes)].filter((n) => n.id === node)
  return partOf(nodes, node, scope) ?? []
}

/** Seconds of song before a moment from which modulators get to where they are then. */
const LEAD_SECONDS = 8
/** Difference of a place on a scale that counts as movement; places are kept as 32-bit floats. */
const MOVED = 1e-6

/**
 * A project with every parameter where links, curves and followers have moved it at a moment, and nothing
 * that moves. It plays up to there for 8 s at most.
 * @param beat of the song
 */
export function frozenAt(project: Project, beat: number, audio: (hash: string) => AudioData | null): Project {
  const still = (p: Project): Project => ({
    ...p,
    links: [],
    tracks: p.tracks.map((t) => ({ ...t, modulators: [] })),
  })
  if (project.tracks.every((t) => t.modulators.length === 0)) return still(project)
  const engine = new Engine({ sampleRate: project.sampleRate, audio })
  engine.load({ ...project, loop: { ...project.loop, on: false } })
  const lead = Math.min(beat, (LEAD_SECONDS * project.tempo) / 60)
  engine.play(beat - lead, false)
  const blocks = Math.max(2, Math.round((lead * 60 * project.sampleRate) / project.tempo / BLOCK))
  const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
  for (let i = 0; i < blocks; i++) engine.process(left, right)
  const moved = apply(project, (p) => {
    for (const [key, slot] of engine.slots.since(0)) {
      if (!key.startsWith('live:')) continue
      const [owner, path] = splitGaugeKey(key.slice('live:'.length))
      const found = findOwner(p, owner)
      const spec = found && specAt(found, path)
      if (!spec) continue
      const place = engine.telemetry.values[slot]
      if (Math.abs(place - toNormalized(spec, valueAt(found, path) ?? spec.default)) > MOVED)
        writeValue(found, path, fromNormalized(spec, place))
    }
  })
  return still(moved.next)
}

/** Name of the test sound among the sounds of a project under test. */
export const TEST_SOUND = 'test-signal'

/**
 * A project in which the test sound goes through the nodes, at unity and without the effects of buses and the
 * mix. Other tracks play unheard where effects or modulators listen to them.
 */
export function underTest(subject: LabSubject, nodes: readonly ChainNode[], frames: number): Project {
  const { project } = subject
  const tested = trackOf(project, subject.track)
  if (!tested) throw new Error('The track that was to be measured is gone.')
  const own: Track = {
    ...tested,
    source: { id: `${tested.id}-test`, type: 'loop', params: {}, seed: 1, audio: TEST_SOUND },
    a: { nodes: [...nodes] },
    b: null,
    heard: 'a',
    line: null,
    arpeggio: null,
  }
  const text = JSON.stringify([nodes, project.tracks.map((t) => t.modulators)])
  const others = project.tracks.flatMap((t): Track[] => {
    if (t.id === tested.id || t.kind === 'mix') return []
    if (text.includes(`"track":"${t.id}"`)) return [{ ...t, output: null }]
    return t.modulators.length ? [{ ...t, ...withoutEffects, output: null, params: { mute: 1 } }] : []
  })
  const sound = { name: TEST_SOUND, frames, channels: 2, sampleRate: project.sampleRate }
  return { ...trackAlone(project, own, others), audio: { ...project.audio, [TEST_SOUND]: sound } }
}
