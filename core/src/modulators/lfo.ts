import { valueAt } from '../dsp/random'
import { sineOf } from '../dsp/sine-table'
import { BLOCK } from '../engine/block'
import { beats, choice, degrees, hertz, percent, toggle } from '../units/parameter'
import { defineModulator } from './definition'

export const lfoShapes = ['sine', 'triangle', 'saw up', 'saw down', 'square', 'stepped', 'smooth'] as const

/**
 * The wave at a phase in cycles (any real; whole cycles select the random values), 0…1.
 * `width` is the high part of the square and the rising part of the triangle.
 */
export function lfoValue(shape: number, phase: number, width: number, seed: number): number {
  const cycle = Math.floor(phase)
  const x = phase - cycle
  switch (shape) {
    case 0: return 0.5 + 0.5 * sineOf(x)
    case 1: {
      // starts at the middle going up, like the sine
      const y = x + 0.5 * width - (x + 0.5 * width >= 1 ? 1 : 0)
      return y < width ? y / width : (1 - y) / (1 - width)
    }
    case 2: return x
    case 3: return 1 - x
    case 4: return x < width ? 1 : 0
    case 5: return valueAt(seed, cycle)
    default: {
      const a = valueAt(seed, cycle)
      const b = valueAt(seed, cycle + 1)
      return a + (b - a) * x * x * (3 - 2 * x)
    }
  }
}

/**
 * Low-frequency oscillator up to 1 kHz. Synced, its phase is the song position, so it repeats with the song;
 * free, it starts at its phase and runs on over loop ends. Where a synced length is itself moved, the phase is
 * carried on from the song position by adding up, since a moving length has no phase of its own.
 */
export const lfo = defineModulator({
  id: 'lfo',
  name: 'LFO',
  tip: 'A repeating wave, free in Hz or locked to note lengths',
  outputs: ['wave'],
  params: {
    shape: choice('Shape', lfoShapes, 0, 'Wave form; stepped and smooth are random'),
    sync: toggle('Sync', false, 'Lock to the song position by a note length'),
    rate: hertz('Rate', { min: 0.01, max: 1000, default: 0.5, tip: 'Cycles per second when not synced' }),
    length: beats('Length', { min: 1 / 16, max: 64, default: 4, tip: 'Length of one cycle when synced' }),
    phase: degrees('Phase', { min: 0, max: 1, default: 0, tip: 'Where in the wave it starts' }),
    width: percent('Width', { min: 0.02, max: 0.98, default: 0.5, tip: 'High part of a square, rising part of a triangle' }),
  },
  create: ({ sampleRate, seed }) => {
    // phase in cycles since the start; in an array, since a number kept by a closure is boxed anew at each change
    const state = new Float64Array(1)
    return {
      reset() { state[0] = 0 },
      process({ outputs, song }, p) {
        let turned = state[0]
        const out = outputs[0]
        const y = out.buffer
        const shape = p.shape.value
        const offsets = p.phase.values()
        const widths = p.width.values()
        if (p.sync.value === 1) {
          if (p.length.constant) {
            const perBeat = 1 / p.length.value
            for (let i = 0; i < BLOCK; i++) y[i] = lfoValue(shape, song.beats[i] * perBeat + offsets[i], widths[i], seed)
            turned = song.beats[BLOCK - 1] * perBeat
          } else {
            const lengths = p.length.buffer
            for (let i = 0; i < BLOCK; i++) {
              turned += song.beatsPerFrame / lengths[i]
              y[i] = lfoValue(shape, turned + offsets[i], widths[i], seed)
            }
          }
        } else if (p.rate.constant) {
          const step = p.rate.value / sampleRate
          for (let i = 0; i < BLOCK; i++) {
            y[i] = lfoValue(shape, turned + offsets[i], widths[i], seed)
            turned += step
          }
        } else {
          const rates = p.rate.buffer
          for (let i = 0; i < BLOCK; i++) {
            y[i] = lfoValue(shape, turned + offsets[i], widths[i], seed)
            turned += rates[i] / sampleRate
          }
        }
        state[0] = turned
        out.move()
      },
    }
  },
})
