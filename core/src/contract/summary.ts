/**
 * What the line that sums up a modulator or a source may say: its values, and the names of what it is
 * connected to.
 */
export interface Summary {
  /** A parameter in its own unit. */
  readonly value: (param: string) => number
  /** The same as people write it. */
  readonly text: (param: string) => string
  /** Items in a lane. */
  readonly count: (lane: string) => number
  /** Name of the track that it listens to; empty for none. */
  readonly listens: string
  /** Letters of the modulators that it works on; a dash where none is set. */
  readonly inputs: readonly string[]
  /** Name of the sound it plays; empty for none. */
  readonly sound: string
  /** Length of that sound in bars of the song, by its own tempo. */
  readonly bars: number
  /** What steers it from outside; empty for nothing. */
  readonly control: string
  /** Name of the device it hears; empty for none. */
  readonly device: string
}
