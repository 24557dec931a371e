import { BLOCK } from '../contract/block'
import { lfoWave } from '../dsp/lfo-wave'
import { beats, choice, degrees, hertz, percent, seconds, toggle } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Amplitude modulation by its own oscillator, whose edges a slew rounds off so that nothing clicks. */
export const tremolo = defineEffect({
  id: 'tremolo',
  name: 'Tremolo',
  group: 'level',
  spreads: true,
  movesByItself: true,
  load: { kB: 68, ns: 180 },
  tip: 'Modulates the level in several shapes',
  also: ['amplitude', 'chop', 'auto pan'],
  readouts: ['level'],
  params: {
    shape: choice(
      'Shape',
      ['sine', 'triangle', 'saw up', 'saw down', 'square'],
      0,
      'Waveform of the modulation',
    ),
    sync: toggle('Sync', false, 'Sets the rate as a note length'),
    rate: hertz('Rate', { min: 0.01, max: 200, default: 4, tip: 'Cycles per second' }),
    length: beats('Length', {
      min: 1 / 16,
      max: 16,
      default: 0.5,
      tip: 'Length of one cycle as a note length',
    }),
    depth: percent('Depth', { default: 0.6, tip: 'Depth of the level change' }),
    width: percent('Duty', {
      min: 0.02,
      max: 0.98,
      default: 0.5,
      tip: 'Duty cycle of the square, or rising share of the triangle',
    }),
    slew: seconds('Slew', {
      min: 0,
      max: 0.05,
      default: 0.002,
      tip: 'Shortest time for a full change; removes clicks',
    }),
    stereo: degrees('Stereo', { min: 0, max: 0.5, default: 0, tip: 'Phase offset of the right side' }),
  },
  groups: [
    { name: 'Swing', gauges: ['sync', 'rate', 'length', 'shape', 'width', 'slew'] },
    { name: 'Depth', gauges: ['depth', 'stereo'] },
  ],
  presets: [
    { name: 'Lamp in the wind', tip: 'Gentle, about five times a second', params: { rate: 5.2, depth: 0.5 } },
    {
      name: 'Eighths, chopped',
      tip: 'Hard gating in eighths',
      params: { sync: 1, length: 0.5, shape: 4, depth: 0.95, slew: 0.004 },
    },
    { name: 'From rail to rail', tip: 'Auto-pan', params: { rate: 1.1, depth: 0.8, stereo: 0.5 } },
    {
      name: 'Pump on the beat',
      tip: 'Ducks on each beat',
      params: { sync: 1, length: 1, shape: 2, depth: 0.85, slew: 0.01 },
    },
  ],
  create: ({ sampleRate }) => {
    // phase, level left and right; below zero before the first frame
    const state = new Float64Array(3)
    const readouts = new Float64Array(1)
    return {
      readouts,
      reset() {
        state[0] = 0
        state[1] = state[2] = -1
      },
      advance(frames, p, song) {
        if (p.sync.value === 1 && song.playing) return
        const perFrame = p.sync.value === 1 ? song.beatsPerFrame / p.length.value : p.rate.value / sampleRate
        state[0] += frames * perFrame - Math.floor(state[0] + frames * perFrame)
      },
      process({ in: input, out, song }, p) {
        let phase = state[0],
          left = state[1],
          right = state[2]
        const shape = p.shape.value
        const synced = p.sync.value === 1
        const rates = p.rate.values(),
          lengths = p.length.values(),
          depths = p.depth.values(),
          widths = p.width.values(),
          apart = p.stereo.values()
        const most = p.slew.value > 0.00005 ? 1 / (p.slew.value * sampleRate) : 1
        for (let i = 0; i < BLOCK; i++) {
          if (synced && song.playing) phase = song.beats[i] / lengths[i]
          const l = 1 - depths[i] * (1 - lfoWave(shape, phase, widths[i], 0))
          const r = 1 - depths[i] * (1 - lfoWave(shape, phase - apart[i], widths[i], 0))
          // behind latency, the song begins after the first frame
          if (left < 0 || i <= song.begins) {
            left = l
            right = r
          }
          const dl = l - left
          const dr = r - right
          left += dl > most ? most : dl < -most ? -most : dl
          right += dr > most ? most : dr < -most ? -most : dr
          out.left[i] = input.left[i] * left
          out.right[i] = input.right[i] * right
          if (!synced || !song.playing)
            phase += synced ? song.beatsPerFrame / lengths[i] : rates[i] / sampleRate
        }
        state[0] = phase - Math.floor(phase)
        state[1] = left
        state[2] = right
        readouts[0] = left
      },
    }
  },
})
