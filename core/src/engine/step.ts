import type { StereoBlock } from './block'

/** One thing the engine does in each block. Steps outlive plans; the plan says in which order they run and on what. */
export interface Step {
  run(): void
  reset(): void
  /** Announces that what arrives here will come from elsewhere. */
  cut(): void
}

/** A step that gives sound. */
export interface SoundStep extends Step {
  readonly out: StereoBlock
  /** Largest sample of the last block, for the meters. */
  readonly peak: number
}
