import { describe, expect, it } from 'vitest'
import { OVERSAMPLER_LATENCY } from '@oleaje/core/dsp/oversampler'
import { CURVES, curveAt } from '@oleaje/core/dsp/antiderivative'
import { compressorCurve, upwardCurve } from '@oleaje/core/effects/compressor'
import { aliasBin, aliasSum, ALIAS_SIZE } from '../../bench/src/aliases'
import { RATE, db, effectRig, noise, peak, rms, sine, spectrumDb, toneAt } from './rig'

/** Sum in dB of what a distortion gives off the harmonics of a full-scale sine. */
function aliases(
  id: string,
  values: Record<string, number>,
  hz: number,
  data: Record<string, unknown> = {},
): number {
  const bin = aliasBin(hz, RATE)
  const x = Float32Array.from({ length: 3 * ALIAS_SIZE }, (_, i) =>
    Math.sin((2 * Math.PI * i * bin) / ALIAS_SIZE),
  )
  return aliasSum(effectRig(id, values, { data }).run(x).left.slice(-ALIAS_SIZE), bin, RATE)
}

describe('Drive', () => {
  it.each(CURVES.map((name, curve) => ({ name, curve })))(
    '$name, also asymmetric, follows its curve at low frequencies and keeps its aliases down',
    ({ curve }) => {
      const asymmetry = 0.4
      const x = sine(400, 0.5, 0.6)
      const { left } = effectRig('drive', { curve, asymmetry, drive: 6, output: 0 }).run(x)
      const wanted = x.map((v) => curveAt(curve, 1 - asymmetry, v * 10 ** (6 / 20)))
      // the mean is blocked, so both are compared without theirs
      const from = 24_000 - 1920
      const mean = (s: Float32Array, at: number): number =>
        s.slice(at, at + 1920).reduce((a, v) => a + v, 0) / 1920
      const [m, w] = [mean(left, from), mean(wanted, from - OVERSAMPLER_LATENCY.short)]
      for (let i = from; i < 24_000; i++)
        expect(Math.abs(left[i]! - m - (wanted[i - OVERSAMPLER_LATENCY.short]! - w))).toBeLessThan(0.02)
      expect(aliases('drive', { curve, drive: 18, output: 0 }, 1200)).toBeLessThan(-100)
      expect(aliases('drive', { curve, drive: 18, output: 0 }, 5000)).toBeLessThan(-100)
      expect(aliases('drive', { curve, asymmetry, drive: 18, output: 0 }, 5000)).toBeLessThan(-95)
    },
  )
  it('each step of the coarse range is 20 dB, and tone before and after shape what goes in and out', () => {
    const level = (v: Record<string, number>, hz = 1000): number =>
      db(
        rms(
          effectRig('drive', { drive: 0, output: 0, ...v })
            .run(sine(hz, 0.5, 0.0005))
            .left.slice(12_000),
        ),
      )
    expect(level({ range: 2 }) - level({ range: 1 })).toBeCloseTo(20, 1)
    expect(level({ range: 1 }) - level({ range: 0 })).toBeCloseTo(20, 1)
    expect(level({ before: 1000 }, 1000) - level({})).toBeCloseTo(-3, 0)
    expect(level({ tone: 1000 }, 1000) - level({})).toBeCloseTo(-3, 0)
    expect(level({ lowCut: 500 }, 50) - level({}, 50)).toBeLessThan(-18)
  })
})

