import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { TAU, exp2, exp2Block, log2 } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { sineBlock } from '../dsp/sines'
import { swingBlock } from '../dsp/swing'
import {
  beats,
  choice,
  degrees,
  hertz,
  number,
  percent,
  seconds,
  semitones,
  toggle,
} from '../units/parameter'

const MOST = 8
const LONGEST = 0.12

/**
 * Voices that are delayed by times which swing about one centre, in pairs that swing against each other, so
 * that the mean delay stands still. Depth is the largest departure of pitch, or of time: then parts with
 * linked times are equal to it.
 */
export const chorus = defineEffect({
  id: 'chorus',
  name: 'Chorus',
  group: 'time',
  spreads: true,
  movesByItself: true,
  load: { kB: 170, ns: 300 },
  tip: 'Mixes two to eight detuned copies, so that one sound becomes many',
  also: ['ensemble', 'detune', 'double'],
  params: {
    voices: number('Voices', { min: 2, max: MOST, default: 4, glide: 0, tip: 'Number of voices' }),
    time: seconds('Centre', {
      min: 0.001,
      max: 0.06,
      default: 0.014,
      tip: 'Delay time around which all voices swing',
    }),
    by: choice(
      'Depth unit',
      ['cents', 'time'],
      0,
      'Sets the depth as a pitch deviation (independent of the rate) or as a time',
    ),
    cents: semitones('Depth', {
      min: 0,
      max: 1,
      default: 0.12,
      tip: 'Largest pitch deviation; 1 st is 100 cents',
    }),
    reach: seconds('Reach', {
      min: 0,
      max: 0.03,
      default: 0.003,
      tip: 'Largest deviation from the centre time',
    }),
    shape: choice('Shape', ['sine', 'triangle'], 0, 'Waveform of the swing'),
    sync: toggle('Sync', false, 'Locks the swing to a note length'),
    rate: hertz('Rate', { min: 0.01, max: 20, default: 0.6, tip: 'Swings per second' }),
    length: beats('Length', {
      min: 1 / 16,
      max: 16,
      default: 4,
      tip: 'Length of one swing as a note length',
    }),
    spread: percent('Rate spread', {
      default: 0.2,
      tip: 'Difference between the rates of the pairs, up to an octave each way',
    }),
    pairs: toggle('Pairs', true, 'Voices swing in opposite pairs, so that the mean pitch stays constant'),
    stereo: percent('Stereo', { default: 0.8, tip: 'Spreads the voices between left and right' }),
    phase: degrees('Phase', { min: 0, max: 1, default: 0, tip: 'Start phase of the swing' }),
    feedback: percent('Feedback', {
      min: -0.9,
      max: 0.9,
      default: 0,
      tip: 'Share of the output that is fed back',
    }),
    lowCut: hertz('Low cut', {
      min: 20,
      max: 1000,
      default: 20,
      tip: 'High-pass on the voices; off at 20 Hz',
    }),
  },
  tail: (v) => 0.1 + (Math.abs(v.feedback) > 0.001 ? (0.09 * -20) / log2(Math.abs(v.feedback)) : 0),
  groups: [
    { name: 'Voices', gauges: ['voices', 'stereo', 'pairs'] },
    { name: 'Time', gauges: ['time', 'by', 'cents', 'reach'] },
    { name: 'Swing', gauges: ['sync', 'rate', 'length', 'spread', 'shape', 'phase'] },
    { name: 'Feedback', gauges: ['feedback', 'lowCut'] },
  ],
  main: ['voices', 'time', 'cents', 'rate', 'length', 'stereo'],
  presets: [
    {
      name: 'Choir in the hold',
      tip: 'Eight wide voices',
      params: { voices: 8, cents: 0.16, rate: 0.35, spread: 0.5, wet: 0.55 },
    },
    {
      name: 'Two lanterns',
      tip: 'Two slow voices, left and right',
      params: { voices: 2, cents: 0.08, rate: 0.8, stereo: 1, wet: 0.5 },
    },
    {
      name: 'Slow bar, synced',
      tip: 'One swing in two bars',
      params: { sync: 1, length: 8, by: 1, reach: 0.006, spread: 0, wet: 0.5 },
    },
    {
      name: 'Seasick ensemble',
      tip: 'Deep and detuned',
      params: { voices: 6, cents: 0.45, rate: 1.7, spread: 0.3, wet: 0.6 },
    },
    {
      name: 'Thickened low end stays put',
      tip: 'Thickens without moving the bass',
      params: { voices: 4, cents: 0.12, lowCut: 240, wet: 0.5 },
    },
  ],
  create: ({ sampleRate }) => {
    const line = new StereoDelayLine(LONGEST * sampleRate + BLOCK, 5, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const sumL = new Float64Array(BLOCK),
      sumR = new Float64Array(BLOCK)
    const writeL = line.block(),
      writeR = line.block()
    const swings = new Float64Array(BLOCK),
      depths = new Float64Array(BLOCK),
      steps = new Float64Array(BLOCK),
      leasts = new Float64Array(BLOCK)
    const phases = new Float64Array(MOST)
    const place = new Float64Array(1)
    // low cut left and right, last outputs for the feedback, and what the cut is worked out for
    const state = new Float64Array(8)
    const lastL = new Float64Array(BLOCK),
      lastR = new Float64Array(BLOCK)

    /** Octaves by which the rate of a pair departs. */
    const apart = (v: number, n: number, pairs: boolean): number => {
      const groups = pairs ? (n + 1) >> 1 : n
      const g = pairs ? v >> 1 : v
      return groups > 1 ? (2 * g) / (groups - 1) - 1 : 0
    }

    return {
      reset() {
        line.reset()
        phases.fill(0)
        state.fill(0)
        lastL.fill(0)
        lastR.fill(0)
      },
      isQuiet: () => line.isQuiet,
      advance(frames, p, song) {
        const n = Math.round(p.voices.value)
        const perFrame = p.sync.value === 1 ? song.beatsPerFrame / p.length.value : p.rate.value / sampleRate
        for (let v = 0; v < n; v++) {
          const to = phases[v] + frames * perFrame * exp2(p.spread.value * apart(v, n, p.pairs.value === 1))
          phases[v] = to - Math.floor(to)
        }
      },
      process({ in: input, out, song }, p) {
        const n = Math.round(p.voices.value)
        const pairs = p.pairs.value === 1
        const synced = p.sync.value === 1
        const inTime = p.by.value === 1
        const shape = p.shape.value
        const centres = p.time.values(),
          reaches = p.reach.values(),
          cents = p.cents.values(),
          rates = p.rate.values(),
          lengths = p.length.values()
        const spreads = p.spread.values(),
          stereos = p.stereo.values(),
          fbs = p.feedback.values(),
          starts = p.phase.values()
        // what comes round comes a block later than the voices themselves, as a part of the time of 2.7 ms;
        // it is a colour, not an echo
        if (p.feedback.constant && p.feedback.value === 0) {
          writeL.set(input.left)
          writeR.set(input.right)
        } else
          for (let i = 0; i < BLOCK; i++) {
            const l = input.left[i] + fbs[i] * lastL[i]
            const r = input.right[i] + fbs[i] * lastR[i]
            writeL[i] = l / Math.sqrt(1 + 0.02 * l * l)
            writeR[i] = r / Math.sqrt(1 + 0.02 * r * r)
          }
        line.write(writeL, writeR, 0, BLOCK)
        sumL.fill(0)
        sumR.fill(0)
        const level = 1 / Math.sqrt(n)
        // what all voices share: cycles a sample of the rate, and the size of the swing at that rate. Pitch
        // is the slope of the time: of a sine, its size times
        // 2π times the rate; of a triangle, four times it times the rate
        if (!inTime) {
          for (let i = 0; i < BLOCK; i++) depths[i] = cents[i] / 12
          exp2Block(depths)
        }
        const slope = shape === 0 ? TAU : 4
        for (let i = 0; i < BLOCK; i++) {
          steps[i] = synced ? song.beatsPerFrame / lengths[i] : rates[i] / sampleRate
          depths[i] = inTime ? reaches[i] * sampleRate : (depths[i] - 1) / (slope * steps[i])
          leasts[i] = centres[i] * sampleRate - LEAST_DELAY
        }
        const follows = synced && song.playing
        // at one rate all of them are one oscillator's
        const isEven =
          !follows && shape === 0 && p.phase.constant && (synced ? p.length.constant : p.rate.constant)
        for (let v = 0; v < n; v++) {
          const octaves = apart(v, n, pairs)
          const f = exp2(spreads[BLOCK - 1] * octaves)
          const size = inTime ? 1 : 1 / f
          const offset = pairs ? 0.5 * (v & 1) + (v >> 1) / n : v / n
          let phase = phases[v]
          if (isEven) {
            place[0] = phase + offset + starts[0]
            sineBlock(swings, place, steps[0] * f)
            phase += BLOCK * steps[0] * f
          } else {
            // synced swings follow the song, so that what is rendered from anywhere is the same
            if (follows)
              for (let i = 0; i < BLOCK; i++)
                swings[i] = (song.beats[i] / lengths[i]) * f + offset + starts[i]
            else
              for (let i = 0; i < BLOCK; i++) {
                swings[i] = phase + offset + starts[i]
                phase += steps[i] * f
              }
            swingBlock(shape, swings)
          }
          phases[v] = phase - Math.floor(phase)
          for (let i = 0; i < BLOCK; i++)
            times[i] = centres[i] * sampleRate + Math.min(leasts[i], depths[i] * size) * swings[i] + BLOCK
          line.read(times, readL, readR, 0, BLOCK)
          const side = n > 1 ? (2 * v) / (n - 1) - 1 : 0
          for (let i = 0; i < BLOCK; i++) {
            const at = side * stereos[i]
            sumL[i] += readL[i] * (at > 0 ? 1 - at : 1)
            sumR[i] += readR[i] * (at < 0 ? 1 + at : 1)
          }
        }
        if (state[2] !== p.lowCut.value) state[3] = onePoleWeight((state[2] = p.lowCut.value), sampleRate)
        const w = p.lowCut.value > 20.001 ? state[3] : 0
        let cutL = state[0],
          cutR = state[1]
        for (let i = 0; i < BLOCK; i++) {
          const l = level * sumL[i]
          const r = level * sumR[i]
          cutL += w * (l - cutL)
          cutR += w * (r - cutR)
          out.left[i] = lastL[i] = l - (w > 0 ? cutL : 0)
          out.right[i] = lastR[i] = r - (w > 0 ? cutR : 0)
        }
        state[0] = cutL
        state[1] = cutR
      },
    }
  },
})
