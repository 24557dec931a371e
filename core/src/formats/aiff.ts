import { limits, sentenceOf } from '../limits'
import { exp2 } from '../dsp/math'
import { AudioFormatError, type DecodedAudio, checkLength, checkSound } from './audio-file'
import { type AskingParser, parseIn } from './byte-asks'
import { type PcmSound, decodeAll } from './pcm'

/** How one sample is read, and how many bytes it takes. */
interface Encoding {
  readonly bytes: number
  readonly read: (view: DataView, at: number) => number
}

const integers: Readonly<Record<number, Encoding['read']>> = {
  1: (v, at) => v.getInt8(at) / 128,
  2: (v, at) => v.getInt16(at) / 32768,
  3: (v, at) => (v.getInt16(at) * 256 + v.getUint8(at + 2)) / 8388608,
  4: (v, at) => v.getInt32(at) / 2147483648,
}
const littleEndian: Readonly<Record<number, Encoding['read']>> = {
  1: (v, at) => v.getInt8(at) / 128,
  2: (v, at) => v.getInt16(at, true) / 32768,
  3: (v, at) => (v.getInt16(at + 1, true) * 256 + v.getUint8(at)) / 8388608,
  4: (v, at) => v.getInt32(at, true) / 2147483648,
}

/** Whether a file begins as an AIFF file does, of the plain or the AIFF-C kind. */
export function isAiff(head: Uint8Array): boolean {
  if (head.length < 12) return false
  const tag = (at: number): string => String.fromCharCode(...head.subarray(at, at + 4))
  return tag(0) === 'FORM' && (tag(8) === 'AIFF' || tag(8) === 'AIFC')
}

/** Bytes of a chunk that are read: its name, its size, and a format. */
const LOOKED_AT = 32

/** Reads an AIFF or AIFF-C file that is in memory. @throws AudioFormatError */
export function readAiff(file: Uint8Array, most = Infinity): DecodedAudio {
  const sound = parseIn(file, findAiff(file.length))
  checkLength(sound.frames, sound.sampleRate, sound.channelCount, most)
  return { sampleRate: sound.sampleRate, channels: decodeAll(sound, file) }
}

/**
 * Finds the samples of an AIFF or AIFF-C file (Audio Interchange File Format, versions 1.3 and C): integer
 * PCM of 8 to 32 bits of either byte order, and float of 32 or 64. Unknown chunks are skipped. Sound that
 * claims more than there is is an error, since it is cut off.
 * @param fileSize in bytes
 * @throws AudioFormatError
 */
export function* findAiff(fileSize: number): AskingParser<PcmSound> {
  const head = yield { at: 0, length: 12 }
  if (!isAiff(head)) throw new AudioFormatError('This is not an AIFF file: its header is missing.')
  const tag = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
  const isOfKindC = tag(head, 8) === 'AIFC'
  let common: { channels: number; frames: number; rate: number; encoding: Encoding } | undefined
  let sound: { at: number; bytes: number } | undefined
  let chunks = 0
  for (let at = 12; at + 8 <= fileSize;) {
    if (++chunks > limits.chunks.most) throw new AudioFormatError(sentenceOf('chunks', 'AIFF'), at)
    const chunk = yield { at, length: LOOKED_AT }
    const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength)
    const id = tag(chunk, 0)
    const size = view.getUint32(4)
    if (id === 'COMM') {
      if (size < 18 || chunk.length < 8 + Math.min(size, 22))
        throw new AudioFormatError('This AIFF file is broken: its format is incomplete.', at)
      const channels = view.getUint16(8)
      const bits = view.getUint16(14)
      const rate = extended(view, 16)
      checkSound('AIFF', channels, rate, at)
      common = {
        channels,
        frames: view.getUint32(10),
        rate,
        encoding: encodingOf(isOfKindC && size >= 22 ? tag(chunk, 26) : 'NONE', bits, at),
      }
    } else if (id === 'SSND') {
      if (size < 8 || chunk.length < 16)
        throw new AudioFormatError('This AIFF file is broken: its sound is incomplete.', at)
      sound = { at: at + 16 + view.getUint32(8), bytes: size - 8 - view.getUint32(8) }
    }
    at += 8 + size + (size & 1)
  }
  if (!common) throw new AudioFormatError('This AIFF file is broken: it has no format.')
  const { channels, frames, rate, encoding } = common
  if (!sound || frames === 0) throw new AudioFormatError('This AIFF file has no sound in it.')
  const wanted = frames * channels * encoding.bytes
  const there = Math.min(sound.bytes, fileSize - sound.at)
  if (wanted > there)
    throw new AudioFormatError(
      `This AIFF file is truncated: it should have ${wanted} bytes of sound but has ${Math.max(0, there)}.`,
      sound.at,
    )
  return {
    kind: 'AIFF',
    at: sound.at,
    frames,
    sampleRate: Math.round(rate),
    channelCount: channels,
    bytes: encoding.bytes,
    read: encoding.read,
  }
}

/**
 * How samples of a compression type are read. Integers of odd numbers of bits stand at the upper end of their
 * bytes.
 */
function encodingOf(type: string, bits: number, at: number): Encoding {
  const bytes = Math.ceil(bits / 8)
  const of = (read: Encoding['read'] | undefined, size: number): Encoding => {
    if (!read || bits < 1)
      throw new AudioFormatError(`This AIFF file has ${bits} bits per sample, which is not supported.`, at)
    return { bytes: size, read }
  }
  switch (type) {
    case 'NONE':
    case 'twos':
      return of(integers[bytes], bytes)
    case 'sowt':
      return of(littleEndian[bytes], bytes)
    case 'in24':
      return of(integers[3], 3)
    case 'in32':
      return of(integers[4], 4)
    case 'raw ':
      return of((v, k) => (v.getUint8(k) - 128) / 128, 1)
    case 'fl32':
    case 'FL32':
      return of((v, k) => v.getFloat32(k), 4)
    case 'fl64':
    case 'FL64':
      return of((v, k) => v.getFloat64(k), 8)
    default:
      throw new AudioFormatError(
        `This AIFF file is compressed (type “${type.replace(/[^ -~]/g, '?')}”), which is not supported. Save it as PCM.`,
        at,
      )
  }
}

/** An 80-bit floating-point number (IEEE 754 extended), as far as it is a sample rate. */
function extended(view: DataView, at: number): number {
  const sign = view.getUint8(at) & 0x80 ? -1 : 1
  const exponent = (view.getUint16(at) & 0x7fff) - 16383
  const mantissa = view.getUint32(at + 2) / 0x8000_0000 + view.getUint32(at + 6) / 0x8000_0000_0000_0000
  return sign * mantissa * exp2(exponent)
}
