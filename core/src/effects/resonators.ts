import { exp2Block } from '../dsp/math'
import { LoopStrings } from '../dsp/loop-string'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { factor, hertz, note, percent, seconds, semitones } from '../units/parameter'
import { type EffectPreset, defineEffect } from '../contract/effect'

const MOST = 8
const LOWEST = 20

/** A bank of tuned strings on a chord: each with its note and its gain of either sign, ringing together. */
export const resonators = defineEffect({
  id: 'resonators',
  name: 'Resonators',
  group: 'filter',
  load: { kB: 1085, ns: 2000 },
  tip: 'Up to eight tuned strings that the sound excites',
  also: ['chord', 'strings', 'tuned', 'modal'],
  params: {
    transpose: semitones('Transpose', { min: -36, max: 36, default: 0, tip: 'Transposes all notes' }),
    decay: seconds('Decay', {
      min: 0.02,
      max: 20,
      default: 1.2,
      tip: 'RT60: time to fall by 60 dB',
    }),
    damping: hertz('Damping', {
      min: 200,
      max: 20_000,
      default: 7000,
      tip: 'Treble damping: lower is duller',
    }),
    spread: percent('Spread', { default: 0.5, tip: 'Spreads the strings between left and right' }),
  },
  lanes: {
    voices: {
      name: 'Strings',
      item: 'string',
      least: 1,
      most: MOST,
      params: {
        note: note('Note', { min: 16, max: 108, default: 50, tip: 'Note that the string is tuned to' }),
        gain: factor('Gain', {
          min: -1,
          max: 1,
          default: 0.5,
          tip: 'Level of the string; negative values invert it',
        }),
      },
      initial: [50, 57, 62, 65].map((n) => ({ note: n })),
    },
  },
  tail: (v) => 2 * v.decay + 0.2,
  presets: [
    {
      name: 'Rigging in D minor',
      tip: 'A minor chord of strings',
      params: { decay: 1.4 },
      lanes: strings([50, 57, 62, 65, 69]),
    },
    {
      name: 'Open fifths',
      tip: 'Root and fifths',
      params: { decay: 2.2, damping: 9000 },
      lanes: strings([38, 45, 50, 57, 62], 0.35),
    },
    {
      name: 'Small bells',
      tip: 'High, long ringing notes',
      params: { decay: 0.8, damping: 14_000 },
      lanes: strings([74, 81, 86, 89], 0.4),
    },
    {
      name: 'Dull drum shells',
      tip: 'Low, short resonances',
      params: { decay: 0.25, damping: 2500 },
      lanes: strings([43, 50, 55], 0.7),
    },
  ],
  create: ({ sampleRate }) => {
    const strings = Array.from({ length: MOST }, () => new LoopStrings(LOWEST, sampleRate, BLOCK))
    const sums = [new Float64Array(BLOCK), new Float64Array(BLOCK)]
    return {
      reset() {
        for (const s of strings) s.reset()
      },
      process({ in: input, out, lanes }, p) {
        const voices = lanes.voices
        sums[0].fill(0)
        sums[1].fill(0)
        const weight = onePoleWeight(p.damping.value, sampleRate)
        const transposes = p.transpose.values(),
          decays = p.decay.values(),
          spreads = p.spread.values()
        for (let v = 0; v < voices.length; v++) {
          const { x, y, hz, feedback, weights } = strings[v]
          const gains = voices[v].gain.values()
          weights.fill(weight)
          tune(voices[v].note.values(), transposes, decays, hz, feedback)
          for (let i = 0; i < BLOCK; i++) {
            x[2 * i] = input.left[i]
            x[2 * i + 1] = input.right[i]
          }
          strings[v].process()
          const place = voices.length > 1 ? (2 * v) / (voices.length - 1) - 1 : 0
          for (let i = 0; i < BLOCK; i++) {
            const at = place * spreads[i]
            const g = gains[i] * 0.5
            sums[0][i] += y[2 * i] * g * (at > 0 ? 1 - at : 1)
            sums[1][i] += y[2 * i + 1] * g * (at < 0 ? 1 + at : 1)
          }
        }
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = sums[0][i]
          out.right[i] = sums[1][i]
        }
      },
    }
  },
})

/** Frequency and feedback of one string: −60 dB after `decay` seconds, as much a period as fits into it. */
function tune(
  notes: Float64Array,
  transposes: Float64Array,
  decays: Float64Array,
  hz: Float64Array,
  feedback: Float64Array,
): void {
  for (let i = 0; i < BLOCK; i++) {
    // C0 to E8, which is what a string can be tuned to
    let n = notes[i] + transposes[i]
    if (n < 16) n = 16
    if (n > 112) n = 112
    hz[i] = (n - 69) / 12
  }
  exp2Block(hz)
  for (let i = 0; i < BLOCK; i++) {
    hz[i] *= 440
    feedback[i] = -9.965784284662087 / (hz[i] * decays[i])
  }
  exp2Block(feedback)
}

/** Strings of a preset by their notes. */
function strings(notes: readonly number[], gain = 0.5): EffectPreset['lanes'] {
  return { voices: notes.map((note) => ({ note, gain })) }
}
