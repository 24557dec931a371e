import { LoudnessMeter } from '../analysis/loudness'
import { TruePeakMeter } from '../analysis/true-peak'
import { BLOCK, type ParamBlock, type StereoBlock } from './block'
import { RING_FRAMES, type TelemetryMemory } from './telemetry'

/** What the listening panel listens to: one track before and after its chain, and one modulator over it. */
export class Probe {
  readonly dry: LoudnessMeter
  readonly wet: LoudnessMeter
  private readonly peakL = new TruePeakMeter()
  private readonly peakR = new TruePeakMeter()
  private at = 0

  constructor(sampleRate: number, private readonly memory: TelemetryMemory) {
    this.dry = new LoudnessMeter(sampleRate)
    this.wet = new LoudnessMeter(sampleRate)
  }

  reset(): void {
    this.dry.reset()
    this.wet.reset()
    this.peakL.reset()
    this.peakR.reset()
  }

  get truePeak(): number { return Math.max(this.peakL.peak, this.peakR.peak) }

  process(dry: StereoBlock, wet: StereoBlock, modulator: ParamBlock | null): void {
    this.dry.process(dry.left, dry.right)
    this.wet.process(wet.left, wet.right)
    this.peakL.process(wet.left)
    this.peakR.process(wet.right)
    const { rings } = this.memory
    const values = modulator?.values()
    for (let i = 0; i < BLOCK; i++) {
      const at = this.at + i
      rings[0][at] = 0.5 * (dry.left[i] + dry.right[i])
      rings[1][at] = wet.left[i]
      rings[2][at] = wet.right[i]
      rings[3][at] = values ? values[i] : 0
    }
    this.at = (this.at + BLOCK) % RING_FRAMES
    this.memory.head[0] = this.at
  }
}
