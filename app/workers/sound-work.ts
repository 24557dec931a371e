import { formerNames } from '@oleaje/core/formats/former-hash'
import { audioHash } from '@oleaje/core/formats/hash'
import { resample } from '@oleaje/core/formats/resample'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import { StoredPieces } from '@oleaje/core/formats/stored-sound'
import { impulseNamed } from '@oleaje/core/dsp/impulses'
import { type ImpulseShape, shapeImpulse } from '@oleaje/core/effects/convolver'
import { type Hits, hitsOf } from '@oleaje/core/dsp/hits'
import { type FoundTempo, findTempo } from '@oleaje/core/analysis/tempo'
import { transfer } from 'comlink'
import type { ByteSource } from '@oleaje/core/formats/byte-asks'
import type { LongSound, Sound } from '../contract/messages'
import { renameFormerSounds } from '../storage/former-sound-names'
import { unlessForNow } from '../storage/removals'
import { sweepSounds } from '../storage/sweep'
import { sourceOf } from './blob-bytes'
import { bringIn, onTheirWay } from './bring-in'
import { running, Cancelled } from './jobs'

/** Sounds: read from files, kept, looked at. */
export const soundWork = {
  /**
   * Reads a file of sound piece by piece and brings it to the project's rate. A long one is put away
   * meanwhile, and is kept when this ends. Gives null when cancelled.
   */
  async readSound(
    job: number,
    file: Blob,
    sampleRate: number,
    onProgress: (done: number) => void,
  ): Promise<Sound | null> {
    running.add(job)
    let told = 0
    const plain = sourceOf(file)
    const source: ByteSource = {
      size: file.size,
      read: (from, to) => {
        if (!running.has(job)) throw new Cancelled()
        if (to / file.size - told >= 0.005) onProgress((told = to / file.size))
        return plain.read(from, to)
      },
    }
    try {
      return await bringIn(audioPieces(source), sampleRate)
    } catch (error) {
      if (error instanceof Cancelled) return null
      throw error
    } finally {
      running.delete(job)
    }
  },

  /** Samples of a piece of a long sound at a rate of the engine's that is not its own. */
  async piece(long: LongSound, sampleRate: number, n: number): Promise<Float32Array<ArrayBuffer>[]> {
    const pieces = new StoredPieces(long, sampleRate)
    const channels = pieces.piece(
      n,
      new Uint8Array(await long.data.slice(...pieces.bytesOf(n)).arrayBuffer()),
    )
    return transfer(
      channels,
      channels.map((c) => c.buffer),
    )
  },

  /**
   * Gives back the room of sounds that nothing uses; gives whether some were left that came just now, or all
   * were, as something removed may still be taken back.
   * @param inUse names that are in use beside what is kept
   * @param arrived names that have come into a project, and are known by that
   */
  sweep(inUse: string[], arrived: string[]): Promise<boolean> {
    for (const name of arrived) onTheirWay.delete(name)
    return unlessForNow(() => sweepSounds([...inUse, ...onTheirWay]), true)
  },

  /** The tempo of a loop by its hits, and where these are. */
  findTempo(channels: Float32Array[], sampleRate: number): FoundTempo & Hits {
    const hits = hitsOf({ sampleRate, channels })
    return { ...findTempo(channels[0]?.length ?? 0, sampleRate, hits), ...hits }
  },

  /** The names that a held sound may have in older projects. */
  formerNames(channels: Float32Array[], sampleRate: number): string[] {
    return formerNames({ sampleRate, channels })
  },

  /** Gives sounds that are kept under former names the names of today, in one tab at a time. */
  async renameFormerSounds(): Promise<number> {
    if (!('locks' in navigator)) return renameFormerSounds()
    let renamed = 0
    await navigator.locks.request('oleaje-renaming', async () => {
      renamed = await renameFormerSounds()
    })
    return renamed
  },

  /**
   * Takes sound that was decoded or recorded here. What cannot be put away, as there is no room, is held: it
   * is nowhere else.
   */
  async takeSound(channels: Float32Array[], from: number, sampleRate: number): Promise<Sound> {
    try {
      return await bringIn(
        (async function* () {
          yield { sampleRate: from, channels }
        })(),
        sampleRate,
      )
    } catch {
      const sound = { sampleRate, channels: channels.map((c) => resample(c, from, sampleRate)) }
      return { hash: await audioHash(sound), ...sound }
    }
  },

  /** Largest sample over all channels in each of `buckets` equal stretches, for drawing a wave. */
  peaks(channels: readonly Float32Array[], buckets: number): Float32Array {
    const out = new Float32Array(buckets)
    for (const channel of channels) {
      for (let i = 0; i < channel.length; i++) {
        const b = Math.min(buckets - 1, Math.floor((i / channel.length) * buckets))
        out[b] = Math.max(out[b] as number, Math.abs(channel[i] as number))
      }
    }
    return out
  },

  /** A response as a Convolver uses it: its peaks for drawing, and its length. */
  impulsePeaks(
    shape: ImpulseShape,
    channels: Float32Array[] | null,
    sampleRate: number,
    places: number,
  ): { peaks: Float32Array; seconds: number } {
    const left = channels?.[0]
    const raw = left
      ? { left: new Float32Array(left), right: new Float32Array(channels?.[1] ?? left) }
      : impulseNamed(shape.name, sampleRate)
    const made = shapeImpulse(raw, shape, sampleRate)
    return { peaks: soundWork.peaks([made.left, made.right], places), seconds: made.left.length / sampleRate }
  },
}
