import type {
  CreateContext,
  LaneBlocks,
  NoteBlock,
  ParamBlock,
  ParamBlocks,
  SongBlock,
  StereoBlock,
} from './block'
import type { Load } from './load'
import type { Summary } from './summary'
import type { Point } from '../dsp/drawn-shape'
import type { LaneSpecs } from '../units/lane'
import type { ParamSpecs } from '../units/parameter'

/** What a modulator is given for one block. */
export interface ModulatorBlock {
  /** One block of 0…1 for each of the definition's outputs, in their order. */
  readonly outputs: readonly ParamBlock[]
  /** The sound it listens to; silence where none is set. */
  readonly side: StereoBlock
  readonly song: SongBlock
  /** Outputs of other modulators that it works on; null where a slot is empty. */
  readonly inputs: readonly (ParamBlock | null)[]
  /** Notes of its track. */
  readonly notes: NoteBlock
  /** Parameters of each lane's items, by lane and index. */
  readonly lanes: LaneBlocks
}

export interface ModulatorProcessor<P> {
  process(io: ModulatorBlock, params: ParamBlocks<P>): void
  reset(): void
  /**
   * Takes the definition's data as stored, which may be anything; called when made and between blocks when it
   * has changed.
   */
  take?(data: Readonly<Record<string, unknown>>): void
  /** Where it is, for its picture, in the order of the definition's `readouts`. */
  readonly readouts?: Float64Array
}

/** A shape that is drawn by hand. */
export interface Drawing {
  /** Where it stands in the data. */
  readonly key: string
  /** Its length along x, and what it starts from. */
  readonly length: number
  readonly first: readonly Point[]
  /**
   * Distance to which x snaps, 0 for none; how far apart lines are; and the readout that says where it is
   * being read.
   */
  readonly snap: number
  readonly grid: number
  readonly readout: string
}

export interface ModulatorDefinition<P extends ParamSpecs = ParamSpecs> {
  readonly id: string
  readonly name: string
  readonly load: Load
  readonly tip: string
  readonly params: P
  /**
   * A link takes the first one unless it names another. `pitch` is a MIDI note number over
   * 128.
   */
  readonly outputs: readonly string[]
  readonly lanes?: LaneSpecs
  readonly readouts?: readonly string[]
  /** Whether it listens to a track. */
  readonly listens?: boolean
  /** What each of the modulators that it works on is for. */
  readonly inputs?: readonly string[]
  /** Rests at its lowest: what it moves starts from the base and goes one way from there. */
  readonly restsLow?: boolean
  /** Moves only by hand, so it keeps working while another modulator is soloed. */
  readonly byHand?: boolean
  /** Whether it hears the notes of its track. */
  readonly notes?: boolean
  /** One control that moves many: shown standing up, before the others. */
  readonly isMacro?: boolean
  /** The parameter that a control of a device is learnt for. */
  readonly learns?: string
  /** What of its data is drawn by hand as it is set, and over how many beats or cycles; null for nothing. */
  readonly draws?: (value: (param: string) => number) => Drawing | null
  /** Shown as a lane along the song. */
  readonly isLane?: boolean
  /** Its value at a beat of the song, 0…1, as far as that is known beforehand; null where it is not. */
  readonly course?: (value: (param: string) => number) => ((beat: number) => number) | null
  /** Follows a track as soon as it is made: another one where there is one. */
  readonly followsOthers?: boolean
  /** Whether a parameter does anything as the others are set; all do where it is missing. */
  readonly applies?: (param: string, value: (param: string) => number) => boolean
  /**
   * What it is connected to as it is set: a track to listen to, other modulators to work on. Both where it is
   * missing.
   */
  readonly uses?: (value: (param: string) => number) => {
    readonly listens: boolean
    readonly inputs: boolean
  }
  /** One line that says how it is set up. */
  readonly summary?: (is: Summary) => string
  readonly create: (context: CreateContext) => ModulatorProcessor<P>
}

export const defineModulator = <const P extends ParamSpecs>(
  definition: ModulatorDefinition<P>,
): ModulatorDefinition<P> => definition
