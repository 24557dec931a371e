import type { ChainNode } from '@oleaje/core/project/schema'
import { innerLists } from '@oleaje/core/project/nodes/index'

/**
 * The innermost split around an effect or branch, and which of its branches holds it; −1 where the split
 * itself is meant.
 */
export function branchOf(
  list: readonly ChainNode[],
  id: string | null,
): { split: Extract<ChainNode, { kind: 'split' }>; index: number } | undefined {
  for (const n of list) {
    if (n.kind === 'split') {
      if (n.id === id) return { split: n, index: -1 }
      const index = n.branches.findIndex((b) => b.id === id || contains(b.nodes, id))
      if (index >= 0) return branchOf(n.branches[index]?.nodes ?? [], id) ?? { split: n, index }
    } else if (n.kind !== 'effect') {
      const found = branchOf(n.nodes, id)
      if (found) return found
    }
  }
  return undefined
}

/** Whether a list of nodes holds one, at any depth. */
export function contains(list: readonly ChainNode[], id: string | null): boolean {
  return list.some((n) => n.id === id || innerLists(n).some((l) => contains(l, id)))
}
