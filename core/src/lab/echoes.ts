import { fromDb, toDb } from '../dsp/math'
import type { LabCurve, LabResult } from './result'
import type { LabSettings } from './settings'
import { impulse } from './signals'
import type { Through } from './through'

const HEIGHT = 0.25
/** Seconds within which one echo counts, and level in dB of the strongest below which none does. */
const APART = 0.002
const LEAST = -60
/** Most echoes of one side, and those that are told as figures. */
const MOST = 250
const TOLD = 8

/** One echo: frame, and height in shares of what goes in. */
export interface Echo {
  readonly at: number
  readonly height: number
}

/** The strongest sample of each 2 ms, where those around it are lower, down to 60 dB below the strongest. */
export function echoesIn(sound: Float32Array, sampleRate: number): Echo[] {
  const apart = Math.max(1, Math.round(APART * sampleRate))
  const strongest = sound.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
  const least = strongest * fromDb(LEAST)
  const found: Echo[] = []
  for (let i = 0; i < sound.length; i++) {
    const height = Math.abs(sound[i])
    if (height < least || height === 0) continue
    let isMost = true
    for (let k = Math.max(0, i - apart); k <= i + apart && isMost; k++)
      isMost = k < i ? Math.abs(sound[k]) < height : k === i || Math.abs(sound[k] ?? 0) <= height
    if (isMost) found.push({ at: i, height })
  }
  return found
    .sort((a, b) => b.height - a.height)
    .slice(0, MOST)
    .sort((a, b) => a.at - b.at)
}

/** When and how loud what comes back of one click is, on both sides. */
export function echoMap(through: Through, { seconds }: LabSettings): LabResult {
  const { sampleRate } = through
  const heard = through.run(impulse(Math.round(seconds * sampleRate), HEIGHT))
  const sides = heard.map((c) => echoesIn(c, sampleRate))
  const curves = sides.map((list, side): LabCurve => ({
    name: side === 0 ? 'left' : 'right',
    x: Float64Array.from(list, (e) => (e.at * 1000) / sampleRate),
    y: Float64Array.from(list, (e) => toDb(e.height / HEIGHT)),
  }))
  const all = sides.flat().sort((a, b) => b.height - a.height)
  const first = [...new Set(all.map((e) => e.at))].slice(0, TOLD).sort((a, b) => a - b)
  return {
    charts: [
      {
        id: 'echoes',
        title: 'Echoes of one click',
        x: { name: 'Time', unit: 'ms', scale: 'linear', from: 0, to: seconds * 1000 },
        y: { name: 'Level', unit: 'dB', scale: 'linear', to: 0 },
        as: 'marks',
        curves,
      },
    ],
    figures: first.map((at, i) => ({
      name: `Strong echo ${i + 1} after`,
      value: (at * 1000) / sampleRate,
      unit: 'ms',
    })),
  }
}
