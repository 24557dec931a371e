import type { Preset } from '@oleaje/core/project/preset'
import type { Phrase } from '@oleaje/core/render/phrase'
import type { Point } from './points'

/** A chain as the library's file holds it, with what was measured when it was written. */
export interface ShippedChain {
  readonly preset: Preset
  readonly phrase: Phrase
  /** Other names for the job that it does, to be found by. */
  readonly job?: string
  readonly point: Point
  readonly measured: {
    /** Loudness in LU against dry, and true peak in dBTP, on the phrase. */
    readonly louder: number
    readonly truePeak: number
    /** What it is for, as a figure. */
    readonly point: string
  }
  /** Why its loudness differs by more than 2 LU. */
  readonly loudness?: string
}
