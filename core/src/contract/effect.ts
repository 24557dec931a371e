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

/** What an effect is given for one block. Buffers are the engine's: write `out`, leave the rest alone. */
export interface EffectBlock {
  readonly in: StereoBlock
  readonly out: StereoBlock
  /** The sidechain input; the effect's own input where none is set. */
  readonly side: StereoBlock
  readonly song: SongBlock
  /** Notes of its track; none where its definition does not ask for them. */
  readonly notes: NoteBlock
  /** Parameters of each lane's items, by lane and index. */
  readonly lanes: LaneBlocks
}

export interface EffectProcessor<P> {
  /**
   * Fills `io.out` from `io.in`. Allocates nothing, throws nothing. Wet/dry, on/off, sleep and latency are
   * the engine's.
   */
  process(io: EffectBlock, params: ParamBlocks<P>): void
  /** Back to the state of a new one. */
  reset(): void
  /**
   * Whether nothing audible (above −120 dBFS) is left in it, so that it may sleep while its input is silent.
   * Asked after a block with silent input. Without it, the engine waits for the definition's `tail`.
   */
  isQuiet?(): boolean
  /** It sleeps from now on: what inaudible rest is left may be forgotten. */
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
  /** Lets only these items of its lanes be heard; none for all. Monitoring, never part of a render. */
  solo?(items: readonly number[]): void
  /** What its buffer holds, oldest first: a copy that can be kept as a sound. Between blocks; allocates. */
  held?(): readonly [Float32Array, Float32Array]
  /** Present figures for the interface, in the order of the definition's `readouts`. */
  readonly readouts?: Float64Array
  /** One block of 0…1 for each of the definition's `outputs`, in their order. */
  readonly outputs?: readonly ParamBlock[]
}

/** Plain values of an effect's parameters, in their own units. */
export type ParamValues<P> = { readonly [K in keyof P]: number }

/** One effect set up for something; what is missing stands at its default. */
export interface EffectPreset {
  readonly name: string
  /** What it does to a sound, in a few words. */
  readonly tip?: string
  readonly params: Readonly<Record<string, number>>
  readonly lanes?: Readonly<Record<string, readonly Readonly<Record<string, number>>[]>>
  readonly data?: Readonly<Record<string, unknown>>
}

/** What was changed of an effect: a value by its path, or an item of a lane that came or went. */
export type EffectChange =
  | { readonly path: string }
  | { readonly lane: string; readonly added: number }
  | { readonly lane: string; readonly removed: number }

/** What an effect keeps in a project, to be written. */
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
  /** What people call it as well, or look for when they need it. */
  readonly also?: readonly string[]
  readonly params: P
  /** Its parameters by what they are about, in the order in which they are shown; each is in one group. */
  readonly groups?: readonly { readonly name: string; readonly gauges: readonly (keyof P & string)[] }[]
  /** The parameters that are shown first; the others are one press away. All of them if it is missing. */
  readonly main?: readonly (keyof P & string)[]
  /** The parameters of a time that is set in its own unit or as a note length, if not the usual ones. */
  readonly pair?: TimePair
  /** Whether a parameter has an effect as the others are set; its gauge is hidden otherwise. */
  readonly applies?: (param: string, value: (param: string) => number) => boolean
  readonly lanes?: LaneSpecs
  /** Whether another track may be its sidechain. */
  readonly sidechain?: boolean
  /** Whether it works with a sound of the project, named by `audio` in its data. */
  readonly sound?: boolean
  /** Whether it hears the notes of its track. */
  readonly notes?: boolean
  /** Has a toggle `trails`: switched off, it is given nothing more and rings out. */
  readonly trails?: boolean
  /** Has a buffer whose content can be kept as a sound. */
  readonly holds?: boolean
  /** Sounds without input, so it never sleeps while it is on, and the silence test does not hold it. */
  readonly generates?: boolean
  readonly readouts?: readonly string[]
  /** Signals that modulators can work on, such as its gate; 0 while the effect is off. */
  readonly outputs?: readonly string[]
  /**
   * Brings the rest of what it keeps into line with a change: what stands in its data with what stands in its
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
