import { describe, expect, it } from 'vitest'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { TruePeakMeter } from '@oleaje/core/dsp/true-peak'
import { RATE, db, noise, sine } from './rig'

function measure(parts: [number, number][]): LoudnessMeter {
  const m = new LoudnessMeter(RATE)
  for (const [level, seconds] of parts) {
    const x = sine(1000, seconds, 10 ** (level / 20))
    m.process(x, x)
  }
  return m
}

describe('loudness: the synthetic cases of EBU Tech 3341', () => {
  it.each<[string, [number, number][], number]>([
    ['1: −23 dBFS for 20 s', [[-23, 20]], -23],
    ['2: −33 dBFS for 20 s', [[-33, 20]], -33],
    [
      '3: −36, −23, −36',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      '4: −72, −36, −23, −36, −72',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      '5: −26, −20, −26',
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ])('case %s', (_name, parts, wanted) =>
    expect(Math.abs(measure(parts).integrated - wanted)).toBeLessThan(0.1),
  )
  it('momentary and short-term of a steady tone', () => {
    const m = measure([[-23, 4]])
    expect(m.momentary).toBeCloseTo(-23, 1)
    expect(m.shortTerm).toBeCloseTo(-23, 1)
    expect(new LoudnessMeter(RATE).integrated).toBe(-120)
  })
  it('is the same however the sound is cut up', () => {
    const x = noise(2, 3, 0.3),
      y = noise(2, 4, 0.1)
    const whole = new LoudnessMeter(RATE),
      cut = new LoudnessMeter(RATE)
    whole.process(x, y)
    const lengths = [128, 1, 777, 4800, 128, 9601, 64]
    for (let at = 0, k = 0; at < x.length; k++) {
      const end = Math.min(x.length, at + lengths[k % lengths.length]!)
      cut.process(x.subarray(at, end), y.subarray(at, end))
      at = end
    }
    expect(cut.integrated).toBeCloseTo(whole.integrated, 9)
    expect(cut.shortTerm).toBeCloseTo(whole.shortTerm, 9)
    expect(cut.momentary).toBeCloseTo(whole.momentary, 9)
  })
  it('adds up the power of both sides, by channel', () => {
    const x = sine(1000, 4, 0.1)
    const silent = new Float32Array(x.length)
    const both = new LoudnessMeter(RATE),
      left = new LoudnessMeter(RATE),
      right = new LoudnessMeter(RATE)
    both.process(x, x)
    left.process(x, silent)
    right.process(silent, x)
    expect(both.integrated - left.integrated).toBeCloseTo(10 * Math.log10(2), 3)
    expect(right.integrated).toBe(left.integrated)
  })
  it('goes down with the sound: momentary within 0.4 s, short-term within 3, to nothing in silence', () => {
    const m = measure([
      [-20, 4],
      [-200, 0.5],
    ])
    expect(m.momentary).toBeLessThan(-100)
    expect(m.shortTerm).toBeCloseTo(-20 + 10 * Math.log10(25 / 30), 1)
    m.process(new Float32Array(3 * RATE), new Float32Array(3 * RATE))
    expect([m.momentary, m.shortTerm]).toEqual([-120, -120])
    expect(m.integrated).toBeCloseTo(-20, 0)
    m.reset()
    expect([m.momentary, m.shortTerm, m.integrated]).toEqual([-120, -120, -120])
  })
})

it('true peak finds what lies between the samples', () => {
  // a quarter of the sample rate, 45° off: samples reach −3 dB of the peak only
  const x = Float32Array.from({ length: 4800 }, (_, i) => 0.5 * Math.sin((Math.PI * i) / 2 + Math.PI / 4))
  const m = new TruePeakMeter()
  m.process(x)
  expect(Math.abs(db(m.peak / 0.5))).toBeLessThan(0.4)
})

it('true peak is the same however the sound is cut up, and through quiet stretches', () => {
  // louder bursts of what peaks between samples, with much that cannot be a peak before each
  const x = noise(0.5, 6, 0.02)
  for (const [at, level] of [
    [3001, 0.2],
    [9999, 0.5],
    [17_777, 0.8],
  ] as const)
    for (let i = 0; i < 60; i++) x[at + i] = level * Math.sin((Math.PI * i) / 2 + Math.PI / 4)
  // and the highest of all at the start of a block, between two samples, with what came before still in it
  for (let i = -12; i < 2; i++)
    x[160 * 128 + i] = (i < 0 ? 0.33 : 0.99) * Math.sin((Math.PI * i) / 2 + Math.PI / 4)
  const whole = new TruePeakMeter(),
    cut = new TruePeakMeter(),
    short = new TruePeakMeter()
  whole.process(x)
  for (let at = 0; at < x.length; at += 128) cut.process(x.subarray(at, at + 128))
  for (let at = 0; at < x.length; at += 5) short.process(x.subarray(at, at + 5))
  expect(whole.peak).toBeGreaterThan(0.81)
  expect([cut.peak, short.peak]).toEqual([whole.peak, whole.peak])
})
