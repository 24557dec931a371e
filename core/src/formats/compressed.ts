import { limits } from '../limits'
import { AudioFormatError, type DecodedAudio, checkSound } from './audio-file'
import type { ByteSource } from './byte-asks'
import { FlacCheck, Mp3Check, OggCheck, type WholeCheck } from './whole-file'

/** Bytes that are decoded at a time, so that a file that is too long is not decoded to its end. */
const PIECE = 1 << 18
/** First bytes of an Ogg file. */
const OGG_FIRST = 'O'.charCodeAt(0)

type Kind = 'FLAC' | 'MP3' | 'Ogg Vorbis' | 'Ogg Opus'

/** Common interface of the decoders. */
interface Decoder {
  readonly ready: Promise<void>
  decode(data: Uint8Array): Decoded | Promise<Decoded>
  flush?(): Promise<Decoded>
  free(): void | Promise<void>
}
interface Decoded {
  readonly channelData: readonly Float32Array[]
  readonly samplesDecoded: number
  readonly sampleRate: number
  readonly errors: readonly unknown[]
}

/** Loaded when they are needed: each brings its own WebAssembly. */
const decoders: Record<Kind, () => Promise<Decoder>> = {
  'FLAC': async () => new (await import('@wasm-audio-decoders/flac')).FLACDecoder(),
  'MP3': async () => new (await import('mpg123-decoder')).MPEGDecoder(),
  'Ogg Vorbis': async () => new (await import('@wasm-audio-decoders/ogg-vorbis')).OggVorbisDecoder(),
  'Ogg Opus': async () => new (await import('ogg-opus-decoder')).OggOpusDecoder(),
}

/** Checks of completeness by kind of file. */
const checks: Record<Kind, (head: Uint8Array) => WholeCheck> = {
  'FLAC': (head) => (head[0] === OGG_FIRST ? new OggCheck() : new FlacCheck()),
  'MP3': () => new Mp3Check(),
  'Ogg Vorbis': () => new OggCheck(),
  'Ogg Opus': () => new OggCheck(),
}

/** Kind of compressed sound by the first bytes of a file; undefined for others. */
export function compressedKind(file: Uint8Array): Kind | undefined {
  const text = (at: number, length: number): string => String.fromCharCode(...file.subarray(at, at + length))
  if (text(0, 4) === 'fLaC') return 'FLAC'
  if (text(0, 4) === 'OggS') {
    const first = text(0, 80)
    if (first.includes('OpusHead')) return 'Ogg Opus'
    if (first.includes('vorbis')) return 'Ogg Vorbis'
    return first.includes('FLAC') ? 'FLAC' : undefined
  }
  // a tag before the sound, or a frame of layer 3 itself
  const isFrame = file[0] === 0xff && ((file[1] ?? 0) & 0xe6) === 0xe2
  return text(0, 3) === 'ID3' || isFrame ? 'MP3' : undefined
}

/**
 * Samples of a FLAC, MP3, Ogg Vorbis or Ogg Opus file, as they are decoded. A file that is cut off or has a
 * hole is refused at its end.
 * @throws AudioFormatError
 */
export async function* compressedPieces(file: ByteSource, kind: Kind): AsyncGenerator<DecodedAudio> {
  const decoder = await decoders[kind]()
  await decoder.ready
  let frames = 0
  let [sampleRate, channelCount] = [0, 0]
  const take = (decoded: Decoded): DecodedAudio[] => {
    const { channelData, samplesDecoded } = decoded
    if (samplesDecoded === 0 || channelData.length === 0) return []
    checkSound(kind, channelData.length, decoded.sampleRate, 0)
    if (frames > 0 && decoded.sampleRate !== sampleRate)
      throw new AudioFormatError(`This ${kind} file changes its sample rate.`)
    if (frames > 0 && channelData.length !== channelCount)
      throw new AudioFormatError(`This ${kind} file changes its number of channels.`)
    ;({ sampleRate } = decoded)
    channelCount = channelData.length
    frames += samplesDecoded
    // how long it is shows only as it is decoded
    if (frames / sampleRate > limits.soundLength.most)
      throw new AudioFormatError(
        `This ${kind} file is longer than ${limits.soundLength.most / 3600} hours. Trim it first.`,
      )
    return [{ sampleRate, channels: channelData.map((c) => c.slice(0, samplesDecoded)) }]
  }
  let faults = 0
  const decoded = async (what: () => Decoded | Promise<Decoded>): Promise<Decoded> => {
    try {
      const got = await what()
      faults += got.errors.length
      return got
    } catch {
      throw new AudioFormatError(`This ${kind} file is damaged: it cannot be decoded.`)
    }
  }
  const check = checks[kind](await file.read(0, 1))
  try {
    for (let at = 0; at < file.size; at += PIECE) {
      const bytes = await file.read(at, Math.min(file.size, at + PIECE))
      check.push(bytes)
      yield* take(await decoded(() => decoder.decode(bytes)))
    }
    const { flush } = decoder
    if (flush) yield* take(await decoded(() => flush.call(decoder)))
  } finally {
    // a decoder that has met damage may fail once more as it goes; what it said of the file counts
    try {
      await decoder.free()
    } catch {
      /* gone anyhow */
    }
  }
  if (frames === 0) throw new AudioFormatError(`This ${kind} file contains no sound that can be decoded.`)
  const fault = check.fault(frames) ?? (faults > 0 ? 'a part of it cannot be decoded.' : undefined)
  if (fault) throw new AudioFormatError(`This ${kind} file is damaged: ${fault}`)
}
