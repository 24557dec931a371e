import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { prepareBandLimited } from '../dsp/band-limited-kernel'
import { FASTEST, StereoDelayLine } from '../dsp/delay-line'
import { exp2, exp2Block } from '../dsp/math'
import { HopMean } from '../dsp/hop-mean'
import { PhaseVocoder, VOCODER_HOP, VOCODER_LATENCY } from '../dsp/phase-vocoder'
import { Splicer } from '../dsp/splicer'
import { choice, pan, percent, seconds, semitones } from '../units/parameter'

/** Delays of the quick way, at most and declared, in seconds. */
const QUICK_LONGEST = 0.0395
const QUICK_RESTING = 0.02
const LONGEST_DELAY = 1
const HOP_BLOCKS = VOCODER_HOP / BLOCK

const latencyOf = (sampleRate: number, fine: boolean): number =>
  fine ? VOCODER_LATENCY : Math.round(QUICK_RESTING * sampleRate)

/**
 * Pitch shift in two qualities: quick, by splicing in time, which keeps drums; fine, by moving spectral
 * peaks, which keeps chords.
 */
export const pitch = defineEffect({
  id: 'pitch',
  name: 'Pitch',
  group: 'time',
  movesByItself: true,
  load: { kB: 1100, ns: 1150 },
  tip: 'Shifts pitch without changing time; quick for drums and voices, fine for chords',
  also: ['transpose', 'octave', 'harmony', 'shimmer', 'formant shift'],
  readouts: ['cents', 'cents2'],
  params: {
    quality: choice(
      'Quality',
      ['quick', 'fine'],
      0,
      'Quick splices in time (20 ms latency); fine is a phase vocoder (43 ms latency)',
    ),
    pitch: semitones('Pitch', {
      min: -24,
      max: 24,
      default: 7,
      tip: 'Pitch of the first voice; cents after the point',
    }),
    level: percent('Level', { default: 1, tip: 'Level of the first voice' }),
    pan: pan('Pan', { tip: 'Pan of the first voice' }),
    second: percent('Second', { default: 0, tip: 'Level of a second voice' }),
    pitch2: semitones('Pitch, second', { min: -24, max: 24, default: -12, tip: 'Pitch of the second voice' }),
    pan2: pan('Pan, second', { tip: 'Pan of the second voice' }),
    delay: seconds('Delay', {
      min: 0,
      max: LONGEST_DELAY,
      default: 0,
      tip: 'Delay of the first voice',
    }),
    delay2: seconds('Delay, second', {
      min: 0,
      max: LONGEST_DELAY,
      default: 0,
      tip: 'Delay of the second voice',
    }),
    formants: choice(
      'Formants',
      ['with pitch', 'kept', 'moved'],
      0,
      'Whether formants follow the pitch, stay, or shift on their own (fine only)',
    ),
    formant: semitones('Formant', {
      min: -12,
      max: 12,
      default: 0,
      tip: 'Shift of the formants',
    }),
  },
  latency: (sampleRate, v) => latencyOf(sampleRate, (v?.quality ?? 0) >= 0.5),
  // a frame of the vocoder is changed in its middle, by the mean of the hop around it; what is spliced, and
  // levels and places, where it leaves
  acts: (path, latency) =>
    latency === VOCODER_LATENCY &&
    (path === 'pitch' || path === 'pitch2' || path === 'formant' || path === 'formants')
      ? (latency - VOCODER_HOP) / 2
      : latency,
  tail: (v) => 0.15 + Math.max(v.delay, v.delay2),
  gain: () => 12,
  prepare: () => {
    prepareBandLimited(FASTEST)
  },
  applies: (param, value) => {
    if (param === 'pitch2' || param === 'pan2' || param === 'delay2') return value('second') > 0
    if (param === 'formants') return value('quality') === 1
    return param !== 'formant' || (value('quality') === 1 && value('formants') === 2)
  },
  groups: [
    { name: 'First voice', gauges: ['pitch', 'level', 'pan', 'delay'] },
    { name: 'Second voice', gauges: ['second', 'pitch2', 'pan2', 'delay2'] },
    { name: 'Formants', gauges: ['formants', 'formant'] },
    { name: 'Quality', gauges: ['quality'] },
  ],
  presets: [
    { name: 'Fifth above', tip: 'Adds a fifth', params: { pitch: 7, wet: 0.5 } },
    { name: 'Octave below, quick', tip: 'Low octave for drums and bass', params: { pitch: -12, wet: 0.6 } },
    {
      name: 'Two neighbours',
      tip: 'Detuned left and right',
      params: { pitch: 0.09, second: 1, pitch2: -0.09, pan: -0.8, pan2: 0.8, delay2: 0.011, wet: 0.6 },
    },
    {
      name: 'Captain, fine',
      tip: 'Deep voice with lower formants',
      params: { quality: 1, pitch: -4, formants: 2, formant: -3 },
    },
    {
      name: 'Octaves either way, fine',
      tip: 'Octaves above and below',
      params: { quality: 1, pitch: 12, second: 0.8, pitch2: -12, pan: -0.4, pan2: 0.4, wet: 0.6 },
    },
  ],
  create: ({ sampleRate, latency = latencyOf(sampleRate, false) }) => {
    const isFine = latency === VOCODER_LATENCY
    const inL = new Float64Array(BLOCK),
      inR = new Float64Array(BLOCK)
    const voices = [0, 1].map(() => {
      const line = new StereoDelayLine(LONGEST_DELAY * sampleRate + 2 * BLOCK, 3, BLOCK)
      const out = { left: new Float64Array(BLOCK), right: new Float64Array(BLOCK) }
      return {
        out,
        line,
        times: line.block(),
        readL: line.block(),
        readR: line.block(),
        quick: isFine
          ? null
          : new Splicer(sampleRate, Math.round(QUICK_LONGEST * sampleRate), latency, BLOCK),
        fine: isFine ? new PhaseVocoder(out) : null,
        // of pitch and formants in the next frame
        ratios: new Float64Array(2),
        hop: { pitch: new HopMean(), formant: new HopMean(), blocks: 0 },
        // delay now; below 0 before the first block
        state: new Float64Array(1),
      }
    })
    const ratios = new Float64Array(BLOCK)
    const readouts = new Float64Array(2)
    return {
      readouts,
      reset() {
        for (const v of voices) {
          v.line.reset()
          v.quick?.reset()
          v.fine?.reset()
          v.hop.pitch.reset()
          v.hop.formant.reset()
          v.hop.blocks = 0
          v.state[0] = -1
        }
      },
      process({ in: input, out }, p) {
        for (let i = 0; i < BLOCK; i++) {
          inL[i] = input.left[i]
          inR[i] = input.right[i]
        }
        out.left.fill(0)
        out.right.fill(0)
        for (let k = 0; k < 2; k++) {
          const v = voices[k]
          const level = k === 0 ? p.level : p.second
          if (k === 1 && level.constant && level.value === 0) continue
          const shift = k === 0 ? p.pitch : p.pitch2
          let l: Float64Array, r: Float64Array
          if (v.quick) {
            const st = shift.values()
            for (let i = 0; i < BLOCK; i++) ratios[i] = st[i] / 12
            exp2Block(ratios)
            v.quick.process(inL, inR, ratios, 0, BLOCK)
            l = v.quick.left
            r = v.quick.right
          } else {
            const { hop } = v
            hop.pitch.take(shift.values())
            hop.formant.take(p.formant.values())
            hop.blocks = (hop.blocks + 1) % HOP_BLOCKS
            // the others only fill a frame
            if (hop.blocks === 0) {
              const kind = p.formants.value
              v.ratios[0] = exp2(hop.pitch.read() / 12)
              v.ratios[1] = kind === 0 ? -1 : kind === 1 ? 1 : exp2(hop.formant.read() / 12)
            }
            v.fine?.process(inL, inR, v.ratios[0], v.ratios[1])
            l = v.out.left
            r = v.out.right
          }
          v.line.write(l, r, 0, BLOCK)
          const wanted = (k === 0 ? p.delay.value : p.delay2.value) * sampleRate
          const before = v.state[0] < 0 ? wanted : v.state[0]
          const now = Math.abs(wanted - before) < 1e-3 ? wanted : before + 0.08 * (wanted - before)
          v.state[0] = now
          if (before > 0 || now > 0) {
            const step = (now - before) / BLOCK
            for (let i = 0; i < BLOCK; i++) v.times[i] = Math.max(4, before + step * (i + 1)) + BLOCK
            v.line.read(v.times, v.readL, v.readR, 0, BLOCK)
            l = v.readL
            r = v.readR
          }
          const levels = level.values(),
            pans = (k === 0 ? p.pan : p.pan2).values()
          for (let i = 0; i < BLOCK; i++) {
            const at = pans[i]
            out.left[i] += levels[i] * l[i] * (at > 0 ? 1 - at : 1)
            out.right[i] += levels[i] * r[i] * (at < 0 ? 1 + at : 1)
          }
        }
        readouts[0] = 100 * p.pitch.value
        readouts[1] = p.second.value > 0 ? 100 * p.pitch2.value : 0
      },
    }
  },
})
