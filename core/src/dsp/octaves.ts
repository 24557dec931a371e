import { kaiser, sinc } from './sinc-table'

/**
 * Samples before the beginning and after the end of every copy: what the reader looks past, and what the
 * copies below are made from.
 */
export const OCTAVE_GUARD = 256
/** Copies of one sound, the highest 7 octaves down. */
const MOST = 7
/**
 * Sounds that are longer than so many seconds have no copies: they would double what is held, and nobody
 * plays them five octaves up.
 */
const LONGEST = 300
/** Frames below which no further copy is made. */
const SHORTEST = 64
/** Outputs of one piece of work. */
const PIECE = 4096
/**
 * Taps on one side of the middle, of which every second is zero; 92 dB from 0.29 of the rate on, level to
 * 0.21.
 */
const HALF = 47

/**
 * A sound once for each octave that it is read faster, each copy at half the rate of the one before and
 * without what would alias at that speed. Copies continue round the ends of the sound, as a loop of all of it
 * does. Copy 0 is the sound itself, without a guard.
 */
export interface Octaves {
  readonly frames: number
  /** By octave, then by channel. */
  readonly copies: readonly (readonly Float32Array[])[]
}

/** A sound as it is held: one array for mono, or two. */
export interface Samples {
  readonly sampleRate: number
  readonly channels: readonly Float32Array[]
}

const known = new WeakMap<Samples, Octaves>()

/** The copies of a sound, made in pieces when they are first asked for. */
export function* octavePieces(audio: Samples): Generator<void, Octaves> {
  const old = known.get(audio)
  if (old) return old
  const frames = audio.channels[0]?.length ?? 0
  const copies: Float32Array[][] = [[...audio.channels]]
  const most = frames > LONGEST * audio.sampleRate ? 0 : MOST
  for (let octave = 1; octave <= most && frames >> octave >= SHORTEST; octave++) {
    const above = copies[octave - 1]
    copies.push([])
    for (const channel of above) copies[octave].push(yield* halved(channel, octave, frames))
  }
  const made = { frames, copies }
  known.set(audio, made)
  return made
}

/** The copies of a sound, made at once. */
export function octavesOf(audio: Samples): Octaves {
  const work = octavePieces(audio)
  for (;;) {
    const piece = work.next()
    if (piece.done) return piece.value
  }
}

/**
 * Every second sample of what is below half the bandwidth (half-band FIR; Vaidyanathan, Multirate Systems and
 * Filter Banks, 1993, ch. 4).
 */
function* halved(above: Float32Array, octave: number, frames: number): Generator<void, Float32Array> {
  const length = Math.ceil(frames / (1 << octave))
  const copy = new Float32Array(length + 2 * OCTAVE_GUARD)
  // samples of the copy above that make up one round of the sound, which may end between two
  const guard = octave === 1 ? 0 : OCTAVE_GUARD
  const round = frames / (1 << (octave - 1))
  const end = above.length - guard
  for (let j = 0; j < copy.length; j++) {
    if (j % PIECE === PIECE - 1) yield
    let middle = 2 * (j - OCTAVE_GUARD)
    // far outside, the copy above has nothing: a round later or earlier it has the same
    if (middle < HALF - guard) middle += round * Math.ceil((HALF - guard - middle) / round)
    else if (middle + HALF >= end) middle -= round * Math.ceil((middle + HALF + 1 - end) / round)
    copy[j] =
      Number.isInteger(middle) && middle - HALF >= -guard && middle + HALF < end
        ? inside(above, middle + guard)
        : around(above, middle, guard, round)
  }
  return copy
}

function inside(above: Float32Array, middle: number): number {
  let sum = 0.5 * above[middle]
  for (let k = 1; k <= HALF; k += 2) sum += weights[k] * (above[middle - k] + above[middle + k])
  return sum
}

/** The same near the ends and between two samples, where each place is brought back into the round. */
function around(above: Float32Array, middle: number, guard: number, round: number): number {
  const at = (place: number): number => {
    const back = place - Math.floor(place / round) * round
    const n = Math.floor(back)
    const rest = back - n
    const last = above.length - 1
    const a = above[Math.min(last, n + guard)] ?? 0
    // the last place of a round that ends between two samples is followed by the first of the next
    return rest < 1e-9
      ? a
      : a + rest * ((n + 1 < round ? above[Math.min(last, n + 1 + guard)] : above[guard]) - a)
  }
  let sum = 0.5 * at(middle)
  for (let k = 1; k <= HALF; k += 2) sum += weights[k] * (at(middle - k) + at(middle + k))
  return sum
}

/** Weights by distance from the middle; the middle one is ½. */
const weights = design()

function design(): Float64Array {
  const taps = new Float64Array(HALF + 1)
  let sum = 0
  for (let k = 1; k <= HALF; k += 2) {
    taps[k] = 0.5 * sinc(k / 2) * kaiser(k / (HALF + 1), 9.2)
    sum += 2 * taps[k]
  }
  for (let k = 1; k <= HALF; k += 2) taps[k] *= 0.5 / sum
  return taps
}
