import { AudioFormatError } from './audio-file'

/** Uncompressed samples within a file: where they are, and how one is read. */
export interface PcmSound {
  /** Name of the format. */
  readonly kind: 'WAV' | 'AIFF'
  /** Byte at which its first frame begins. */
  readonly at: number
  readonly frames: number
  readonly sampleRate: number
  readonly channelCount: number
  /** Bytes of one sample. */
  readonly bytes: number
  readonly read: (view: DataView, at: number) => number
}

/**
 * Samples by channel of bytes that hold whole frames.
 * @param first frame of the sound with which they begin
 * @throws AudioFormatError for samples that are no numbers as 32-bit floats: 64 bits hold some that 32 do not
 */
export function decodePcm(sound: PcmSound, bytes: Uint8Array, first = 0): Float32Array<ArrayBuffer>[] {
  const { bytes: step, channelCount, read } = sound
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const frames = Math.floor(bytes.length / (step * channelCount))
  return Array.from({ length: channelCount }, (_, c) => {
    const out = new Float32Array(frames)
    for (let i = 0; i < frames; i++) {
      const at = (i * channelCount + c) * step
      const x = Math.fround(read(view, at))
      if (!Number.isFinite(x))
        throw new AudioFormatError(
          `This ${sound.kind} file has invalid samples, the first at ${(((first + i) / sound.frames) * 100).toFixed(0)} % of its length.`,
          sound.at + first * channelCount * step + at,
        )
      out[i] = x
    }
    return out
  })
}

/** All samples of a file in memory. */
export const decodeAll = (sound: PcmSound, file: Uint8Array): Float32Array<ArrayBuffer>[] =>
  decodePcm(sound, file.subarray(sound.at, sound.at + sound.frames * sound.channelCount * sound.bytes))
