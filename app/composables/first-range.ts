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

/**
 * Whether a modulator rests at its lowest: what it moves starts from the base, and goes one way from there.
 */
export function isOneSided(project: Project | null, modulator: string): boolean {
  const found = project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === modulator)
  return isOneSidedType(found?.type ?? '')
}

/** {@link isOneSided} for a modulator that is about to be made. */
export const isOneSidedType = (type: string): boolean => modulatorDefinition(type)?.restsLow === true

/** The range of a new link about the base, as places on the scale, where none was drawn. */
export function firstRange(spec: ParamSpec, base: number, oneSided: boolean): { from: number; to: number } {
  const at = toNormalized(spec, base)
  const place = (value: number): number => toNormalized(spec, Math.min(spec.max, Math.max(spec.min, value)))
  if (spec.unit === 'decibel') {
    if (!oneSided) return { from: place(base - REACH_DB), to: place(base + REACH_DB) }
    return base + REACH_DB <= spec.max
      ? { from: at, to: place(base + REACH_DB) }
      : { from: at, to: place(base - REACH_DB) }
  }
  if (!oneSided) return { from: Math.max(0, at - REACH), to: Math.min(1, at + REACH) }
  // towards where there is more room
  return at + 2 * REACH <= 1 || at <= 0.5
    ? { from: at, to: Math.min(1, at + 2 * REACH) }
    : { from: at, to: Math.max(0, at - 2 * REACH) }
}
