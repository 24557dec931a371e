import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { effectDefinition } from '@oleaje/core/effects/index'
import { toNormalized } from '@oleaje/core/units/scale'
import { newEffect } from '@oleaje/core/project/new'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from '../project-rig'
import { RATE, peak, sine, spectrumDb, toneAt } from '../rig'
import { drift, through } from './time-rig'

const sliceSpec = effectDefinition('stutter')!.params.slice!

describe('Stutter', () => {
  const row = (on: number[]): { steps: Record<string, number>[] } => ({ steps: on.map((v) => ({ on: v })) })
  /** A loop in which each time has its own pitch: where a sound was taken from can be told from it. */
  const ramp = Float32Array.from(
    { length: 6 * RATE },
    (_, i) => 0.4 * Math.sin(2 * Math.PI * ((200 * i) / RATE + 50 * (i / RATE) ** 2)),
  )
  it('closed, passes the sound as it is, to the bit', () => {
    const { left } = through(ramp, [{ ...newEffect('stutter', {}, 's'), lanes: row([0, 0]) }], 2)
    for (let i = 0; i < left.length; i++) if (left[i] !== ramp[i]) throw new Error(`differs at ${i}`)
  })
  it('repeats the slice that begins with the gate, at speed 1', () => {
    // a step is a beat of half a second; the gate opens at 0.5 s
    const { left } = through(
      ramp,
      [{ ...newEffect('stutter', { stepLength: 1, sync: 0, slice: 0.0531 }, 's'), lanes: row([0, 1, 0, 0]) }],
      1.4,
    )
    const at = Math.round(0.5 * RATE)
    // not a whole number of samples: passes follow each other without drifting
    const n = 0.0531 * RATE
    const value = (t: number): number => 0.4 * Math.sin(2 * Math.PI * (200 * t + 50 * t ** 2))
    for (let k = 1; k < 8; k++)
      for (let j = Math.ceil(k * n) + 300; j < (k + 1) * n - 10; j++) {
        const wanted = value((at + j - k * n) / RATE)
        if (Math.abs(left[at + j]! - wanted) > 3e-3)
          throw new Error(`pass ${k} differs at ${j}: ${left[at + j]} ${wanted}`)
      }
    for (let i = Math.round(1.02 * RATE); i < 1.3 * RATE; i++) expect(left[i]).toBe(ramp[i])
  })
  it.each([
    [0.84, 5],
    [1.3, 5],
    [0.5, 3],
    [-0.9, 4],
  ])('with the return after the speed, pass k plays at the k-th power of %d', (speed, last) => {
    const hz = 1503
    const slice = 0.2
    const { left } = through(
      sine(hz, 4, 0.4),
      [{ ...newEffect('stutter', { by: 2, hold: 1, sync: 0, slice, speed, point: 1, fade: 0.002 }, 's') }],
      3,
    )
    let at = slice
    for (let k = 1; k <= last; k++) {
      const power = Math.abs(speed) ** k
      const length = slice / Math.max(1, power)
      const from = Math.round((at + 0.15 * length) * RATE),
        to = Math.round((at + 0.85 * length) * RATE)
      const expected = hz * power
      // frequency by phase from the first third to the last
      const part = Math.floor((to - from) / 2)
      const phase = (f: number): number =>
        toneAt(
          left.subarray(f, f + part).map((v, i) => v * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / part))),
          expected,
        ).phase
      let d = (phase(from + part) - phase(from)) / (2 * Math.PI) - (expected * part) / RATE
      d -= Math.round(d)
      expect(Math.abs((d * RATE) / part / expected), `pass ${k}`).toBeLessThan(0.001)
      at += length
    }
  })
  it('zero slice switches repeating off while speed acts', () => {
    const { left } = through(
      sine(1000, 3, 0.4),
      [newEffect('stutter', { by: 2, hold: 1, sync: 0, slice: 0, speed: 0.5 }, 's')],
      2,
    )
    expect(Math.abs(drift(left, 500, RATE / 2, 1))).toBeLessThan(0.5)
  })
  it('follows an envelope on its slice: passes come closer as it falls', () => {
    // a click in each slice, so that passes can be counted
    const clicks = new Float64Array(6 * RATE).map((_, i) => (i % Math.round(0.4 * RATE) === 2000 ? 0.8 : 0))
    const stutter = { ...newEffect('stutter', { by: 2, hold: 1, sync: 0, slice: 0.4, fade: 0.001 }, 's') }
    const { left } = through(Float32Array.from(clicks), [stutter], 4, (p) =>
      edited(
        p,
        addModulator('t', 'envelope', {
          id: 'env',
          params: { trigger: 2, every: 64, attack: 0.001, decay: 3, sustain: 0 },
        }),
        addLink(
          'env',
          { owner: 's', param: 'slice' },
          toNormalized(sliceSpec, 0.05),
          toNormalized(sliceSpec, 0.4),
          { mode: 'fixed' },
        ),
      ),
    )
    const at: number[] = []
    for (let i = 1; i < left.length; i++)
      if (Math.abs(left[i]!) > 0.3 && (at.length === 0 || i - at.at(-1)! > 500)) at.push(i)
    const gaps = at.slice(1).map((v, i) => (v - at[i]!) / RATE)
    expect(gaps.length).toBeGreaterThan(8)
    expect(Math.max(...gaps.slice(-4))).toBeLessThan(0.5 * Math.max(...gaps.slice(0, 2)))
  })
  it('entering and leaving adds no step', () => {
    const x = sine(311, 4, 0.4)
    for (const o of [{ speed: 1 }, { speed: 0.5 }, { speed: -1 }, { speed: 2 }, { take: 1 }] as Record<
      string,
      number
    >[]) {
      const { left } = through(
        x,
        [
          {
            ...newEffect('stutter', { stepLength: 0.5, sync: 0, slice: 0.071, ...o }, 's'),
            lanes: row([0, 1, 0, 1, 1, 0]),
          },
        ],
        3,
      )
      let most = 0
      for (let i = 2; i < left.length; i++)
        most = Math.max(most, Math.abs(left[i]! - 2 * left[i - 1]! + left[i - 2]!))
      const own = 0.4 * ((2 * Math.PI * 311 * Math.max(1, Math.abs(o.speed ?? 1))) / RATE) ** 2
      expect(most, JSON.stringify(o)).toBeLessThan(own + 0.001)
    }
  })
  it.each([4, -4, 2.7])('aliases stay below −60 dB at %d times the speed', (speed) => {
    const { left } = through(
      sine(9011, 3, 0.5),
      [newEffect('stutter', { by: 2, hold: 1, sync: 0, slice: 0.5, speed, fade: 0.02 }, 's')],
      3,
    )
    const n = 4096
    // four times 9 kHz lies beyond what there is: nothing of it may fold
    const s = spectrumDb(left.subarray(Math.round(0.53 * RATE), Math.round(0.53 * RATE) + n))
    let most = -300
    for (let k = 8; k < n / 2; k++)
      if (Math.abs((k * RATE) / n - 9011 * Math.abs(speed)) > 200) most = Math.max(most, s[k]!)
    expect(most).toBeLessThan(-60 - 6)
  })
})

