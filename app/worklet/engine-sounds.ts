import type { AudioData } from '@oleaje/core/contract/audio'
import { ArrivingPieces } from '@oleaje/core/engine/arriving-pieces'
import type { EngineSound, FromWorklet } from '../contract/messages'

/** The sounds that the page has sent, whole or in pieces. */
export class EngineSounds {
  readonly pieces: ArrivingPieces
  private readonly audio = new Map<string, AudioData>()

  constructor(private readonly post: (message: FromWorklet, transfer?: Transferable[]) => void) {
    this.pieces = new ArrivingPieces((hash, n) => {
      post({ type: 'want', hash, n })
    })
  }

  readonly of = (hash: string): AudioData | null => this.audio.get(hash) ?? null

  /**
   * Takes a sound. One that is there stays as it is, with the pieces that have come: it has the same content
   * under the same name.
   */
  know({ hash, sampleRate, channels, pieces }: EngineSound): void {
    if (this.audio.get(hash)?.sampleRate === sampleRate) return
    this.giveBack(this.pieces.close(hash))
    this.audio.set(
      hash,
      pieces
        ? { sampleRate, channels, pieces: this.pieces.open(hash, pieces.frames, pieces.channelCount) }
        : { sampleRate, channels },
    )
  }

  forget(hash: string): void {
    this.audio.delete(hash)
    this.giveBack(this.pieces.close(hash))
  }

  takePiece(hash: string, n: number, channels: readonly Float32Array[]): void {
    this.giveBack(this.pieces.take(hash, n, channels) ?? [])
  }

  /** Gives pieces to the page, which drops those that are no longer wanted. */
  private giveBack(channels: readonly Float32Array[]): void {
    if (channels.length)
      this.post(
        { type: 'piece-back', channels },
        channels.map((c) => c.buffer as ArrayBuffer),
      )
  }
}
