import { isAiff, readAiff } from './aiff'
import type { DecodedAudio } from './audio-file'
import { compressedKind, readCompressed } from './compressed'
import { readWav } from './wav'

/** Names of files that {@link readAudio} reads, by their ends. */
export const audioFileNames = /\.(wav|wave|aif|aiff|aifc|flac|mp3|ogg|oga|opus)$/i

/** Reads a file of sound by what is in it: AIFF, AIFF-C or WAV. @throws AudioFormatError */
export const readAudio = (file: Uint8Array, most = Infinity): DecodedAudio => (isAiff(file) ? readAiff(file, most) : readWav(file, most))

/** Reads a file of sound of any kind there is: also FLAC, MP3, Ogg Vorbis and Ogg Opus. @throws AudioFormatError */
export async function readAnyAudio(file: Uint8Array, most = Infinity): Promise<DecodedAudio> {
  const kind = compressedKind(file)
  return kind ? readCompressed(file, kind, most) : readAudio(file, most)
}
