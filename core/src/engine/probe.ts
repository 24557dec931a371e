import { LoudnessMeter } from '../dsp/loudness'
import { TruePeakMeter } from '../dsp/true-peak'
import { BLOCK, type ParamBlock, type StereoBlock } from '../contract/block'
import { RING_FRAMES, type TelemetryMemory } from './telemetry'

/** Signals of the listening views: one track before and after its chain, and one modulator. */
export class Probe {
  readonly dry: LoudnessMeter
  readonly wet: LoudnessMeter
  private readonly peakL = new TruePeakMeter()
  private readonly peakR = new TruePeakMeter()
  private at = 0

  constructor(
    sampleRate: number,
    private readonly memory: TelemetryMemory,
  ) {
    this.dry = new LoudnessMeter(sampleRate)
    this.wet = new LoudnessMeter(sampleRate)
  }

  reset(): void {
    this.dry.reset()
    this.wet.reset()
    this.peakL.reset()
    this.peakR.reset()
  }

  get truePeak(): number {
    return Math.max(this.peakL.peak, this.peakR.peak)
  }

  process(dry: StereoBlock, wet: StereoBlock, modulator: ParamBlock | null): void {
    this.dry.process(dry.left, dry.right)
    this.wet.process(wet.left, wet.right)
    this.peakL.process(wet.left)
    this.peakR.process(wet.right)
    const { rings } = this.memory
    const { at } = this
    average(dry, rings[0], at)
    rings[1].set(wet.left, at)
    rings[2].set(wet.right, at)
    if (modulator) rings[3].set(modulator.values(), at)
    else rings[3].fill(0, at, at + BLOCK)
    this.at = (at + BLOCK) % RING_FRAMES
    this.memory.head[0] = this.at
  }
}

function average({ left, right }: StereoBlock, out: Float32Array, at: number): void {
  for (let i = 0; i < BLOCK; i++) out[at + i] = 0.5 * (left[i] + right[i])
}
