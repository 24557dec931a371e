import type { EffectChange, EffectPreset } from '../contract/effect'
import { effectDefinition } from '../effects/index'
import type { LaneSpec } from '../units/lane'
import { type ParamSpec, isStepped, defaultsOf } from '../units/parameter'
import { fromNormalized, middleOf, toNormalized } from '../units/scale'
import type { Edit } from './edit'
import { setUpAs } from './new'
import type { Effect } from './nodes/effect'
import { kindOf } from './nodes/index'
import type { Project, Target } from './schema'
import { dropStrayLinks, dropUnusedSounds, shiftLaneTargets } from './target-edits'
import { holderOf, itemsOf, lanesOf, ownedItems, paramsOf, specAt, writeValue } from './targets'
import { lanePlace } from './param-path'
import { valueChange } from './value-change'
import { type Owner, findOwner } from './walk'

/** Sets one parameter, within its bounds. */
export const setParam = (owner: string, param: string, value: number): Edit =>
  Object.assign(
    (p: Project) => {
      writeParam(p, owner, param, value)
    },
    { change: (p: Project) => valueChange(p, owner, param, value) },
  )

function writeParam(p: Project, owner: string, param: string, value: number): void {
  const found = findOwner(p, owner)
  const spec = found && specAt(found, param)
  if (!found || !spec || !Number.isFinite(value)) return
  const bounded = Math.min(spec.max, Math.max(spec.min, value))
  const place = lanePlace(param)
  if (place && place.index === undefined && !isStepped(spec))
    moveAll(found, place.lane, place.param, spec, bounded)
  else writeValue(found, param, bounded)
  settle(found, { path: param })
}

/**
 * Moves all items of a lane by the same distance on their scale, that of their middle to a value: no farther
 * than the first of them comes to an end, so that they keep their distances.
 */
function moveAll(found: Owner, lane: string, param: string, spec: ParamSpec, value: number): void {
  const items = ownedItems(found, lane)
  const places = items.map((item) => toNormalized(spec, item[param] ?? spec.default))
  if (places.length === 0) return
  const wanted =
    toNormalized(spec, value) -
    toNormalized(
      spec,
      middleOf(
        spec,
        items.map((item) => item[param] ?? spec.default),
      ),
    )
  const by = Math.min(1 - Math.max(...places), Math.max(-Math.min(...places), wanted))
  items.forEach((item, i) => {
    item[param] = fromNormalized(spec, (places[i] ?? 0) + by)
  })
}

/** Sets what a definition keeps as data: a drawn shape, a table. The owner's processor makes sense of it. */
export const setData =
  (owner: string, key: string, value: unknown): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    const holder = found && holderOf(found)
    if (!holder) return
    holder.data ??= {}
    holder.data[key] = value as never
  }

/**
 * Adds an item to a lane, after the one at `index`, with the values of that one; the end where there is none.
 */
export const addLaneItem =
  (owner: string, lane: string, index: number, values: Record<string, number> = {}): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    const spec = found && lanesOf(found)[lane]
    if (!found || !spec || itemsOf(found, lane).length >= spec.most) return
    const items = ownedItems(found, lane)
    const at = Math.min(items.length, Math.max(0, index + 1))
    const fresh = spec.spread
      ? { ...defaultsOf(spec.params), [spec.spread]: widestGap(spec, items) }
      : items[at - 1]
    items.splice(at, 0, { ...fresh, ...values })
    shiftLaneTargets(p, owner, lane, at, 1)
    settle(found, { lane, added: at })
  }

/**
 * The middle of the widest gap that the items of a lane leave along its spread, on that parameter's scale.
 */
function widestGap(spec: LaneSpec, items: readonly Readonly<Record<string, number>>[]): number {
  const along = spec.params[spec.spread ?? '']
  if (!along) return 0
  const places = [
    0,
    ...items
      .map((item) => toNormalized(along, item[spec.spread ?? ''] ?? along.default))
      .sort((a, b) => a - b),
    1,
  ]
  const widest = places
    .slice(1)
    .reduce(
      (best, place, i) =>
        place - (places[i] ?? 0) > (places[best + 1] ?? 0) - (places[best] ?? 0) + 1e-9 ? i : best,
      0,
    )
  return fromNormalized(along, ((places[widest] ?? 0) + (places[widest + 1] ?? 1)) / 2)
}

