import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { toneWaves } from '@oleaje/core/sources/tone'
import { play, projectOf } from './project-rig'
import { RATE, db, noise, peak, rms, sine, sourceRig, spectrumDb, toneAt } from './rig'

const tone = (
  wave: (typeof toneWaves)[number],
  values: Record<string, number> = {},
  tempo = 107,
  seconds = 2,
): Float32Array =>
  sourceRig(sourceDefinition('tone')!, { wave: toneWaves.indexOf(wave), level: 0, ...values }, { tempo }).run(
    Math.ceil((seconds * RATE) / BLOCK),
  ).left

describe('test signals', () => {
  it('an impulse train has the same level at every harmonic, and no alias', () => {
    const x = tone('impulse train', { frequency: 311 })
    const levels = [1, 7, 31, 55].map((k) => db(toneAt(x.subarray(9600, 9600 + 65_536), 311 * k).amplitude))
    for (const level of levels) expect(Math.abs(level - levels[0]!)).toBeLessThan(0.15)
    const spectrum = spectrumDb(x.subarray(9600, 9600 + 65_536))
    let worst = -200
    spectrum.forEach((v, bin) => {
      const hz = (bin * RATE) / 65_536
      if (hz > 40 && hz < 20_000 && Math.abs(hz / 311 - Math.round(hz / 311)) * 311 > 8 && v > worst)
        worst = v
    })
    expect(worst - Math.max(...spectrum)).toBeLessThan(-70)
  })
  it('two tones have one level and nothing beside them', () => {
    const x = tone('two tones', { frequency: 997, second: 1307 })
    const [a, b] = [997, 1307].map((hz) => toneAt(x.subarray(4800, 4800 + 48_000), hz).amplitude)
    expect([a!.toFixed(3), b!.toFixed(3)]).toEqual(['0.500', '0.500'])
    expect(db(toneAt(x.subarray(4800, 4800 + 48_000), 687).amplitude)).toBeLessThan(-90)
  })
  it('a stepped sweep goes up by thirds of an octave, each as long as is asked for', () => {
    const every = 0.37
    const x = tone('stepped sweep', { every }, 107, 7)
    const step = ((every * 60) / 107) * RATE
    for (const n of [3, 11, 19, 28]) {
      const part = x.subarray(Math.ceil(n * step) + 10, Math.floor((n + 1) * step) - 10)
      const ups = part.filter((v, i) => i > 0 && part[i - 1]! < 0 && v >= 0).length
      expect(Math.abs(((ups / part.length) * RATE) / (20 * 2 ** (n / 3)) - 1)).toBeLessThan(
        n < 5 ? 0.25 : 0.02,
      )
    }
  })
  it('a multitone has ten lines of one level, with low peaks', () => {
    const x = tone('multitone')
    for (const hz of [79, 577, 4337, 15_877])
      expect(Math.abs(db(toneAt(x.subarray(4800, 52_800), hz).amplitude) - db(0.1))).toBeLessThan(0.05)
    expect(peak(x)).toBeLessThan(1)
    expect(rms(x)).toBeCloseTo(0.1 * Math.sqrt(5), 2)
  })
  it('bursts and single pulses come at any note length', () => {
    for (const [wave, every] of [
      ['single pulse', 0.37],
      ['noise bursts', 1.5],
    ] as const) {
      const x = tone(wave, { every }, 107, 4)
      const period = ((every * 60) / 107) * RATE
      const found: number[] = []
      for (let i = 1; i < x.length; i++)
        if (Math.abs(x[i]!) > 0.2 && (found.length === 0 || i - found[found.length - 1]! > period / 2))
          found.push(i)
      found
        .slice(0, 5)
        .forEach((at, k) =>
          expect(
            Math.abs(
              at -
                (wave === 'single pulse' && Math.abs(at) < 2
                  ? 0
                  : (found[0]! < period / 2 ? k : k + 1) * period),
            ),
          ).toBeLessThan(20),
        )
      expect(found.length).toBeGreaterThan(3)
    }
  })
})

describe('live input', () => {
  const definition = sourceDefinition('input')!
  it('has gains of 0, 20, 40 and 60 dB, a lamp that stays lit for two seconds after a clip, and a held peak', () => {
    for (const [coarse, factor] of [
      [0, 1],
      [1, 10],
      [2, 100],
      [3, 1000],
    ] as const) {
      const rig = sourceRig(definition, { coarse, fine: 0 })
      const { left, right } = rig.run(2, () => {
        rig.io.input.left.set(sine(500, 1, 0.0004).subarray(0, BLOCK))
      })
      expect(peak(left) / peak(rig.io.input.left)).toBeCloseTo(factor, 3)
      expect(right).toEqual(left)
    }
    const rig = sourceRig(definition, { coarse: 0 })
    rig.run(3, (b) => {
      rig.io.input.left.fill(b === 1 ? -1 : 0.25)
    })
    expect([...rig.processor.readouts!]).toEqual([1, 1])
    rig.run(Math.ceil((2.1 * RATE) / BLOCK))
    expect([...rig.processor.readouts!]).toEqual([0, 0.25])
  })
})

describe('another track', () => {
  it('is heard before or after chain, whatever its fader does, in time with it', () => {
    const x = noise(0.5)
    for (const point of ['before', 'after'] as const) {
      const p = projectOf(x, [newEffect('limiter', { on: 0 }), newEffect('gain', { level: -6 })])
      p.project.tracks[0]!.params.mute = 1
      const other = newTrack(
        'other',
        { ...newSource('track', {}, null, 'other-src'), listens: { track: 't', point } },
        'other',
      )
      p.project.tracks.splice(1, 0, other)
      const { left, engine } = play(p, 0.4)
      const g = point === 'before' ? 1 : 10 ** (-6 / 20)
      for (let i = engine.latency; i < 0.3 * RATE; i++)
        expect(Math.abs(left[i]! - g * x[i - engine.latency]!)).toBeLessThan(2e-6)
    }
  })
})
