import { z } from 'zod'
import { type ParamSpecs, choice, defaultsOf, hertz, percent } from '../../units/parameter'
import { limits } from '../../limits'
import { id, name, values } from '../schema-parts'
import { newId } from '../ids'
import { branchParams } from './branch-params'
import { commonParams } from './common-params'
import { type Branch, type NodeBase, defineNodeKind } from './node-kind'

export const splitModes = ['copies', 'bands', 'mid-side', 'left-right', 'select', 'pads'] as const
export type SplitMode = (typeof splitModes)[number]

/** A place where the chain divides into parallel paths and merges again. */
export interface Split extends NodeBase {
  kind: 'split'
  mode: SplitMode
  branches: Branch[]
}

/** Crossovers between up to five bands, by their parameter. */
export const crossovers = ['cross1', 'cross2', 'cross3', 'cross4'] as const

export const splitParams = {
  on: commonParams.on,
  cross1: hertz('Crossover 1', {
    min: 30,
    max: 16_000,
    default: 180,
    tip: 'Between band 1 and band 2',
  }),
  cross2: hertz('Crossover 2', {
    min: 30,
    max: 16_000,
    default: 2100,
    tip: 'Between band 2 and band 3',
  }),
  cross3: hertz('Crossover 3', {
    min: 30,
    max: 16_000,
    default: 6000,
    tip: 'Between band 3 and band 4',
  }),
  cross4: hertz('Crossover 4', {
    min: 30,
    max: 16_000,
    default: 10_000,
    tip: 'Between band 4 and band 5',
  }),
  phase: choice(
    'Phase',
    ['minimum', 'linear'],
    0,
    'Linkwitz–Riley with phase shift at the crossovers, or linear phase with 21 ms latency',
  ),
  position: percent('Position', {
    default: 0,
    tip: 'Position across the branches, gliding from one to the next',
  }),
  law: choice('Law', ['equal power', 'linear'], 0, 'How neighbouring branches are mixed'),
} satisfies ParamSpecs

/** Names that branches have of themselves, by kind of split and number. */
function ownNames(mode: SplitMode, count: number): readonly string[] {
  if (mode === 'bands' && count <= 5)
    return (
      [
        ['all'],
        ['low', 'high'],
        ['low', 'mid', 'high'],
        ['low', 'low mid', 'high mid', 'high'],
        ['low', 'low mid', 'mid', 'high mid', 'high'],
      ][count - 1] ?? []
    )
  if (mode === 'mid-side') return ['mid', 'side']
  if (mode === 'left-right') return ['left', 'right']
  if (mode === 'pads') return [...Array.from({ length: count - 1 }, (_, i) => `pads ${i + 1}`), 'all others']
  return ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth']
}

/** All names that a branch may have of itself: any other was given by a person, and stays. */
const anyOwnName = new Set(
  splitModes.flatMap((mode) => Array.from({ length: 8 }, (_, i) => ownNames(mode, i + 1)).flat()),
)

/** Gives branches that have no name of a person's the one that says what they hold now. */
export function nameBranches(split: Split): void {
  const names = ownNames(split.mode, split.branches.length)
  split.branches.forEach((b, i) => {
    if (anyOwnName.has(b.name) || /^branch \d+$/.test(b.name)) b.name = names[i] ?? `branch ${i + 1}`
  })
}

/**
 * Whether a split's bands are in linear phase. Set values alone say so: a link does not change when sound
 * arrives.
 */
export const isLinear = (split: Split): boolean => split.mode === 'bands' && (split.params.phase ?? 0) >= 0.5

/** The parameters of a split that have an effect in its mode, with so many branches. */
export function splitGauges(mode: SplitMode, branches: number): string[] {
  if (mode === 'bands') return [...crossovers.slice(0, Math.max(0, Math.min(branches, 5) - 1)), 'phase']
  return mode === 'select' ? ['position', 'law'] : []
}

/** Pads that go along one branch of a split of kind *pads*, counted from 0. */
const padsSchema = z.array(z.number().int().min(0).max(63)).max(64)

/**
 * The pads of a branch: those it names and no branch before it does; the last branch has all that none names.
 */
export function padsOf(split: Split, branch: number, count: number): number[] {
  const homes = Array.from({ length: count }, (_, pad) => {
    const home = split.branches.findIndex((b) => b.pads?.includes(pad))
    return home < 0 ? split.branches.length - 1 : home
  })
  return homes.flatMap((home, pad) => (home === branch ? [pad] : []))
}

export const newBranch = (name: string, level = 0, id = newId()): Branch => ({
  id,
  name,
  params: { ...defaultsOf(branchParams), level },
  nodes: [],
})

export const newSplit = (branches: Branch[], id = newId()): Split => ({
  kind: 'split',
  id,
  mode: 'copies',
  params: defaultsOf(splitParams),
  branches,
})

export const splitKind = defineNodeKind<Split>({
  kind: 'split',
  title: () => 'Split',
  schema: (nodes) =>
    z.object({
      kind: z.literal('split'),
      id,
      name: name.optional(),
      mode: z.enum(splitModes),
      params: values,
      branches: z
        .array(z.object({ id, name, params: values, nodes, pads: padsSchema.optional() }))
        .min(1)
        .max(limits.branches.most, limits.branches.sentence),
    }),
  params: () => splitParams,
  gauges: (node) => [...splitGauges(node.mode, node.branches.length), 'on'],
  around: {
    label: 'Split around',
    tip: 'Splits the signal: one branch with the selected effects, one dry, both at −6 dB',
    also: ['parallel', 'bands', 'multiband', 'mid side', 'branches'],
    empty: 'Splits the signal into two parallel copies',
    make: (nodes, id) => {
      const [first, second] = nodes.length > 0 ? ['through', 'straight'] : ['first', 'second']
      return newSplit([{ ...newBranch(first ?? '', -6), nodes }, newBranch(second ?? '', -6)], id)
    },
  },
  branches: (node) => node.branches,
  // a band of linear phase rings for as long as its kernel
  tail: (node, { along }) =>
    (isLinear(node) ? 0.05 : node.mode === 'bands' ? 0.1 : 0) +
    Math.max(0, ...node.branches.map((b) => along(b.nodes))),
  structure: (node, _rate, list) =>
    `${node.id}:${node.mode}${isLinear(node) ? '-linear' : ''}(${node.branches.map((b) => `${b.id}${node.mode === 'pads' ? (b.pads ?? []).join('.') : ''}[${list(b.nodes)}]`).join('|')})`,
})
