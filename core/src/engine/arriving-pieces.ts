import { type AudioPieces, pieceCount } from '../dsp/audio-pieces'

/**
 * Pieces of all long sounds together that are there at once, 48 MB of stereo; more only where more are being
 * played.
 */
const MOST = 48
/** Blocks for which a piece that was wanted stays in any case, about a second. */
const STAYS = 375

/**
 * Pieces of long sounds that come while they play, from somewhere that must not be waited for. A piece that
 * is wanted is requested once. Pieces that were unused for longest make room for new ones.
 */
export class ArrivingPieces {
  private readonly sounds = new Map<string, Arriving>()
  private clock = 0
  private there = 0

  /** @param ask brings a piece, which is then given to {@link take} */
  constructor(
    private readonly ask: (hash: string, n: number) => void,
    private readonly most = MOST,
  ) {}

  /** The pieces of a sound. */
  open(hash: string, frames: number, channelCount: number): AudioPieces {
    const sound = new Arriving(
      frames,
      channelCount,
      (n) => {
        this.ask(hash, n)
      },
      this.clock,
    )
    this.sounds.set(hash, sound)
    return sound
  }

  /** Forgets a sound, and gives all of its pieces that were there. */
  close(hash: string): readonly Float32Array[] {
    const sound = this.sounds.get(hash)
    if (!sound) return []
    this.there -= sound.there
    this.sounds.delete(hash)
    return sound.all
  }

  /** Tells that a block has passed. */
  pass(): void {
    this.clock++
    for (const sound of this.sounds.values()) sound.clock = this.clock
  }

  /** Whether there are sounds in pieces. */
  get some(): boolean {
    return this.sounds.size > 0
  }

  /** Whether all requested pieces have arrived. */
  get areHere(): boolean {
    for (const sound of this.sounds.values()) if (sound.coming > 0) return false
    return true
  }

  /** Bytes of samples that are there. */
  get bytes(): number {
    let sum = 0
    for (const sound of this.sounds.values()) sum += sound.bytes
    return sum
  }

  /**
   * Takes a piece that has come; nothing in it where it cannot be had, which is then silence. Gives what made
   * room for it, null for nothing.
   */
  take(hash: string, n: number, channels: readonly Float32Array[]): readonly Float32Array[] | null {
    const sound = this.sounds.get(hash)
    if (!sound) return channels
    const first = sound.put(n, channels)
    if (!first) return null
    if (++this.there <= this.most) return null
    this.there--
    let oldest: Arriving = sound
    let at = -1
    for (const other of this.sounds.values()) {
      const candidate = other.oldest(other === sound ? n : -1)
      if (candidate >= 0 && (at < 0 || other.wanted[candidate] < oldest.wanted[at])) {
        oldest = other
        at = candidate
      }
    }
    if (at < 0 || oldest.wanted[at] > this.clock - STAYS) {
      this.there++
      return null
    }
    return oldest.drop(at)
  }
}

class Arriving implements AudioPieces {
  there = 0
  /** Pieces that were asked for and have not come. */
  coming = 0
  /** Block at which each piece was wanted last. */
  readonly wanted: Float64Array
  private readonly held: (readonly Float32Array[] | null)[]
  private readonly asked: Uint8Array

  constructor(
    readonly frames: number,
    readonly channelCount: number,
    private readonly ask: (n: number) => void,
    public clock: number,
  ) {
    const count = pieceCount(frames)
    this.wanted = new Float64Array(count)
    this.held = Array.from({ length: count }, () => null)
    this.asked = new Uint8Array(count)
  }

  get all(): readonly Float32Array[] {
    return this.held.flatMap((channels) => channels ?? [])
  }
  get bytes(): number {
    return this.all.reduce((sum, c) => sum + c.byteLength, 0)
  }

  piece(n: number): readonly Float32Array[] | null {
    this.want(n)
    return this.held[n] ?? null
  }

  want(n: number): void {
    if (n < 0 || n >= this.wanted.length) return
    this.wanted[n] = this.clock
    if (this.asked[n]) return
    this.asked[n] = 1
    this.coming++
    this.ask(n)
  }

  /** Whether it is new. */
  put(n: number, channels: readonly Float32Array[]): boolean {
    const fresh = !this.held[n]
    this.held[n] = channels
    if (fresh) {
      this.there++
      this.coming--
    }
    return fresh
  }

  /** The piece that was wanted longest ago, but for one; −1 for none. */
  oldest(except: number): number {
    let found = -1
    for (let n = 0; n < this.held.length; n++)
      if (n !== except && this.held[n] && (found < 0 || this.wanted[n] < this.wanted[found])) found = n
    return found
  }

  drop(n: number): readonly Float32Array[] | null {
    const channels = this.held[n] ?? null
    this.held[n] = null
    this.asked[n] = 0
    this.there--
    return channels
  }
}
