import type { LaneSpecs } from '../units/lane'
import type { ParamSpecs } from '../units/parameter'
import type { AudioData } from './audio'
import type { CreateContext, LaneBlocks, NoteBlock, ParamBlocks, SongBlock, StereoBlock } from './block'
import type { Load } from './load'
import type { Summary } from './summary'

/** Input and output of a source for one block. */
export interface SourceBlock {
  /** The main output. */
  readonly out: StereoBlock
  /** All outputs. The first is `out`; each pad of a kit has one. */
  readonly outputs: readonly StereoBlock[]
  readonly song: SongBlock
  /** The audio to play; null without one. */
  readonly audio: AudioData | null
  /** Additional audio in the order of the definition; null where it is missing. */
  readonly sounds: readonly (AudioData | null)[]
  /** The track that it listens to, latency-compensated; silent without one. */
  readonly side: StereoBlock
  /** The live input; silent while none is open. */
  readonly input: StereoBlock
  /** Notes of the track; none unless the definition has `notes`. */
  readonly notes: NoteBlock
  readonly lanes: LaneBlocks
}

export interface SourceProcessor<P> {
  process(io: SourceBlock, params: ParamBlocks<P>): void
  /**
   * Keeps the place in the song without computing sound while it is inaudible. Without it, `process` runs
   * and is not heard.
   */
  skip?(io: SourceBlock, params: ParamBlocks<P>): void
  reset(): void
  /**
   * Takes the definition's data as stored, which may be anything; called when made and between blocks when it
   * has changed.
   */
  take?(data: Readonly<Record<string, unknown>>): void
  readonly readouts?: Float64Array
}

export interface SourceDefinition<P extends ParamSpecs = ParamSpecs> {
  readonly id: string
  readonly name: string
  readonly tip: string
  readonly params: P
  readonly lanes?: LaneSpecs
  /** Plays a sound of the project. */
  readonly audio?: boolean
  /** Supports long audio in pieces. */
  readonly inPieces?: boolean
  /** Hashes of additional sounds, read from its stored data; null for an empty place. */
  readonly sounds?: (data: Readonly<Record<string, unknown>>) => readonly (string | null)[]
  /** Prepares a sound before it plays, in pieces. Called for each sound. */
  readonly prepare?: (audio: AudioData | null) => Generator<void, void>
  /**
   * A button that adds a track with this source: its label and tooltip, the name of the track, and values
   * to start with.
   */
  readonly begins?: {
    readonly label: string
    readonly tip: string
    readonly track: string
    readonly params?: Readonly<Record<string, number>>
  }
  /** Label of the choice to play an imported sound with it. The first one with a label is the default. */
  readonly fromSound?: string
  /** Has pads: an imported sound becomes one of them, and more can follow. */
  readonly pads?: boolean
  /** Plays an input device. */
  readonly device?: boolean
  /** Has a parameter `tempo`, which is set from the hits of an imported sound. */
  readonly ownTempo?: boolean
  /** Plays another track. */
  readonly listens?: boolean
  /** The most that one instance needs. */
  readonly load?: Load
  /** Its audio lies along the song, so that the Timeline can draw it. */
  readonly onSong?: boolean
  /** Sounds while the song is stopped. */
  readonly live?: boolean
  /** Whether it receives the notes of its track. */
  readonly notes?: boolean
  readonly readouts?: readonly string[]
  /** Names of the outputs beside the main one. */
  readonly outputs?: readonly string[]
  /** Latency in samples. */
  readonly latency?: (sampleRate: number, values?: Readonly<Record<string, number>>) => number
  /** Seconds that it rings out after the song has stopped; 0.05 by default. */
  readonly tail?: (values: Readonly<Record<string, number>>) => number
  /** Frequency in Hz of a plain test tone; null for anything else. */
  readonly pitch?: (value: (param: string) => number) => number | null
  /** Text in place of a waveform. */
  readonly unseen?: string
  /** A one-line summary of its settings. */
  readonly summary?: (is: Summary) => string
  readonly create: (context: CreateContext) => SourceProcessor<P>
}

export const defineSource = <const P extends ParamSpecs>(
  definition: SourceDefinition<P>,
): SourceDefinition<P> => definition
