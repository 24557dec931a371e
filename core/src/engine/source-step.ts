import { FRACTION } from '../dsp/fraction'
import type { AudioData, SourceDefinition, SourceProcessor } from '../sources/definition'
import type { ParamSpecs } from '../units/parameter'
import { peakOf, type SongBlock, type StereoBlock, stereoBlock } from './block'
import type { ParamSet } from './param-set'
import type { SoundStep } from './step'

export class SourceStep implements SoundStep {
  readonly out = stereoBlock()
  peak = FRACTION
  audio: AudioData | null = null
  /** Nobody hears it: silent, and not worked out. */
  idle = false
  private readonly io: { out: StereoBlock, song: SongBlock, audio: AudioData | null, input: StereoBlock }

  constructor(
    readonly definition: SourceDefinition, private readonly processor: SourceProcessor<ParamSpecs>,
    readonly params: ParamSet, song: SongBlock, input: StereoBlock,
  ) {
    this.io = { out: this.out, song, audio: null, input }
  }

  run(): void {
    this.params.update()
    if (this.idle) {
      this.out.left.fill(0)
      this.out.right.fill(0)
      this.peak = 0
      return
    }
    this.io.audio = this.audio
    this.processor.process(this.io, this.params.blocks as never)
    this.peak = peakOf(this.out)
  }

  reset(): void {
    this.params.reset()
    this.processor.reset()
  }

  cut(): void {}
}
