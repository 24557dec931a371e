import { heldAudio } from '../../contract/audio'
import { effectDefinition } from '../../effects/index'
import { commonParams } from '../../project/nodes/common-params'
import { type Effect, effectKind } from '../../project/nodes/effect'
import type { AlignedInput } from '../aligned-input'
import { EffectStep } from '../effect-step'
import { sameItems } from '../draft'
import { ParamSet } from '../param-set'
import { stepAt } from '../plan'
import { type NodeEngine, defineNodeEngine } from './node-engine'

const nothing: readonly number[] = []

/** An effect is one step. One that this version does not know passes its input on. */
export const effectEngine: NodeEngine<Effect> = defineNodeEngine<Effect>({
  *place(node, from, { plan, links, context, seedOf, listen, noteLine, notesAt }) {
    const { sampleRate, song, audio } = context
    const definition = effectDefinition(node.type)
    if (!definition) return from
    const latency = definition.latency?.(sampleRate, node.params) ?? 0
    const made = plan.add(
      `node:${node.id}`,
      EffectStep,
      (s) => s.definition === definition && s.latency === latency,
      () => {
        const params = new ParamSet(
          { ...definition.params, ...commonParams },
          node.params,
          sampleRate,
          definition.lanes,
          node.lanes,
        )
        return new EffectStep(
          definition,
          definition.create({ sampleRate, seed: seedOf(node), latency }),
          params,
          latency,
          song,
          sampleRate,
        )
      },
      latency,
    )
    links.own(made, node.id, { specs: definition.lanes, values: node.lanes }, (path) =>
      path === 'wet' || path === 'on' ? latency : (definition.acts?.(path, latency) ?? 0),
    )
    const { draft, step } = made
    if (!step.params.hasShape(node.lanes)) {
      plan.change(draft, () => {
        step.params.shape(node.lanes)
        step.cutOutput()
      })
    }
    if (draft.fresh || definition.sound)
      plan.change(draft, () => {
        takeData(step, node, audio)
      })
    plan.connect(
      draft,
      'in',
      () => from,
      (i) => {
        plan.give(made, 'input', i)
      },
    )
    let side: AlignedInput | null = null
    if (node.sidechain && definition.sidechain)
      listen(draft, node.sidechain, node.id, (i) => {
        side = i
      })
    const line = definition.notes ? noteLine() : null
    if (line) plan.after(draft, node.id, () => line.draft)
    plan.finishing.push(() => {
      if (line) plan.give(made, 'notes', notesAt(line, draft.arrival))
      const late = draft.arrival + (definition.clockAtEnd ? latency : 0)
      plan.give(made, 'late', late)
      plan.give(made, 'song', plan.songAt(song, late))
      plan.give(made, 'side', side)
      if (!definition.outputs) return
      const delays = links.delaysOf(step)
      if (!sameItems(delays, step.delays)) plan.give(made, 'delays', delays)
    })
    return draft
  },
  adopt(node, plan, audio) {
    const step = stepAt(plan, `node:${node.id}`, EffectStep)
    if (step) takeData(step, node, audio)
  },
  monitor(node, plan, { monitor, unheard }) {
    const step = stepAt(plan, `node:${node.id}`, EffectStep)
    if (!step) return
    step.unheard = unheard
    step.part = monitor.part?.node === node.id ? monitor.part.what : null
    step.solo(monitor.items?.node === node.id ? monitor.items.chosen : nothing)
  },
  steps: (node) => [`node:${node.id}`],
})

function takeData(
  step: EffectStep,
  node: Effect,
  audio: (hash: string) => Parameters<EffectStep['take']>[1],
): void {
  const sound = effectKind.sound?.(node)
  step.take(node.data, sound ? heldAudio(audio(sound)) : null)
}
