import type { CreateContext, ParamBlocks, SongBlock, StereoBlock } from '../engine/block'
import type { ParamSpecs } from '../units/parameter'

/** Decoded audio at the project's sample rate. One array (mono) or two. */
export interface AudioData {
  readonly sampleRate: number
  readonly channels: readonly Float32Array[]
}

/** What a source is given for one block. */
export interface SourceBlock {
  readonly out: StereoBlock
  readonly song: SongBlock
  /** The audio it plays, where it has any. */
  readonly audio: AudioData | null
  /** The live input, silent where none is open. */
  readonly input: StereoBlock
}

export interface SourceProcessor<P> {
  process(io: SourceBlock, params: ParamBlocks<P>): void
  reset(): void
}

export interface SourceDefinition<P extends ParamSpecs = ParamSpecs> {
  readonly id: string
  readonly name: string
  readonly tip: string
  readonly params: P
  /** Plays audio of the project. */
  readonly audio?: boolean
  /** Sounds while the transport stands. */
  readonly live?: boolean
  readonly create: (context: CreateContext) => SourceProcessor<P>
}

export const defineSource = <const P extends ParamSpecs>(definition: SourceDefinition<P>): SourceDefinition<P> => definition
