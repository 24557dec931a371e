import { describe, expect, it } from 'vitest'
import { RunningMinimum } from '@oleaje/core/dsp/running-minimum'
import { TruePeakMeter } from '@oleaje/core/dsp/true-peak'
import { newEffect } from '@oleaje/core/project/new'
import { play, projectOf } from './project-rig'
import { RATE, db, noise, sine } from './rig'

/**
 * A detector written apart from core's: eight phases of 64 taps each, straight from the formula of a
 * Kaiser-windowed sinc with β = 9.
 */
function truePeakOf(x: ArrayLike<number>): number {
  const bessel = (v: number): number => {
    let sum = 1,
      term = 1
    for (let k = 1; k < 50; k++) sum += term *= (v / 2 / k) ** 2
    return sum
  }
  const rows = Array.from({ length: 8 }, (_, p) => {
    const row = Array.from({ length: 64 }, (_, k) => {
      const t = k - 31 - p / 8
      return (
        ((t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t)) *
          bessel(9 * Math.sqrt(Math.max(0, 1 - (t / 32) ** 2)))) /
        bessel(9)
      )
    })
    const sum = row.reduce((a, b) => a + b, 0)
    return row.map((w) => w / sum)
  })
  let peak = 0
  for (let i = 32; i + 33 < x.length; i++) {
    for (const row of rows) {
      let y = 0
      for (let k = 0; k < 64; k++) y += row[k]! * x[i - 31 + k]!
      peak = Math.max(peak, Math.abs(y))
    }
  }
  return peak
}

/** Noise without what lies above 20 kHz, by a long windowed sinc. */
function to20k(x: Float32Array): Float32Array {
  const half = 300
  const h = Array.from({ length: 2 * half + 1 }, (_, k) => {
    const t = k - half
    const c = (2 * 20_000) / RATE
    return (
      (t === 0 ? c : Math.sin(Math.PI * c * t) / (Math.PI * t)) *
      (0.42 + 0.5 * Math.cos((Math.PI * t) / half) + 0.08 * Math.cos((2 * Math.PI * t) / half))
    )
  })
  return x.map((_, i) => h.reduce((s, w, k) => s + w * (x[i + k - half] ?? 0), 0))
}

const limited = (x: Float32Array, params: Record<string, number>): Float32Array =>
  play(projectOf(x, [newEffect('limiter', params, 'l')]), x.length / RATE).left

describe('the limiter, by a detector of its own kind written apart', () => {
  const full = noise(0.61, 5, 0.9)
  it.each([
    [12, -1, 0.08],
    [19, -3.3, 0.01],
    [7, 0, 0.5],
  ])(
    'passes its ceiling by at most 0.1 dB on noise to 20 kHz: gain %d dB, ceiling %d dB',
    (gain, ceiling, release) => {
      expect(db(truePeakOf(limited(to20k(full), { gain, ceiling, release }))) - ceiling).toBeLessThan(0.1)
    },
  )
  it.each([
    [12, -1, 0.08],
    [19, -3.3, 0.01],
  ])('and by at most 0.5 dB on full-band noise: gain %d dB, ceiling %d dB', (gain, ceiling, release) => {
    expect(db(truePeakOf(limited(full, { gain, ceiling, release }))) - ceiling).toBeLessThan(0.5)
  })
  it('keeps to it on tones whose samples miss their peaks, and comes within half a decibel of it', () => {
    for (const hz of [311, 7919, 11_997, 16_001]) {
      const over = db(truePeakOf(limited(sine(hz, 0.4, 0.9), { gain: 9, ceiling: -2 }).subarray(9600))) + 2
      expect(over).toBeLessThan(0.1)
      expect(over).toBeGreaterThan(-0.5)
    }
  })
})

describe('the true-peak meter', () => {
  it.each([
    ['full-band noise', noise(0.3, 8, 0.7), 0.5],
    ['noise to 20 kHz', to20k(noise(0.3, 9, 0.7)), 0.1],
    [
      'a tone of 11.9 kHz that swells',
      sine(11_900, 0.3, 0.6).map((v, i) => v * Math.sin((Math.PI * i) / 14_400) ** 2),
      0.02,
    ],
  ] as const)('agrees with it on %s', (_, x, within) => {
    const meter = new TruePeakMeter()
    meter.process(x)
    expect(Math.abs(db(meter.peak / truePeakOf(x)))).toBeLessThan(within)
  })
})

it('a running minimum is that of its window, over blocks of any length', () => {
  for (const window of [1, 2, 31, 74]) {
    const x = Float64Array.from(noise(0.03, window))
    const minimum = new RunningMinimum(window)
    const y: number[] = []
    for (let at = 0; at < x.length; at += 97) {
      const piece = x.slice(at, at + 97)
      minimum.process(piece, piece)
      y.push(...piece)
    }
    y.forEach((v, i) => {
      expect(v).toBe(Math.min(...x.slice(Math.max(0, i - window + 1), i + 1)))
    })
  }
})
