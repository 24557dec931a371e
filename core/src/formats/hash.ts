import { type IHasher, blake3, createBLAKE3 } from 'hash-wasm'
import type { AudioData } from '../contract/audio'
import { PIECE_FRAMES } from '../dsp/audio-pieces'

/** Length of a name in bits: 40 hexadecimal digits. */
const BITS = 160

/**
 * Content hash of decoded audio: the same sound has the same name in every project, and another sound has
 * another one. BLAKE3 (O'Connor, Aumasson, Neves, Wilcox-O'Hearn 2020) over rate, channel count and the bytes
 * of all samples, cut to 160 bits, as hexadecimal.
 */
export async function audioHash({ sampleRate, channels }: AudioData): Promise<string> {
  const hasher = await AudioHasher.create(sampleRate, channels.length)
  const frames = channels[0]?.length ?? 0
  for (let at = 0; at < frames; at += PIECE_FRAMES)
    hasher.add(channels.map((c) => c.subarray(at, at + PIECE_FRAMES)))
  return hasher.text
}

/** Hash of a text, to know what was computed from it: BLAKE3, 160 bits, as hexadecimal. */
export const textHash = (text: string): Promise<string> => blake3(text, BITS)

/** The hash of audio that comes in pieces, each of {@link PIECE_FRAMES} but the last. */
export class AudioHasher {
  private constructor(private readonly hasher: IHasher) {}

  static async create(sampleRate: number, channelCount: number): Promise<AudioHasher> {
    const hasher = await createBLAKE3(BITS)
    return new AudioHasher(
      hasher.init().update(new Uint8Array(Float64Array.of(sampleRate, channelCount).buffer)),
    )
  }

  /** Takes the next piece, a channel after the other. */
  add(channels: readonly Float32Array[]): void {
    for (const { buffer, byteOffset, byteLength } of channels)
      this.hasher.update(new Uint8Array(buffer, byteOffset, byteLength))
  }

  /** The hash; nothing can be added after it. */
  get text(): string {
    return this.hasher.digest('hex')
  }
}
