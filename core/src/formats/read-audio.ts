import { limits, sentenceOf } from '../limits'
import { findAiff, isAiff, readAiff } from './aiff'
import { AudioFormatError, type DecodedAudio, bytesOf, checkLength } from './audio-file'
import { type ByteSource, bytesInMemory, parseFrom } from './byte-asks'
import { compressedKind, compressedPieces } from './compressed'
import { decodePcm } from './pcm'
import { findWav, isWav, readWav } from './wav'

/** Names of files that {@link audioPieces} reads, by their ends. */
export const audioFileNames = /\.(wav|wave|aif|aiff|aifc|flac|mp3|ogg|oga|opus)$/i

/** Bytes at the beginning of a file that say what it is. */
export const HEAD_BYTES = 80
/** Bytes of uncompressed sound that are read at a time. */
const READ_BYTES = 1 << 20

/** Whether a file that begins so is one that {@link audioPieces} reads. */
export const isReadable = (head: Uint8Array): boolean =>
  isWav(head) || isAiff(head) || compressedKind(head) !== undefined

/** Reads a file of sound by what is in it: AIFF, AIFF-C or WAV. @throws AudioFormatError */
export const readAudio = (file: Uint8Array, most = Infinity): DecodedAudio =>
  isAiff(file) ? readAiff(file, most) : readWav(file, most)

/**
 * Reads a file of sound of any kind there is, piece by piece: AIFF, AIFF-C, WAV, FLAC, MP3, Ogg Vorbis and
 * Ogg Opus. All pieces have the same rate and as many channels.
 * @throws AudioFormatError
 */
export async function* audioPieces(file: ByteSource): AsyncGenerator<DecodedAudio> {
  const head = await file.read(0, Math.min(HEAD_BYTES, file.size))
  const kind = compressedKind(head)
  if (kind) return yield* compressedPieces(file, kind)
  const sound = isAiff(head)
    ? await parseFrom(file, findAiff(file.size))
    : await parseFrom(file, findWav(file.size))
  const { at, frames, sampleRate, channelCount, bytes } = sound
  checkLength(frames, sampleRate, channelCount)
  const frameBytes = channelCount * bytes
  const atOnce = Math.floor(READ_BYTES / frameBytes)
  for (let first = 0; first < frames; first += atOnce) {
    const end = Math.min(frames, first + atOnce)
    yield {
      sampleRate,
      channels: decodePcm(sound, await file.read(at + first * frameBytes, at + end * frameBytes), first),
    }
  }
}

/**
 * Reads a file of sound in memory, whole. @param most bytes that the sound may take, as it is held here
 * @throws AudioFormatError
 */
export async function readAnyAudio(file: Uint8Array, most = Infinity): Promise<DecodedAudio> {
  const parts: DecodedAudio[] = []
  let frames = 0
  for await (const part of audioPieces(bytesInMemory(file))) {
    parts.push(part)
    frames += part.channels[0]?.length ?? 0
    if (bytesOf(frames, part.channels.length) > most)
      throw new AudioFormatError(sentenceOf('bundleSamples', Math.round(most / 1024 / 1024)))
  }
  return joinedChannels(parts)
}

/** Pieces of sound as one. */
export function joinedChannels(parts: readonly DecodedAudio[]): DecodedAudio {
  const frames = parts.reduce((sum, p) => sum + (p.channels[0]?.length ?? 0), 0)
  const channels = Array.from({ length: parts[0]?.channels.length ?? 0 }, (_, c) => {
    const all = new Float32Array(frames)
    let at = 0
    for (const part of parts) {
      all.set(part.channels[c] ?? [], at)
      at += part.channels[c]?.length ?? 0
    }
    return all
  })
  return { sampleRate: parts[0]?.sampleRate ?? limits.lowestRate.most, channels }
}
