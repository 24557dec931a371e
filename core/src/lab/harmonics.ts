import { exp2, fromDb } from '../dsp/math'
import { type LabAxis, type LabChart, type LabResult, frequencyAxis, levelAxis } from './result'
import type { LabSettings } from './settings'
import { TONE_FRAMES, type Tone, cyclesNear, hertzOf } from './signals'
import type { Through } from './through'
import { heldSpectra, ratioDb } from './tone-spectrum'

/** The last harmonic that is told by itself, and the last that counts. */
const TOLD = 9
const COUNTED = 20
/** Frequency up to which distortion and noise are heard, in Hz. */
const AUDIBLE = 20_000

/** Distortion of one tone. */
export interface ToneDistortion {
  /** Harmonics from the second on, in dB of the fundamental. */
  readonly harmonics: readonly number[]
  /** All harmonics in dB of the fundamental. */
  readonly thd: number
  /** All but the fundamental, up to 20 kHz, in dB of the whole (AES17). */
  readonly thdPlusNoise: number
}

/** Distortion from the peaks of a tone’s spectrum: THD as in IEC 60268-3, THD+N as in AES17. */
export function toneDistortion(peaks: Float64Array, cycles: number, sampleRate: number): ToneDistortion {
  const fundamental = peaks[cycles]
  const harmonics: number[] = []
  let distortion = 0
  for (let n = 2; n <= COUNTED && n * cycles < peaks.length; n++) {
    const peak = peaks[n * cycles]
    if (n <= TOLD) harmonics.push(fundamental > 0 ? ratioDb(peak / fundamental) : NaN)
    distortion += peak * peak
  }
  let all = 0
  const last = Math.min(peaks.length - 1, Math.floor((AUDIBLE * TONE_FRAMES) / sampleRate))
  for (let k = 1; k <= last; k++) all += peaks[k] * peaks[k]
  const isHeard = fundamental > 1e-9
  return {
    harmonics,
    thd: isHeard ? ratioDb(Math.sqrt(distortion) / fundamental) : NaN,
    thdPlusNoise: isHeard ? ratioDb(Math.sqrt(Math.max(0, all - fundamental * fundamental) / all)) : NaN,
  }
}

/** Distortion of tones that are played one after the other. */
export function distortions(through: Through, list: readonly Tone[]): ToneDistortion[] {
  const spectra = heldSpectra(
    through,
    list.map((tone) => [tone]),
  )
  return list.map(({ cycles }, i) => toneDistortion(spectra[i], cycles, through.sampleRate))
}

function chartsOf(found: readonly ToneDistortion[], x: Float64Array, axis: LabAxis): LabChart[] {
  const curve = (name: string, y: (d: ToneDistortion) => number): LabChart['curves'][number] => ({
    name,
    x,
    y: Float64Array.from(found, y),
  })
  return [
    {
      id: 'distortion',
      title: 'THD and THD+N',
      x: axis,
      y: levelAxis('Distortion'),
      curves: [curve('THD', (d) => d.thd), curve('THD+N', (d) => d.thdPlusNoise)],
    },
    {
      id: 'harmonics',
      title: 'Harmonics',
      x: axis,
      y: levelAxis('Level below the fundamental'),
      curves: Array.from({ length: TOLD - 1 }, (_, i) =>
        curve(`${i + 2}${i === 0 ? 'nd' : i === 1 ? 'rd' : 'th'}`, (d) => d.harmonics[i] ?? NaN),
      ),
    },
  ]
}

const percent = (db: number): number | null => (Number.isNaN(db) ? null : 100 * fromDb(db))

/** Harmonics, THD and THD+N of a tone as its level rises from −60 dBFS to full scale. */
export function harmonicsByLevel(through: Through, { frequency, level }: LabSettings): LabResult {
  const cycles = cyclesNear(frequency, through.sampleRate)
  const levels = Array.from({ length: 25 }, (_, i) => -60 + 2.5 * i)
  const found = distortions(
    through,
    [...levels, level].map((db) => ({ cycles, height: fromDb(db) })),
  )
  const asked = found.at(-1) as ToneDistortion
  return {
    charts: chartsOf(found.slice(0, -1), Float64Array.from(levels), levelAxis('Level of the tone', -60, 0)),
    figures: [
      { name: 'Tone', value: hertzOf(cycles, through.sampleRate), unit: 'Hz' },
      { name: 'THD at the set level', value: percent(asked.thd), unit: '%' },
      { name: 'THD+N at the set level', value: percent(asked.thdPlusNoise), unit: '%' },
    ],
  }
}

/** Harmonics, THD and THD+N of tones of one level, three to an octave. */
export function harmonicsByFrequency(through: Through, { level }: LabSettings): LabResult {
  const { sampleRate } = through
  const cycles = [...new Set(Array.from({ length: 28 }, (_, i) => cyclesNear(20 * exp2(i / 3), sampleRate)))]
  const found = distortions(
    through,
    cycles.map((c) => ({ cycles: c, height: fromDb(level) })),
  )
  const worst = found.reduce((most, d, i) => (d.thd > (found[most]?.thd ?? -Infinity) ? i : most), 0)
  return {
    charts: chartsOf(
      found,
      Float64Array.from(cycles, (c) => hertzOf(c, sampleRate)),
      frequencyAxis,
    ),
    figures: [
      { name: 'Most THD', value: percent(found[worst]?.thd ?? NaN), unit: '%' },
      { name: 'At', value: hertzOf(cycles[worst] ?? 1, sampleRate), unit: 'Hz' },
    ],
  }
}
