import { z } from 'zod'
import { type ParamSpecs, beats, percent } from '../../units/parameter'
import { id, name, values } from '../schema-parts'
import { commonParams } from './common-params'
import type { ChainNode } from './index'
import { type NodeBase, defineNodeKind } from './node-kind'

/** A container whose output returns to its input through a delay and a gain, with a chain inside the loop. */
export interface LoopBack extends NodeBase {
  kind: 'loop-back'
  nodes: ChainNode[]
}

export const loopBackParams = {
  on: commonParams.on,
  length: beats('Length', { min: 1 / 16, max: 16, default: 1, tip: 'Time of the whole way round' }),
  feedback: percent('Feedback', { max: 1.2, default: 0.5, tip: 'How much comes round again' }),
} satisfies ParamSpecs

export const loopBackKind = defineNodeKind<LoopBack>({
  kind: 'loop-back',
  title: () => 'Loop-back',
  schema: (nodes) => z.object({ kind: z.literal('loop-back'), id, name: name.optional(), params: values, nodes }),
  params: () => loopBackParams,
  inside: (node) => node.nodes,
  structure: (node, _rate, list) => `${node.id}:loop-back[${list(node.nodes)}]`,
})
