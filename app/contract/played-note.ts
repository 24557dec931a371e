/** A note as the engine has begun it or ended it: places in quarter notes, by the song and as they pass. */
export interface PlayedNote {
  readonly track: string
  readonly pitch: number
  readonly velocity: number
  readonly beat: number
  readonly run: number
}