/** Lets an effect bring the rest of what it keeps into line with a change of its values or lanes. */
function settle(found: Owner, change: EffectChange): void {
  const definition =
    found.kind === 'node' && found.node.kind === 'effect' ? effectDefinition(found.node.type) : undefined
  if (!definition?.settle || found.kind !== 'node') return
  for (const lane of Object.keys(definition.lanes ?? {})) ownedItems(found, lane)
  definition.settle(found.node, change)
}

/** Takes an item out of a lane, together with the links to it; no fewer than the lane must have are left. */
export const removeLaneItem =
  (owner: string, lane: string, index: number): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    const spec = found && lanesOf(found)[lane]
    const items = found && itemsOf(found, lane)
    if (!found || !spec || !items || items.length <= spec.least || index < 0 || index >= items.length) return
    ownedItems(found, lane).splice(index, 1)
    settle(found, { lane, removed: index })
    const hits = (t: Target): boolean => t.owner === owner && t.lane === lane && t.index === index
    p.links = p.links.filter((l) => !hits(l.target))
    p.controls = p.controls.filter((c) => !hits(c.target))
    dropStrayLinks(p)
    shiftLaneTargets(p, owner, lane, index + 1, -1)
  }

/** Sets the number of items of a lane: removes the last ones, or repeats the last one. */
export const setLaneLength =
  (owner: string, lane: string, length: number): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    if (!found) return
    for (let n = itemsOf(found, lane).length; n < length; n++) addLaneItem(owner, lane, n - 1)(p)
    for (let n = itemsOf(found, lane).length; n > length; n--) removeLaneItem(owner, lane, n - 1)(p)
  }

/** Sets a parameter by its place on the range. */
/** {@link setParam} by the place on its scale, 0…1. */
export function setNormalized(owner: string, param: string, place: number): Edit {
  const valueIn = (p: Project): number => {
    const found = findOwner(p, owner)
    const spec = found && specAt(found, param)
    return spec ? fromNormalized(spec, place) : NaN
  }
  return Object.assign(
    (p: Project) => {
      writeParam(p, owner, param, valueIn(p))
    },
    { change: (p: Project) => valueChange(p, owner, param, valueIn(p)) },
  )
}

/** All parameters of an owner back to their defaults. */
export const resetParams =
  (owner: string): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    const specs = found && paramsOf(found)
    if (found && specs)
      for (const [param, value] of Object.entries(defaultsOf(specs))) writeValue(found, param, value)
  }

/**
 * Sets an effect up as a preset says: what it does not say goes to its default, and its data and lanes are
 * those of the preset.
 */
export const takePreset =
  (id: string, preset: EffectPreset): Edit =>
  (p) => {
    const found = findOwner(p, id)
    if (found?.kind !== 'node' || found.node.kind !== 'effect') return
    resetParams(id)(p)
    for (const [param, value] of Object.entries(preset.params)) setParam(id, param, value)(p)
    const { lanes, data } = setUpAs(preset)
    if (lanes) found.node.lanes = lanes
    else delete found.node.lanes
    if (data) found.node.data = data
    else delete found.node.data
  }

/** Whether an effect is set up exactly as a preset says; being off does not count. */
export function isSetUpAs(effect: Effect, preset: EffectPreset): boolean {
  const specs = kindOf(effect).params(effect)
  const { lanes, data } = setUpAs(preset)
  return (
    Object.entries(specs ?? {}).every(
      ([param, { default: usual }]) =>
        param === 'on' || (effect.params[param] ?? usual) === (preset.params[param] ?? usual),
    ) &&
    JSON.stringify(effect.lanes ?? null) === JSON.stringify(lanes ?? null) &&
    JSON.stringify(effect.data ?? null) === JSON.stringify(data ?? null)
  )
}

/** Gives an effect a sound of its own: a response. The sound becomes part of the project. */
export const setEffectSound =
  (id: string, hash: string | null, ref?: Project['audio'][string]): Edit =>
  (p) => {
    if (hash && ref) p.audio[hash] = ref
    setData(id, 'audio', hash)(p)
    dropUnusedSounds(p)
  }
