import type { ParamSpecs } from './parameter'

/**
 * A row of like things within an effect or a modulator, each with parameters of its own: bands, taps, steps,
 * voices.
 */
export interface LaneSpec {
  readonly name: string
  /** The name of one item. */
  readonly item: string
  readonly params: ParamSpecs
  /** Whether a parameter has an effect as the owner is set; its column is hidden otherwise. */
  readonly applies?: (param: string, owner: (param: string) => number) => boolean
  /** Shown as a table at first, below the controls of the owner, or across the panel where it is wide. */
  readonly asTable?: 'narrow' | 'wide'
  /** Whether its processor can let some of them be heard alone. */
  readonly solo?: boolean
  /**
   * A parameter along which the items lie: a new one stands in the middle of the widest gap, with all else at
   * its default.
   */
  readonly spread?: string
  readonly least: number
  readonly most: number
  /** The values of the ones that a new owner starts with; what they leave out stands at its default. */
  readonly initial: readonly Readonly<Record<string, number>>[]
}

export type LaneSpecs = Readonly<Record<string, LaneSpec>>
/** Stored values of lanes: by lane, then by index. */
export type LaneValues = Readonly<Record<string, readonly Readonly<Record<string, number>>[]>>

/**
 * The items of a lane as stored, or those it starts with: never more than the most, never fewer than the
 * least.
 */
export function laneItems(
  spec: LaneSpec,
  stored: readonly Readonly<Record<string, number>>[] | undefined,
): readonly Readonly<Record<string, number>>[] {
  if (!stored) return spec.initial
  return stored.length >= spec.least
    ? stored.slice(0, spec.most)
    : Array.from({ length: spec.least }, (_, i) => stored[i] ?? spec.initial[i] ?? {})
}
