import { Resampler } from '@oleaje/core/formats/resample'
import { shallowReactive } from 'vue'
import type { EngineSound, Sound } from '../contract/messages'

/** The sounds that the engine has been told of, and the pieces of long ones that it has at hand. */
export class HostSounds {
  /** Asked for a piece of a long sound, by channel. */
  bring: (sound: Sound, n: number) => Promise<Float32Array<ArrayBuffer>[]> = () => Promise.resolve([])
  /** Bytes of long sounds that the engine has at hand. */
  pieceBytes = 0
  /** What is there; whoever shows a sound sees it come. */
  private readonly all = shallowReactive(new Map<string, Sound>())

  /** By hash, those that came first first. */
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
