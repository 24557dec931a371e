import type { CreateContext, ParamBlock, ParamBlocks, SongBlock, StereoBlock } from '../engine/block'
import type { ParamSpecs } from '../units/parameter'

/** What a modulator is given for one block. */
export interface ModulatorBlock {
  /** One block of 0…1 for each of the definition's outputs, in their order. */
  readonly outputs: readonly ParamBlock[]
  /** The sound it listens to; silence where none is set. */
  readonly side: StereoBlock
  readonly song: SongBlock
}

export interface ModulatorProcessor<P> {
  process(io: ModulatorBlock, params: ParamBlocks<P>): void
  reset(): void
}

export interface ModulatorDefinition<P extends ParamSpecs = ParamSpecs> {
  readonly id: string
  readonly name: string
  readonly tip: string
  readonly params: P
  readonly outputs: readonly string[]
  /** Whether it listens to a track. */
  readonly listens?: boolean
  readonly create: (context: CreateContext) => ModulatorProcessor<P>
}

export const defineModulator = <const P extends ParamSpecs>(definition: ModulatorDefinition<P>): ModulatorDefinition<P> => definition
