import { exp2, exp2Block, tanPi } from '../dsp/math'
import { HIGHEST_SHARE, tangents } from '../dsp/tangents'
import { boost, choice, hertz, number, percent } from '../units/parameter'
import { BLOCK, type ParamBlock, type ParamBlocks, type StereoBlock } from '../contract/block'
import { type EffectBlock, type EffectProcessor, defineEffect } from '../contract/effect'

/**
 * Fixed resonance of the second stage of 24 dB/oct and the factor on the first: together a Butterworth at Q
 * 0.707.
 */
export const SECOND_STAGE_Q = 0.541196
export const FIRST_STAGE_FACTOR = 1.306563 / 0.707107

const params = {
  cutoff: hertz('Cutoff', { min: 20, max: 20_000, default: 1000, tip: 'Corner or centre frequency' }),
  resonance: number('Resonance', {
    min: 0.3,
    max: 40,
    default: 0.7071,
    law: 'log',
    tip: 'Q: height and width of the peak',
  }),
  shape: number('Shape', {
    min: 0,
    max: 3,
    default: 0,
    places: ['low', 'band', 'high', 'notch'],
    tip: 'Morphs from low-pass through band-pass and high-pass to notch',
  }),
  slope: choice('Slope', ['12 dB/oct', '24 dB/oct'], 0, 'Steepness of the filter'),
  drive: boost('Drive', {
    min: 0,
    max: 36,
    default: 0,
    tip: 'Saturation inside the filter; none at 0 dB',
  }),
  spread: percent('Spread', {
    min: -1,
    default: 0,
    tip: 'Moves the left cutoff down and the right one up, by up to an octave each',
  }),
  output: boost('Output', { min: -24, max: 24, default: 0, tip: 'Output level' }),
}

type Params = ParamBlocks<typeof params>

/**
 * State-variable filter by topology-preserving transform (Zavalishin, The Art of VA Filter Design, 2012, ch.
 * 4), in the trapezoidal form that stays stable while its coefficients move at audio rate. The shape glides
 * from low-pass over band-pass and high-pass to notch. With drive, the first integrator saturates. The loops
 * are solved for the next state, since they wait for that; the band and low outputs are means of the state
 * before and after.
 */
export const filter = defineEffect({
  id: 'filter',
  name: 'Filter',
  group: 'filter',
  load: { kB: 41, ns: 165 },
  tip: 'Resonant filter that morphs between low-pass, band-pass, high-pass and notch',
  also: [
    'low-pass',
    'lowpass',
    'high-pass',
    'highpass',
    'band-pass',
    'bandpass',
    'notch',
    'resonant',
    'wah',
    'cutoff',
  ],
  params,
  tail: (v) => Math.max(0.1, (13.2 * v.resonance) / v.cutoff),
  groups: [
    { name: 'Tone', gauges: ['cutoff', 'resonance', 'shape', 'slope'] },
    { name: 'Colour', gauges: ['drive', 'spread'] },
    { name: 'Output', gauges: ['output'] },
  ],
  presets: [
    { name: 'Below the water', tip: 'Dark low-pass', params: { cutoff: 420, resonance: 1.1, slope: 1 } },
    {
      name: 'Telephone to shore',
      tip: 'Narrow band-pass',
      params: { cutoff: 1500, resonance: 1.6, shape: 1, output: 4 },
    },
    {
      name: 'Spray only',
      tip: 'High-pass, treble only',
      params: { cutoff: 1800, shape: 2, resonance: 0.9, output: 6 },
    },
    {
      name: 'Whistling corner',
      tip: 'Strong resonance',
      params: { cutoff: 900, resonance: 9, slope: 1, drive: 6, output: -4 },
    },
    { name: 'Hole in the fog', tip: 'Notch in the mids', params: { cutoff: 700, shape: 3, resonance: 1.2 } },
  ],
  create: ({ sampleRate }) => new FilterProcessor(sampleRate),
})

class FilterProcessor implements EffectProcessor<typeof params> {
  /** v1, v2 of stage one and two, for left and right. */
  private readonly state = new Float64Array(8)
  private readonly leftG = new Float64Array(BLOCK)
  private readonly rightG = new Float64Array(BLOCK)
  private readonly apart = new Float64Array(BLOCK)
  private readonly weights = new Float64Array(4)

  constructor(private readonly sampleRate: number) {}

  reset(): void {
    this.state.fill(0)
  }

