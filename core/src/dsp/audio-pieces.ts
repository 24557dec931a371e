/** Frames of one piece of a long sound: 2.7 seconds at 48 kHz. */
export const PIECE_FRAMES = 131_072

/** The samples of a sound that is too long to be held: pieces of it are there as they are wanted. */
export interface AudioPieces {
  /** Length of all of it. */
  readonly frames: number
  /** 1 or 2. */
  readonly channelCount: number
  /** Samples of a piece by channel; null where it has not arrived yet, in which case it is requested. */
  piece(n: number): readonly Float32Array[] | null
  /** Says that a piece will be wanted soon, or is still. */
  want(n: number): void
}

/** Pieces that a sound of so many frames has. */
export const pieceCount = (frames: number): number => Math.ceil(frames / PIECE_FRAMES)

/** Frames of one of them: the last may have fewer. */
export const pieceLength = (frames: number, n: number): number =>
  Math.max(0, Math.min(PIECE_FRAMES, frames - n * PIECE_FRAMES))
