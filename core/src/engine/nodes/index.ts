import { offered } from '../../contract/offered-parts'
import type { ChainNode } from '../../project/nodes/index'
import type { NodeKind } from '../../project/nodes/node-kind'
import { effectEngine } from './effect'
import { groupEngine } from './group'
import { loopBackEngine } from './loop-back'
import type { NodeEngine } from './node-engine'
import { splitEngine } from './split'

/** How each registered kind of node sounds. */
const engines: Readonly<Record<string, unknown>> = {
  'effect': effectEngine,
  'split': splitEngine,
  'group': groupEngine,
  'loop-back': loopBackEngine,
  ...Object.fromEntries(
    offered('nodes').map(({ kind, engine }) => [(kind as NodeKind<ChainNode>).kind, engine]),
  ),
}

export const engineOf = <N extends ChainNode>(node: N): NodeEngine<N> => engines[node.kind] as NodeEngine<N>