describe('Shaper', () => {
  const drawn = {
    points: [
      { x: 0, y: 0.2, bend: 0 },
      { x: 0.5, y: 0.5, bend: 0 },
      { x: 1, y: 0.8, bend: 0 },
    ],
  }
  it('follows what was drawn, straight pieces exactly', () => {
    const x = sine(100, 0.5, 0.8)
    const { left } = effectRig('shaper', { gain: 0, output: 0 }, { data: drawn }).run(x)
    expect(
      Math.abs(db(rms(left.slice(12_000, 24_000)) / rms(x.slice(12_000, 24_000))) - db(0.6)),
    ).toBeLessThan(0.01)
    expect(
      peak(effectRig('shaper', { gain: 24, output: 0 }, { data: drawn }).run(x).left.slice(12_000)),
    ).toBeCloseTo(0.6, 1)
  })
  it('mirrored, it gives odd harmonics alone', () => {
    const steep = {
      points: [
        { x: 0, y: 0.5, bend: 0 },
        { x: 0.5, y: 0.5, bend: -0.6 },
        { x: 1, y: 1, bend: 0 },
      ],
    }
    const n = 32_768
    const hz = ((1000 * RATE) / n) * Math.round(n / 1000 / 40)
    const tones = (mirror: number): Float64Array =>
      spectrumDb(
        effectRig('shaper', { gain: 0, output: 0, mirror }, { data: steep })
          .run(sine(hz, 1, 0.9))
          .left.slice(8000, 8000 + n),
      )
    const k = Math.round((hz * n) / RATE)
    expect(tones(1)[2 * k]! - tones(1)[k]!).toBeLessThan(-80)
    expect(tones(0)[2 * k]! - tones(0)[k]!).toBeGreaterThan(-30)
  })
  it('keeps its aliases below −100 dB as it comes, and those of a drawn corner at its best', () => {
    const corner = {
      points: [
        { x: 0, y: 0.5, bend: 0 },
        { x: 0.4, y: 0.3, bend: 0 },
        { x: 0.41, y: 0.8, bend: 0 },
        { x: 1, y: 0.9, bend: 0 },
      ],
    }
    for (const hz of [1200, 5000]) {
      expect(aliases('shaper', { gain: 18, output: 0 }, hz)).toBeLessThan(-100)
      expect(aliases('shaper', { gain: 18, output: 0 }, hz, corner)).toBeLessThan(-80)
      expect(aliases('shaper', { gain: 18, output: 0, quality: 4 }, hz, corner)).toBeLessThan(-100)
      expect(aliases('shaper', { gain: 18, output: 0, quality: 0 }, hz)).toBeGreaterThan(-45)
    }
  })
  it('takes any data there is, and stands still with none', () => {
    for (const points of [
      null,
      'x',
      [],
      [{ x: 2, y: NaN }],
      Array.from({ length: 20_000 }, () => ({ x: 0.5, y: 9, bend: 4 })),
    ])
      expect(peak(effectRig('shaper', {}, { data: { points } }).run(noise(0.2)).left)).toBeLessThan(3)
  })
})

describe('Crush', () => {
  const SIZE = 32_768
  // lines that the lower rate itself makes lie on multiples of this many bins; those of our own rate, at
  // other places
  const GRID = 60
  /**
   * Sum in dB of what is no sum or difference of the sine's harmonics and the lower rate's, below the sine.
   */
  function unpredicted(hz: number, lower: number, values: Record<string, number>): number {
    const [f, r] = [hz, lower].map((v) => Math.round(((v / RATE) * SIZE) / GRID) * GRID) as [number, number]
    const x = Float32Array.from({ length: 2 * SIZE }, (_, i) => Math.sin((2 * Math.PI * i * f) / SIZE))
    return aliasSum(
      effectRig('crush', { rate: (r * RATE) / SIZE, ...values })
        .run(x)
        .left.slice(SIZE),
      f,
      RATE,
      GRID,
    )
  }
  it.each([
    [1200, 3000],
    [1200, 12_000],
    [5000, 12_000],
    [5000, 23_000],
    [5000, 45_500],
  ])(
    'of a full-scale %i Hz at %i samples a second, nothing sounds above −100 dB but what that rate itself makes',
    (hz, lower) => {
      for (const bits of [4, 16]) {
        expect(unpredicted(hz, lower, { bits })).toBeLessThan(-100)
        expect(unpredicted(hz, lower, { bits, quality: 0 })).toBeGreaterThan(-40)
      }
    },
  )
  it('its images have the levels of a signal held at that rate', () => {
    const [f, r] = [1200, 9000]
    const { left } = effectRig('crush', { rate: r, bits: 16 }).run(sine(f, 1, 0.8))
    for (const hz of [f, r - f, r + f, 2 * r - f]) {
      const held = Math.abs(Math.sin((Math.PI * hz) / r) / ((Math.PI * hz) / r))
      expect(db(toneAt(left.slice(4800), hz).amplitude)).toBeCloseTo(db(0.8 * held), 1)
    }
  })
  it('leaves as many steps as it says, at its full rate every sample as it came, late by what it declares', () => {
    const x = sine(100, 0.5)
    const { left, right } = effectRig('crush', { bits: 3, rate: 48_000 }).run(x)
    expect(new Set(left).size).toBeLessThanOrEqual(9)
    const late = effectRig('crush').definition.latency!(RATE, {})
    for (let i = late; i < x.length; i++) expect(right[i]).toBeCloseTo(Math.round(x[i - late]! * 4) / 4, 7)
  })
  it('smooth keeps what folds back out', () => {
    const folds = (smooth: number): number =>
      toneAt(effectRig('crush', { bits: 16, rate: 8000, smooth }).run(sine(7000, 1)).left.slice(4800), 1000)
        .amplitude
    expect(folds(1)).toBeLessThan(0.3 * folds(0))
  })
})

