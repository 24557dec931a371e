import { type AudioPieces, PIECE_FRAMES } from './audio-pieces'
import { FRACTION } from './fraction'
import { kernelAt, kernelSpeeds } from './band-limited-kernel'

/** Shortest loop in frames. */
const SHORTEST = 64
/** Pieces that are wanted beyond the one that plays. */
const AHEAD = 3

/** A sound as it is played: held whole, or in pieces. */
export interface Playable {
  readonly channels: readonly Float32Array[]
  readonly pieces?: AudioPieces
}

/**
 * Which part of a sound plays: from a start, once, to an end, and from there on between a place that it goes
 * back to and the end; or all that turned round. Read between samples by a band-limited kernel that goes on
 * over the seam, and as it is at whole frames. Of a sound in pieces, what has not come is silent, and {@link
 * LoopRegion.isMissing} says so.
 */
export class LoopRegion {
  /** The loaded part of the sound, and its first frame. */
  private left: Float32Array = nothing
  private right: Float32Array = nothing
  private base = 0
  private whole = 0
  private pieces: AudioPieces | null = null
  private missed = false
  private start = 0
  private back = 0
  private end = 0
  private reversed = false
  private begins = false
  /** Lengths of the fades at both ends of the part, in frames. */
  private fadeIn = FRACTION
  private fadeOut = FRACTION

  constructor() {
    this.fadeIn = this.fadeOut = 0
  }

  /**
   * Takes a sound and its marks, as shares of its length.
   * @param begins whether it is silent before its start, instead of having gone round before
   */
  set(
    sound: Playable,
    start: number,
    back: number,
    end: number,
    reversed: boolean,
    fadeIn: number,
    fadeOut: number,
    begins: boolean,
  ): void {
    const { channels, pieces = null } = sound
    if (pieces === null) {
      this.left = channels[0]
      this.right = channels.length > 1 ? channels[1] : channels[0]
      this.base = 0
      this.whole = this.left.length
    } else if (pieces !== this.pieces) {
      this.left = this.right = nothing
      this.whole = pieces.frames
    }
    this.pieces = pieces
    this.missed = false
    const { whole } = this
    this.start = Math.floor(Math.min(start, 0.999) * whole)
    this.end = Math.max(this.start + SHORTEST, Math.floor(end * whole))
    // a place before the start is the start
    this.back = Math.min(Math.max(this.start, Math.floor(back * whole)), this.end - SHORTEST)
    this.reversed = reversed
    this.begins = begins
    this.fadeIn = fadeIn
    this.fadeOut = fadeOut
  }

  /** Frames of one round. */
  get length(): number {
    return this.end - this.back
  }
  /** Whether each round is the same, forwards and without fades: frames of it can be copied. */
  get isPlain(): boolean {
    return this.back === this.start && !this.reversed && this.fadeIn === 0 && this.fadeOut === 0
  }
  get from(): number {
    return this.back
  }
  /** Whether something was read, since it was set, that has not come yet. */
  get isMissing(): boolean {
    return this.missed
  }

  /** Has what lies at a place and next after it brought, of a sound in pieces. */
  want(passed: number): void {
    const { pieces } = this
    if (pieces === null) return
    for (let k = 0; k <= AHEAD; k++) {
      const forward = this.placeOf(passed + k * PIECE_FRAMES)
      pieces.want(Math.floor((this.reversed ? this.start + this.end - 1 - forward : forward) / PIECE_FRAMES))
    }
  }

  /**
   * Copies frames of the sound from a place on, times a gain, into frames `i` to `end` of both sides; silence
   * behind its end.
   */
  copy(place: number, left: Float32Array, right: Float32Array, i: number, end: number, gain: number): void {
    for (let j = place; i < end;) {
      const at = j - this.base
      if (!(at >= 0 && at < this.left.length) && !this.turn(j)) {
        left.fill(0, i, end)
        right.fill(0, i, end)
        return
      }
      const known = Math.min(end, i + this.left.length - (j - this.base))
      j += known - i
      i = copyAt(this.left, j - this.base - known + i, left, i, known, gain, this.right, right)
    }
  }

