import type { ChainNode, Project } from './schema'
import { ownerName } from './targets'
import { branchesOf, kindOf } from './nodes/index'
import { homeOf } from './routing'
import { heardChain, mixOf } from './walk'

/**
 * The chain of a track, of that which a branch lies in, or of the mix, as a line of words: what a print was
 * made by. Branches stand in brackets.
 */
export function chainInWords(project: Project, track: string | null): string {
  const of = track === null ? mixOf(project) : homeOf(project, track)
  if (!of) return ''
  const words = (list: readonly ChainNode[]): string =>
    list
      .filter((n) => (n.params.on ?? 1) >= 0.5)
      .map((node) => {
        const name = ownerName({ kind: 'node', node, track: of })
        const branches = branchesOf(node)
        if (branches.length)
          return `${name} [${branches.map((b) => `${b.name}: ${words(b.nodes) || 'straight'}`).join(' | ')}]`
        const inside = kindOf(node).inside?.(node)
        return inside ? `${name} (${words(inside)})` : name
      })
      .join(' › ')
  return words(heardChain(of).nodes).slice(0, 1000) || 'no effects'
}
