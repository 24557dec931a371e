import { limits, sentenceOf } from '../limits'
import { Random } from '../dsp/random'
import { AudioFormatError, type DecodedAudio, checkLength, checkSound } from './audio-file'
import { type AskingParser, parseIn } from './byte-asks'
import { type PcmSound, decodeAll } from './pcm'

export type WavDepth = 16 | 24 | 32

/** Bytes of a header as it is written here. */
export const HEADER_BYTES = 44

/**
 * The 44 bytes that begin a WAV file (RIFF/WAVE, Microsoft & IBM 1991). 16 and 24 bit are integer PCM, 32 bit
 * is IEEE float. Give the true number of frames, or rewrite the header when it is known.
 * @throws RangeError past the 4 GiB that RIFF can say
 */
export function wavHeader(o: {
  channels: number
  sampleRate: number
  depth: WavDepth
  frames: number
}): Uint8Array<ArrayBuffer> {
  const frameBytes = (o.channels * o.depth) / 8
  const bytes = o.frames * frameBytes
  if (bytes + HEADER_BYTES > 0xffffffff)
    throw new RangeError('A WAV file holds at most 4 GiB. Render a shorter range or a lower bit depth.')
  const header = new Uint8Array(HEADER_BYTES)
  const view = new DataView(header.buffer)
  const tag = (at: number, text: string) => {
    for (let i = 0; i < 4; i++) header[at + i] = text.charCodeAt(i)
  }
  tag(0, 'RIFF')
  view.setUint32(4, 36 + bytes, true)
  tag(8, 'WAVE')
  tag(12, 'fmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, o.depth === 32 ? 3 : 1, true)
  view.setUint16(22, o.channels, true)
  view.setUint32(24, o.sampleRate, true)
  view.setUint32(28, o.sampleRate * frameBytes, true)
  view.setUint16(32, frameBytes, true)
  view.setUint16(34, o.depth, true)
  tag(36, 'data')
  view.setUint32(40, bytes, true)
  return header
}

/**
 * Turns blocks of samples into the bytes of a WAV file's data, one after the other. 16 bit gets triangular
 * dither (Lipshitz, Wannamaker, Vanderkooy 1992), seeded, so the same render gives the same file. Samples
 * over full scale are clipped in 16 and 24 bit and kept in float.
 */
export class WavEncoder {
  private readonly dither = new Random(0x51ed)
  constructor(readonly depth: WavDepth) {}

  /** Interleaves `channels` (of equal length) into bytes. */
  encode(channels: readonly Float32Array[]): Uint8Array<ArrayBuffer> {
    const frames = channels[0]?.length ?? 0
    const bytes = new Uint8Array((frames * channels.length * this.depth) / 8)
    const view = new DataView(bytes.buffer)
    let at = 0
    for (let i = 0; i < frames; i++) {
      for (const channel of channels) {
        const x = channel[i] as number
        if (this.depth === 32) view.setFloat32(at, x, true)
        else if (this.depth === 16)
          view.setInt16(
            at,
            clip(Math.round(x * 32768 + this.dither.next() - this.dither.next()), 32767),
            true,
          )
        else {
          const v = clip(Math.round(x * 8388608), 8388607)
          view.setUint8(at, v & 255)
          view.setInt16(at + 1, v >> 8, true)
        }
        at += this.depth / 8
      }
    }
    return bytes
  }
}

/** A whole WAV file at once. */
export function writeWav(audio: DecodedAudio, depth: WavDepth): Uint8Array<ArrayBuffer> {
  const data = new WavEncoder(depth).encode(audio.channels)
  const header = wavHeader({
    channels: audio.channels.length,
    sampleRate: audio.sampleRate,
    depth,
    frames: audio.channels[0]?.length ?? 0,
  })
  const file = new Uint8Array(header.length + data.length)
  file.set(header)
  file.set(data, header.length)
  return file
}

const FORMS = ['RIFF', 'RF64', 'BW64']

/** Whether a file begins as a WAV file does, the forms for more than 4 GiB included. */
export const isWav = (head: Uint8Array): boolean =>
  head.length >= 4 && FORMS.includes(String.fromCharCode(...head.subarray(0, 4)))

interface Format {
  readonly isFloat: boolean
  readonly channels: number
  readonly rate: number
  readonly bits: number
}

/** A size field that was not known when the file was started. */
const UNKNOWN = 0xffffffff
/** Bytes of a chunk that are read: its name, its size, and a format. */
const LOOKED_AT = 64

/**
 * Reads a WAV file that is in memory.
 * @param most bytes that the sound may take, as it is held here
 * @throws AudioFormatError
 */
export function readWav(file: Uint8Array, most = Infinity): DecodedAudio {
  const sound = parseIn(file, findWav(file.length))
  checkLength(sound.frames, sound.sampleRate, sound.channelCount, most)
  return { sampleRate: sound.sampleRate, channels: decodeAll(sound, file) }
}

/**
 * Finds the samples of a WAV file: integer PCM of 8 to 32 bits and float of 32 or 64, WAVE_FORMAT_EXTENSIBLE,
 * RF64 and BW64 (EBU Tech 3306, 2007; ITU-R BS.2088, 2015) included, and files that were streamed and so say
 * no size. Unknown chunks are skipped. A data chunk that claims more than there is is an error, since the
 * sound is cut off.
 * @param fileSize in bytes
 * @throws AudioFormatError
 */
export function* findWav(fileSize: number): AskingParser<PcmSound> {
  const head = yield { at: 0, length: 12 }
  if (head.length < 12 || !isWav(head) || tagAt(head, 8) !== 'WAVE')
    throw new AudioFormatError('This is not a WAV file: its header is missing.')
  const whole = viewOf(head).getUint32(4, true)
  let format: Format | undefined
  /** Bytes of sound, where a chunk of its own says them in 64 bits. */
  let long: number | undefined
  let chunks = 0
  for (let at = 12; at + 8 <= fileSize;) {
    if (++chunks > limits.chunks.most) throw new AudioFormatError(sentenceOf('chunks', 'WAV'), at)
    const chunk = yield { at, length: LOOKED_AT }
    const view = viewOf(chunk)
    const id = tagAt(chunk, 0)
    const size = view.getUint32(4, true)
    const body = at + 8
    if (id === 'fmt ') format = readFormat(view, size, at)
    else if (id === 'ds64' && size >= 24 && chunk.length >= 32)
      long = view.getUint32(16, true) + 0x1_0000_0000 * view.getUint32(20, true)
    else if (id === 'data') {
      if (!format)
        throw new AudioFormatError('This WAV file is broken: its sound comes before its format.', at)
      const { channels, rate, bits, isFloat } = format
      const isStreamed = size === UNKNOWN || (size === 0 && (whole === 0 || whole === UNKNOWN))
      const there = fileSize - body
      const said = size === UNKNOWN && long !== undefined ? long : isStreamed ? there : size
      if (said > there)
        throw new AudioFormatError(
          `This WAV file is truncated: it should have ${said} bytes of sound but has ${there}.`,
          at,
        )
      const bytes = Math.ceil(bits / 8)
      const frames = Math.floor(said / (channels * bytes))
      if (frames === 0) throw new AudioFormatError('This WAV file has no sound in it.', at)
      return {
        kind: 'WAV',
        at: body,
        frames,
        sampleRate: rate,
        channelCount: channels,
        bytes,
        read: readers[`${isFloat ? 'float' : ''}${bytes}`] as PcmSound['read'],
      }
    }
    at = body + size + (size & 1)
  }
  throw new AudioFormatError(
    format ? 'This WAV file has no sound in it.' : 'This WAV file is broken: it has no format.',
  )
}

const tagAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

const PCM = 1
const FLOAT = 3
const EXTENSIBLE = 0xfffe
/**
 * The rest of a sub-format that begins with one of the old codes (Microsoft, Multiple Channel Audio Data and
 * WAVE Files, 2001).
 */
const SUBFORMAT = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71]

