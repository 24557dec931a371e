import { Resampler } from '@oleaje/core/formats/resample'
import { shallowReactive } from 'vue'
import type { EngineSound, Sound } from '../contract/messages'

/** The sounds that the engine knows, and the bytes of long sounds that it holds. */
export class HostSounds {
  /** Reads a piece of a long sound, by channel. */
  bring: (sound: Sound, n: number) => Promise<Float32Array<ArrayBuffer>[]> = () => Promise.resolve([])
  /** Bytes of long sounds that the engine holds. */
  pieceBytes = 0
  /** By hash; reactive, so that views update when a sound arrives. */
  private readonly all = shallowReactive(new Map<string, Sound>())

  /** Hashes, in order of arrival. */
  get hashes(): string[] {
    return [...this.all.keys()]
  }

  get forEngine(): EngineSound[] {
    return [...this.all.values()].map(forEngine)
  }

  of(hash: string): Sound | undefined {
    return this.all.get(hash)
  }

  add(sounds: readonly Sound[]): EngineSound[] {
    for (const sound of sounds) this.all.set(sound.hash, sound)
    return sounds.map(forEngine)
  }

  forget(hashes: readonly string[]): void {
    for (const hash of hashes) this.all.delete(hash)
  }

  /** A piece of a long sound has gone to the engine. */
  gave(channels: readonly Float32Array[]): void {
    this.pieceBytes += bytesOf(channels)
  }

  /** One has come back. */
  took(channels: readonly Float32Array[]): void {
    this.pieceBytes -= bytesOf(channels)
  }
}

const forEngine = ({ hash, sampleRate, channels, long }: Sound): EngineSound =>
  long
    ? {
        hash,
        sampleRate,
        channels,
        pieces: {
          frames: new Resampler(long.sampleRate, sampleRate).framesOf(long.frames),
          channelCount: long.channelCount,
        },
      }
    : { hash, sampleRate, channels }
const bytesOf = (channels: readonly Float32Array[]): number =>
  channels.reduce((sum, c) => sum + c.byteLength, 0)
