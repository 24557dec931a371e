/** What all files of sound have in common: what comes out of them, what is taken, and how it is said that one is not. */

/** Audio that cannot be read. The message is a sentence for a person; `offset` is where in the file, in bytes. */
export class AudioFormatError extends Error {
  override name = 'AudioFormatError'
  constructor(message: string, readonly offset = 0) { super(message) }
}

/** Sound as a file holds it. One array (mono) or two. */
export interface DecodedAudio {
  readonly sampleRate: number
  readonly channels: Float32Array[]
}

/** Longest import in seconds, most channels, and highest rate that are taken. */
export const LONGEST_IMPORT = 1800
const MOST_CHANNELS = 2
const LOWEST_RATE = 4000
const HIGHEST_RATE = 192_000

/** @throws AudioFormatError for audio that is too long to be a source */
export function checkLength(seconds: number): void {
  if (seconds > LONGEST_IMPORT) throw new AudioFormatError(`This sound is ${Math.round(seconds / 60)} minutes long; at most ${LONGEST_IMPORT / 60} can be taken. Cut out the part you want first.`)
}

/** @throws AudioFormatError for channels and rates that are not taken; `kind` is what the file is called */
export function checkSound(kind: string, channels: number, rate: number, at: number): void {
  if (channels === 0) throw new AudioFormatError(`This ${kind} file says that it has no channels.`, at)
  if (channels > MOST_CHANNELS) throw new AudioFormatError(`This ${kind} file has ${channels} channels; mono and stereo can be taken. Mix it down first.`, at)
  if (!(rate >= LOWEST_RATE && rate <= HIGHEST_RATE)) throw new AudioFormatError(`This ${kind} file says that its sample rate is ${Math.round(rate)} Hz; 4 to 192 kHz can be taken.`, at)
}
