import type { Stereo } from '../contract/audio'
import { BLOCK, ParamBlock, noteBlock, songBlock, stereoBlock } from '../contract/block'
import { fromDb } from '../dsp/math'
import { limiter } from '../effects/limiter'

/** Recovery time in seconds. */
const RELEASE = 0.08

/**
 * The limiter of the effects over a whole sound, its latency taken off. Pieces in, pieces out, of the same
 * number of frames together.
 */
export class Limited {
  private readonly processor
  private readonly params
  private readonly io = {
    in: stereoBlock(),
    out: stereoBlock(),
    side: stereoBlock(),
    song: songBlock(),
    notes: noteBlock(),
    lanes: {},
  }
  private filled = 0
  /** Frames by which it is late, and those of them that are still to be left out. */
  private readonly late: number
  private skip: number

  /** @param ceiling in dBTP */
  constructor(sampleRate: number, ceiling: number) {
    this.processor = limiter.create({ sampleRate, seed: 1 })
    this.processor.reset()
    this.params = {
      gain: new ParamBlock(1),
      ceiling: new ParamBlock(fromDb(ceiling)),
      release: new ParamBlock(RELEASE),
    }
    this.late = limiter.latency?.(sampleRate) ?? 0
    this.skip = this.late
  }

  /** What is there of the output once a piece has come; arrays of their own. */
  add([left, right]: Stereo): Stereo {
    const out = [new Float32Array(left.length + BLOCK), new Float32Array(left.length + BLOCK)] as const
    let at = 0
    for (let i = 0; i < left.length; i++) {
      this.io.in.left[this.filled] = left[i] ?? 0
      this.io.in.right[this.filled] = right[i] ?? 0
      if (++this.filled === BLOCK) at += this.block(out, at)
    }
    return [out[0].subarray(0, at), out[1].subarray(0, at)]
  }

  /** The rest, from silence after the end. */
  end(): Stereo {
    const rest = this.filled + this.late
    const silence = new Float32Array(Math.ceil(rest / BLOCK) * BLOCK + BLOCK)
    const wanted = rest - this.skip
    const [left, right] = this.add([silence, silence])
    return [left.subarray(0, wanted), right.subarray(0, wanted)]
  }

  private block(into: Stereo, at: number): number {
    this.filled = 0
    this.processor.process(this.io, this.params)
    const from = Math.min(this.skip, BLOCK)
    this.skip -= from
    into[0].set(this.io.out.left.subarray(from), at)
    into[1].set(this.io.out.right.subarray(from), at)
    return BLOCK - from
  }
}