  /**
   * Brings the piece with a frame to hand. False for a frame outside of the sound, or in a piece that has not
   * come.
   */
  private turn(frame: number): boolean {
    const { pieces } = this
    if (pieces === null || frame < 0 || frame >= this.whole) return false
    const n = Math.floor(frame / PIECE_FRAMES)
    const piece = pieces.piece(n)
    if (piece === null || piece.length === 0) {
      // one that cannot be had is silent for good
      if (piece === null) this.missed = true
      return false
    }
    this.left = piece[0]
    this.right = piece.length > 1 ? piece[1] : piece[0]
    this.base = n * PIECE_FRAMES
    return true
  }

  /** Place in the sound, so many frames after its start. */
  placeOf(passed: number): number {
    const intro = this.back - this.start
    if (passed < intro && passed >= 0) return this.start + passed
    const { length } = this
    const x = passed - intro
    return this.back + x - Math.floor(x / length) * length
  }

  /**
   * Both sides, so many frames after the start.
   * @param speed frames of the sound that pass with each: what would alias at it is left out
   */
  read(passed: number, into: Float64Array, speed = 1): void {
    const { back, end, start } = this
    let { left, right, base } = this
    if (passed < 0 && this.begins) {
      into[0] = into[1] = 0
      return
    }
    const forward = this.placeOf(passed)
    const place = this.reversed ? start + end - 1 - forward : forward
    const n = Math.floor(place)
    const fraction = place - n
    let l = 0
    let r = 0
    if (fraction === 0 && speed <= 1) {
      if ((n >= base && n < base + left.length) || this.turn(n)) {
        l = this.left[n - this.base]
        r = this.right[n - this.base]
      }
    } else {
      const { length } = this
      // the first time round, what lies before is what was heard; later it is the end
      const goesRound = passed >= length + back - start || back === start
      const low = this.reversed ? start : back
      const high = this.reversed ? start + length : end
      let index = 0
      while (index < kernelSpeeds.length && speed > kernelSpeeds[index]) index++
      const { taps, phases, rows } = kernelAt(index)
      const phase = fraction * phases
      const p = Math.floor(phase)
      const t = phase - p
      const row = p * taps
      const first = n - (taps >> 1) + 1
      for (let k = 0; k < taps; k++) {
        let j = first + k
        // a wide kernel may reach over more than one round of a short loop
        while (j >= high) j -= length
        while (j < low && goesRound) j += length
        if (j < base || j >= base + left.length) {
          if (!this.turn(j)) continue
          left = this.left
          right = this.right
          base = this.base
        }
        const w = rows[row + k] + t * (rows[row + taps + k] - rows[row + k])
        l += w * left[j - base]
        r += w * right[j - base]
      }
    }
    if (this.fadeIn > 0 || this.fadeOut > 0) {
      const g = Math.min(
        1,
        this.fadeIn > 0 ? (forward - back + 1) / this.fadeIn : 1,
        this.fadeOut > 0 ? (end - forward) / this.fadeOut : 1,
      )
      // the intro has no seam to fade from
      const w =
        passed < back - start ? Math.min(1, this.fadeIn > 0 ? (passed + 1) / this.fadeIn : 1) : Math.max(0, g)
      l *= w
      r *= w
    }
    into[0] = l
    into[1] = r
  }
}

/** Copies both sides of what is at hand, and gives where it ended. */
function copyAt(
  left: Float32Array,
  at: number,
  outLeft: Float32Array,
  i: number,
  end: number,
  gain: number,
  right: Float32Array,
  outRight: Float32Array,
): number {
  for (let j = at; i < end; i++, j++) {
    outLeft[i] = left[j] * gain
    outRight[i] = right[j] * gain
  }
  return i
}

const nothing = new Float32Array(0)
