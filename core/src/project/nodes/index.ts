import { z } from 'zod'
import { offered } from '../../contract/offered-parts'
import { type Effect, effectKind } from './effect'
import { type Group, groupKind } from './group'
import { type LoopBack, loopBackKind } from './loop-back'
import type { Branch, NodeBase, NodeKind } from './node-kind'
import { type Split, splitKind } from './split'

export type ChainNode = Effect | Split | Group | LoopBack

const own = { 'effect': effectKind, 'split': splitKind, 'group': groupKind, 'loop-back': loopBackKind }

/**
 * Every kind of node there is, by its name. Adding one is a file beside these and a line here, and the same
 * in `engine/nodes`.
 */
export const nodeKinds: Readonly<Record<string, NodeKind<NodeBase>>> = Object.fromEntries(
  [...Object.values(own), ...offered('nodes').map((n) => n.kind)].map((k) => {
    const kind = k as NodeKind<NodeBase>
    return [kind.kind, kind]
  }),
)

/** The definition of a node's kind. */
export const kindOf = <N extends ChainNode>(node: N): NodeKind<N> =>
  nodeKinds[node.kind] as unknown as NodeKind<N>

/** A node of any kind; `nodes` is the schema of a list of them. */
export function nodeSchemaOf(nodes: z.ZodType<ChainNode[]>): z.ZodType<ChainNode> {
  const [first, ...rest] = Object.values(nodeKinds).map((kind) => kind.schema(nodes))
  return z.discriminatedUnion('kind', [first as z.ZodObject, ...rest]) as unknown as z.ZodType<ChainNode>
}

const noBranches: Branch[] = []
/** Parallel paths inside a node. */
export const branchesOf = (node: ChainNode): Branch[] => kindOf(node).branches?.(node) ?? noBranches

/**
 * The lists of nodes directly inside a node: none for an effect, one for a group, one per branch for a split.
 */
export function innerLists(node: ChainNode): ChainNode[][] {
  const inside = kindOf(node).inside?.(node)
  const branches = branchesOf(node).map((b) => b.nodes)
  return inside ? [inside, ...branches] : branches
}
