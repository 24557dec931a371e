import type { LaneSpecs } from '../units/lane'
import type { ParamSpecs } from '../units/parameter'
import type { AudioData } from './audio'
import type { Load } from './load'
import type {
  CreateContext,
  LaneBlocks,
  NoteBlock,
  ParamBlock,
  ParamBlocks,
  SongBlock,
  StereoBlock,
} from './block'

/** A time or a rate that is set either in its own unit or as a note length. */
export interface TimePair {
  /** The switch between the two. */
  readonly sync: string
  readonly free: string
  readonly synced: string
}

export type EffectGroup = 'level' | 'filter' | 'dirt' | 'dynamics' | 'time' | 'space'

/** Input and output of an effect for one block. The engine owns all buffers; write to `out` only. */
export interface EffectBlock {
  readonly in: StereoBlock
  readonly out: StereoBlock
  /** The sidechain input; the effect's own input without one. */
  readonly side: StereoBlock
  readonly song: SongBlock
  /** Notes of the track; none unless the definition has `notes`. */
  readonly notes: NoteBlock
  /** Parameters of each lane's items, by lane and index. */
  readonly lanes: LaneBlocks
}

export interface EffectProcessor<P> {
  /**
   * Fills `io.out` from `io.in`. Must not allocate or throw. Wet/dry, on/off, sleep and latency are
   * handled by the engine.
   */
  process(io: EffectBlock, params: ParamBlocks<P>): void
  /** Back to the state of a new one. */
  reset(): void
  /**
   * Whether nothing audible (above −120 dBFS) is left in it, so that it can sleep while its input is silent.
   * Called after a block with silent input. Without it, the engine waits for the definition's `tail`.
   */
  isQuiet?(): boolean
  /** It sleeps from now on, and may discard its inaudible rest. */
  sleep?(): void
  /**
   * It wakes after so many frames that were not computed. Free-running parts, such as an oscillator,
   * goes on by as many.
   */
  advance?(frames: number, params: ParamBlocks<P>, song: SongBlock): void
  /**
   * Takes the definition's data as stored, which may be anything, and where it wants `sound` that one; called
   * when made and between blocks when either has changed. Its output is joined to what was heard before,
   * unless it returns true: then it makes the transition itself.
   */
  take?(data: Readonly<Record<string, unknown>>, audio?: AudioData | null): boolean | void
  /** Solos these items of its lanes; an empty list plays all. Monitoring, never part of a render. */
  solo?(items: readonly number[]): void
  /** A copy of its buffer, oldest sample first, to keep as a sound. Called between blocks; allocates. */
  held?(): readonly [Float32Array, Float32Array]
  /** Present figures for the interface, in the order of the definition's `readouts`. */
  readonly readouts?: Float64Array
  /** One block of 0…1 for each of the definition's `outputs`, in their order. */
  readonly outputs?: readonly ParamBlock[]
}

/** Values of an effect's parameters, in their own units. */
export type ParamValues<P> = { readonly [K in keyof P]: number }

/** Settings of one effect; missing values are the defaults. */
export interface EffectPreset {
  readonly name: string
  /** Its effect on a sound, in a few words. */
  readonly tip?: string
  readonly params: Readonly<Record<string, number>>
  readonly lanes?: Readonly<Record<string, readonly Readonly<Record<string, number>>[]>>
  readonly data?: Readonly<Record<string, unknown>>
}

/** A change of an effect: a value by its path, or an added or removed lane item. */
export type EffectChange =
  | { readonly path: string }
  | { readonly lane: string; readonly added: number }
  | { readonly lane: string; readonly removed: number }

/** The stored part of an effect, as a draft. */
export interface KeptEffect {
  params: Record<string, number>
  lanes?: Record<string, Record<string, number>[]>
  data?: Record<string, unknown>
}

export interface EffectDefinition<P extends ParamSpecs = ParamSpecs> {
  readonly id: string
  readonly name: string
  readonly group: EffectGroup
  readonly load: Load
  readonly tip: string
  /** Other names and search words. */
  readonly also?: readonly string[]
  readonly params: P
  /** Its parameters in named groups, in the order in which they are shown. Each is in one group. */
  readonly groups?: readonly { readonly name: string; readonly gauges: readonly (keyof P & string)[] }[]
  /** The parameters that are shown first; by default all of them. */
  readonly main?: readonly (keyof P & string)[]
  /** The parameters of a time that is set in its unit or as a note length, if not the usual ones. */
  readonly pair?: TimePair
  /** Whether a parameter has an effect as the others are set; its gauge is hidden otherwise. */
  readonly applies?: (param: string, value: (param: string) => number) => boolean
  readonly lanes?: LaneSpecs
  /** Whether it has a sidechain. */
  readonly sidechain?: boolean
  /** Whether it uses a sound of the project, named by `audio` in its data. */
  readonly sound?: boolean
  /** Whether it receives the notes of its track. */
  readonly notes?: boolean
  /** Has a toggle `trails`: turned off, it gets no input and rings out. */
  readonly trails?: boolean
  /** Has a buffer that can be kept as a sound. */
  readonly holds?: boolean
  /** Sounds without input, so it never sleeps while it is on, and the silence test skips it. */
  readonly generates?: boolean
  readonly readouts?: readonly string[]
  /** Signals that modulators can work on, such as its gate; 0 while the effect is off. */
  readonly outputs?: readonly string[]
  /**
   * Keeps the rest of its stored state consistent with a change, for example its data with its
   * lanes.
   */
  readonly settle?: (effect: KeptEffect, change: EffectChange) => void
  /**
   * Whole samples between input and output of the wet path; where it follows from set values, links do not
   * change it.
   */
  readonly latency?: (sampleRate: number, values?: Readonly<Record<string, number>>) => number
  /**
   * Where between its input and its output a parameter acts, in samples from the input, by its path: what it
   * is linked to reaches it so much later. At the input where it is not said. Wet and on act at the output.
   */
  readonly acts?: (path: string, latency: number) => number
  /** Its output has no one time to the sample, so that a click does not show its latency. */
  readonly spreads?: boolean
  /** Has motion of its own, so that the same sound gives different results at different times. */
  readonly movesByItself?: boolean
  /** Reads the song for what leaves it, not for what enters. */
  readonly clockAtEnd?: boolean
  /**
   * Seconds until what is left in it has fallen by 120 dB once the input is silent; Infinity where it never
   * does.
   */
  readonly tail?: (
    values: ParamValues<P>,
    beatsPerSecond: number,
    data?: Readonly<Record<string, unknown>>,
  ) => number
  /**
   * Values at which it costs less and sounds nearly the same, with the same latency: for searches, which
   * render thousands of sounds that nobody hears. Only ever lowers what is set.
   */
  readonly draft?: Readonly<Record<string, number>>
  /** Largest gain in dB that it is meant to give, for the guard: louder output than that is a fault. */
  readonly gain?: (values: ParamValues<P>) => number
  /**
   * Starting points that ship with it. A split or a chain of several effects is kept as a preset of its own.
   */
  readonly presets?: readonly EffectPreset[]
  /**
   * Makes what all of its kind share and takes long to make; called where sound will play, before it does.
   * `create` does without it, later.
   */
  readonly prepare?: () => unknown
  readonly create: (context: CreateContext) => EffectProcessor<P>
}

/** Keeps the types of a definition's parameters for its processor. */
export const defineEffect = <const P extends ParamSpecs>(
  definition: EffectDefinition<P>,
): EffectDefinition<P> => definition
