import type { StereoBlock } from '../contract/block'
import type { Load } from '../contract/load'
import type { Guard } from './guard'

/**
 * One thing the engine does in each block. Steps outlive plans; the plan says in which order they run and on
 * what. What the engine needs to know of a step beyond that, the step says itself, so that nobody has to ask
 * which kind it is.
 */
export interface Step {
  run(): void
  reset(): void
  /** Announces that its input will come from elsewhere: the jump is to be declicked. */
  cut(): void
  /**
   * Runs while it is inaudible, since it keeps time: notes, sources, modulators that listen to no sound.
   */
  readonly keepsTime?: boolean
  /** Set on an inaudible source: it keeps its place in the song without computing sound. */
  idle?: boolean
  /** Set on what is about to be taken out of the plan: it fades out first. */
  leaving?: boolean
  /** Whether it holds sound that may be heard later. */
  readonly rings?: boolean
  /** Whether its taking out can be heard. */
  readonly isHeard?: boolean
  /** Watches what it gives, and holds it cut where it has run away. */
  readonly guard?: Guard
  /**
   * Something in it threw: it goes out of the way until it is let go again. Without it, a step that throws is
   * never run again.
   */
  fail?(): void
  /**
   * It has thrown and is never run again: what it gives is nothing from now on. Sound is silenced without it.
   */
  mute?(): void
  /** Lets go of all sound that is left in it, and keeps its time. */
  empty?(): void
  /** What it needs at most, where that is known. */
  readonly load?: Load
  /** Names of the live values that it tells of itself, without the key of the step: see {@link tell}. */
  readonly tells?: readonly string[]
  /** Writes those values; a slot below 0 has no place. */
  tell?(values: Float32Array, slots: readonly number[]): void
}

/** A step that gives sound. */
export interface SoundStep extends Step {
  readonly out: StereoBlock
  /** Largest sample of the last block, for the meters. */
  readonly peak: number
}

/** The live value of most steps with sound: their peak. */
export const tellsPeak: readonly string[] = ['peak']

/** Writes figures into the slots from `from` on. */
export function writeReadouts(
  values: Float32Array,
  slots: readonly number[],
  from: number,
  readouts: Float64Array | undefined,
): void {
  if (readouts)
    for (let k = 0; from + k < slots.length; k++)
      if (slots[from + k] >= 0) values[slots[from + k]] = readouts[k]
}
