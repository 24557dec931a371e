import { BLOCK } from '@oleaje/core/contract/block'
import { OutputBorder, type WorkBlock } from './output-border'

/** Has blocks worked out, by way of a border where context and engine differ in rate or quantum. */
export class EngineOutput {
  private border: OutputBorder | null = null
  private silent = new Float32Array(BLOCK)

  /** @param rate of the engine @param contextRate of the audio context */
  constructor(
    private readonly rate: number,
    private readonly contextRate: number,
    private readonly work: WorkBlock,
  ) {}

  process(input: Float32Array[] | undefined, left: Float32Array, right: Float32Array): void {
    const frames = left.length
    if (this.silent.length !== frames) this.silent = new Float32Array(frames)
    const inLeft = input?.[0] ?? this.silent
    const inRight = input?.[1] ?? inLeft
    if (frames !== BLOCK || this.rate !== this.contextRate) {
      this.border ??= new OutputBorder(this.rate, this.contextRate, frames)
      this.border.process(inLeft, inRight, left, right, this.work)
    } else this.work(inLeft, inRight, left, right)
  }
}
