import { Fft } from '../dsp/fft'
import { atan, PI } from '../dsp/math'
import type { EffectDefinition } from '../effects/definition'
import { BLOCK, songBlock, stereoBlock } from '../engine/block'
import { ParamSet } from '../engine/param-set'
import type { LaneValues } from '../units/lane'

/** Frames of impulse response that are taken. */
const FRAMES = 4096

/** Height of the impulse: low enough for what saturates near full scale. */
const STRUCK = 0.25

/** What a linear effect does to each frequency. Arrays of half the frames; bin k lies at k · sampleRate / frames. */
export interface MeasuredResponse {
  readonly frames: number
  readonly sampleRate: number
  /** Linear. */
  readonly magnitude: Float64Array
  /** Radians, −π…π, the effect's declared latency taken out. */
  readonly phase: Float64Array
  /** Seconds. */
  readonly groupDelay: Float64Array
}

/**
 * Measures the left channel of an effect by an impulse through its own processor, so that what is drawn is what is heard.
 * One for each effect that is looked at; it is used again for every measurement.
 */
export class ResponseMeter {
  private readonly processor: ReturnType<EffectDefinition['create']>
  private readonly params: ParamSet
  private readonly io
  private readonly fft = new Fft(FRAMES)
  private readonly re = new Float64Array(FRAMES)
  private readonly im = new Float64Array(FRAMES)
  private readonly rampRe = new Float64Array(FRAMES)
  private readonly rampIm = new Float64Array(FRAMES)
  private readonly latency: number

  constructor(definition: EffectDefinition, private readonly sampleRate: number) {
    this.params = new ParamSet(definition.params, {}, sampleRate, definition.lanes)
    this.processor = definition.create({ sampleRate, seed: 1 })
    this.latency = definition.latency?.(sampleRate) ?? 0
    const input = stereoBlock()
    const song = songBlock()
    song.beatsPerFrame = 2 / sampleRate
    this.io = { in: input, out: stereoBlock(), side: input, song, lanes: this.params.laneBlocks }
  }

  /** Measures with these values, which stand still; writes over what it gave before where `into` is that. */
  measure(values: Readonly<Record<string, number>>, lanes?: LaneValues, data: Readonly<Record<string, unknown>> = {}, into?: MeasuredResponse): MeasuredResponse {
    const { params, processor, io, re, im, rampRe, rampIm } = this
    const out = into ?? { frames: FRAMES, sampleRate: this.sampleRate, magnitude: new Float64Array(FRAMES / 2), phase: new Float64Array(FRAMES / 2), groupDelay: new Float64Array(FRAMES / 2) }
    params.shape(lanes)
    params.set(values, lanes)
    params.reset()
    processor.take?.(data)
    processor.reset()
    for (let at = 0; at < FRAMES + this.latency; at += BLOCK) {
      io.in.left.fill(0)
      io.in.right.fill(0)
      if (at === 0) io.in.left[0] = io.in.right[0] = STRUCK
      processor.process(io, params.blocks as never)
      for (let i = 0; i < BLOCK; i++) {
        const k = at + i - this.latency
        if (k < 0 || k >= FRAMES) continue
        const h = io.out.left[i] / STRUCK
        re[k] = h
        rampRe[k] = k * h
      }
    }
    im.fill(0)
    rampIm.fill(0)
    this.fft.forward(re, im)
    this.fft.forward(rampRe, rampIm)
    for (let k = 0; k < FRAMES / 2; k++) {
      const power = re[k] * re[k] + im[k] * im[k]
      out.magnitude[k] = Math.sqrt(power)
      out.phase[k] = angle(re[k], im[k])
      // group delay by the transform of the ramped response (Smith, Introduction to Digital Filters, 2007)
      out.groupDelay[k] = power > 1e-12 ? (rampRe[k] * re[k] + rampIm[k] * im[k]) / power / this.sampleRate : 0
    }
    return out
  }
}

function angle(re: number, im: number): number {
  if (re === 0) return im > 0 ? PI / 2 : im < 0 ? -PI / 2 : 0
  const a = atan(im / re)
  return re > 0 ? a : im >= 0 ? a + PI : a - PI
}