  process({ in: input, out }: EffectBlock, p: Params): void {
    const { leftG, rightG } = this
    const isDriven = !p.drive.constant || p.drive.value > 1
    const keepsShape = !isDriven && p.resonance.constant && p.shape.constant && p.output.constant
    if (keepsShape && p.cutoff.constant && p.spread.constant) {
      this.stand(input, out, p)
      return
    }
    if (p.cutoff.constant && p.spread.constant) {
      const s = exp2(p.spread.value)
      const f = p.cutoff.value / this.sampleRate
      leftG.fill(tanPi(Math.min(HIGHEST_SHARE, f / s)))
      rightG.fill(tanPi(Math.min(HIGHEST_SHARE, f * s)))
    } else this.prewarp(p.cutoff.values(), p.spread)
    const steep = p.slope.value === 1
    const qFactor = steep ? FIRST_STAGE_FACTOR : 1
    if (keepsShape && p.spread.constant && p.spread.value === 0) {
      this.weigh(p.resonance.value * qFactor, p.shape.value, p.output.value)
      this.sweep(input, out, 0)
      if (!steep) return
      this.weigh(SECOND_STAGE_Q, p.shape.value, 1)
      this.sweep(out, out, 4)
      return
    }
    const q = p.resonance.values()
    const shape = p.shape.values()
    const gain = p.output.values()
    const drive = isDriven ? p.drive.values() : unity
    this.move(input.left, out.left, 0, leftG, q, qFactor, 0, shape, drive, isDriven, gain)
    this.move(input.right, out.right, 2, rightG, q, qFactor, 0, shape, drive, isDriven, gain)
    if (!steep) return
    this.move(out.left, out.left, 4, leftG, q, 1, SECOND_STAGE_Q, shape, unity, false, unity)
    this.move(out.right, out.right, 6, rightG, q, 1, SECOND_STAGE_Q, shape, unity, false, unity)
  }

  /** Where nothing moves. */
  private stand(input: StereoBlock, out: StereoBlock, p: Params): void {
    const steep = p.slope.value === 1
    const f = p.cutoff.value / this.sampleRate
    const s = p.spread.value === 0 ? 1 : exp2(p.spread.value)
    const gl = tanPi(Math.min(HIGHEST_SHARE, f / s))
    const gr = tanPi(Math.min(HIGHEST_SHARE, f * s))
    this.weigh(p.resonance.value * (steep ? FIRST_STAGE_FACTOR : 1), p.shape.value, p.output.value)
    this.still(input.left, out.left, 0, gl)
    this.still(input.right, out.right, 2, gr)
    if (!steep) return
    this.weigh(SECOND_STAGE_Q, p.shape.value, 1)
    this.still(out.left, out.left, 4, gl)
    this.still(out.right, out.right, 6, gr)
  }

  private prewarp(cutoff: Float64Array, spread: ParamBlock): void {
    const { leftG, rightG, apart, sampleRate } = this
    if (spread.constant && spread.value === 0) {
      tangents(cutoff, 1 / sampleRate, leftG)
      rightG.set(leftG)
      return
    }
    if (spread.constant) apart.fill(exp2(spread.value))
    else {
      apart.set(spread.buffer)
      exp2Block(apart)
    }
    for (let i = 0; i < BLOCK; i++) {
      leftG[i] = cutoff[i] / apart[i]
      rightG[i] = cutoff[i] * apart[i]
    }
    tangents(leftG, 1 / sampleRate, leftG)
    tangents(rightG, 1 / sampleRate, rightG)
  }

  private still(x: Float32Array, y: Float32Array, at: number, g: number): void {
    const { state, weights } = this
    const k = weights[0],
      m0 = weights[1],
      m1 = 0.5 * weights[2],
      m2 = 0.5 * weights[3]
    const a1 = 2 / (1 + g * (g + k))
    const a2 = g * a1
    const a3 = g * a2
    let s1 = state[at]
    let s2 = state[at + 1]
    for (let i = 0; i < BLOCK; i++) {
      const v0 = x[i]
      const v3 = v0 - s2
      const n1 = (a1 - 1) * s1 + a2 * v3
      const n2 = s2 + a2 * s1 + a3 * v3
      y[i] = m0 * v0 + m1 * (s1 + n1) + m2 * (s2 + n2)
      s1 = n1
      s2 = n2
    }
    state[at] = s1 > 1e-18 || s1 < -1e-18 ? s1 : 0
    state[at + 1] = s2 > 1e-18 || s2 < -1e-18 ? s2 : 0
  }

