/** What one of a kind takes at most, as measured and rounded up: told before any is made. */
export interface Load {
  /** Memory that it takes as soon as it is made, in kB. */
  readonly kB: number
  /** Work of a stereo frame with everything moving, in ns on the machine of the bench. */
  readonly ns: number
  /** Seconds of past sound that it holds; taken from the system only as they are written. */
  readonly ring?: number
}
