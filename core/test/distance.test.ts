import { describe, expect, it } from 'vitest'
import { type Distance, distance, textureDistance, traitsOf } from '@oleaje/core/analysis/distance'
import { MelAnalysis, melBorders } from '@oleaje/core/analysis/mel-levels'
import { setParam } from '@oleaje/core/project/value-edits'
import { newEffect } from '@oleaje/core/project/new'
import { resample } from '@oleaje/core/formats/resample'
import { edited, play, projectOf } from './project-rig'
import { RATE, noise, sine } from './rig'

type Sides = [Float32Array, Float32Array]
const { PI, exp, sin } = Math
const traits = (sound: Sides, rate = RATE) => traitsOf(sound, rate)
const both = (x: Float32Array): Sides => [x, x]
const scaled = (x: Float32Array, gain: number): Float32Array => x.map((v) => v * gain)

/** The sounds of core/test/outside/distance.py. */
function sound(name: 'plain' | 'bright' | 'swaying'): Sides {
  const of = (side: (low: number, high: number, t: number) => number): Float32Array =>
    Float32Array.from({ length: Math.floor(2.3 * RATE) }, (_, i) => {
      const t = i / RATE
      const low = sin(2 * PI * 311 * t) * exp(-7 * (t % 0.37))
      return side(low, sin(2 * PI * (900 * t + 700 * t * t)), t)
    })
  const sway = (t: number): number => 0.5 + 0.5 * sin(2 * PI * 3 * t)
  if (name === 'plain') return [of((l, h) => 0.4 * l + 0.1 * h), of((l, h) => 0.4 * l - 0.05 * h)]
  if (name === 'bright') return [of((l, h) => 0.4 * l + 0.3 * h), of((l, h) => 0.4 * l + 0.2 * h)]
  return [of((l, _, t) => 0.5 * l * sway(t)), of((l, h, t) => 0.2 * l * sway(t) + 0.1 * h)]
}

/** A sound through an effect, at some value of one parameter. */
function through(type: string, path: string, value: number, start: Record<string, number> = {}): Sides {
  const rig = projectOf(noise(1.7, 5, 0.2), [newEffect(type, start, 'fx')])
  const { left, right } = play({ ...rig, project: edited(rig.project, setParam('fx', path, value)) }, 1.7)
  return [left, right]
}

