import type { ChainNode, nodeKinds } from '../../project/nodes/index'
import { effectEngine } from './effect'
import { groupEngine } from './group'
import { loopBackEngine } from './loop-back'
import type { NodeEngine } from './node-engine'
import { splitEngine } from './split'

/** How each registered kind of node sounds. */
const engines: Readonly<Record<keyof typeof nodeKinds, unknown>> = {
  'effect': effectEngine,
  'split': splitEngine,
  'group': groupEngine,
  'loop-back': loopBackEngine,
}

export const engineOf = <N extends ChainNode>(node: N): NodeEngine<N> => engines[node.kind] as NodeEngine<N>
