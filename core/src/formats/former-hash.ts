import { mix32 } from '../dsp/random'
import type { AudioData } from '../contract/audio'
import { PIECE_FRAMES } from '../dsp/audio-pieces'
import { isLong } from './audio-file'

/**
 * Whether a name is one that sounds had before {@link audioHash} gave them: 32 hexadecimal digits instead of
 * 40.
 */
export const isFormerName = (name: string): boolean => /^[0-9a-f]{32}$/.test(name)

/**
 * The names that a held sound may have had in older projects and bundles. Different sounds could share one,
 * so they only serve to find what those name, and give nothing a name any more.
 */
export function formerNames({ sampleRate, channels }: AudioData): string[] {
  const whole = new FormerHasher(sampleRate, channels.length)
  whole.add(channels)
  const frames = channels[0]?.length ?? 0
  if (!isLong(frames, sampleRate)) return [whole.text]
  const hasher = new FormerHasher(sampleRate, channels.length)
  for (let at = 0; at < frames; at += PIECE_FRAMES)
    hasher.add(channels.map((c) => c.subarray(at, at + PIECE_FRAMES)))
  return [hasher.text, whole.text]
}

/** The former name of audio that comes in pieces, each of {@link PIECE_FRAMES} but the last. */
export class FormerHasher {
  private readonly words: Uint32Array

  constructor(sampleRate: number, channelCount: number) {
    this.words = Uint32Array.of(0x2f0b_4c57, 0x9e37_79b9, 0x1b87_3593, 0xe654_6b64).map(
      (x) => x ^ sampleRate ^ (channelCount << 24),
    )
  }

  add(channels: readonly Float32Array[]): void {
    for (const channel of channels) {
      const samples = new Uint32Array(channel.buffer, channel.byteOffset, channel.length)
      for (let k = 0; k < 4; k++) {
        let x = this.words[k] as number
        for (let i = 0; i < samples.length; i++)
          x = (Math.imul(x ^ (samples[i] as number), 0x01000193 + 2 * k) << 5) ^ (x >>> 27)
        this.words[k] = mix32(x ^ samples.length)
      }
    }
  }

  get text(): string {
    return [...this.words].map((x) => x.toString(16).padStart(8, '0')).join('')
  }
}
