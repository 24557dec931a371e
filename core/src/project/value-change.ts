import { effectDefinition } from '../effects/index'
import type { Change } from './edit'
import { lanePlace } from './param-path'
import { type Patch, type Path, type PathStep, patched } from './patch'
import type { Chain, ChainNode, Project } from './schema'
import { itemsOf, plainValues, specAt } from './targets'
import { type Owner, findOwner, holdsId } from './walk'
import { branchesOf, innerLists } from './nodes/index'

/**
 * The change that sets one value and nothing else: a path and what stands there before and after, without a
 * draft and without comparing documents. Null where more follows from the value, or it is kept elsewhere:
 * then the edit itself is carried out.
 */
export function valueChange(project: Project, owner: string, param: string, value: number): Change | null {
  const found = findOwner(project, owner)
  const spec = found && specAt(found, param)
  if (!found || !spec || !Number.isFinite(value) || found.kind === 'link' || found.kind === 'send')
    return null
  if (found.kind === 'node' && found.node.kind === 'effect' && effectDefinition(found.node.type)?.settle)
    return null
  const place = lanePlace(param)
  if (place && (place.index === undefined || !(place.lane in (holderLanes(found) ?? {})))) return null
  const values: Readonly<Record<string, number>> = place
    ? (itemsOf(found, place.lane)[place.index ?? 0] ?? {})
    : plainValues(found)
  const name = place ? place.param : param
  const under: PathStep[] = place ? ['lanes', place.lane, place.index ?? 0, name] : ['params', name]
  const path: Path = [...pathToOwner(found, owner), ...under]
  const bounded = Math.min(spec.max, Math.max(spec.min, value))
  const before = values[name]
  if (before === bounded) return { next: project, patches: [], inverse: [], isValue: true }
  const patch: Patch = { op: 'set', path, value: bounded }
  const inverse: Patch = before === undefined ? { op: 'unset', path } : { op: 'set', path, value: before }
  return { next: patched(project, [patch]), patches: [patch], inverse: [inverse], isValue: true }
}

/**
 * The owner and the path of a parameter that a patch sets to a number; null for any other patch, and for a
 * source, which no id leads to.
 */
export function valueOf(
  patch: Patch,
): { readonly owner: string; readonly path: string; readonly value: number } | null {
  if (patch.op !== 'set' || typeof patch.value !== 'number') return null
  const at = patch.path.map((step) => typeof step === 'object').lastIndexOf(true)
  const step = patch.path[at]
  if (typeof step !== 'object') return null
  const [kind, first, index, name] = patch.path.slice(at + 1)
  const { value } = patch
  if (kind === 'params' && typeof first === 'string' && index === undefined)
    return { owner: step.id, path: first, value }
  return kind === 'lanes' && typeof name === 'string'
    ? { owner: step.id, path: `${String(first)}[${String(index)}].${name}`, value }
    : null
}

const holderLanes = (owner: Owner): Readonly<Record<string, unknown>> | undefined =>
  owner.kind === 'node'
    ? owner.node.lanes
    : owner.kind === 'modulator'
      ? owner.modulator.lanes
      : owner.kind === 'source'
        ? owner.source.lanes
        : undefined

/** How a path leads to what carries the values. */
function pathToOwner(owner: Exclude<Owner, { kind: 'link' } | { kind: 'send' }>, id: string): Path {
  const track: Path = ['tracks', { id: owner.track.id }]
  switch (owner.kind) {
    case 'track':
      return track
    case 'source':
      return [...track, 'source']
    case 'modulator':
      return [...track, 'modulators', { id }]
    default: {
      const chain = owner.track.heard === 'b' && owner.track.b ? 'b' : 'a'
      return [...track, chain, 'nodes', ...pathTo((owner.track[chain] as Chain).nodes, id)]
    }
  }
}

/** How a path leads on from a list of nodes to a node or a branch in it, however deep. */
function pathTo(list: readonly ChainNode[], id: string): Path {
  const node = list.find((n) => n.id === id || holdsId([n], id))
  if (!node) return []
  if (node.id === id) return [{ id }]
  const branches = branchesOf(node)
  const branch = branches.find((b) => b.id === id || holdsId(b.nodes, id))
  if (branch) {
    const here: Path = [{ id: node.id }, keyOf(node, branches), { id: branch.id }]
    return branch.id === id ? here : [...here, 'nodes', ...pathTo(branch.nodes, id)]
  }
  const inner = innerLists(node).find((nodes) => holdsId(nodes, id))
  return inner ? [{ id: node.id }, keyOf(node, inner), ...pathTo(inner, id)] : []
}

/** Under which key a kind of node keeps a list. */
const keyOf = (node: ChainNode, list: unknown): string =>
  Object.entries(node).find(([, value]) => value === list)?.[0] ?? ''
