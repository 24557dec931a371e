import { BLOCK } from '@oleaje/core/contract/block'
import { RateStream } from '@oleaje/core/formats/rate-stream'

/** Works out one block of the engine from one block of live input, at the engine's rate. */
export type WorkBlock = (
  inLeft: Float32Array,
  inRight: Float32Array,
  left: Float32Array,
  right: Float32Array,
) => void

/**
 * Lies between an engine that works in blocks of 128 frames at the project's rate, and a context with another
 * rate or another render quantum: works out as many blocks as are needed, and converts both ways.
 */
export class OutputBorder {
  private readonly outs: readonly [RateStream, RateStream]
  private readonly ins: readonly [RateStream, RateStream]
  private readonly block = Array.from({ length: 4 }, () => new Float32Array(BLOCK)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ]

  constructor(rate: number, contextRate: number, quantum: number) {
    this.outs = [new RateStream(rate, contextRate), new RateStream(rate, contextRate)]
    // a quantum, and what a block of the engine takes, must be there before a block can be worked out
    const ahead = quantum + Math.ceil((BLOCK * contextRate) / rate) + 128
    this.ins = [new RateStream(contextRate, rate, ahead), new RateStream(contextRate, rate, ahead)]
  }

  /** Seconds by which sound comes later on its way out. */
  get latency(): number {
    return this.outs[0].latency
  }

  /** Fills a quantum of output. */
  process(
    inLeft: Float32Array,
    inRight: Float32Array,
    left: Float32Array,
    right: Float32Array,
    work: WorkBlock,
  ): void {
    const { outs, ins, block } = this
    const [l, r, outL, outR] = block
    ins[0].push(inLeft)
    ins[1].push(inRight)
    while (!outs[0].has(left.length)) {
      if (ins[0].has(BLOCK)) {
        ins[0].pull(l)
        ins[1].pull(r)
      } else {
        l.fill(0)
        r.fill(0)
      }
      work(l, r, outL, outR)
      outs[0].push(outL)
      outs[1].push(outR)
    }
    outs[0].pull(left)
    outs[1].pull(right)
  }
}
