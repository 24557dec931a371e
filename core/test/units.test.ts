import fc from 'fast-check'
import { chordOf } from '@oleaje/core/units/tuning'
import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import { modulators } from '@oleaje/core/modulators/index'
import { sources } from '@oleaje/core/sources/index'
import { branchParams } from '@oleaje/core/project/nodes/branch-params'
import { loopBackParams } from '@oleaje/core/project/nodes/loop-back'
import { splitParams } from '@oleaje/core/project/nodes/split'
import { linkParams, trackParams } from '@oleaje/core/project/targets'
import {
  type ParamSpec,
  type ParamSpecs,
  beats,
  choice,
  factor,
  gain,
  hertz,
  isStepped,
  octaves,
  pan,
  percent,
  ratio,
  seconds,
  semitones,
  tempo,
} from '@oleaje/core/units/parameter'
import { fromNormalized, insideAt, insideBlock, insideOf, toNormalized } from '@oleaje/core/units/scale'
import { ValueTextError, formatValue, noteFrequency, noteName, parseValue } from '@oleaje/core/units/text'

const lanesOf = (lanes: Readonly<Record<string, { readonly params: ParamSpecs }>> = {}): ParamSpec[] =>
  Object.values(lanes).flatMap((l) => Object.values(l.params))
/** Every parameter that there is, those of lanes, branches, links, tracks and loops included. */
const all = [
  ...[...effects, ...modulators, ...sources].flatMap((d) => [
    ...Object.values(d.params),
    ...lanesOf('lanes' in d ? d.lanes : {}),
  ]),
  ...[branchParams, loopBackParams, splitParams, linkParams, trackParams].flatMap((p) =>
    Object.values<ParamSpec>(p),
  ),
]
/** Rounds of the properties; the long form looks at far more places. */
const RUNS = process.env.OLEAJE_LONG ? 100_000 : 4000

describe('scales', () => {
  it('a value comes back from its place, for every parameter there is', () => {
    fc.assert(
      fc.property(fc.constantFrom(...all), fc.double({ min: 0, max: 1, noNaN: true }), (p, x) => {
        const value = fromNormalized(p, x)
        const again = fromNormalized(p, toNormalized(p, value))
        expect(Math.abs(again - value)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(value)))
      }),
    )
  })
  it.each([
    ['the whole staff', 1],
    ['a small part of it', 0.01],
    ['next to nothing', 1e-6],
  ])('a block of places gives what single places give, over %s', (_, span) => {
    for (const p of all) {
      const places = Float64Array.from({ length: 128 }, (_, i) => (i / 127) * span)
      const out = new Float64Array(128)
      insideBlock(p, places, out)
      out.forEach((v, i) => {
        const wanted = insideAt(p, places[i]!)
        expect(Math.abs(v - wanted)).toBeLessThanOrEqual(1e-11 + 2e-11 * Math.abs(wanted))
      })
    }
  })
  it('the lowest place of a level is silence', () => {
    const p = gain('Level', { min: -72, max: 12, default: 0 })
    expect(insideOf(p, -72)).toBe(0)
    expect(insideAt(p, 0)).toBe(0)
    expect(insideOf(p, 0)).toBe(1)
  })
})

