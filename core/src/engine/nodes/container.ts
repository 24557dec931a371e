import type { Group } from '../../project/schema'
import { kindOf } from '../../project/nodes/index'
import { MergeStep } from '../merge-step'
import { ParamSet } from '../param-set'
import { stepAt } from '../plan'
import type { NodeEngine } from './node-engine'

/** What a container around one list of nodes does: what comes out of the list, mixed with what went in. */
export const containerEngine = <N extends Group>(): NodeEngine<N> => ({
  *place(node, from, { plan, links, context, nodes }) {
    const end = yield* nodes(node.nodes, from)
    const merge = links.own(
      plan.add(
        `node:${node.id}`,
        MergeStep,
        () => true,
        () => new MergeStep(new ParamSet(kindOf(node).params(node) ?? {}, node.params, context.sampleRate)),
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
