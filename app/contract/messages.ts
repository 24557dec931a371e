import type { StoredSound } from '@oleaje/core/formats/stored-sound'
import type { Monitor } from '@oleaje/core/engine/monitor'
import type { Patch } from '@oleaje/core/project/patch'
import type { Project } from '@oleaje/core/project/schema'

export interface WorkletOptions {
  /** Shared memory for live values; null where the page is not isolated, and messages carry them. */
  readonly memory: SharedArrayBuffer | null
  readonly shared: boolean
  /** The project's sample rate, at which the engine works. */
  readonly rate: number
  /** Whether each project is worked through unheard before it plays. */
  readonly rehearses: boolean
}

/**
 * A sound, held by channel, or, where it is long, kept in this browser and read from there in pieces; then it
 * has no channels.
 */
export interface Sound {
  readonly hash: string
  readonly sampleRate: number
  readonly channels: Float32Array[]
  readonly long?: LongSound
}

/**
 * A long sound as it is kept, which may be at another rate than it is played at; `data` is a handle, nothing
 * of it is in memory.
 */
export interface LongSound extends StoredSound {
  readonly data: Blob
}

/** A sound as it is sent to the engine. */
export interface EngineSound {
  readonly hash: string
  readonly sampleRate: number
  readonly channels: Float32Array[]
  readonly pieces?: { readonly frames: number; readonly channelCount: number }
}

export type ToWorklet =
  | { readonly type: 'load'; readonly project: Project }
  /** With a beat, they wait until the song has come there; what comes meanwhile has them taken at once. */
  | { readonly type: 'patches'; readonly patches: readonly Patch[]; readonly beat?: number }
  | { readonly type: 'audio'; readonly sounds: readonly EngineSound[] }
  /** A piece of a long sound that was wanted; no channels where it cannot be had. */
  | {
      readonly type: 'piece'
      readonly hash: string
      readonly n: number
      readonly channels: readonly Float32Array<ArrayBuffer>[]
    }
  /** Sounds that nothing plays any more. */
  | { readonly type: 'forget'; readonly hashes: readonly string[] }
  | { readonly type: 'play'; readonly beat: number }
  /** Cuts tails, or lets them ring. */
  | { readonly type: 'stop'; readonly cut?: boolean }
  /** Empties all that rings. */
  | { readonly type: 'silence' }
  | { readonly type: 'monitor'; readonly monitor: Monitor }
  | { readonly type: 'arm'; readonly armed: boolean }
  /** Plays from a beat and sends back the first frames of the mix, before the monitor stage. */
  | { readonly type: 'capture'; readonly beat: number; readonly frames: number }
  /**
   * A note of a live player, velocity 0 to end it, and when it was played by the context's clock; and how a
   * live player bends and presses.
   */
  | {
      readonly type: 'note'
      readonly track: string
      readonly pitch: number
      readonly velocity: number
      readonly time?: number
    }
  | { readonly type: 'shape'; readonly track: string; readonly bend: number; readonly pressure: number }
  /**
   * Records what goes into the chain of a track and what comes out, as soon as the song plays; parts that
   * come back are used again; and ends it.
   */
  | { readonly type: 'record'; readonly track: string; readonly parts: Float32Array<ArrayBuffer>[] }
  | { readonly type: 'part-back'; readonly part: Float32Array<ArrayBuffer> }
  | { readonly type: 'record-end' }
  /** Sends a click and waits for it to come in again. */
  | { readonly type: 'loopback' }
  /** Announces live notes that start or end. */
  | { readonly type: 'take-notes'; readonly on: boolean }
  /** Sends back what the buffer of an effect holds. */
  | { readonly type: 'keep'; readonly node: string }
  /** A person has seen that the guard cut a node. */
  | { readonly type: 'acknowledge'; readonly node: string }
  /** Restarts the load measurement, by the finest available clock. */
  | { readonly type: 'measure' }
  /** Measures what each step costs, or stops it. */
  | { readonly type: 'costs'; readonly on: boolean }

/**
 * A part of a recording: its samples, of which so many frames, beginning at one of the recording; the beat at
 * which that began; how much later its wet side comes, and what is heard after the song, in samples.
 */
export interface RecordedPart {
  readonly part: Float32Array<ArrayBuffer>
  readonly frames: number
  readonly from: number
  readonly beat: number
  readonly latency: number
  readonly heard: number
}

export type FromWorklet =
  /**
   * A piece of a long sound is wanted; and one that has made room for others, to be forgotten where nobody
   * waits.
   */
  | { readonly type: 'want'; readonly hash: string; readonly n: number }
  | { readonly type: 'piece-back'; readonly channels: readonly Float32Array[] }
  /**
   * Where live values stand: those that are new, or `anew` all of them; and the links and sidechains that
   * come a block late.
   */
  | {
      readonly type: 'slots'
      readonly entries: [string, number][]
      readonly anew: boolean
      readonly feedback: readonly string[]
    }
  /** It plays from now on: at once after Play, or when the rehearsal is over. */
  | { readonly type: 'began' }
  | {
      readonly type: 'captured'
      readonly left: Float32Array
      readonly right: Float32Array
      readonly latency: number
    }
  /** Content of a buffer; null without one. */
  | { readonly type: 'kept'; readonly channels: readonly [Float32Array, Float32Array] | null }
  /** A part of a recording, which comes back to be used again; and the end of one. */
  | ({ readonly type: 'recorded' } & RecordedPart)
  | { readonly type: 'record-ended' }
  /** Samples from a click at the output until it came in; null where it did not within a second. */
  | { readonly type: 'loopback'; readonly frames: number | null }
  /** A note was begun or ended live, at a place in quarter notes: by the song, and as they pass. */
  | {
      readonly type: 'played'
      readonly track: string
      readonly pitch: number
      readonly velocity: number
      readonly beat: number
      readonly run: number
    }
  | { readonly type: 'telemetry'; readonly buffer: ArrayBuffer }
  /** Something failed while it played, by the key of its step, and was cut. */
  | { readonly type: 'fault'; readonly key: string }
  /** Sound went round from the output into the input, and was dipped. */
  /** The guard of a step has cut it. */
  | { readonly type: 'tripped'; readonly key: string }
  | { readonly type: 'howl' }
  | { readonly type: 'error'; readonly message: string }
