import { exp2, log2 } from '../dsp/math'
import type { Hits } from '../dsp/hits'

/** Tempo that a loop most likely has, in bpm, and its length in quarter notes. */
export interface FoundTempo {
  readonly tempo: number
  readonly beats: number
}

const SLOWEST = 60
const FASTEST = 190
/** Where most music lies, and how far around it in octaves. */
const USUAL = 112
const WIDTH = 0.75
/** How near to a line of the grid a hit counts as on it, in seconds. */
const NEAR = 0.018

/**
 * Tempo of a loop, taken to be a whole number of quarter notes long: of all such tempos, the one whose
 * sixteenths its hits lie on best (after Dixon, "Automatic extraction of tempo and beat from expressive
 * performances", JNMR 2001: hits vote by their strength), nearer to the usual ones and to whole bars where
 * several fit.
 */
export function findTempo(frames: number, sampleRate: number, hits: Hits): FoundTempo {
  const seconds = frames / sampleRate
  let best: FoundTempo = { tempo: USUAL, beats: (seconds * USUAL) / 60 }
  let most = -Infinity
  for (let beats = 1; beats <= 256; beats++) {
    const tempo = (beats * 60) / seconds
    if (tempo < SLOWEST || tempo > FASTEST) continue
    const octaves = log2(tempo / USUAL) / WIDTH
    const usual = exp2(-octaves * octaves)
    const whole = beats % 16 === 0 || beats === 8 ? 1 : beats % 4 === 0 ? 0.9 : beats % 2 === 0 ? 0.6 : 0.4
    const score = onGrid(hits, tempo, sampleRate) * (0.4 + 0.6 * usual) * whole
    if (score > most + 1e-9) {
      most = score
      best = { tempo, beats }
    }
  }
  return best
}

/**
 * Share of the strength of all hits that lies on sixteenths, quarters counting twice, less what would lie
 * there by chance.
 */
function onGrid({ at, strength }: Hits, tempo: number, sampleRate: number): number {
  if (at.length < 2) return 1
  const step = 60 / tempo / 4
  const chance = Math.min(1, (2 * NEAR) / step)
  let sum = 0
  let all = 0
  for (let k = 0; k < at.length; k++) {
    const place = at[k] / sampleRate / step
    const n = Math.round(place)
    const off = Math.abs(place - n) * step
    const weight = n % 4 === 0 ? 1 : n % 2 === 0 ? 0.85 : 0.7
    sum += strength[k] * (Math.max(0, 1 - off / NEAR) * weight)
    all += strength[k]
  }
  return Math.max(0.01, sum / (all || 1) - 0.5 * chance)
}
