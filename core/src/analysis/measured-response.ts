import { Fft } from '../dsp/fft'
import { angleOf } from '../dsp/math'
import type { EffectDefinition } from '../contract/effect'
import { BLOCK, noteBlock, songBlock, stereoBlock } from '../contract/block'
import { ParamSet } from '../engine/param-set'
import type { LaneValues } from '../units/lane'

/** Frames of impulse response that are taken. */
export const FRAMES = 4096

/** Height of the impulse: low enough for what saturates near full scale. */
export const STRUCK = 0.25

/**
 * What a linear effect does to each frequency. Arrays of half the frames; bin k lies at k · sampleRate /
 * frames.
 */
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
 * Measures the left channel of an effect by an impulse through its own processor, so that what is drawn is
 * what is heard. One for each effect that is looked at; it is used again for every measurement.
 */
export class ResponseMeter {
  private readonly processor: ReturnType<EffectDefinition['create']>
  private readonly params: ParamSet
  private readonly io
  private readonly transform = new ResponseTransform()
  private readonly latency: number

  constructor(
    definition: EffectDefinition,
    private readonly sampleRate: number,
  ) {
    this.params = new ParamSet(definition.params, {}, sampleRate, definition.lanes)
    this.processor = definition.create({ sampleRate, seed: 1 })
    this.latency = definition.latency?.(sampleRate) ?? 0
    const input = stereoBlock()
    const song = songBlock()
    song.beatsPerFrame = 2 / sampleRate
    this.io = {
      in: input,
      out: stereoBlock(),
      side: input,
      song,
      notes: noteBlock(),
      lanes: this.params.laneBlocks,
    }
  }

  /** Measures with these values, which stand still; writes over what it gave before where `into` is that. */
  measure(
    values: Readonly<Record<string, number>>,
    lanes?: LaneValues,
    data: Readonly<Record<string, unknown>> = {},
    into?: MeasuredResponse,
  ): MeasuredResponse {
    const { params, processor, io, transform } = this
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
        transform.impulse[k] = io.out.left[i] / STRUCK
      }
    }
    return transform.response(this.sampleRate, into)
  }
}

/** From an impulse response to what it does to each frequency. */
export class ResponseTransform {
  /** To be filled before {@link response}. */
  readonly impulse = new Float64Array(FRAMES)
  private readonly fft = new Fft(FRAMES)
  private readonly re = new Float64Array(FRAMES)
  private readonly im = new Float64Array(FRAMES)
  private readonly rampRe = new Float64Array(FRAMES)
  private readonly rampIm = new Float64Array(FRAMES)

  response(sampleRate: number, into?: MeasuredResponse): MeasuredResponse {
    const { re, im, rampRe, rampIm, impulse } = this
    const out = into ?? {
      frames: FRAMES,
      sampleRate,
      magnitude: new Float64Array(FRAMES / 2),
      phase: new Float64Array(FRAMES / 2),
      groupDelay: new Float64Array(FRAMES / 2),
    }
    for (let k = 0; k < FRAMES; k++) {
      re[k] = impulse[k]
      rampRe[k] = k * impulse[k]
    }
    im.fill(0)
    rampIm.fill(0)
    this.fft.forward(re, im)
    this.fft.forward(rampRe, rampIm)
    for (let k = 0; k < FRAMES / 2; k++) {
      const power = re[k] * re[k] + im[k] * im[k]
      out.magnitude[k] = Math.sqrt(power)
      out.phase[k] = angleOf(re[k], im[k])
      // group delay by the transform of the ramped response (Smith, Introduction to Digital Filters, 2007)
      out.groupDelay[k] = power > 1e-12 ? (rampRe[k] * re[k] + rampIm[k] * im[k]) / power / sampleRate : 0
    }
    return out
  }
}
