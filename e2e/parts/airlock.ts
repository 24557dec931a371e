import { containerEngine } from '@oleaje/core/engine/nodes/container'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { defineNodeKind } from '@oleaje/core/project/nodes/node-kind'
import type { Group } from '@oleaje/core/project/nodes/group'
import { id, name, values } from '@oleaje/core/project/schema-parts'
import { defaultsOf } from '@oleaje/core/units/parameter'
import { z } from 'zod'

type Airlock = Omit<Group, 'kind'> & { kind: 'airlock' }

/** A made-up kind of node: a container with a wet of its own, which begins at 60 %. */
export const airlock = {
  kind: defineNodeKind<Airlock>({
    kind: 'airlock',
    title: () => 'Airlock',
    schema: (nodes) =>
      z.object({ kind: z.literal('airlock'), id, name: name.optional(), params: values, nodes }),
    params: () => commonParams,
    around: {
      label: 'Airlock',
      tip: 'A container with 60 % of what is inside',
      also: ['door'],
      make: (nodes, own) => ({
        kind: 'airlock',
        id: own,
        params: { ...defaultsOf(commonParams), wet: 0.6 },
        nodes,
      }),
    },
    inside: (node) => node.nodes,
    tail: (node, { along }) => along(node.nodes),
    structure: (node, _rate, list) => `${node.id}:airlock[${list(node.nodes)}]`,
  }),
  engine: containerEngine<Airlock>(commonParams),
}
