import type { Project } from '@oleaje/core/project/schema'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import type { ParamSpec } from '@oleaje/core/units/parameter'
import { toNormalized } from '@oleaje/core/units/scale'

/**
 * How far a new link reaches to each side of the base when no range was drawn, as a share of the scale;
 * one-sided, twice as far.
 */
const REACH = 0.2
/** How far it reaches on a level, in dB: what is heard as much, and deafens nobody. */
const REACH_DB = 6
/** An amount below this is as good as none: a link from nothing to it would move nothing. */
const LEAST_AMOUNT = 0.05

/**
 * Whether a modulator rests at its lowest: what it moves starts from the base, and goes one way from there.
 */
export function isOneSided(project: Project | null, modulator: string): boolean {
  const found = project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === modulator)
  return isOneSidedType(found?.type ?? '')
}

/** {@link isOneSided} for a modulator that is about to be made. */
export const isOneSidedType = (type: string): boolean => modulatorDefinition(type)?.restsLow === true

/**
 * The range of a new link where none was drawn, as places on the scale. It suits the kind of parameter: a
 * gate crosses its threshold, an amount goes from nothing to its present value, a level moves by some
 * decibels, a time stays within half and double, and all else moves about the base.
 */
export function firstRange(spec: ParamSpec, base: number, oneSided: boolean): { from: number; to: number } {
  const at = toNormalized(spec, base)
  const place = (value: number): number => toNormalized(spec, Math.min(spec.max, Math.max(spec.min, value)))
  if (spec.first === 'whole') return { from: 0, to: 1 }
  if (spec.unit === 'percent' && spec.min === 0 && oneSided && base >= LEAST_AMOUNT)
    return { from: 0, to: at }
  if (spec.unit === 'seconds' && base > 0)
    return { from: oneSided ? at : place(base / 2), to: place(base * 2) }
  if (spec.unit === 'decibel') {
    if (!oneSided) return { from: place(base - REACH_DB), to: place(base + REACH_DB) }
    return base + REACH_DB <= spec.max
      ? { from: at, to: place(base + REACH_DB) }
      : { from: place(base - REACH_DB), to: at }
  }
  if (!oneSided) return { from: Math.max(0, at - REACH), to: Math.min(1, at + REACH) }
  // towards where there is more room, and always upwards
  return at + 2 * REACH <= 1 || at <= 0.5
    ? { from: at, to: Math.min(1, at + 2 * REACH) }
    : { from: Math.max(0, at - 2 * REACH), to: at }
}
