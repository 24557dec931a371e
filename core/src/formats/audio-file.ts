import { limits, sentenceOf } from '../limits'

/**
 * What all files of sound have in common: what comes out of them, what is taken, and how it is said that one
 * is not.
 */

/**
 * Audio that cannot be read. The message is a sentence for a person; `offset` is where in the file, in bytes.
 */
export class AudioFormatError extends Error {
  override name = 'AudioFormatError'
  constructor(
    message: string,
    readonly offset = 0,
  ) {
    super(message)
  }
}

/** Sound as a file holds it. One array (mono) or two. */
export interface DecodedAudio {
  readonly sampleRate: number
  readonly channels: Float32Array[]
}

/** Whether sound is so long that it is not held, but comes in pieces. */
export const isLong = (frames: number, rate: number): boolean => frames > limits.heldSound.most * rate

/** Bytes that sound takes as it is held here. */
export const bytesOf = (frames: number, channels: number): number => 4 * frames * channels

/**
 * @throws AudioFormatError for audio that is too long to be a source, or takes more than `most` bytes, as it
 * is held here
 */
export function checkLength(frames: number, rate: number, channels: number, most = Infinity): void {
  if (frames / rate > limits.soundLength.most)
    throw new AudioFormatError(sentenceOf('soundLength', Math.round(frames / rate / 60)))
  if (bytesOf(frames, channels) > most)
    throw new AudioFormatError(sentenceOf('bundleSamples', Math.round(most / 1024 / 1024)))
}

/** @throws AudioFormatError for channels and rates that are not taken; `kind` is what the file is called */
export function checkSound(kind: string, channels: number, rate: number, at: number): void {
  if (channels === 0) throw new AudioFormatError(`This ${kind} file has no channels.`, at)
  if (channels > limits.channels.most)
    throw new AudioFormatError(sentenceOf('channels', `${kind} file has ${channels}`), at)
  if (!(rate >= limits.lowestRate.most && rate <= limits.highestRate.most))
    throw new AudioFormatError(
      sentenceOf('highestRate', `${kind} file has a sample rate of ${Math.round(rate)}`),
      at,
    )
}