/** Content of a format chunk, with its name and size. */
function readFormat(chunk: DataView, size: number, at: number): Format {
  if (size < 16 || chunk.byteLength < 24)
    throw new AudioFormatError('This WAV file is broken: its format is incomplete.', at)
  let code = chunk.getUint16(8, true)
  if (code === EXTENSIBLE) {
    if (size < 40 || chunk.byteLength < 48)
      throw new AudioFormatError('This WAV file is broken: its format is incomplete.', at)
    if (SUBFORMAT.some((b, i) => chunk.getUint8(34 + i) !== b))
      throw new AudioFormatError('This WAV file has an unknown format. Save it as PCM.', at)
    code = chunk.getUint16(32, true)
  }
  if (code !== PCM && code !== FLOAT)
    throw new AudioFormatError(
      `This WAV file is compressed (format ${code}), which is not supported. Save it as PCM.`,
      at,
    )
  const isFloat = code === FLOAT
  const [channels, rate, frame, bits] = [
    chunk.getUint16(10, true),
    chunk.getUint32(12, true),
    chunk.getUint16(20, true),
    chunk.getUint16(22, true),
  ]
  checkSound('WAV', channels, rate, at)
  if (isFloat ? bits !== 32 && bits !== 64 : bits < 8 || bits > 32)
    throw new AudioFormatError(`This WAV file has ${bits} bits per sample, which is not supported.`, at)
  const wanted = channels * Math.ceil(bits / 8)
  if (frame !== wanted)
    throw new AudioFormatError(
      `This WAV file is damaged: its frames have ${frame} bytes, but its format needs ${wanted}.`,
      at,
    )
  return { isFloat, channels, rate, bits }
}

/** Integers of odd numbers of bits stand at the upper end of their bytes; those of one byte are unsigned. */
const readers: Readonly<Record<string, (v: DataView, at: number) => number>> = {
  1: (v, at) => (v.getUint8(at) - 128) / 128,
  2: (v, at) => v.getInt16(at, true) / 32768,
  3: (v, at) => (v.getInt16(at + 1, true) * 256 + v.getUint8(at)) / 8388608,
  4: (v, at) => v.getInt32(at, true) / 2147483648,
  float4: (v, at) => v.getFloat32(at, true),
  float8: (v, at) => v.getFloat64(at, true),
}

const clip = (v: number, limit: number): number => (v > limit ? limit : v < -limit - 1 ? -limit - 1 : v)
