import type { AudioPieces } from '../dsp/audio-pieces'

/**
 * Decoded audio at the project's sample rate: one array (mono) or two; none where it is too long for memory
 * and is read in pieces.
 */
export interface AudioData {
  readonly sampleRate: number
  readonly channels: readonly Float32Array[]
  readonly pieces?: AudioPieces
  /** The same at another sample rate, where it comes in pieces. */
  readonly atRate?: (sampleRate: number) => AudioData
}

/** Both sides of a stretch of sound. */
export type Stereo = readonly [Float32Array, Float32Array]

/** Length of audio in frames, held or in pieces. */
export const framesOf = ({ channels, pieces }: AudioData): number =>
  pieces?.frames ?? channels[0]?.length ?? 0

/** Audio for users that need all of it in memory; null where it is read in pieces. */
export const heldAudio = (audio: AudioData | null): AudioData | null => (audio?.pieces ? null : audio)
