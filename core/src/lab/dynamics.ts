import { cosCycles, fromDb, sinCycles, toDb } from '../dsp/math'
import { type LabResult, levelAxis } from './result'
import type { LabSettings } from './settings'
import { TONE_FRAMES, cyclesNear, hertzOf, tones } from './signals'
import type { Through } from './through'
import { toneSpectrum } from './tone-spectrum'

/** Levels of the tone in dBFS, and stretches for which each is held. */
const LEVELS = Array.from({ length: 31 }, (_, i) => -60 + 2 * i)
const HELD = 3
/** How far below the set level the tone lies before and after it, in dB; and seconds of each. */
const STEP = 24
const STEP_SECONDS = 1.5
/** Seconds that are drawn before each change. */
const BEFORE = 0.05
/** Share of the way after which a time is told: a time constant of an exponential approach. */
const WAY = 0.6321205588285577

/**
 * Gain of a steady tone against its level, and how the gain moves when the level jumps up by 24 dB and back.
 * Times are those to 63 % of the way in dB.
 */
export function dynamics(through: Through, settings: LabSettings): LabResult {
  const { sampleRate } = through
  const cycles = cyclesNear(settings.frequency, sampleRate)
  const frames = HELD * TONE_FRAMES
  const [heard] = through.run(
    tones(
      LEVELS.map((db) => [{ cycles, height: fromDb(db) }]),
      frames,
      sampleRate,
    ),
  )
  const out = Float64Array.from(LEVELS, (_, i) =>
    Math.max(-140, toDb(Math.max(1e-9, toneSpectrum(heard, (i + 1) * frames - TONE_FRAMES)[cycles]))),
  )
  const x = Float64Array.from(LEVELS)
  const gain = out.map((db, i) => db - x[i])
  const { curve, attack, release } = stepTimes(through, settings.level, cycles)
  const ms = (seconds: number): number | null => (Number.isNaN(seconds) ? null : seconds * 1000)
  return {
    charts: [
      {
        id: 'levels',
        title: 'Output against input',
        x: levelAxis('Input', -60, 0),
        y: levelAxis('Output', -60, 0),
        curves: [{ name: '', x, y: out }],
      },
      {
        id: 'gain',
        title: 'Gain against input',
        x: levelAxis('Input', -60, 0),
        y: levelAxis('Gain'),
        curves: [{ name: '', x, y: gain }],
      },
      {
        id: 'times',
        title: 'Gain as the level jumps up and back',
        x: { name: 'Time', unit: 'ms', scale: 'linear' },
        y: levelAxis('Gain'),
        curves: [curve],
      },
    ],
    figures: [
      { name: 'Attack', value: ms(attack), unit: 'ms' },
      { name: 'Release', value: ms(release), unit: 'ms' },
      { name: 'Tone', value: hertzOf(cycles, sampleRate), unit: 'Hz' },
    ],
  }
}

/** Gain in dB through a jump up and back, with the times that it takes; NaN where it does not move. */
function stepTimes(
  through: Through,
  level: number,
  cycles: number,
): {
  readonly curve: LabResult['charts'][number]['curves'][number]
  readonly attack: number
  readonly release: number
} {
  const { sampleRate } = through
  const frames = Math.round(STEP_SECONDS * sampleRate)
  const low = fromDb(level - STEP)
  const high = fromDb(level)
  const signal = tones(
    [low, high, low, low].map((height) => [{ cycles, height }]),
    frames,
    sampleRate,
  )
  const [heard] = through.run(signal)
  // the tone’s level over one cycle around each frame, of what goes in and what comes out
  const period = Math.round(TONE_FRAMES / cycles)
  const levelOf = (sound: Float32Array, at: number): number => {
    let re = 0
    let im = 0
    for (let i = at - period; i < at + period; i++) {
      // two cycles, weighted by a Hann window: what else there is hardly counts
      const w = 0.5 + 0.5 * cosCycles((i - at) / (2 * period))
      const turns = ((i % TONE_FRAMES) * cycles) / TONE_FRAMES
      re += w * (sound[i] ?? 0) * cosCycles(turns)
      im += w * (sound[i] ?? 0) * sinCycles(turns)
    }
    return Math.sqrt(re * re + im * im) / period
  }
  const gainAt = (at: number): number => {
    const [a, b] = [levelOf(signal[0], at), levelOf(heard, at)]
    return a > 0 && b > 1e-9 ? toDb(b / a) : NaN
  }
  const hop = Math.max(1, Math.round(sampleRate / 4000))
  const from = frames - Math.round(BEFORE * sampleRate)
  const places = Array.from({ length: Math.floor((2 * frames) / hop) }, (_, i) => from + i * hop)
  const y = Float64Array.from(places, gainAt)
  const timeTo = (jump: number): number => {
    const [start, end] = [gainAt(jump - 2 * period), gainAt(jump + frames - 2 * period)]
    if (!(Math.abs(end - start) > 0.1)) return NaN
    const wanted = start + (end - start) * WAY
    const isThere = (g: number): boolean => (end > start ? g >= wanted : g <= wanted)
    const i = places.findIndex((at, k) => at >= jump && isThere(y[k]))
    if (i < 0) return NaN
    const [a, b] = [y[i - 1] ?? NaN, y[i]]
    const part = a === b || Number.isNaN(a) || i === 0 ? 0 : (wanted - b) / (b - a)
    return Math.max(0, ((places[i] ?? jump) + part * hop - jump) / sampleRate)
  }
  return {
    curve: { name: '', x: Float64Array.from(places, (at) => ((at - frames) * 1000) / sampleRate), y },
    attack: timeTo(frames),
    release: timeTo(2 * frames),
  }
}