describe('Varispeed', () => {
  it('stops: pitch falls to nothing along its curve, without a click at either end', () => {
    const made = projectOf(sine(441, 6, 0.4), [
      newEffect('varispeed', { stopTime: 0.7, startTime: 0.3, curve: 0 }, 'v'),
    ])
    const { left } = play(made, 4, {
      [Math.round((1 * RATE) / BLOCK)]: (e) => e.update(edited(made.project, setParam('v', 'stop', 1))),
      [Math.round((2.5 * RATE) / BLOCK)]: (e) => e.update(edited(made.project, setParam('v', 'stop', 0))),
    })
    let most = 0
    for (let i = 4800; i < left.length; i++)
      most = Math.max(most, Math.abs(left[i]! - 2 * left[i - 1]! + left[i - 2]!))
    expect(most).toBeLessThan(0.4 * ((2 * Math.PI * 441) / RATE) ** 2 + 0.001)
    expect(peak(left.subarray(Math.round(1.8 * RATE), Math.round(2.45 * RATE)))).toBeLessThan(0.002)
    expect(peak(left.subarray(Math.round(3.2 * RATE)))).toBeGreaterThan(0.38)
    // half way down, half the pitch
    const crossings = (from: number, to: number): number => {
      let n = 0
      for (let i = Math.round(from * RATE); i < to * RATE; i++) if (left[i]! >= 0 !== left[i - 1]! >= 0) n++
      return n / (2 * (to - from))
    }
    expect(Math.abs(crossings(1.3, 1.4) / 441 - 0.5)).toBeLessThan(0.06)
  })
})