describe('distance of two sounds', () => {
  // printed by core/test/outside/distance.py, which uses numpy and none of core
  const expected: [Parameters<typeof sound>[0], Parameters<typeof sound>[0], Partial<Distance>][] = [
    ['plain', 'bright', { total: 4.16, tone: 1.6888, envelope: 2.4712, loudness: 5.8434, stereo: 5.0423 }],
    ['plain', 'swaying', { total: 5.6937, tone: 3.059, envelope: 2.6348, loudness: 2.9682, stereo: 19.7392 }],
    [
      'bright',
      'swaying',
      { total: 5.3931, tone: 2.704, envelope: 2.6892, loudness: 8.8116, stereo: 20.5215 },
    ],
  ]
  it.each(expected)('from %s to %s is what numpy finds', (a, b, figures) => {
    const found = distance(traits(sound(a)), traits(sound(b)))
    for (const [part, value] of Object.entries(figures))
      expect(Math.abs(found[part as keyof Distance] - value), part).toBeLessThan(2e-3)
  })

  it('is zero for the same sound and for one that is only louder, which loudness tells', () => {
    const plain = traits(sound('plain'))
    const zero = { total: 0, tone: 0, envelope: 0, movement: 0, loudness: 0, stereo: 0 }
    expect(distance(plain, traits(sound('plain')))).toEqual(zero)
    expect(textureDistance(plain, traits(sound('plain')))).toEqual(zero)
    const softer = distance(plain, traits(sound('plain').map((s) => scaled(s, 0.5)) as Sides))
    expect(softer.total).toBeLessThan(0.01)
    expect(softer.loudness).toBeCloseTo(6.02, 2)
  })

  it('is the same from either side', () => {
    const [a, b] = [traits(sound('plain')), traits(sound('swaying'))]
    for (const of of [distance, textureDistance]) {
      const [there, back] = [of(a, b), of(b, a)]
      for (const part of Object.keys(there) as (keyof Distance)[])
        expect(Math.abs(there[part] - back[part]), part).toBeLessThan(1e-9)
    }
  })

  it.each([
    ['a cutoff', 'filter', 'cutoff', [1100, 1210, 1500, 2300, 5100], {}],
    ['a level', 'gain', 'level', [0, -0.7, -2.1, -5.3, -11], {}],
    ['a delay time', 'delay', 'time', [0.111, 0.1111, 0.1123, 0.117, 0.137], { wet: 0.5, feedback: 0 }],
    ['a rate', 'tremolo', 'rate', [3.1, 3.15, 3.3, 3.7], { depth: 1 }],
  ] as const)('grows with the displacement of %s', (name, type, path, values, start) => {
    const isLevelled = name !== 'a level'
    const [first, ...others] = values.map((v) => traitsOf(through(type, path, v, start), RATE, isLevelled))
    const found = others.map((t) => distance(first!, t).total)
    expect(found[0]).toBeGreaterThan(0.01)
    expect([...found].sort((a, b) => a - b)).toEqual(found)
  })

  it('takes sounds of other rates', () => {
    const plain = sound('plain')
    const at44 = plain.map((side) => resample(side, RATE, 44_100)) as Sides
    expect(distance(traits(plain), traits(at44, 44_100)).total).toBeLessThan(0.1)
  })

  it('says where two sounds differ', () => {
    const x = noise(2, 3, 0.2)
    const narrow = traits(both(x))
    const wide = distance(narrow, traits([x, noise(2, 4, 0.2)]))
    expect(wide.stereo).toBeGreaterThan(10)
    const turned = distance(narrow, traits([x, scaled(x, -1)]))
    expect(turned.total).toBeLessThan(1e-3)
    expect(turned.stereo).toBeGreaterThan(30)
    const swaying = x.map((v, i) => v * (0.6 + 0.4 * sin((2 * PI * 5 * i) / RATE)))
    const moving = distance(narrow, traits(both(swaying)))
    expect(moving.movement).toBeGreaterThan(1.5)
    expect(moving.envelope).toBeGreaterThan(1)
    expect(moving.stereo).toBeLessThan(0.01)
  })

  it('is finite for silence and for less than a window', () => {
    for (const length of [0, 100, 7001]) {
      const found = distance(traits(both(new Float32Array(length))), traits(sound('plain')))
      for (const value of Object.values(found)) expect(Number.isFinite(value)).toBe(true)
    }
  })
})

describe('distance of two textures', () => {
  const swaying = (seed: number, hz: number): Sides =>
    both(noise(4, seed, 0.2).map((v, i) => v * (0.55 + 0.45 * sin((2 * PI * hz * i) / RATE + seed))))

  it('is small between noises with the same statistics, and large between others', () => {
    const same = textureDistance(traits(both(noise(4, 3, 0.2))), traits(both(noise(4, 4, 0.2)))).total
    const dull = textureDistance(
      traits(both(noise(4, 3, 0.2))),
      traits(through('filter', 'cutoff', 700).map((s) => s) as Sides),
    ).total
    expect(dull).toBeGreaterThan(3 * same)
    const swayed = textureDistance(traits(swaying(3, 4)), traits(swaying(4, 4))).total
    const slower = textureDistance(traits(swaying(3, 4)), traits(swaying(4, 1.3))).total
    expect(slower).toBeGreaterThan(2 * swayed)
    expect(textureDistance(traits(both(noise(4, 3, 0.2))), traits(swaying(4, 4))).total).toBeGreaterThan(
      5 * same,
    )
  })
})

describe('mel levels', () => {
  it('a sine at full scale is near 0 dB in its band, at each window length', () => {
    for (const size of [512, 2048, 8192]) {
      const { levels } = new MelAnalysis(size, RATE).of(both(sine(2011, 1, 1)))
      const band = melBorders.findIndex((hz) => hz > 2011) - 1
      const frame = levels.subarray(2 * 64, 3 * 64)
      expect(frame[band]).toBeGreaterThan(-1.5)
      expect(frame[band]).toBeLessThan(2)
    }
  })
})
