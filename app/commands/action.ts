import type { Session } from '../services/session'
import type { Region } from '../focus/region'

/**
 * Something that can be done: by its key, and by its name from the finder. `keys` is how it is written for
 * people.
 */
export interface Action {
  readonly name: string
  readonly keys: string
  /** As tinykeys reads it; none for what has a key of its own elsewhere. */
  readonly binding?: string
  /**
   * Parts of the page whose focus it acts on: a key acts on what has the focus, or on nothing. `page` is
   * nothing focused at all. Without it, it is everywhere.
   */
  readonly at?: readonly Region[]
  readonly run: () => void
}

/** The actions of one group. */
export type ActionGroup = (session: Session) => Action[]

/** Where keys are about the effect that is chosen, and where they may remove it. */
export const EFFECT: readonly Region[] = ['chart', 'effect', 'page']
export const CHART: readonly Region[] = ['chart', 'page']
/** Harmless actions (add, keep, show) work on the whole Bench. */
export const BENCH: readonly Region[] = ['chart', 'effect', 'tracks', 'modulators', 'page', 'other']
