import { z } from 'zod'
import { type ParamSpecs, defaultsOf } from '../../units/parameter'
import { newId } from '../ids'
import { id, name, values } from '../schema-parts'
import { commonParams } from './common-params'
import type { ChainNode } from './index'
import { type NodeBase, defineNodeKind } from './node-kind'

/** Effects held together under one name, one on/off, one wet. */
export interface Group extends NodeBase {
  kind: 'group'
  nodes: ChainNode[]
}

export const groupParams = { on: commonParams.on, wet: commonParams.wet } satisfies ParamSpecs

export const newGroup = (name: string, nodes: ChainNode[], id = newId()): Group => ({
  kind: 'group',
  id,
  name,
  params: defaultsOf(groupParams),
  nodes,
})

export const groupKind = defineNodeKind<Group>({
  kind: 'group',
  title: () => 'Group',
  schema: (nodes) => z.object({ kind: z.literal('group'), id, name: name.optional(), params: values, nodes }),
  params: () => groupParams,
  around: {
    label: 'Group',
    tip: 'Groups the selected effects under one on/off switch and one wet level',
    also: ['container', 'together'],
    make: (nodes, id) => newGroup('Group', nodes, id),
  },
  inside: (node) => node.nodes,
  tail: (node, { along }) => along(node.nodes),
  structure: (node, _rate, list) => `${node.id}:group[${list(node.nodes)}]`,
})
