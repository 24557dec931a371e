import { limits, sentenceOf } from '../limits'
import { AudioFormatError, type DecodedAudio, bytesOf, checkSound } from './audio-file'

/** Bytes that are decoded at a time, so that a file that is too long is not decoded to its end. */
const PIECE = 1 << 18

type Kind = 'FLAC' | 'MP3' | 'Ogg Vorbis' | 'Ogg Opus'

/** What the decoders have in common. */
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

/** What kind of compressed sound a file is by how it begins; undefined for none of these. */
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

/** Reads FLAC, MP3, Ogg Vorbis or Ogg Opus. @param most bytes of samples @throws AudioFormatError */
export async function readCompressed(file: Uint8Array, kind: Kind, most = Infinity): Promise<DecodedAudio> {
  const decoder = await decoders[kind]()
  await decoder.ready
  const parts: Float32Array[][] = []
  let frames = 0
  let sampleRate = 0
  const take = (decoded: Decoded): void => {
    if (decoded.samplesDecoded === 0 || decoded.channelData.length === 0) return
    checkSound(kind, decoded.channelData.length, decoded.sampleRate, 0)
    if (sampleRate !== 0 && decoded.sampleRate !== sampleRate)
      throw new AudioFormatError(`This ${kind} file changes its sample rate on the way.`)
    if (parts[0] && parts[0].length !== decoded.channelData.length)
      throw new AudioFormatError(`This ${kind} file changes how many channels it has on the way.`)
    ;({ sampleRate } = decoded)
    frames += decoded.samplesDecoded
    if (frames / sampleRate > limits.soundLength.most)
      throw new AudioFormatError(
        `This ${kind} file is longer than ${limits.soundLength.most / 60} minutes. Cut out the part you want first.`,
      )
    if (bytesOf(frames, decoded.channelData.length) > most)
      throw new AudioFormatError(sentenceOf('bundleSamples', Math.round(most / 1024 / 1024)))
    parts.push(decoded.channelData.map((c) => c.slice(0, decoded.samplesDecoded)))
  }
  try {
    for (let at = 0; at < file.length; at += PIECE) take(await decoder.decode(file.subarray(at, at + PIECE)))
    if (decoder.flush) take(await decoder.flush())
  } catch (error) {
    throw error instanceof AudioFormatError ? error : new AudioFormatError(`This ${kind} file is damaged: it cannot be decoded.`)
  } finally {
    void decoder.free()
  }
  if (frames === 0) throw new AudioFormatError(`This ${kind} file has no sound in it that can be decoded.`)
  const channels = Array.from({ length: parts[0]?.length ?? 0 }, (_, c) => {
    const all = new Float32Array(frames)
    let at = 0
    for (const part of parts) {
      all.set(part[c] ?? [], at)
      at += part[c]?.length ?? 0
    }
    return all
  })
  return { sampleRate, channels }
}
