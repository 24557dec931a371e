import type { ChainNode, Project, Track } from '../project/schema'
import { innerLists } from '../project/nodes/index'
import { heardChain, mixOf, nodesIn } from '../project/walk'
import { ownerName } from '../project/targets'
import { engineOf } from './nodes/index'

/**
 * One line of what costs the engine time: the steps it stands for by their keys, and how deep it is nested.
 */
export interface CostLine {
  readonly id: string
  readonly name: string
  readonly depth: number
  readonly keys: readonly string[]
}

/**
 * The lines of one track: its source, each node with all that is in it, its modulators, and what brings it to
 * the mix.
 */
export function costLines(project: Project, track: Track): CostLine[] {
  const lines: CostLine[] = []
  if (track.source)
    lines.push({ id: track.source.id, name: 'Source', depth: 0, keys: [`source:${track.id}`] })
  const walk = (list: readonly ChainNode[], depth: number): void => {
    for (const node of list) {
      lines.push({ id: node.id, name: ownerName({ kind: 'node', node, track }), depth, keys: keysOf(node) })
      for (const inner of innerLists(node)) walk(inner, depth + 1)
    }
  }
  walk(heardChain(track).nodes, 0)
  for (const m of track.modulators) {
    // each link that fans out has copies of its own
    const fans = project.links.filter((l) => l.source === m.id && l.fan).map((l) => `mod:${m.id}~${l.id}`)
    lines.push({ id: m.id, name: m.name, depth: 0, keys: [`mod:${m.id}`, ...fans] })
  }
  lines.push({
    id: track.id,
    name: 'Level and mix',
    depth: 0,
    keys: [`track:${track.id}`, `notes:${track.id}`, ...(track === mixOf(project) ? ['sum'] : [])],
  })
  return lines
}

/** A node's own steps and those of all that is in it. */
const keysOf = (node: ChainNode): string[] => [
  ...engineOf(node).steps(node),
  ...innerLists(node).flat().flatMap(keysOf),
]

/**
 * The most expensive effect of all tracks, without the effects nested in it.
 * @param cost share of a core of a step, by its key
 */
export function dearestEffect(
  project: Project,
  cost: (key: string) => number,
): { readonly track: Track; readonly node: ChainNode; readonly share: number } | null {
  let dearest: ReturnType<typeof dearestEffect> = null
  for (const track of project.tracks) {
    for (const node of nodesIn(heardChain(track).nodes)) {
      const share = engineOf(node)
        .steps(node)
        .reduce((sum, key) => sum + cost(key), 0)
      if (share > (dearest?.share ?? 0)) dearest = { track, node, share }
    }
  }
  return dearest
}