describe('typing values', () => {
  const cutoff = hertz('Cutoff', { min: 20, max: 20_000, default: 1000 })
  const level = gain('Level', { min: -72, max: 12, default: 0 })
  const length = beats('Length', { min: 1 / 16, max: 64, default: 1 })
  const time = seconds('Time', { min: 0.001, max: 4, default: 0.1 })
  const slope = choice('Slope', ['12 dB/oct', '24 dB/oct'])
  const cases: [Parameters<typeof parseValue>[0], string, number, number][] = [
    [cutoff, '1.2k', 800, 1200],
    [cutoff, '440', 800, 440],
    [cutoff, 'a4', 800, 440],
    [cutoff, 'C#4', 800, 277.1826],
    [cutoff, '+7st', 440, 659.2551],
    [cutoff, 'x2', 300, 600],
    [cutoff, '/2', 300, 150],
    [cutoff, 'A♯4 +40 ct', 300, 477.0598],
    [cutoff, 'b♭4', 300, 466.1638],
    [level, 'x2', -12, -5.9794],
    [level, '/2', 0, -6.0206],
    [level, '-6dB', 0, -6],
    [level, '−6 dB', 0, -6],
    [level, '-inf', 0, -72],
    [length, '1/8.', 1, 0.75],
    [length, '1/8t', 1, 1 / 3],
    [length, '3 bars', 1, 12],
    [length, '5/16', 1, 1.25],
    [time, '250ms', 0.1, 0.25],
    [time, '1.5s', 0.1, 1.5],
    [time, '80', 0.1, 0.08],
    [slope, '24', 0, 1],
    [percent('Wet', { default: 1 }), '40 %', 1, 0.4],
    [ratio('Ratio', { min: 1, max: 20, default: 4 }), '4:1', 2, 4],
    [semitones('Tune', { min: -24, max: 24, default: 0 }), '+7st', 2, 7],
    [level, '+3 dB', -6, 3],
    [time, '+10ms', 0.1, 0.01],
    [time, '+=10ms', 0.1, 0.11],
    [time, '-=37ms', 0.1, 0.063],
    [level, '+=3 dB', -6, -3],
    // a bare number has the unit that is shown, or the smaller one where that is out of range
    [time, '2', 1.5, 2],
    [time, '80', 1.5, 0.08],
    [cutoff, '4', 3400, 4000],
    [cutoff, '311', 3400, 311],
    [length, '1', 16, 4],
    [length, '3', 1.5, 3],
    [pan('Pan'), '20', -0.3, -0.2],
    [pan('Pan'), '+20', -0.3, 0.2],
    [pan('Pan'), '20', 0.3, 0.2],
    [pan('Pan'), '30 left', 0, -0.3],
    [pan('Pan'), '25r', 0, 0.25],
    [cutoff, '1,5k', 800, 1500],
  ]
  it.each(cases)('%#: “%s”', (p, text, now, wanted) =>
    expect(parseValue(p as never, text as never, now as never)).toBeCloseTo(wanted as number, 3),
  )
  it('says what it wants when it does not understand', () => {
    expect(() => parseValue(cutoff, 'loud', 800)).toThrow(ValueTextError)
    expect(() => parseValue(cutoff, 'loud', 800)).toThrow(/not a value for Cutoff.*1\.2k/)
    expect(() => parseValue(level, '', 0)).toThrow(/Enter a value/)
    expect(() => parseValue(tempo('Tempo', 107), '-5', 107)).toThrow(/out of range/)
  })
  const somewhere = fc
    .tuple(
      fc.constantFrom(...all),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
    )
    .map(([p, x, y]) => ({ p, value: fromNormalized(p, x), other: fromNormalized(p, y) }))
  it('text that was not changed changes nothing', () => {
    fc.assert(
      fc.property(somewhere, ({ p, value }) => {
        expect(parseValue(p, formatValue(p, value), value)).toBe(value)
      }),
      { numRuns: RUNS },
    )
  })
  // a count is written as a whole number
  it('what a field shows, typed anew over any other value, shows the same again and is close to it', () => {
    fc.assert(
      fc.property(somewhere, ({ p, value, other }) => {
        const text = formatValue(p, value)
        const read = parseValue(p, text, other)
        expect(formatValue(p, read)).toBe(text)
        // a count is a whole number, whatever its scale
        if (p.unit === 'number' && p.glide === 0) expect(Math.abs(read - value)).toBeLessThan(0.5 + 1e-9)
        else expect(Math.abs(toNormalized(p, read) - toNormalized(p, value))).toBeLessThan(0.03 + 1e-9)
      }),
      { numRuns: RUNS },
    )
  })
  it('both ends of every range can be typed as they are written', () => {
    for (const p of all)
      for (const end of [p.min, p.max, p.default])
        expect(formatValue(p, parseValue(p, formatValue(p, end), fromNormalized(p, 0.37)))).toBe(
          formatValue(p, end),
        )
  })
  it('refuses what is out of range instead of taking another value, and says how far it goes', () => {
    expect(() => parseValue(cutoff, '99999', 300)).toThrow(
      '“99999” is out of range. Cutoff goes from 20.0 Hz to 20.0 kHz.',
    )
    expect(() => parseValue(cutoff, '+9 oct', 300)).toThrow(/out of range/)
    fc.assert(
      fc.property(fc.constantFrom(...all.filter((p) => !isStepped(p))), fc.constantFrom(1, -1), (p, side) => {
        const beyond = side > 0 ? p.max + (p.max - p.min) : p.min - (p.max - p.min)
        const wide = { ...p, min: p.min - 3 * (p.max - p.min), max: p.max + 3 * (p.max - p.min), gain: false }
        try {
          const read = parseValue(p, formatValue(wide, beyond), p.default)
          expect(read).toBeGreaterThanOrEqual(p.min)
          expect(read).toBeLessThanOrEqual(p.max)
        } catch (error) {
          expect(error).toBeInstanceOf(ValueTextError)
        }
      }),
    )
  })
  it('a factor is read as it is written, and multiplied by * and /', () => {
    const speed = factor('Speed', { min: -4, max: 4, default: 1 })
    expect(['× 0.700', 'x0.7', '−0.25', '*0.5', '/2'].map((t) => parseValue(speed, t, 0.7))).toEqual([
      0.7, 0.7, -0.25, 0.35, 0.35,
    ])
  })
  it('octaves are written and read in octaves and semitones', () => {
    const transpose = octaves('Transpose', { min: -4, max: 4, default: 0 })
    expect(['+1 oct', '7 st', '-1oct -7st', '1.5', '−50 ct'].map((t) => parseValue(transpose, t, 0))).toEqual(
      [1, 7 / 12, -1 - 7 / 12, 1.5, -50 / 1200],
    )
    expect([1, 7 / 12, -1 - 7 / 12, 1.5, 0, 0.37].map((v) => formatValue(transpose, v))).toEqual([
      '+1 oct',
      '+7 st',
      '−1 oct −7 st',
      '+1 oct +6 st',
      '0 st',
      '+4.44 st',
    ])
  })
  it('a choice whose name begins with a sign is meant by its name, not as a step', () => {
    const range = effects.find((e) => e.id === 'drive')!.params.range!
    expect(
      ['-20dB', '−20 dB', '+20 dB', '+40', '0', '20', '-20'].map((t) => parseValue(range, t, 1)),
    ).toEqual([0, 0, 2, 3, 1, 2, 0])
    // a number that no choice has is none of them
    expect(() => parseValue(range, '2', 0)).toThrow(/Choose/)
  })
  it('a shape is written and typed by the names of its places', () => {
    const shape = effects.find((e) => e.id === 'filter')!.params.shape!
    expect([0, 1, 2.37, 3].map((v) => formatValue(shape, v))).toEqual(['low', 'band', 'high+37 %', 'notch'])
    expect(['notch', 'hi', 'band+25 %', '1.5'].map((t) => parseValue(shape, t, 0))).toEqual([3, 2, 1.25, 1.5])
    expect(() => parseValue(shape, 'loud', 0)).toThrow(/Choose low, band, high, notch/)
  })

  it('a length or a count of 0 has a word', () => {
    const { quantise, times } = effects.find((e) => e.id === 'stutter')!.params
    expect(formatValue(quantise!, 0)).toBe('off')
    expect(parseValue(quantise!, 'off', 1)).toBe(0)
    expect(formatValue(times!, 0)).toBe('unlimited')
    expect(formatValue(times!, 3)).toBe('3')
    expect(parseValue(times!, 'unlimited', 3)).toBe(0)
  })

  it('chords stack every second degree of a scale', () => {
    expect(chordOf(50, 2, 5)).toEqual([50, 53, 57, 60, 64])
    expect(chordOf(48, 6, 4)).toEqual([48, 55, 60, 67])
    expect(chordOf(48, 4, 3)).toEqual([48, 51, 53])
  })
  it('notes and frequencies', () => {
    expect(noteFrequency('A4')).toBeCloseTo(440, 6)
    expect(noteName(440)).toBe('A4')
    expect(noteName(452)).toBe('A4 +47 ct')
    expect(noteFrequency('H4')).toBeUndefined()
  })
})
