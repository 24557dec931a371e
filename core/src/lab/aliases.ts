import { exp2, fromDb } from '../dsp/math'
import { type LabResult, frequencyAxis, levelAxis } from './result'
import type { LabSettings } from './settings'
import { TONE_FRAMES, cyclesNear, hertzOf } from './signals'
import type { Through } from './through'
import { TONE_FLOOR, heldSpectra, ratioDb } from './tone-spectrum'

const HALF = TONE_FRAMES / 2
/** Highest harmonic whose fold is looked for. */
const HIGHEST = 64

/** Where harmonics above half the sample rate are folded to, in cycles; those on a harmonic are left out. */
export function foldsOf(cycles: number): number[] {
  const folds = new Set<number>()
  for (let n = 2; n <= HIGHEST; n++) {
    if (n * cycles <= HALF) continue
    const around = (n * cycles) % TONE_FRAMES
    const bin = around > HALF ? TONE_FRAMES - around : around
    if (bin > 0 && bin < HALF && bin % cycles !== 0) folds.add(bin)
  }
  return [...folds]
}

/**
 * Aliases: what harmonics above half the sample rate are folded to. The strongest and all of them together,
 * in dB of the tone, as the tone rises, and the spectrum of one tone.
 */
export function aliases(through: Through, { level, frequency }: LabSettings): LabResult {
  const { sampleRate } = through
  const list = [
    ...new Set(Array.from({ length: 27 }, (_, i) => cyclesNear(1000 * exp2(i / 6), sampleRate))),
  ].filter((c) => hertzOf(c, sampleRate) <= 20_000)
  const shown = cyclesNear(frequency, sampleRate)
  const height = fromDb(level)
  const spectra = heldSpectra(
    through,
    [...list, shown].map((cycles) => [{ cycles, height }]),
  )
  const found = list.map((cycles, i) => {
    const peaks = spectra[i]
    const folded = foldsOf(cycles).map((bin) => peaks[bin])
    const tone = peaks[cycles]
    const all = Math.sqrt(folded.reduce((sum, p) => sum + p * p, 0))
    const isHeard = tone > 1e-9
    return {
      strongest: isHeard ? ratioDb(Math.max(0, ...folded) / tone) : NaN,
      all: isHeard ? ratioDb(all / tone) : NaN,
    }
  })
  const spectrum = spectra[list.length]
  const tone = Math.max(1e-12, spectrum[shown])
  const x = Float64Array.from(list, (c) => hertzOf(c, sampleRate))
  const marks = (name: string, bins: readonly number[]): LabResult['charts'][number]['curves'][number] => {
    const sorted = [...bins].sort((a, b) => a - b)
    return {
      name,
      x: Float64Array.from(sorted, (bin) => hertzOf(bin, sampleRate)),
      y: Float64Array.from(sorted, (bin) => ratioDb(spectrum[bin] / tone)),
    }
  }
  const harmonics = Array.from({ length: Math.floor((HALF - 1) / shown) }, (_, i) => (i + 1) * shown)
  const worst = found.reduce((most, f, i) => (f.all > (found[most]?.all ?? -Infinity) ? i : most), 0)
  return {
    charts: [
      {
        id: 'aliases',
        title: 'Aliases by frequency of the tone',
        x: { ...frequencyAxis, from: 1000 },
        y: levelAxis('Level below the tone'),
        curves: [
          { name: 'Strongest', x, y: Float64Array.from(found, (f) => f.strongest) },
          { name: 'All together', x, y: Float64Array.from(found, (f) => f.all) },
        ],
      },
      {
        id: 'spectrum',
        title: 'Spectrum of one tone',
        x: { ...frequencyAxis, from: 20 },
        y: levelAxis('Level below the tone', TONE_FLOOR, 0),
        as: 'marks',
        curves: [marks('Harmonics', harmonics), marks('Aliases', foldsOf(shown))],
      },
    ],
    figures: [
      { name: 'Most, all together', value: found[worst]?.all ?? null, unit: 'dB' },
      { name: 'At', value: x[worst] ?? null, unit: 'Hz' },
    ],
  }
}
