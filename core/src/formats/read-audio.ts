import { isAiff, readAiff } from './aiff'
import type { DecodedAudio } from './audio-file'
import { readWav } from './wav'

/** Names of files that {@link readAudio} reads, by their ends. */
export const audioFileNames = /\.(wav|wave|aif|aiff|aifc)$/i

/** Reads a file of sound by what is in it: AIFF, AIFF-C or WAV. @throws AudioFormatError */
export const readAudio = (file: Uint8Array, most = Infinity): DecodedAudio => (isAiff(file) ? readAiff(file, most) : readWav(file, most))
