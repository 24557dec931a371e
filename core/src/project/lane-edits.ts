import { randomAt } from '../dsp/random'
import { type ParamSpec, isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import type { Edit } from './edit'
import { itemsOf, lanesOf, ownedItems } from './targets'
import { findOwner } from './walk'

/** How far below its default a diced level can fall, in dB. */
const DICED_DB = 18

/** Edits of a column of a lane. Items whose index is in `locked` stay as they are. */
export interface Column {
  readonly owner: string
  readonly lane: string
  readonly param: string
  readonly locked?: readonly number[]
}

/**
 * Changes the values of a column that are not locked, all at once: `change` is given them in their order and
 * gives new ones.
 */
const changeColumn =
  (
    { owner, lane, param, locked = [] }: Column,
    change: (values: readonly number[]) => readonly number[],
  ): Edit =>
  (p) => {
    const found = findOwner(p, owner)
    const spec = found && lanesOf(found)[lane]?.params[param]
    if (!found || !spec) return
    const free = itemsOf(found, lane)
      .map((_, i) => i)
      .filter((i) => !locked.includes(i))
    const items = ownedItems(found, lane)
    const next = change(free.map((i) => items[i]?.[param] ?? spec.default))
    free.forEach((i, n) => {
      const value = next[n]
      const item = items[i]
      if (item && value !== undefined && Number.isFinite(value))
        item[param] = Math.min(spec.max, Math.max(spec.min, value))
    })
  }

/** Draws a column by chance: any place on its scale, or any of its choices. The same seed draws the same. */
export const diceColumn =
  (column: Column, seed: number): Edit =>
  (p) => {
    const found = findOwner(p, column.owner)
    const spec = found && lanesOf(found)[column.lane]?.params[column.param]
    if (!spec) return
    changeColumn(column, (values) =>
      values.map((_, i) => {
        const x = randomAt(seed, i)
        return isStepped(spec)
          ? Math.min(spec.max, spec.min + Math.floor(x * (spec.max - spec.min + 1)))
          : diced(spec, x)
      }),
    )(p)
  }

/**
 * A random value of a parameter. Levels stay within 18 dB below their default, so that no item vanishes or
 * stands out; all else goes over its whole scale.
 */
function diced(spec: ParamSpec, x: number): number {
  if (!spec.gain) return fromNormalized(spec, x)
  const top = Math.min(spec.max, Math.max(spec.min, spec.default))
  return Math.max(spec.min, top - DICED_DB * x)
}

/** The last first. */
export const reverseColumn = (column: Column): Edit => changeColumn(column, (values) => [...values].reverse())

/** Each value an item further, the last to the first, or the other way with −1. */
export const rotateColumn = (column: Column, by: 1 | -1): Edit =>
  changeColumn(column, (values) =>
    by === 1 ? [...values.slice(-1), ...values.slice(0, -1)] : [...values.slice(1), ...values.slice(0, 1)],
  )

/** Changes a column by places on its scale; what would go over an end stays at it. */
const changePlaces =
  (column: Column, change: (places: readonly number[]) => readonly number[]): Edit =>
  (p) => {
    const found = findOwner(p, column.owner)
    const spec = found && lanesOf(found)[column.lane]?.params[column.param]
    if (spec && !isStepped(spec))
      changeColumn(column, (values) =>
        change(values.map((v) => toNormalized(spec, v))).map((x) => fromNormalized(spec, x)),
      )(p)
  }

/** Brings all values towards their middle, by a share of the way; below 0 spreads them from it. */
export const gatherColumn = (column: Column, share: number): Edit =>
  changePlaces(column, (places) => {
    const middle = places.reduce((sum, x) => sum + x, 0) / Math.max(1, places.length)
    return places.map((x) => x + share * (middle - x))
  })

/** Raises the last and lowers the first as much, those between in between: by parts of the scale. */
export const leanColumn = (column: Column, by: number): Edit =>
  changePlaces(column, (places) =>
    places.map((x, i) => x + by * (places.length > 1 ? i / (places.length - 1) - 0.5 : 0)),
  )

/** As far from each other on the scale, from the first to the last. */
export const evenColumn = (column: Column): Edit =>
  changePlaces(column, (places) => {
    const [first = 0, last = 0] = [places[0], places[places.length - 1]]
    return places.map((x, i) => (places.length > 1 ? first + ((last - first) * i) / (places.length - 1) : x))
  })

/** Each value as high on its own scale as that of another column of the same item. */
export const copyColumn =
  (column: Column, from: string): Edit =>
  (p) => {
    const found = findOwner(p, column.owner)
    const specs = found && lanesOf(found)[column.lane]?.params
    const source = specs?.[from]
    const target = specs?.[column.param]
    if (!found || !source || !target) return
    const places = itemsOf(found, column.lane)
      .filter((_, i) => !column.locked?.includes(i))
      .map((item) => ((item[from] ?? source.default) - source.min) / (source.max - source.min))
    changeColumn(column, () => places.map((x) => fromNormalized(target, x)))(p)
  }
