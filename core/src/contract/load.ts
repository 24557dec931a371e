/** The most that one instance needs, measured and rounded up, so that a project can be weighed in advance. */
export interface Load {
  /** Memory at creation, in kB. */
  readonly kB: number
  /** Time per stereo frame with everything moving, in ns on the machine of the bench. */
  readonly ns: number
  /** Seconds of past sound that it holds. The system provides memory only as it is written. */
  readonly ring?: number
}
