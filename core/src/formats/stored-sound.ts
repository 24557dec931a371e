import { type AudioPieces, PIECE_FRAMES, pieceCount, pieceLength } from '../dsp/audio-pieces'
import type { AudioData } from '../contract/audio'
import { type DecodedAudio, isLong } from './audio-file'
import { FormerHasher, formerNames } from './former-hash'
import { AudioHasher, audioHash } from './hash'
import { joinedChannels } from './read-audio'
import { Resampler } from './resample'

/** Frames that one value of {@link StoredSound.peaks} stands for. */
export const PEAK_FRAMES = 2048
/** Pieces that are kept at hand while a long sound is read in order. */
const AT_HAND = 16

/**
 * A long sound as it is kept: its frames lie one after the other as 32-bit floats, left and right in turn,
 * little end first.
 */
export interface StoredSound {
  readonly sampleRate: number
  readonly frames: number
  readonly channelCount: number
  /** Largest sample of each {@link PEAK_FRAMES} frames. */
  readonly peaks: Float32Array
}

/** A sound that was brought in: held whole by channel, or kept in pieces where it is long. */
export type Imported = {
  readonly hash: string
  readonly formerHash?: string
  readonly sampleRate: number
} & ({ readonly channels: Float32Array[] } | { readonly stored: StoredSound })

/**
 * Brings sound in that comes piece by piece. Nothing is held of it but what is at work, once it is long.
 * @param rate to bring it to; null for its own
 * @param write puts away the next bytes of a long sound, in the order of {@link StoredSound}
 * @param former whether its former name is also computed, as for sounds of older bundles
 * @throws what the pieces and `write` throw
 */
export async function importSound(
  pieces: AsyncIterable<DecodedAudio>,
  rate: number | null,
  write: (bytes: Uint8Array<ArrayBuffer>) => Promise<void> | void,
  former = false,
): Promise<Imported> {
  let held: DecodedAudio[] | null = []
  let frames = 0
  let storing: Storing | null = null
  for await (const piece of rate === null ? pieces : atRate(pieces, rate)) {
    frames += piece.channels[0]?.length ?? 0
    held?.push(piece)
    if (!isLong(frames, piece.sampleRate)) continue
    storing ??= new Storing(
      await AudioHasher.create(piece.sampleRate, piece.channels.length),
      piece.sampleRate,
      piece.channels.length,
      write,
      former,
    )
    for (const part of held ?? [piece]) await storing.add(part.channels)
    held = null
  }
  if (storing) return storing.end()
  const sound = joinedChannels(held ?? [])
  return { hash: await audioHash(sound), ...(former && { formerHash: formerNames(sound)[0] }), ...sound }
}

/** Pieces of sound at another rate; put together they are what a whole would be. */
async function* atRate(pieces: AsyncIterable<DecodedAudio>, rate: number): AsyncGenerator<DecodedAudio> {
  let way: Resampler | null = null
  let rest: Float32Array[] = []
  // frames come in so far, the frame that the rest begins with, and frames given
  let [come, start, given] = [0, 0, 0]
  const give = (end: number): DecodedAudio => {
    const channels = rest.map((c) => (way as Resampler).read(c, start, given, end))
    given = end
    const first = Math.max(start, Math.min(come, (way as Resampler).reach(end, end + 1)[0]))
    rest = rest.map((c) => c.slice(first - start))
    start = first
    return { sampleRate: rate, channels }
  }
  for await (const { sampleRate, channels } of pieces) {
    if (sampleRate === rate) {
      yield { sampleRate, channels }
      continue
    }
    way ??= new Resampler(sampleRate, rate)
    rest = joinedChannels([
      { sampleRate, channels: rest.length > 0 ? rest : channels.map(() => new Float32Array(0)) },
      { sampleRate, channels },
    ]).channels
    come += channels[0]?.length ?? 0
    // all frames whose input has arrived
    let end = Math.floor((come * rate) / sampleRate)
    while (end > given && way.reach(end - 1, end)[1] > come) end = Math.max(given, end - 64)
    if (end > given) yield give(end)
  }
  if (way && way.framesOf(come) > given) yield give(way.framesOf(come))
}

/** Puts a long sound away in pieces of {@link PIECE_FRAMES}, and takes its name and its peaks on the way. */
class Storing {
  private readonly formerHasher: FormerHasher | null
  private readonly piece: Float32Array[]
  private readonly peaks: number[] = []
  private filled = 0
  private frames = 0

