import { z } from 'zod'
import {
  type ParamSpecs,
  beats,
  boost,
  choice,
  defaultsOf,
  hertz,
  number,
  percent,
  seconds,
  toggle,
} from '../../units/parameter'
import { newId } from '../ids'
import { id, name, values } from '../schema-parts'
import { commonParams } from './common-params'
import type { ChainNode } from './index'
import { type NodeBase, defineNodeKind } from './node-kind'

/** A container whose output returns to its input through a delay and a gain, with a chain inside the loop. */
export interface LoopBack extends NodeBase {
  kind: 'loop-back'
  nodes: ChainNode[]
}

/** Longest time of a round in seconds: 16 beats at 20 bpm. */
export const LOOP_LONGEST = 48

export const loopBackParams = {
  on: commonParams.on,
  sync: toggle('Sync', true, 'Sets the time as a note length'),
  time: seconds('Time', {
    min: 0.0027,
    max: 8,
    default: 0.25,
    tip: 'Time of one pass, including the effects inside; at least their latency and 131 samples',
  }),
  length: beats('Length', {
    min: 1 / 16,
    max: 16,
    default: 1,
    tip: 'Time of one pass as a note length',
  }),
  change: choice(
    'Change',
    ['varispeed', 'cross-fade'],
    0,
    'What a change of time does: bends the pitch, or crossfades',
  ),
  feedback: percent('Feedback', {
    min: -1.2,
    max: 1.2,
    default: 0.5,
    tip: 'Share of the output that is fed back',
  }),
  repeats: number('Repeats', {
    min: 0,
    max: 32,
    default: 0,
    glide: 0,
    zero: 'unlimited',
    tip: 'Maximum number of passes through the loop',
  }),
  place: choice(
    'Effects',
    ['in the loop', 'on the return'],
    0,
    'Processes the input and each pass, or only the feedback',
  ),
  feed: percent('Feed', {
    default: 1,
    tip: 'Input level; at 0 % only the existing loop continues',
  }),
  saturation: boost('Saturation', { min: 0, max: 30, default: 0, tip: 'Saturation in the feedback path' }),
  lowCut: hertz('Low cut', {
    min: 20,
    max: 2000,
    default: 20,
    tip: 'High-pass in the feedback path; off at 20 Hz',
  }),
  highCut: hertz('High cut', {
    min: 500,
    max: 20_000,
    default: 20_000,
    tip: 'Low-pass in the feedback path; off at 20 kHz',
  }),
  wet: commonParams.wet,
} satisfies ParamSpecs

export const newLoopBack = (nodes: ChainNode[], id = newId()): LoopBack => ({
  kind: 'loop-back',
  id,
  params: defaultsOf(loopBackParams),
  nodes,
})

export const loopBackKind = defineNodeKind<LoopBack>({
  kind: 'loop-back',
  title: () => 'Loop-back',
  schema: (nodes) =>
    z.object({ kind: z.literal('loop-back'), id, name: name.optional(), params: values, nodes }),
  params: () => loopBackParams,
  around: {
    label: 'Loop-back',
    tip: 'Feeds the output of the selected effects back into their input through a delay',
    also: ['feedback', 'loop'],
    make: newLoopBack,
  },
  inside: (node) => node.nodes,
  tail: (node, { along, longest, loop, beatsPerSecond }) => {
    const inside = along(node.nodes)
    const ringsOn = loop(node.nodes, inside)
    return longest(node, loopBackParams, (v) => {
      if (v.on === 0) return inside
      const round = Math.max(v.sync === 1 ? v.length / beatsPerSecond : v.time, 0.003)
      const repeats = v.repeats ?? 0
      return inside + (repeats > 0 ? repeats * (round + inside) : ringsOn(v.feedback ?? 0, round))
    })
  },
  structure: (node, _rate, list) => `${node.id}:loop-back[${list(node.nodes)}]`,
})
