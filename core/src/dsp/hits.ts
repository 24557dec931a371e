import { Onset } from './onset'
import type { Samples } from './octaves'

/**
 * Where a sound is struck: frames of the beginnings of its hits, in order, and how strong each is, 0…1 of the
 * strongest.
 */
export interface Hits {
  readonly at: readonly number[]
  readonly strength: readonly number[]
}

const PIECE = 8192
/**
 * How far back from where a hit is noticed its beginning is looked for, and how far on its peak, in seconds.
 */
const BEFORE = 0.012
const AFTER = 0.02
/** Level of the beginning, of the peak. */
const BEGINS = 0.12
/** Weakest level that is a hit, of the loudest. */
const FLOOR = 0.05

const known = new WeakMap<Samples, Hits>()

/** The hits of a sound where they have been found already; null otherwise. Allocates nothing. */
export const knownHits = (audio: Samples): Hits | null => known.get(audio) ?? null

/** The hits of a sound, found in pieces when they are first asked for. */
export function* hitPieces(audio: Samples): Generator<void, Hits> {
  const old = known.get(audio)
  if (old) return old
  const [left] = audio.channels
  const right = audio.channels[1] ?? left
  const frames = left?.length ?? 0
  const levelAt = (i: number): number => {
    const l = Math.abs(left[i])
    const r = Math.abs(right[i])
    return l > r ? l : r
  }
  let loudest = 0
  for (let i = 0; i < frames; i++) {
    if (i % PIECE === PIECE - 1) yield
    const level = levelAt(i)
    if (level > loudest) loudest = level
  }
  const onset = new Onset(audio.sampleRate)
  onset.reset()
  const at: number[] = []
  const strength: number[] = []
  const marks = new Uint8Array(PIECE)
  const levels = new Float64Array(PIECE)
  // a loop has gone round before: what goes on over its seam is no hit, however loud it begins
  const before = Math.min(PIECE, frames)
  for (let i = 0; i < before; i++) levels[i] = levelAt(frames - before + i)
  onset.hearBefore(before === PIECE ? levels : levels.subarray(0, before), FLOOR * loudest, marks)
  for (let from = 0; from < frames; from += PIECE) {
    yield
    const count = Math.min(PIECE, frames - from)
    for (let i = 0; i < count; i++) levels[i] = levelAt(from + i)
    onset.mark(count === PIECE ? levels : levels.subarray(0, count), FLOOR * loudest, marks)
    for (let i = 0; i < count; i++) {
      if (marks[i] === 0) continue
      const found = from + i
      let peak = 0
      for (let k = found; k < Math.min(frames, found + AFTER * audio.sampleRate); k++)
        if (levelAt(k) > peak) peak = levelAt(k)
      // back to the last place before it that is still quiet
      let begin = found
      const earliest = Math.max(0, found - BEFORE * audio.sampleRate, (at[at.length - 1] ?? -1) + 1)
      for (let k = found; k >= earliest; k--) if (levelAt(k) > BEGINS * peak) begin = k
      at.push(begin)
      strength.push(peak / (loudest || 1))
    }
  }
  const hits = { at, strength }
  known.set(audio, hits)
  return hits
}

/** The hits of a sound, found at once. */
export function hitsOf(audio: Samples): Hits {
  const work = hitPieces(audio)
  for (;;) {
    const piece = work.next()
    if (piece.done) return piece.value
  }
}
