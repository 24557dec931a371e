import { smallDoubles, smallFloats } from './small-arrays'

/** Frames the engine works on at a time: the AudioWorklet's render quantum. */
export const BLOCK = 128

/**
 * One parameter over one block, as a processor sees it: a single value while it stands still, or a value for
 * each frame. `values()` always gives a buffer, so a processor may take the fast path, the general one, or
 * both.
 */
export class ParamBlock {
  constant = true
  value: number
  readonly buffer = smallDoubles(BLOCK)
  private filledWith = NaN

  constructor(value: number) {
    this.value = value
  }

  /** Says that the parameter holds one value for the whole block. */
  hold(value: number): void {
    this.value = value
    this.constant = true
  }

  /** Says that `buffer` now holds a value for each frame. */
  move(): void {
    this.constant = false
    this.value = this.buffer[BLOCK - 1]
    this.filledWith = NaN
  }

  values(): Float64Array {
    if (this.constant && this.filledWith !== this.value) {
      this.buffer.fill(this.value)
      this.filledWith = this.value
    }
    return this.buffer
  }
}

/** The blocks of all parameters of a definition, under their names. */
export type ParamBlocks<P> = { readonly [K in keyof P]: ParamBlock }

/** The parameters of lanes: by lane, then by index. */
export type LaneBlocks = Readonly<Record<string, readonly Readonly<Record<string, ParamBlock>>[]>>

/** Two channels of one block. */
export interface StereoBlock {
  readonly left: Float32Array
  readonly right: Float32Array
}

export const stereoBlock = (): StereoBlock => ({
  left: smallFloats(BLOCK),
  right: smallFloats(BLOCK),
})

/** Position and state of the song during one block. Rewritten in place for each block. */
export interface SongBlock {
  /** Song position of each frame, in quarter notes. */
  readonly beats: Float64Array
  /**
   * Quarter notes as they pass since playing began, counted on from the start position and never jumping with
   * the loop.
   */
  readonly run: Float64Array
  /** Song position of each frame, in samples. */
  readonly frames: Float64Array
  playing: boolean
  /**
   * Frame of this block with which the song begins, where what comes before it is only the way there, as
   * behind latency; or −1.
   */
  begins: number
  /** Frame of this block at which the position jumped (loop end), or −1. */
  jump: number
  /**
   * Frame of this block from which on the song stands, or −1: what lies along the song is silent from there.
   */
  stop: number
  /** Quarter notes that pass in one frame. */
  beatsPerFrame: number
  /** The loop in samples: where it jumps to, and where from; infinite where there is none. */
  loopStart: number
  loopEnd: number
  /**
   * Where it will be played from in a moment, in samples, so that what is needed there can be brought; NaN
   * for nowhere.
   */
  aim: number
}

export const songBlock = (): SongBlock => ({
  beats: new Float64Array(BLOCK),
  run: new Float64Array(BLOCK),
  frames: new Float64Array(BLOCK),
  playing: false,
  begins: -1,
  jump: -1,
  stop: -1,
  beatsPerFrame: 0,
  loopStart: 0,
  loopEnd: Infinity,
  aim: NaN,
})

/** Made once for each node when it is created. */
export interface CreateContext {
  readonly sampleRate: number
  /** Seed of this node alone, from the project's seed and the node's id. */
  readonly seed: number
  /** The latency that its definition declares for the values it starts with, in samples. */
  readonly latency?: number
  /** Its place in a fan over the items of a lane. */
  readonly fan?: Fan
}

/** Settings of one copy of a fanned modulator: cycles added to its phase, and a factor for its speed. */
export interface Fan {
  readonly phase: number
  readonly rate: number
}

/** Most notes that can begin or end within one block. */
export const NOTE_EVENTS = 512

/** The notes of a track that begin and end in one block, in order, and how its bend and pressure move. */
export interface NoteBlock {
  count: number
  readonly frame: Int32Array
  /** 1 where a note begins, 0 where it ends. */
  readonly begins: Uint8Array
  /**
   * A number for each note, the same where it begins and where it ends: several notes of one pitch may sound
   * at once.
   */
  readonly id: Float64Array
  /** MIDI note numbers. */
  readonly pitch: Float64Array
  readonly velocity: Float64Array
  /** Bend 0…1, ½ for none. */
  readonly bend: ParamBlock
  readonly pressure: ParamBlock
}

export const noteBlock = (): NoteBlock => ({
  count: 0,
  frame: new Int32Array(NOTE_EVENTS),
  begins: new Uint8Array(NOTE_EVENTS),
  id: new Float64Array(NOTE_EVENTS),
  pitch: new Float64Array(NOTE_EVENTS),
  velocity: new Float64Array(NOTE_EVENTS),
  bend: new ParamBlock(0.5),
  pressure: new ParamBlock(0),
})

/** Writes a note's beginning or end behind the others of a block; past the most that it takes, nothing. */
export function pushNote(
  to: NoteBlock,
  frame: number,
  begins: 0 | 1,
  id: number,
  pitch: number,
  velocity: number,
): void {
  if (to.count >= NOTE_EVENTS) return
  const k = to.count++
  to.frame[k] = frame
  to.begins[k] = begins
  to.id[k] = id
  to.pitch[k] = pitch
  to.velocity[k] = velocity
}

/** Largest sample of a block, either side. */
export function peakOf({ left, right }: StereoBlock): number {
  let peak = 0
  for (let i = 0; i < BLOCK; i++) {
    const l = left[i] < 0 ? -left[i] : left[i]
    const r = right[i] < 0 ? -right[i] : right[i]
    if (l > peak) peak = l
    if (r > peak) peak = r
  }
  return peak
}

/**
 * Sound below this (−600 dBFS) is nothing: what falls silent ends there, long before its numbers are
 * denormal.
 */
export const NOTHING = 1e-30

/**
 * Ends what has fallen silent, and gives the largest sample of the block, either side. Every step does this
 * with what it gives, so that no denormal number goes on: some processors treat these as zero, and others do
 * not.
 */
export function settle({ left, right }: StereoBlock): number {
  let peak = 0
  for (let i = 0; i < BLOCK; i++) {
    const l = left[i] < 0 ? -left[i] : left[i]
    const r = right[i] < 0 ? -right[i] : right[i]
    if (l < NOTHING) left[i] = 0
    if (r < NOTHING) right[i] = 0
    if (l > peak) peak = l
    if (r > peak) peak = r
  }
  return peak
}
