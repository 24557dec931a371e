import { describe, expect, it } from 'vitest'
import { LoudnessMeter } from '@oleaje/core/analysis/loudness'
import { TruePeakMeter } from '@oleaje/core/analysis/true-peak'
import { RATE, db, sine } from './rig'

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
    ['3: −36, −23, −36', [[-36, 10], [-23, 60], [-36, 10]], -23],
    ['4: −72, −36, −23, −36, −72', [[-72, 10], [-36, 10], [-23, 60], [-36, 10], [-72, 10]], -23],
    ['5: −26, −20, −26', [[-26, 20], [-20, 20.1], [-26, 20]], -23],
  ])('case %s', (_name, parts, wanted) => expect(Math.abs(measure(parts).integrated - wanted)).toBeLessThan(0.1))
  it('momentary and short-term of a steady tone', () => {
    const m = measure([[-23, 4]])
    expect(m.momentary).toBeCloseTo(-23, 1)
    expect(m.shortTerm).toBeCloseTo(-23, 1)
    expect(new LoudnessMeter(RATE).integrated).toBe(-120)
  })
})

it('true peak finds what lies between the samples', () => {
  // a quarter of the sample rate, 45° off: samples reach −3 dB of the peak only
  const x = Float32Array.from({ length: 4800 }, (_, i) => 0.5 * Math.sin(Math.PI * i / 2 + Math.PI / 4))
  const m = new TruePeakMeter()
  m.process(x)
  expect(Math.abs(db(m.peak / 0.5))).toBeLessThan(0.4)
})
