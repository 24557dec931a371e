import type { ChainNode, Group } from '../../project/schema'
import type { ParamSpecs } from '../../units/parameter'
import { MergeStep } from '../merge-step'
import { ParamSet } from '../param-set'
import { stepAt } from '../plan'
import type { NodeEngine } from './node-engine'

/**
 * What a container around one list of nodes does: what comes out of the list, mixed with what went in by its
 * `on` and `wet`.
 */
export const containerEngine = <N extends Pick<Group, 'id' | 'params' | 'nodes'>>(
  specs: ParamSpecs,
): NodeEngine<N & ChainNode> => ({
  *place(node, from, { plan, links, context, nodes }) {
    const end = yield* nodes(node.nodes, from)
    const merge = links.own(
      plan.add(
        `node:${node.id}`,
        MergeStep,
        () => true,
        () => new MergeStep(new ParamSet(specs, node.params, context.sampleRate)),
      ),
      node.id,
    )
    plan.meet(merge, [end])
    plan.connect(
      merge.draft,
      'dry',
      () => from,
      (i) => {
        plan.give(merge, 'dry', i)
      },
    )
    return merge.draft
  },
  monitor(node, plan, { unheard }) {
    const merge = stepAt(plan, `node:${node.id}`, MergeStep)
    if (merge) merge.unheard = unheard
  },
  steps: (node) => [`node:${node.id}`],
})