  private move(
    x: Float32Array,
    y: Float32Array,
    at: number,
    g: Float64Array,
    q: Float64Array,
    qFactor: number,
    fixedQ: number,
    shape: Float64Array,
    drive: Float64Array,
    driven: boolean,
    out: Float64Array,
  ): void {
    const { state } = this
    let s1 = state[at]
    let s2 = state[at + 1]
    let lastDrive = NaN
    let back = 1
    for (let i = 0; i < BLOCK; i++) {
      const k = fixedQ > 0 ? 1 / fixedQ : 1 / (q[i] * qFactor)
      const gi = g[i]
      const a1 = 2 / (1 + gi * (gi + k))
      const a2 = gi * a1
      const d = drive[i]
      if (d !== lastDrive) {
        lastDrive = d
        back = 1 / Math.sqrt(d)
      }
      const v0 = x[i] * d
      const v3 = v0 - s2
      const n1 = (a1 - 1) * s1 + a2 * v3
      const n2 = s2 + a2 * s1 + gi * a2 * v3
      const v1 = 0.5 * (s1 + n1)
      const v2 = 0.5 * (s2 + n2)
      s1 = n1
      s2 = n2
      if (driven) s1 = s1 / Math.sqrt(1 + s1 * s1 * 0.25)
      const bp = k * v1
      const hp = v0 - bp - v2
      const sh = shape[i]
      const mix = sh <= 1 ? v2 + sh * (bp - v2) : sh <= 2 ? bp + (sh - 1) * (hp - bp) : hp + (sh - 2) * v2
      y[i] = mix * out[i] * back
    }
    state[at] = s1 > 1e-18 || s1 < -1e-18 ? s1 : 0
    state[at + 1] = s2 > 1e-18 || s2 < -1e-18 ? s2 : 0
  }

  /**
   * Both channels at one moving cutoff, with the weights of v0, v1, v2 standing still: what a sweep mostly
   * is.
   */
  private sweep(input: StereoBlock, out: StereoBlock, at: number): void {
    const { state, weights, leftG: g } = this
    const { left: inL, right: inR } = input
    const { left: outL, right: outR } = out
    const k = weights[0],
      m0 = weights[1],
      m1 = 0.5 * weights[2],
      m2 = 0.5 * weights[3]
    let l1 = state[at],
      l2 = state[at + 1],
      r1 = state[at + 2],
      r2 = state[at + 3]
    for (let i = 0; i < BLOCK; i++) {
      const gi = g[i]
      const a1 = 2 / (1 + gi * (gi + k))
      const a2 = gi * a1
      const a3 = gi * a2
      const x = inL[i]
      const y = inR[i]
      const lv = x - l2
      const rv = y - r2
      const ln1 = (a1 - 1) * l1 + a2 * lv
      const rn1 = (a1 - 1) * r1 + a2 * rv
      const ln2 = l2 + a2 * l1 + a3 * lv
      const rn2 = r2 + a2 * r1 + a3 * rv
      outL[i] = m0 * x + m1 * (l1 + ln1) + m2 * (l2 + ln2)
      outR[i] = m0 * y + m1 * (r1 + rn1) + m2 * (r2 + rn2)
      l1 = ln1
      l2 = ln2
      r1 = rn1
      r2 = rn2
    }
    state[at] = l1 > 1e-18 || l1 < -1e-18 ? l1 : 0
    state[at + 1] = l2 > 1e-18 || l2 < -1e-18 ? l2 : 0
    state[at + 2] = r1 > 1e-18 || r1 < -1e-18 ? r1 : 0
    state[at + 3] = r2 > 1e-18 || r2 < -1e-18 ? r2 : 0
  }

  /** 1/Q and the weights of v0, v1, v2 for a shape between its neighbours and an output gain. */
  private weigh(q: number, shape: number, gain: number): void {
    const { weights } = this
    const k = 1 / q
    const lo = shape <= 1 ? 1 - shape : shape > 2 ? shape - 2 : 0
    const bp = shape <= 1 ? shape : shape <= 2 ? 2 - shape : 0
    const hi = shape <= 1 ? 0 : shape <= 2 ? shape - 1 : 1
    weights[0] = k
    weights[1] = gain * hi
    weights[2] = gain * k * (bp - hi)
    weights[3] = gain * (lo - hi)
  }
}

const unity = new Float64Array(BLOCK).fill(1)