  constructor(
    private readonly hasher: AudioHasher,
    private readonly rate: number,
    channelCount: number,
    private readonly write: (bytes: Uint8Array<ArrayBuffer>) => Promise<void> | void,
    former: boolean,
  ) {
    this.formerHasher = former ? new FormerHasher(rate, channelCount) : null
    this.piece = Array.from({ length: channelCount }, () => new Float32Array(PIECE_FRAMES))
  }

  async add(channels: readonly Float32Array[]): Promise<void> {
    const length = channels[0]?.length ?? 0
    for (let at = 0; at < length;) {
      const n = Math.min(length - at, PIECE_FRAMES - this.filled)
      this.piece.forEach((c, i) => {
        c.set((channels[i] ?? c).subarray(at, at + n), this.filled)
      })
      at += n
      this.filled += n
      if (this.filled === PIECE_FRAMES) await this.put()
    }
  }

  async end(): Promise<Imported> {
    if (this.filled > 0) await this.put()
    const { rate: sampleRate, frames, piece, peaks } = this
    return {
      hash: this.hasher.text,
      ...(this.formerHasher && { formerHash: this.formerHasher.text }),
      sampleRate,
      stored: { sampleRate, frames, channelCount: piece.length, peaks: Float32Array.from(peaks) },
    }
  }

  private async put(): Promise<void> {
    const channels = this.piece.map((c) => c.subarray(0, this.filled))
    this.hasher.add(channels)
    this.formerHasher?.add(channels)
    const bytes = new Uint8Array(4 * this.filled * channels.length)
    const view = new DataView(bytes.buffer)
    for (let i = 0; i < this.filled; i++) {
      if (i % PEAK_FRAMES === 0) this.peaks.push(0)
      for (let c = 0; c < channels.length; c++) {
        const x = channels[c]?.[i] ?? 0
        view.setFloat32(4 * (i * channels.length + c), x, true)
        this.peaks[this.peaks.length - 1] = Math.max(this.peaks.at(-1) ?? 0, Math.abs(x))
      }
    }
    this.frames += this.filled
    this.filled = 0
    await this.write(bytes)
  }
}

/** The pieces of a stored sound at the rate of a project: which bytes each is made from, and how. */
export class StoredPieces {
  readonly frames: number
  readonly count: number
  private readonly way: Resampler

  constructor(
    readonly sound: StoredSound,
    rate: number,
  ) {
    this.way = new Resampler(sound.sampleRate, rate)
    this.frames = this.way.framesOf(sound.frames)
    this.count = pieceCount(this.frames)
  }

  /** Bytes of the stored sound that piece `n` is made from. */
  bytesOf(n: number): readonly [number, number] {
    const { channelCount } = this.sound
    const [first, end] = this.reach(n)
    return [4 * channelCount * first, 4 * channelCount * end]
  }

  /** Piece `n` by channel, from these bytes. */
  piece(n: number, bytes: Uint8Array): Float32Array<ArrayBuffer>[] {
    const { channelCount } = this.sound
    const [start, end] = this.reach(n)
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const first = n * PIECE_FRAMES
    return Array.from({ length: channelCount }, (_, c) => {
      const samples = new Float32Array(end - start)
      for (let i = 0; i < samples.length; i++) samples[i] = view.getFloat32(4 * (i * channelCount + c), true)
      return this.way.read(samples, start, first, first + pieceLength(this.frames, n))
    })
  }

  private reach(n: number): readonly [number, number] {
    const first = n * PIECE_FRAMES
    const [from, to] = this.way.reach(first, first + pieceLength(this.frames, n))
    return [Math.max(0, from), Math.min(this.sound.frames, to)]
  }
}

/**
 * A stored sound for a render, which may wait: each piece is read when it is wanted. @param read bytes of the
 * stored sound
 */
export function storedAudio(
  sound: StoredSound,
  rate: number,
  read: (from: number, to: number) => Uint8Array,
): AudioData {
  const stored = new StoredPieces(sound, rate)
  const atHand = new Map<number, readonly Float32Array[]>()
  const pieces: AudioPieces = {
    frames: stored.frames,
    channelCount: sound.channelCount,
    piece: (n) => {
      if (n < 0 || n >= stored.count) return null
      const known = atHand.get(n) ?? stored.piece(n, read(...stored.bytesOf(n)))
      // the one that is used now comes last, and goes last
      atHand.delete(n)
      atHand.set(n, known)
      const [oldest] = atHand.keys()
      if (atHand.size > AT_HAND && oldest !== undefined) atHand.delete(oldest)
      return known
    },
    want: () => {},
  }
  return { sampleRate: rate, channels: [], pieces, atRate: (other) => storedAudio(sound, other, read) }
}
