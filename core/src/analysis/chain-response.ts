import { Engine } from '../engine/engine'
import { BLOCK } from '../contract/block'
import { branchesOf, innerLists } from '../project/nodes/index'
import { newProject, newSource, newTrack } from '../project/new'
import type { Branch, ChainNode } from '../project/schema'
import { holdsId } from '../project/walk'
import { FRAMES, type MeasuredResponse, ResponseTransform, STRUCK } from './measured-response'

/**
 * What of a chain is measured: all from its start to a node, or the branch that the node stands in, by
 * itself.
 */
export type ResponseScope = 'up to here' | 'branch'

/** The part of a chain that a scope means; null where the node is not in it, or stands in no branch. */
export function partOf(nodes: readonly ChainNode[], id: string, scope: ResponseScope): ChainNode[] | null {
  return scope === 'branch' ? branchOf(nodes, id) : upTo(nodes, id)
}

/**
 * Measures the left channel of a chain by an impulse through an engine of its own. Links do not act: give
 * values as they are to be measured.
 */
export function chainResponse(nodes: readonly ChainNode[], sampleRate: number): MeasuredResponse {
  const impulse = new Float32Array(4 * FRAMES)
  impulse[0] = STRUCK
  const track = {
    ...newTrack('measured', newSource('loop', {}, 'impulse'), 'measured'),
    a: { nodes: [...nodes] },
  }
  const project = newProject('measured')
  const engine = new Engine({
    sampleRate,
    audio: () => ({ sampleRate, channels: [impulse, impulse] }),
    looping: false,
  })
  engine.load({
    ...project,
    sampleRate,
    loop: { on: false, start: 0, end: 64 },
    tracks: [track, ...project.tracks],
    audio: { impulse: { name: 'impulse', frames: impulse.length, channels: 2, sampleRate } },
  })
  engine.play(0)
  const transform = new ResponseTransform()
  const left = new Float32Array(BLOCK)
  for (let at = 0; at < FRAMES + engine.latency; at += BLOCK) {
    engine.process(left, left)
    for (let i = 0; i < BLOCK; i++) {
      const k = at + i - engine.latency
      if (k >= 0 && k < FRAMES) transform.impulse[k] = engine.mix.left[i] / STRUCK
    }
  }
  return transform.response(sampleRate)
}

function upTo(nodes: readonly ChainNode[], id: string): ChainNode[] | null {
  for (const [i, node] of nodes.entries()) {
    if (node.id === id) return nodes.slice(0, i + 1)
    if ('branches' in node) {
      const at = node.branches.findIndex((b) => upTo(b.nodes, id))
      if (at < 0) continue
      // the other branches keep their place, so that crossovers and levels stay what they are, but are not
      // heard
      const branches = node.branches.map((b, k): Branch =>
        k === at
          ? { ...b, nodes: upTo(b.nodes, id) ?? [] }
          : { ...b, nodes: [], params: { ...b.params, mute: 1 } },
      )
      return [...nodes.slice(0, i), { ...node, branches }]
    }
    const inner = 'nodes' in node ? upTo(node.nodes, id) : null
    if (inner) return [...nodes.slice(0, i), { ...node, nodes: inner } as ChainNode]
  }
  return null
}

/** The nodes of the innermost branch that holds a node, itself or within containers that have no branches. */
function branchOf(nodes: readonly ChainNode[], id: string): ChainNode[] | null {
  for (const node of nodes) {
    for (const list of innerLists(node)) {
      const inner = branchOf(list, id)
      if (inner) return inner
    }
    const branch = branchesOf(node).find((b) => holdsId(b.nodes, id))
    if (branch) return [...branch.nodes]
  }
  return null
}
