/**
 * The information for a one-line summary of a modulator or a source: its values, and the names of its
 * connections.
 */
export interface Summary {
  /** A parameter in its own unit. */
  readonly value: (param: string) => number
  /** The same as text. */
  readonly text: (param: string) => string
  /** Items in a lane. */
  readonly count: (lane: string) => number
  /** Name of the track that it listens to; empty for none. */
  readonly listens: string
  /** Letters of its input modulators; a dash for an empty slot. */
  readonly inputs: readonly string[]
  /** Name of the sound it plays; empty for none. */
  readonly sound: string
  /** Length of that sound in bars of the song, by its own tempo. */
  readonly bars: number
  /** The assigned controller; empty for none. */
  readonly control: string
  /** Name of its input device; empty for none. */
  readonly device: string
}
