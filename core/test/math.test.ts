import { describe, expect, it } from 'vitest'
import { atan, exp2, log2, pow, sinCycles, tanPi, tanh } from '@oleaje/core/dsp/math'
import { sineBlock } from '@oleaje/core/dsp/sines'
import { Fft } from '@oleaje/core/dsp/fft'

const span = (from: number, to: number, n = 4001): number[] =>
  Array.from({ length: n }, (_, i) => from + ((to - from) * i) / (n - 1))
const worst = (
  xs: number[],
  own: (x: number) => number,
  built: (x: number) => number,
  relative: boolean,
): number =>
  xs.reduce((m, x) => Math.max(m, Math.abs(own(x) - built(x)) / (relative ? Math.abs(built(x)) || 1 : 1)), 0)

describe('own functions keep their stated error bounds', () => {
  it('exp2', () => expect(worst(span(-1000, 1000), exp2, (x) => 2 ** x, true)).toBeLessThan(1e-11))
  it('log2', () => {
    expect(worst(span(1e-9, 4), log2, Math.log2, false)).toBeLessThan(1e-12)
    expect(log2(0)).toBe(-Infinity)
    expect(log2(-1)).toBeNaN()
    expect(log2(2.3e-308)).toBeCloseTo(Math.log2(2.3e-308), 9)
  })
  it('sine in cycles', () =>
    expect(
      worst(span(-50, 50), sinCycles, (x) => Math.sin(2 * Math.PI * (x - Math.round(x))), false),
    ).toBeLessThan(1e-11))
  it.each([0, 2e-7, 0.001, 0.0103, 0.124999, 0.125, 0.25, 0.3333, 0.5, 0.77])(
    'a block of sines in steps of %d cycles',
    (step) => {
      const out = new Float64Array(128)
      const place = Float64Array.of(0.9)
      for (let b = 0; b < 3; b++) {
        sineBlock(out, place, step)
        out.forEach((y, k) => {
          expect(Math.abs(y - Math.sin(2 * Math.PI * ((0.9 + (128 * b + k) * step) % 1)))).toBeLessThan(6e-9)
        })
        expect(place[0]).toBeGreaterThanOrEqual(0)
        expect(place[0]).toBeLessThan(1)
      }
    },
  )
  it('tangent for prewarping', () =>
    expect(worst(span(0.00001, 0.4999), tanPi, (x) => Math.tan(Math.PI * x), true)).toBeLessThan(2e-8))
  it('arctangent', () => expect(worst(span(-40, 40), atan, Math.atan, false)).toBeLessThan(1e-11))
  it('hyperbolic tangent', () => expect(worst(span(-25, 25), tanh, Math.tanh, false)).toBeLessThan(1e-9))
  it('power', () =>
    expect(
      worst(
        span(0.01, 30),
        (x) => pow(x, 1.7),
        (x) => x ** 1.7,
        true,
      ),
    ).toBeLessThan(1e-10))
  it('ends of exp2', () => {
    expect(exp2(2000)).toBe(Infinity)
    expect(exp2(-2000)).toBe(0)
    expect(exp2(NaN)).toBeNaN()
  })
})

describe('FFT', () => {
  it('equals the sum that defines it', () => {
    const n = 64
    const x = Array.from({ length: n }, (_, i) => Math.sin(i * 1.7) + (i % 5))
    const re = Float64Array.from(x)
    const im = new Float64Array(n)
    new Fft(n).forward(re, im)
    for (let k = 0; k < n; k++) {
      let a = 0
      let b = 0
      x.forEach((v, i) => {
        a += v * Math.cos((2 * Math.PI * k * i) / n)
        b -= v * Math.sin((2 * Math.PI * k * i) / n)
      })
      expect(re[k]).toBeCloseTo(a, 8)
      expect(im[k]).toBeCloseTo(b, 8)
    }
  })
  it('refuses other sizes', () => expect(() => new Fft(48)).toThrow(RangeError))
})
