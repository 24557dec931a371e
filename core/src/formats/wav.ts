import { Random } from '../dsp/random'
import { AudioFormatError, type DecodedAudio, checkLength, checkSound } from './audio-file'

export type WavDepth = 16 | 24 | 32

const HEADER_BYTES = 44

/**
 * The 44 bytes that begin a WAV file (RIFF/WAVE, Microsoft & IBM 1991). 16 and 24 bit are integer PCM, 32 bit is
 * IEEE float. Give the true number of frames, or rewrite the header when it is known.
 * @throws RangeError past the 4 GiB that RIFF can say
 */
export function wavHeader(o: { channels: number, sampleRate: number, depth: WavDepth, frames: number }): Uint8Array<ArrayBuffer> {
  const frameBytes = o.channels * o.depth / 8
  const bytes = o.frames * frameBytes
  if (bytes + HEADER_BYTES > 0xffffffff) throw new RangeError('A WAV file can hold 4 GiB at most; render a shorter range or fewer bits.')
  const header = new Uint8Array(HEADER_BYTES)
  const view = new DataView(header.buffer)
  const tag = (at: number, text: string) => { for (let i = 0; i < 4; i++) header[at + i] = text.charCodeAt(i) }
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
 * Turns blocks of samples into the bytes of a WAV file's data, one after the other. 16 bit gets triangular dither
 * (Lipshitz, Wannamaker, Vanderkooy 1992), seeded, so the same render gives the same file. Samples over full scale
 * are clipped in 16 and 24 bit and kept in float.
 */
export class WavEncoder {
  private readonly dither = new Random(0x51ed)
  constructor(readonly depth: WavDepth) {}

  /** Interleaves `channels` (of equal length) into bytes. */
  encode(channels: readonly Float32Array[]): Uint8Array<ArrayBuffer> {
    const frames = channels[0]?.length ?? 0
    const bytes = new Uint8Array(frames * channels.length * this.depth / 8)
    const view = new DataView(bytes.buffer)
    let at = 0
    for (let i = 0; i < frames; i++) {
      for (const channel of channels) {
        const x = channel[i] as number
        if (this.depth === 32) view.setFloat32(at, x, true)
        else if (this.depth === 16) view.setInt16(at, clip(Math.round(x * 32767 + this.dither.next() - this.dither.next()), 32767), true)
        else {
          const v = clip(Math.round(x * 8388607), 8388607)
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
  const header = wavHeader({ channels: audio.channels.length, sampleRate: audio.sampleRate, depth, frames: audio.channels[0]?.length ?? 0 })
  const file = new Uint8Array(header.length + data.length)
  file.set(header)
  file.set(data, header.length)
  return file
}

/** Whether a file begins as a WAV file does. */
export const isWav = (head: Uint8Array): boolean => head.length >= 4 && String.fromCharCode(...head.subarray(0, 4)) === 'RIFF'

/**
 * Reads a WAV file: integer PCM of 8, 16, 24 or 32 bits and float of 32 or 64, WAVE_FORMAT_EXTENSIBLE included.
 * Unknown chunks are skipped. A data chunk that claims more than there is is an error, since the sound is cut off.
 * @throws AudioFormatError
 */
export function readWav(file: Uint8Array): DecodedAudio {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const tag = (at: number) => String.fromCharCode(...file.subarray(at, at + 4))
  if (file.length < 12 || tag(0) !== 'RIFF' || tag(8) !== 'WAVE') throw new AudioFormatError('This is not a WAV file: it does not begin as one.')
  let format: { code: number, channels: number, rate: number, bits: number } | undefined
  for (let at = 12; at + 8 <= file.length;) {
    const id = tag(at)
    const size = view.getUint32(at + 4, true)
    const body = at + 8
    if (id === 'fmt ') {
      if (size < 16 || body + 16 > file.length) throw new AudioFormatError('This WAV file is broken: its format is cut short.', at)
      let code = view.getUint16(body, true)
      if (code === 0xfffe && size >= 26 && body + 26 <= file.length) code = view.getUint16(body + 24, true)
      format = { code, channels: view.getUint16(body + 2, true), rate: view.getUint32(body + 4, true), bits: view.getUint16(body + 14, true) }
      checkFormat(format, at)
    } else if (id === 'data') {
      if (!format) throw new AudioFormatError('This WAV file is broken: its sound comes before its format.', at)
      const { channels, rate, bits } = format
      if (body + size > file.length && size !== 0xffffffff) throw new AudioFormatError(`This WAV file is cut short: it promises ${size} bytes of sound and has ${file.length - body}.`, at)
      const frames = Math.floor(Math.min(size, file.length - body) / (channels * bits / 8))
      if (frames === 0) throw new AudioFormatError('This WAV file has no sound in it.', at)
      checkLength(frames / rate)
      return { sampleRate: rate, channels: decode(view, body, frames, format) }
    }
    at = body + size + (size & 1)
  }
  throw new AudioFormatError(format ? 'This WAV file has no sound in it.' : 'This WAV file is broken: it has no format.')
}

function checkFormat(f: { code: number, channels: number, rate: number, bits: number }, at: number): void {
  if (f.code !== 1 && f.code !== 3) throw new AudioFormatError(`This WAV file holds compressed sound (format ${f.code}), which cannot be read. Save it as PCM.`, at)
  checkSound('WAV', f.channels, f.rate, at)
  const fits = f.code === 1 ? [8, 16, 24, 32] : [32, 64]
  if (!fits.includes(f.bits)) throw new AudioFormatError(`This WAV file has ${f.bits} bits a sample, which cannot be read.`, at)
}

function decode(view: DataView, start: number, frames: number, f: { code: number, channels: number, bits: number }): Float32Array[] {
  const channels = Array.from({ length: f.channels }, () => new Float32Array(frames))
  const step = f.bits / 8
  for (let c = 0; c < f.channels; c++) {
    const out = channels[c] as Float32Array
    for (let i = 0; i < frames; i++) {
      const at = start + (i * f.channels + c) * step
      let x: number
      if (f.code === 3) x = f.bits === 32 ? view.getFloat32(at, true) : view.getFloat64(at, true)
      else if (f.bits === 16) x = view.getInt16(at, true) / 32768
      else if (f.bits === 24) x = (view.getInt16(at + 1, true) * 256 + view.getUint8(at)) / 8388608
      else if (f.bits === 32) x = view.getInt32(at, true) / 2147483648
      else x = (view.getUint8(at) - 128) / 128
      if (!Number.isFinite(x)) throw new AudioFormatError(`This WAV file has samples that are not numbers, the first at ${(i / frames * 100).toFixed(0)} % of its length.`, at)
      out[i] = x
    }
  }
  return channels
}

const clip = (v: number, limit: number): number => (v > limit ? limit : v < -limit - 1 ? -limit - 1 : v)
