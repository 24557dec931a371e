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

/** Input and output of a modulator for one block. */
export interface ModulatorBlock {
  /** One block of 0…1 for each of the definition's outputs, in their order. */
  readonly outputs: readonly ParamBlock[]
  /** The sound that it listens to; silent without one. */
  readonly side: StereoBlock
  readonly song: SongBlock
  /** Signals of other modulators or effects; null for an empty slot. */
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
  /** Present figures for its picture, in the order of the definition's `readouts`. */
  readonly readouts?: Float64Array
}

/** A hand-drawn shape. */
export interface Drawing {
  /** Its key in the data. */
  readonly key: string
  /** Its length along x, and its initial points. */
  readonly length: number
  readonly first: readonly Point[]
  /**
   * Snap distance along x (0 for none), distance of the grid lines, and the readout with the present
   * position.
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
  /** Whether it can listen to a track. */
  readonly listens?: boolean
  /** Names of its input slots. */
  readonly inputs?: readonly string[]
  /** Rests at its minimum: a linked parameter starts from the base and moves one way. */
  readonly restsLow?: boolean
  /** Moves only by hand, so it keeps working while another modulator is soloed. */
  readonly byHand?: boolean
  /** Whether it receives the notes of its track. */
  readonly notes?: boolean
  /** Moves all that differs between snapshots of its track, by the weights that its outputs give. */
  readonly movesSnapshots?: boolean
  /** One control that moves many parameters; shown as a vertical gauge before the others. */
  readonly isMacro?: boolean
  /** The parameter that a controller is assigned to. */
  readonly learns?: string
  /** The drawn shape of its data with the present settings; null without one. */
  readonly draws?: (value: (param: string) => number) => Drawing | null
  /** Shown as a lane along the song. */
  readonly isLane?: boolean
  /** Its value at a beat of the song, 0…1; null where it cannot be known in advance. */
  readonly course?: (value: (param: string) => number) => ((beat: number) => number) | null
  /** Listens to a track from the start, to another one if possible. */
  readonly followsOthers?: boolean
  /** Whether a parameter has an effect with the present settings; by default all have. */
  readonly applies?: (param: string, value: (param: string) => number) => boolean
  /**
   * Which connections it uses with the present settings: a track to listen to, input signals. Both by
   * default.
   */
  readonly uses?: (value: (param: string) => number) => {
    readonly listens: boolean
    readonly inputs: boolean
  }
  /** A one-line summary of its settings. */
  readonly summary?: (is: Summary) => string
  readonly create: (context: CreateContext) => ModulatorProcessor<P>
}

export const defineModulator = <const P extends ParamSpecs>(
  definition: ModulatorDefinition<P>,
): ModulatorDefinition<P> => definition
