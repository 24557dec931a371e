import { describe, expect, it } from 'vitest'
import { impulseNamed, impulseNames } from '@oleaje/core/dsp/impulses'
import { convolver, impulseShape, shapeImpulse } from '@oleaje/core/effects/convolver'
import { newEffect } from '@oleaje/core/project/new'
import { setData } from '@oleaje/core/project/value-edits'
import { Engine } from '@oleaje/core/engine/engine'
import { BLOCK } from '@oleaje/core/contract/block'
import { edited, projectOf } from './project-rig'
import { RATE, db, effectRig, noise, peak, rms, sine } from './rig'

/** Direct convolution, in doubles. */
function direct(x: Float32Array, h: Float32Array): Float64Array {
  const y = new Float64Array(x.length)
  for (let i = 0; i < x.length; i++) for (let k = 0; k < h.length && k <= i; k++) y[i]! += x[i - k]! * h[k]!
  return y
}

/** A convolver that plays a response of one's own, as it comes. */
function through(
  left: Float32Array,
  right: Float32Array,
  x: Float32Array,
  y = x,
  data: Record<string, unknown> = {},
) {
  const r = effectRig('convolver')
  r.processor.take?.({ audio: 'own', ...data }, { sampleRate: RATE, channels: [left, right] })
  r.processor.reset()
  return r.run(x, y)
}
const scaled = (l: Float32Array, r: Float32Array): number =>
  1 /
  Math.sqrt(
    Math.max(
      l.reduce((s, v) => s + v * v, 0),
      r.reduce((s, v) => s + v * v, 0),
    ),
  )

describe('Convolver', () => {
  it.each([1, 100, 128, 700, 2048, 2049, 7000])(
    'equals direct convolution to 1e-6 with %i taps, without latency, each side by its own',
    (taps) => {
      const l = noise(taps / RATE, 3)
      const r = noise(taps / RATE, 4)
      const x = noise(0.3, 5)
      const y = noise(0.3, 6)
      const out = through(l, r, x, y)
      const k = scaled(l, r)
      const wantedL = direct(x, l)
      const wantedR = direct(y, r)
      for (let i = 0; i < x.length; i++) {
        expect(Math.abs(out.left[i]! - wantedL[i]! * k)).toBeLessThan(1e-6)
        expect(Math.abs(out.right[i]! - wantedR[i]! * k)).toBeLessThan(1e-6)
      }
    },
  )
  it('trims, turns round, stretches and fades', () => {
    const h = Float32Array.from({ length: 4800 }, (_, i) => (i === 100 ? 1 : i === 2500 ? 0.5 : 0))
    const raw = { left: h, right: h }
    const places = (data: Record<string, unknown>): number[] => {
      const { left } = shapeImpulse(raw, impulseShape(data), RATE)
      const most = peak(left)
      return [...left.keys()].filter(
        (i) =>
          Math.abs(left[i]!) > 0.2 * most &&
          Math.abs(left[i]!) >= Math.abs(left[i - 1] ?? 0) &&
          Math.abs(left[i]!) > Math.abs(left[i + 1] ?? 0),
      )
    }
    expect(places({})).toEqual([100, 2500])
    expect(places({ start: 0.02 })).toEqual([4, 2404])
    expect(places({ end: 0.25 })).toEqual([100])
    expect(places({ reverse: true })).toEqual([2299, 4699])
    expect(places({ stretch: 2 })).toEqual([200, 5000])
    expect(
      shapeImpulse(raw, impulseShape({ fade: 1 }), RATE).left[2500]! /
        shapeImpulse(raw, impulseShape({ fade: 1 }), RATE).left[100]!,
    ).toBeCloseTo(0.5 * Math.exp((-6.9 * 2400) / 4800), 2)
    expect(
      impulseShape({ start: 'x', end: -3, stretch: NaN, reverse: 1, impulse: 'nowhere', audio: 7 }),
    ).toEqual({
      name: 'cabin',
      audio: null,
      start: 0,
      end: 0.001,
      stretch: 1,
      fade: 0,
      reverse: false,
    })
  })
  it.each(impulseNames)(
    'the shipped response %s is finite, has no dead air before it, and keeps noise about as loud',
    (name) => {
      const { left, right } = impulseNamed(name, RATE)
      expect(left.every(Number.isFinite) && right.every(Number.isFinite)).toBe(true)
      const most = peak(left)
      expect(left.findIndex((v) => Math.abs(v) > 0.02 * most) / RATE).toBeLessThan(
        name === 'swell' ? 0.5 : 0.03,
      )
      const r = effectRig('convolver')
      r.processor.take?.({ impulse: name })
      r.processor.reset()
      const x = noise(3, 9)
      const { left: y } = r.run(x)
      expect(Math.abs(db(rms(y.slice(2 * RATE)) / rms(x.slice(2 * RATE))))).toBeLessThan(3.5)
    },
  )
  it('another response comes in without a click while it plays, and a render waits for it', () => {
    const x = sine(220, 2, 0.3)
    const { project, audio } = projectOf(x, [newEffect('convolver', {}, 'c')])
    const engine = new Engine({ sampleRate: RATE, audio })
    engine.load(project)
    engine.play(0)
    const left = new Float32Array(560 * BLOCK)
    const right = new Float32Array(BLOCK)
    for (let at = 0; at + BLOCK <= left.length; at += BLOCK) {
      if (at === 125 * BLOCK) engine.update(edited(project, setData('c', 'impulse', 'speaker')))
      engine.process(left.subarray(at, at + BLOCK), right)
    }
    const steps = left.map((v, i) => Math.abs(v - (left[i - 1] ?? 0)))
    // no step beyond what the sine itself has, by more than −60 dBFS
    expect(peak(steps.slice(4800)) - ((2 * Math.PI * 220) / RATE) * peak(left)).toBeLessThan(0.001)
    const again = new Engine({ sampleRate: RATE, audio })
    again.load(edited(project, setData('c', 'impulse', 'speaker')))
    again.play(0)
    again.process(new Float32Array(BLOCK), right)
    const first = again.mix.left
    const once = effectRig('convolver')
    once.processor.take?.({ impulse: 'speaker' })
    once.processor.reset()
    const wanted = once.run(x.slice(0, BLOCK)).left
    expect(peak(first)).toBeGreaterThan(0)
    expect(peak(first.map((v, i) => v - wanted[i]!))).toBeLessThan(1e-6)
  })
  it('declares a tail as long as its response', () => {
    expect(convolver.tail?.({ predelay: 0.1, output: 0 }, 2, { impulse: 'cabin', stretch: 2 })).toBeCloseTo(
      0.1 + (2 * impulseNamed('cabin', RATE).left.length) / RATE,
      3,
    )
  })
})
