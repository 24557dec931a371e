import { z } from 'zod'
import { effectDefinition } from '../../effects/index'
import { type Listen, data, id, key, lanes, listenSchema, name, seed, values } from '../schema-parts'
import { commonParams } from './common-params'
import { type NodeBase, defineNodeKind } from './node-kind'

/**
 * One processor with parameters: `on`, `wet` and those of its definition; what is missing stands at its
 * default.
 */
export interface Effect extends NodeBase {
  kind: 'effect'
  type: string
  seed?: number
  sidechain: Listen | null
}

export const effectKind = defineNodeKind<Effect>({
  kind: 'effect',
  title: (node) => effectDefinition(node.type)?.name ?? node.type,
  schema: () =>
    z.object({
      kind: z.literal('effect'),
      id,
      type: key(40),
      name: name.optional(),
      params: values,
      seed,
      lanes: lanes.optional(),
      data: data.optional(),
      sidechain: listenSchema.nullable().default(null),
    }),
  params: (node) => {
    const own = effectDefinition(node.type)?.params
    return own && { ...own, ...commonParams }
  },
  lanes: (node) => effectDefinition(node.type)?.lanes,
  listens: (node) => node.sidechain,
  stopListening: (node) => {
    node.sidechain = null
  },
  tail: (node, { beatsPerSecond, longest }) => {
    const definition = effectDefinition(node.type)
    const { tail } = definition ?? {}
    return definition && tail
      ? longest(node, { ...definition.params, on: commonParams.on }, (v) =>
          v.on === 0 ? 0 : tail(v as never, beatsPerSecond, node.data),
        )
      : 0
  },
  sound: (node) =>
    effectDefinition(node.type)?.sound && typeof node.data?.audio === 'string' ? node.data.audio : null,
  structure: (node, sampleRate) => {
    const latency = effectDefinition(node.type)?.latency?.(sampleRate, node.params) ?? ''
    const items = Object.entries(node.lanes ?? {})
      .map(([lane, list]) => `${lane}${list.length}`)
      .join()
    const side = node.sidechain
      ? `~${node.sidechain.track}${node.sidechain.point}${node.sidechain.branch ?? ''}`
      : ''
    return `${node.id}:${node.type}${latency}${items}${side}`
  },
})
