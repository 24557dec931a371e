import type { AudioData } from '../contract/audio'
import { BLOCK } from '../contract/block'
import type { Engine } from '../engine/engine'
import { FaderStep } from '../engine/fader-step'
import { stepAt } from '../engine/plan'
import { onlyTracks, sharesOf, withTapes } from '../engine/shares'
import { TAPE_BLOCK, TapeStep, onTape } from '../engine/tape-step'
import { type RenderPlan, type Tapes, blocksOf, ready } from './render'

/** Blocks of one piece of a reel. */
const PIECE = 64
/** Pieces that a worker may be ahead of the one that mixes: what bounds the memory of both. */
const AHEAD = 6

/** A way between two workers, such as a MessagePort. */
export interface Wire {
  postMessage(message: unknown, transfer: ArrayBuffer[]): void
  addEventListener(type: 'message', heard: (event: { readonly data: unknown }) => void): void
  start(): void
}

/** What a worker tells: a piece of its tracks, that it has none, or why it could not go on. */
type Told = { readonly piece: Float32Array<ArrayBuffer> } | { readonly failed: string }

/** What one worker has recorded, as it arrives. */
export class Reel {
  private readonly pieces: Float32Array[] = []
  private at = 0
  private failed = ''
  private awake: () => void = () => {}

  constructor(private readonly wire: Wire) {
    wire.addEventListener('message', ({ data }) => {
      const told = data as Told
      if ('failed' in told) this.stop(told.failed)
      else this.pieces.push(told.piece)
      this.awake()
    })
    wire.start()
  }

  /** Nothing more will come. @param why in a sentence */
  stop(why: string): void {
    this.failed = why
    this.awake()
  }

  /** Whether the next block of so many tracks is there. @throws what stopped the other worker */
  isThere(): boolean {
    if (this.failed) throw new Error(this.failed)
    return this.pieces.length > 0
  }

  /** Resolves when more has arrived. */
  more(): Promise<void> {
    if (this.pieces.length > 0 || this.failed) return Promise.resolve()
    return new Promise((resolve) => {
      this.awake = resolve
    })
  }

  /** The block of one track; it stays until {@link next}. */
  block(track: number): Float32Array {
    const at = this.at + track * TAPE_BLOCK
    return (this.pieces[0] as Float32Array).subarray(at, at + TAPE_BLOCK)
  }

  /** Goes on by a block of so many tracks. */
  next(tracks: number): void {
    this.at += tracks * TAPE_BLOCK
    if (this.at < (this.pieces[0] as Float32Array).length) return
    this.pieces.shift()
    this.at = 0
    this.wire.postMessage('taken', [])
  }
}

/** How many of so many workers, beside the one that mixes, would record tracks of a render. */
export function recordersFor(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
  workers: number,
): number {
  let count = 0
  ready(plan, audio).engine.divide((whole, order) => {
    count = sharesOf(whole, order, workers).length
    return whole
  })
  return count
}

/** The reels of all workers, in the order of their shares. */
export class Reels implements Tapes {
  private tracks: readonly number[] = []

  /** @param workers those that record and the one that mixes, of which some may have nothing to record */
  constructor(
    private readonly reels: readonly Reel[],
    private readonly workers = reels.length + 1,
  ) {}

  /** Has an engine play what the workers record, in place of these tracks. */
  thread(engine: Engine): void {
    engine.divide((plan, order) => {
      const shares = sharesOf(plan, order, this.workers)
      this.tracks = shares.map((keys) => keys.length)
      const tapes = new Map<string, TapeStep>()
      for (const [n, keys] of shares.entries())
        for (const [track, key] of keys.entries()) {
          const fader = stepAt(plan, key, FaderStep)
          const reel = this.reels[n]
          if (fader && reel) tapes.set(key, new TapeStep(fader, () => reel.block(track)))
        }
      return withTapes(plan, tapes)
    })
  }

  /** Whether the next block of all tracks is there. @throws what stopped a worker */
  isThere(): boolean {
    return this.tracks.every((_, n) => this.reels[n]?.isThere())
  }

  next(): void {
    for (const [n, tracks] of this.tracks.entries()) this.reels[n]?.next(tracks)
  }

  /** Resolves when what was missing has arrived. */
  async more(): Promise<void> {
    await Promise.all(this.tracks.map((_, n) => this.reels[n]?.more()))
  }
}

/**
 * Works out the tracks of one share of a render and sends them over a wire as fast as they are taken. Tells
 * what fails over the wire as well.
 * @param share which one, from 0
 * @param workers those that record and the one that mixes
 */
export async function recordShare(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
  { share, workers }: { readonly share: number; readonly workers: number },
  wire: Wire,
): Promise<void> {
  let ahead = 0
  let awake: () => void = () => {}
  wire.addEventListener('message', () => {
    ahead--
    awake()
  })
  wire.start()
  try {
    for (const piece of sharePieces(plan, audio, share, workers)) {
      wire.postMessage({ piece } satisfies Told, [piece.buffer])
      ahead++
      while (ahead >= AHEAD)
        await new Promise<void>((resolve) => {
          awake = resolve
        })
    }
  } catch (error) {
    wire.postMessage({ failed: error instanceof Error ? error.message : String(error) } satisfies Told, [])
  }
}

function* sharePieces(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
  share: number,
  workers: number,
): Generator<Float32Array<ArrayBuffer>> {
  const { engine, begin, check } = ready(plan, audio)
  const faders: FaderStep[] = []
  engine.divide((whole, order) => {
    const keys = sharesOf(whole, order, workers)[share] ?? []
    for (const key of keys) faders.push(stepAt(whole, key, FaderStep) as FaderStep)
    return onlyTracks(whole, keys)
  })
  if (faders.length === 0) return
  begin()
  const nobody = new Float32Array(BLOCK)
  const blocks = blocksOf(plan, engine.latency)
  for (let done = 0; done < blocks;) {
    const count = Math.min(PIECE, blocks - done)
    const piece = new Float32Array(count * faders.length * TAPE_BLOCK)
    for (let at = 0; at < piece.length;) {
      engine.process(nobody, nobody)
      check()
      for (const fader of faders) {
        onTape(fader, piece, at)
        at += TAPE_BLOCK
      }
    }
    done += count
    yield piece
  }
}
