import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { HilbertPair } from '../dsp/hilbert'
import { log2 } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { sineOf } from '../dsp/sines'
import { choice, hertz, percent, seconds } from '../units/parameter'

const LONGEST = 0.5

/**
 * Moves all frequencies by the same number of hertz: single-sideband modulation by a Hilbert pair of
 * all-passes. Fed back through a delay, each pass is moved again: spirals that climb or fall.
 */
export const frequencyShift = defineEffect({
  id: 'frequency-shift',
  name: 'Frequency shift',
  group: 'time',
  spreads: true,
  movesByItself: true,
  load: { kB: 300, ns: 600 },
  tip: 'Shifts all frequencies by the same number of hertz; with feedback they spiral',
  also: ['barber pole', 'ring', 'single sideband'],
  params: {
    shift: hertz('Shift', {
      min: -5000,
      max: 5000,
      default: 40,
      law: 'cube',
      tip: 'Shift in hertz, finely resolved around zero',
    }),
    way: choice(
      'Direction',
      ['as set', 'apart'],
      0,
      'Shifts both sides alike, or the right side in the opposite direction',
    ),
    feedback: percent('Feedback', {
      min: -0.98,
      max: 0.98,
      default: 0,
      tip: 'Share that is fed back and shifted again',
    }),
    time: seconds('Time', { min: 0, max: LONGEST, default: 0.06, tip: 'Delay in the feedback path' }),
    highCut: hertz('High cut', {
      min: 500,
      max: 20_000,
      default: 14_000,
      tip: 'Low-pass in the feedback path',
    }),
  },
  tail: (v) =>
    0.6 + (Math.abs(v.feedback) > 0.001 ? ((v.time + 0.03) * -20) / log2(Math.abs(v.feedback)) : 0),
  gain: (v) => 6 - 6.02 * log2(1 - Math.abs(v.feedback)),
  presets: [
    {
      name: 'Barber pole',
      tip: 'Endless rise',
      params: { shift: 0.4, feedback: 0.85, time: 0.004, wet: 0.5 },
    },
    {
      name: 'Falling stairs',
      tip: 'Echoes step downwards',
      params: { shift: -55, feedback: 0.8, time: 0.19, wet: 0.6 },
    },
    { name: 'Apart by a hair', tip: 'Slow stereo beating', params: { shift: 1.3, way: 1 } },
    { name: 'Broken bell', tip: 'Inharmonic, bell-like', params: { shift: 312 } },
    {
      name: 'Out of the hull',
      tip: 'Rising spiral of echoes',
      params: { shift: 18, feedback: 0.93, time: 0.033, highCut: 5000, wet: 0.7 },
    },
  ],
  create: ({ sampleRate }) => {
    const line = new StereoDelayLine(LONGEST * sampleRate + BLOCK, 5, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const pair = new HilbertPair(BLOCK)
    const { real, imag } = pair
    const shiftedL = line.block(),
      shiftedR = line.block()
    const cosines = new Float64Array(BLOCK),
      sines = new Float64Array(BLOCK)
    // phase, time that glides, low-passes of both sides, whether a time is known; what the cut is worked out
    // for
    const state = new Float64Array(8)
    return {
      reset() {
        line.reset()
        pair.reset()
        state.fill(0)
      },
      advance(frames, p) {
        state[0] +=
          (frames * p.shift.value) / sampleRate - Math.floor(state[0] + (frames * p.shift.value) / sampleRate)
      },
      process({ in: input, out }, p) {
        const shifts = p.shift.values(),
          fbs = p.feedback.values(),
          asked = p.time.values()
        const apart = p.way.value === 1 ? -1 : 1
        let phase = state[0],
          time = state[1],
          lowL = state[2],
          lowR = state[3]
        let least = Infinity
        for (let i = 0; i < BLOCK; i++) {
          phase += shifts[i] / sampleRate
          cosines[i] = sineOf(phase + 0.25)
          sines[i] = sineOf(phase)
          let wanted = asked[i] * sampleRate
          if (wanted < LEAST_DELAY + 1) wanted = LEAST_DELAY + 1
          time = state[4] === 0 ? wanted : time + 0.001 * (wanted - time)
          state[4] = 1
          times[i] = time
          if (time < least) least = time
        }
        if (state[5] !== p.highCut.value) state[6] = onePoleWeight((state[5] = p.highCut.value), sampleRate)
        const w = state[6]
        const stretch = Math.max(1, Math.min(BLOCK, Math.floor(least) - LEAST_DELAY + 1))
        for (let start = 0; start < BLOCK; start += stretch) {
          const end = Math.min(BLOCK, start + stretch)
          line.read(times, readL, readR, start, end)
          for (let i = start; i < end; i++) {
            lowL += w * (readL[i] - lowL)
            lowR += w * (readR[i] - lowR)
            const l = fbs[i] * lowL
            const r = fbs[i] * lowR
            real[2 * i] = input.left[i] + l / Math.sqrt(1 + 0.1 * l * l)
            real[2 * i + 1] = input.right[i] + r / Math.sqrt(1 + 0.1 * r * r)
          }
          pair.process(start, end)
          for (let i = start; i < end; i++) {
            shiftedL[i] = real[2 * i] * cosines[i] - imag[2 * i] * sines[i]
            shiftedR[i] = real[2 * i + 1] * cosines[i] - apart * imag[2 * i + 1] * sines[i]
          }
          line.write(shiftedL, shiftedR, start, end)
        }
        out.left.set(shiftedL)
        out.right.set(shiftedR)
        state[0] = phase - Math.floor(phase)
        state[1] = time
        state[2] = lowL > 1e-20 || lowL < -1e-20 ? lowL : 0
        state[3] = lowR > 1e-20 || lowR < -1e-20 ? lowR : 0
      },
    }
  },
})
