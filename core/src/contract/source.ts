import type { LaneSpecs } from '../units/lane'
import type { ParamSpecs } from '../units/parameter'
import type { AudioData } from './audio'
import type { CreateContext, LaneBlocks, NoteBlock, ParamBlocks, SongBlock, StereoBlock } from './block'
import type { Load } from './load'
import type { Summary } from './summary'

/** What a source is given for one block. */
export interface SourceBlock {
  /** Its main output. */
  readonly out: StereoBlock
  /** All its outputs, of which the first is `out`: the pads of a kit have one each. */
  readonly outputs: readonly StereoBlock[]
  readonly song: SongBlock
  /** The audio it plays, where it has any. */
  readonly audio: AudioData | null
  /** More audio, in the order in which its definition names it; null for what is not there. */
  readonly sounds: readonly (AudioData | null)[]
  /** The track that it listens to, in time; silent where there is none. */
  readonly side: StereoBlock
  /** The live input, silent where none is open. */
  readonly input: StereoBlock
  /** Notes of its track; none where its definition does not ask for them. */
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
  /** Plays audio of the project. */
  readonly audio?: boolean
  /** Its audio may be long, and come in pieces. */
  readonly inPieces?: boolean
  /** More audio of the project that it plays, from its data as stored: hashes, null for none. */
  readonly sounds?: (data: Readonly<Record<string, unknown>>) => readonly (string | null)[]
  /** Makes what it needs of its audio before it plays, in pieces; for each of the sounds it plays. */
  readonly prepare?: (audio: AudioData | null) => Generator<void, void>
  /**
   * A button for a track that begins with it as it is; what is offered, the name of the track, and values
   * that it begins with.
   */
  readonly begins?: {
    readonly label: string
    readonly tip: string
    readonly track: string
    readonly params?: Readonly<Record<string, number>>
  }
  /** What a sound that is taken becomes by it; the first one that says so is the usual way. */
  readonly fromSound?: string
  /** Has pads: a sound that is taken becomes one of them, and more may follow. */
  readonly pads?: boolean
  /** Hears what comes in from a device. */
  readonly device?: boolean
  /** Has a parameter `tempo` of its own, which a sound that is taken says by its hits. */
  readonly ownTempo?: boolean
  /** Hears another track. */
  readonly listens?: boolean
  /** What one of it takes at most. */
  readonly load?: Load
  /** Its audio lies along the song, so that its wave can be drawn there. */
  readonly onSong?: boolean
  /** Sounds while the transport stands. */
  readonly live?: boolean
  /** Whether it hears the notes of its track. */
  readonly notes?: boolean
  readonly readouts?: readonly string[]
  /** Names of its outputs beside the main one. */
  readonly outputs?: readonly string[]
  /** Samples that its sound comes after the song. */
  readonly latency?: (sampleRate: number, values?: Readonly<Record<string, number>>) => number
  /** Seconds that it sounds on once the song has stopped; 0.05 where it is not said. */
  readonly tail?: (values: Readonly<Record<string, number>>) => number
  /** Frequency in Hz of the plain tone that it plays; null for anything else. */
  readonly pitch?: (value: (param: string) => number) => number | null
  /** What stands where others show their wave. */
  readonly unseen?: string
  /** One line that says how it is set up. */
  readonly summary?: (is: Summary) => string
  readonly create: (context: CreateContext) => SourceProcessor<P>
}

export const defineSource = <const P extends ParamSpecs>(
  definition: SourceDefinition<P>,
): SourceDefinition<P> => definition