describe('Compressor, below its threshold and beside it', () => {
  const level = (values: Record<string, number>, dbIn: number): number =>
    db(
      Math.SQRT2 *
        rms(
          effectRig('compressor', { attack: 0.001, release: 0.005, detector: 1, ...values })
            .run(sine(1000, 1, 10 ** (dbIn / 20)))
            .left.slice(24_000, 48_000),
        ),
    )
  it('turns up what is quiet by its static curve, and leaves noise below the floor', () => {
    for (const dbIn of [-20, -40, -50, -60]) {
      const rmsIn = dbIn - 3.01
      expect(level({ ratio: 1, upThreshold: -30, upRatio: 3 }, dbIn) - dbIn).toBeCloseTo(
        upwardCurve(rmsIn, -30, 3),
        0,
      )
    }
    expect(upwardCurve(-90, -30, 3)).toBe(0)
    expect(upwardCurve(-55, -20, 10)).toBe(24)
    expect(compressorCurve(-10, -20, 4, 0)).toBeCloseTo(-7.5, 6)
  })
  it('parallel lays the sound as it came beside the compressed one', () => {
    const squeezed = level({ threshold: -40, ratio: 40, knee: 0 }, -6)
    const both = level({ threshold: -40, ratio: 40, knee: 0, parallel: -6 }, -6)
    expect(10 ** (both / 20)).toBeCloseTo(10 ** (squeezed / 20) + 10 ** (-12 / 20), 2)
  })
  it('look-ahead turns down before the hit comes, and declares its latency', () => {
    const x = new Float32Array(RATE / 2)
    x.set(sine(1000, 0.25, 0.9), RATE / 4)
    const over = (ahead: number): number =>
      peak(
        effectRig('compressor', { threshold: -30, ratio: 40, knee: 0, attack: 0.001, ahead })
          .run(x)
          .left.slice(RATE / 4, RATE / 4 + 480),
      )
    expect(over(3)).toBeLessThan(0.5 * over(0))
    expect(effectRig('compressor', { ahead: 2 }).definition.latency?.(RATE, { ahead: 2 })).toBe(144)
  })
})

it('a Shaper whose offset begins to move, and stands still again, makes no sound of its own', () => {
  const points = [0, 0.4, 1].map((x, k) => ({ x, y: [0.1, 0.9, 0.7][k]!, bend: 0 }))
  const { params, run } = effectRig('shaper', { offset: 0.3, gain: 0 }, { data: { points } })
  const { offset } = params.blocks
  const { left } = run(new Float32Array(RATE), undefined, (at) => {
    // moved for a while, to where it was
    if (at < 0.37 * RATE || at > 0.61 * RATE) offset!.hold(0.3)
    else {
      offset!.buffer.fill(0.3)
      offset!.move()
    }
  })
  expect(db(peak(left.subarray(0.3 * RATE)))).toBeLessThan(-90)
})
