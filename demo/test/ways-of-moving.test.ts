import { BLOCK } from '@oleaje/core/contract/block'
import { updateLink } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Project } from '@oleaje/core/project/schema'
import { describe, expect, it } from 'vitest'
import { edited } from '../../core/test/project-rig'
import { RATE, db, spectrumDb } from '../../core/test/rig'
import { alone, demoProject, demoSound, record } from './demo-rig'

const studies = demoProject('motion-studies')

/**
 * Seconds from `start` until the signal, in the unit of `of`, has covered the share 1 − 1/e of the way from
 * `a` to `b`.
 */
function timeOf(
  signal: ArrayLike<number>,
  start: number,
  rate: number,
  a: number,
  b: number,
  of: (v: number) => number = (v) => v,
): number {
  const goal = a + (b - a) * (1 - Math.exp(-1))
  let i = Math.round(start * rate)
  const from = i
  while (i < signal.length && of(signal[i] ?? 0) < goal === a < b) i++
  return (i - from) / rate
}

const steady = (seconds: number, on: readonly [number, number], level: number): Float32Array =>
  Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) =>
    i >= on[0] * RATE && i < on[1] * RATE ? level : 0,
  )

describe('ducking, on the demo’s own chain', () => {
  // a bass that stands still, so that what is heard is the ducking alone; the kit strikes once, for half a
  // second
  const sounds = { 'ducking': steady(4, [0, 4], 0.25), 'study-kit': steady(4, [1, 1.5], 1) }
  const gauge = (name: string): number =>
    studies.tracks.flatMap((t) => t.modulators).find((m) => m.id === 'duck')?.params[name] ?? NaN

  it('attack and release on the output are what the gauges say, within 5 %, and the range is as typed', () => {
    const { left, latency } = record(alone(studies, 'ducking', 'study-kit'), 3.5, { sounds })
    const rest = db(left[Math.round(0.99 * RATE)] ?? 0)
    const down = db(left[Math.round(1.49 * RATE)] ?? 0)
    expect(down - rest).toBeCloseTo(-12, 1)
    expect(db(left[Math.round(3.4 * RATE)] ?? 0) - rest).toBeCloseTo(0, 1)
    expect(Math.abs(timeOf(left, 1 + latency, RATE, rest, down, db) / gauge('attack') - 1)).toBeLessThan(0.05)
    expect(Math.abs(timeOf(left, 1.5 + latency, RATE, down, rest, db) / gauge('release') - 1)).toBeLessThan(
      0.05,
    )
  })
  it('the filter goes from where it is set to where it was typed', () => {
    const { values } = record(alone(studies, 'ducking', 'study-kit'), 2, {
      sounds,
      key: 'live:duck-filter.cutoff',
    })
    const hertz = values.map((v) => 20 * 1000 ** v)
    expect(hertz[Math.round((0.9 * RATE) / BLOCK)]).toBeCloseTo(520, 0)
    expect(Math.max(...hertz) / 1500).toBeCloseTo(1, 2)
  })
})

describe('the guitar that answers, on the demo’s own chain', () => {
  const p = alone(studies, 'answer')
  const touch = (name: string): number =>
    studies.tracks.flatMap((t) => t.modulators).find((m) => m.id === 'touch')?.params[name] ?? NaN
  const key = 'live:answer-filter.cutoff'
  const at = (values: number[], seconds: number): number =>
    values[Math.round((seconds * RATE) / BLOCK)] ?? NaN

  it('opens as far as its amount says and closes in its own time', () => {
    const struck = steady(4, [1, 1.5], 0.5)
    const { values } = record(p, 3.5, { input: struck, key })
    const hertz = values.map((v) => 20 * 1000 ** v)
    expect(at(hertz, 0.9)).toBeCloseTo(480, 0)
    expect(at(hertz, 1.45) / 3200).toBeCloseTo(1, 2)
    expect(
      Math.abs(timeOf(values, 1.5, RATE / BLOCK, at(values, 1.49), at(values, 0.9)) / touch('release') - 1),
    ).toBeLessThan(0.05)
    const half = record(edited(p, updateLink('to-answer-filter-cutoff', { amount: 0.5 })), 2, {
      input: struck,
      key,
    }).values
    expect((at(half, 1.45) - at(half, 0.9)) / (at(values, 1.45) - at(values, 0.9))).toBeCloseTo(0.5, 2)
    const slow = record(edited(p, setParam('touch', 'release', 0.5)), 3.5, { input: struck, key }).values
    expect(Math.abs(timeOf(slow, 1.5, RATE / BLOCK, at(slow, 1.49), at(slow, 0.9)) / 0.5 - 1)).toBeLessThan(
      0.05,
    )
  })
  it('what is played harder sounds brighter, and more so than through a filter that stands still', () => {
    const line = demoSound('line-in')
    const input = Float32Array.from({ length: 8 * RATE }, (_, i) => line[i % line.length] ?? 0)
    const n = 4096
    /**
     * How brightness in octaves goes with loudness in dB over the performance: the slope of the line through
     * both.
     */
    const answer = (project: Project): number => {
      const { left } = record(project, 5, { input })
      const points: [number, number][] = []
      for (let start = RATE / 2; start + n < left.length; start += n) {
        const level = db(Math.sqrt(input.subarray(start, start + n).reduce((s, v) => s + v * v, 0) / n))
        if (level < -50) continue
        const bins = spectrumDb(left.subarray(start, start + n))
        let sum = 0
        let weight = 0
        bins.forEach((v, i) => {
          sum += 10 ** (v / 20) * i
          weight += 10 ** (v / 20)
        })
        points.push([level, Math.log2(((sum / weight) * RATE) / n)])
      }
      const mean = (k: 0 | 1): number => points.reduce((s, q) => s + q[k], 0) / points.length
      const [mx, my] = [mean(0), mean(1)]
      return (
        points.reduce((s, q) => s + (q[0] - mx) * (q[1] - my), 0) /
        points.reduce((s, q) => s + (q[0] - mx) ** 2, 0)
      )
    }
    const answering = answer(p)
    expect(answering).toBeGreaterThan(0.03)
    expect(answering).toBeGreaterThan(
      1.5 * Math.abs(answer(edited(p, updateLink('to-answer-filter-cutoff', { on: false })))),
    )
  })
})
