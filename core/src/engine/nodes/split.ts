import { BLOCK } from '../../contract/block'
import { LINEAR_BAND_LATENCY } from '../../dsp/linear-band'
import { branchParams } from '../../project/nodes/branch-params'
import { type Split, isLinear, padsOf, splitParams } from '../../project/nodes/split'
import { BranchInStep } from '../branch-in-step'
import { type Draft, sameItems } from '../draft'
import { FaderStep } from '../fader-step'
import { MergeStep } from '../merge-step'
import { ParamSet } from '../param-set'
import { ParamsStep } from '../params-step'
import { stepAt } from '../plan'
import type { Branch } from '../../project/nodes/node-kind'
import type { SoundStep } from '../step'
import { PadsStep } from '../pads-step'
import { SourceStep } from '../source-step'
import { type NodeEngine, type Placing, defineNodeEngine } from './node-engine'

/** A split is a head and a fader for each branch, and a merge; they share the split's parameters. */
export const splitEngine: NodeEngine<Split> = defineNodeEngine<Split>({
  *place(node, from, on) {
    const {
      plan,
      links,
      context: { sampleRate },
      nodes,
    } = on
    // what all branches share comes first, since the first of them needs it already
    const shared = links.own(
      plan.add(
        `split:${node.id}`,
        ParamsStep,
        () => true,
        () => new ParamsStep(new ParamSet(splitParams, node.params, sampleRate)),
      ),
      node.id,
      undefined,
      // what the branches share acts where they begin, in linear phase later; all else where they end
      (path, { arrival }) =>
        path.startsWith('cross')
          ? linear
            ? LINEAR_BAND_LATENCY
            : 0
          : (plan.drafts.get(`node:${node.id}`)?.arrival ?? 0) - arrival,
    )
    const { params } = shared.step
    const linear = isLinear(node)
    const ends: Draft[] = []
    const heads: BranchInStep[] = []
    for (const [index, branch] of node.branches.entries()) {
      if (node.mode === 'pads') {
        ends.push(yield* pads(node, index, from, shared.draft, on))
        continue
      }
      const head = plan.add(
        `head:${branch.id}`,
        BranchInStep,
        (s) => s.params === params && s.linear === linear,
        () => new BranchInStep(node.mode, params, sampleRate, linear),
        linear ? LINEAR_BAND_LATENCY : 0,
      )
      if (linear && head.draft.fresh) heads.push(head.step)
      if (!head.step.gives(node.mode, index, node.branches.length))
        plan.change(head.draft, () => {
          head.step.give(node.mode, index, node.branches.length)
        })
      plan.connect(
        head.draft,
        'in',
        () => from,
        (i) => {
          plan.give(head, 'input', i)
        },
      )
      plan.after(head.draft, node.id, () => shared.draft)
      const end = yield* nodes(branch.nodes, head.draft)
      ends.push(branchEnd(branch, end, on))
    }
    const merge = plan.add(
      `node:${node.id}`,
      MergeStep,
      (s) => s.params === params,
      () => new MergeStep(params, true),
    )
    plan.meet(merge, ends, { selects: node.mode === 'select' })
    // their filters start empty, and look as far back as ahead
    let missing = 2 * LINEAR_BAND_LATENCY
    if (heads.length > 0 && !from.fresh && !shared.draft.fresh)
      plan.rehearsals.push(() => {
        for (const head of heads) head.run()
        missing -= BLOCK
        return missing > 0
      })
    if (heads.length > 0)
      plan.change(merge.draft, () => {
        merge.step.cut(Math.max(0, missing))
      })
    plan.connect(
      merge.draft,
      'dry',
      () => from,
      (i) => {
        plan.give(merge, 'dry', i)
      },
    )
    plan.after(merge.draft, node.id, () => shared.draft)
    return merge.draft
  },
  monitor(node, plan, { monitor, unheard }) {
    const merge = stepAt(plan, `node:${node.id}`, MergeStep)
    if (merge) merge.unheard = unheard
    const alone = node.branches.some((b) => monitor.soloBranches.includes(b.id))
    for (const branch of node.branches) {
      const end = stepAt(plan, `branch:${branch.id}`, FaderStep)
      if (end) end.silenced = alone && !monitor.soloBranches.includes(branch.id)
    }
  },
  steps: (node) => [
    `node:${node.id}`,
    `split:${node.id}`,
    ...node.branches.flatMap((b) => [`head:${b.id}`, `branch:${b.id}`]),
  ],
})

/** The fader at the end of a branch. */
function branchEnd(branch: Branch, end: Draft, { plan, context: { sampleRate }, fader }: Placing): Draft {
  const out = fader(
    `branch:${branch.id}`,
    branch.id,
    () => new ParamSet(branchParams, branch.params, sampleRate),
  )
  plan.connect(
    out.draft,
    'in',
    () => end,
    (i) => {
      plan.give(out, 'input', i)
    },
  )
  return out.draft
}

/**
 * A branch of a split by pads: those of the source right before it. Behind anything else, all goes along the
 * last branch.
 */
function* pads(node: Split, index: number, from: Draft, shared: Draft, on: Placing): Generator<void, Draft> {
  const { plan, nodes } = on
  const branch = node.branches[index]
  const outputs =
    from.step instanceof SourceStep && from.step.outputs.length > 1
      ? from.step.outputs.slice(1)
      : [(from.step as SoundStep).out]
  const chosen = padsOf(node, index, outputs.length).map((pad) => outputs[pad])
  const head = plan.add(
    `head:${branch.id}`,
    PadsStep,
    () => true,
    () => new PadsStep(),
  )
  if (!sameItems(chosen, head.step.pads)) plan.give(head, 'pads', chosen)
  plan.after(head.draft, node.id, () => from)
  plan.after(head.draft, node.id, () => shared)
  return branchEnd(branch, yield* nodes(branch.nodes, head.draft), on)
}
