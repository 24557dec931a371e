import { type LoopBack, loopBackParams } from '../../project/nodes/loop-back'
import { LoopHeadStep, LoopTailStep } from '../loop-steps'
import { ParamSet } from '../param-set'
import { stepAt } from '../plan'
import { type NodeEngine, defineNodeEngine } from './node-engine'

/**
 * A loop is two steps around what is inside: its end writes into the line that its beginning reads, a block
 * later at the least.
 */
export const loopBackEngine: NodeEngine<LoopBack> = defineNodeEngine<LoopBack>({
  *place(node, from, { plan, links, context, nodes }) {
    const head = links.own(
      plan.add(
        `loop:${node.id}`,
        LoopHeadStep,
        () => true,
        () => new LoopHeadStep(new ParamSet(loopBackParams, node.params, context.sampleRate), context),
      ),
      node.id,
      undefined,
      (path, { arrival }) =>
        path === 'wet' || path === 'on' ? (plan.drafts.get(`node:${node.id}`)?.arrival ?? 0) - arrival : 0,
    )
    plan.connect(
      head.draft,
      'in',
      () => from,
      (i) => {
        plan.give(head, 'input', i)
      },
    )
    const end = yield* nodes(node.nodes, head.draft)
    const tail = plan.add(
      `node:${node.id}`,
      LoopTailStep,
      (s) => s.head === head.step,
      () => new LoopTailStep(head.step, context.sampleRate),
    )
    plan.connect(
      tail.draft,
      'in',
      () => end,
      (i) => {
        plan.give(tail, 'input', i)
      },
    )
    plan.connect(
      tail.draft,
      'dry',
      () => from,
      (i) => {
        plan.give(tail, 'dry', i)
      },
    )
    plan.connect(
      tail.draft,
      'before',
      () => head.draft,
      (i) => {
        plan.give(tail, 'before', i)
      },
    )
    plan.finishing.push(() => {
      plan.give(head, 'inside', tail.draft.arrival - head.draft.arrival)
    })
    return tail.draft
  },
  monitor(node, plan, { unheard }) {
    const tail = stepAt(plan, `node:${node.id}`, LoopTailStep)
    if (tail) tail.unheard = unheard
  },
  steps: (node) => [`loop:${node.id}`, `node:${node.id}`],
})
