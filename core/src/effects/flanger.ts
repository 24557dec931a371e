import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { log2 } from '../dsp/math'
import { swingBlock } from '../dsp/swing'
import { amount, beats, choice, degrees, hertz, percent, seconds, toggle } from '../units/parameter'

/** How far before the dry sound the wet one can come, in seconds: what through zero costs in latency. */
const BEFORE = 0.005
const LONGEST = 0.03

/**
 * A short delay that swings beside the dry sound. Through zero, the dry sound is held back so that the wet
 * one can pass it: the comb closes and opens on the other side, as with two tapes of which one is slowed and
 * then the other.
 */
export const flanger = defineEffect({
  id: 'flanger',
  name: 'Flanger',
  group: 'time',
  movesByItself: true,
  load: { kB: 100, ns: 230 },
  tip: 'A moving comb filter, through zero if wanted',
  also: ['jet', 'comb'],
  params: {
    through: toggle(
      'Through zero',
      true,
      'Delays the dry sound by 5 ms, so that the wet one can overtake it',
    ),
    time: seconds('Centre', {
      min: -0.004,
      max: 0.012,
      default: 0.0012,
      law: 'linear',
      tip: 'Delay around which it swings; negative values need Through zero',
    }),
    depth: seconds('Depth', { min: 0, max: 0.006, default: 0.0012, tip: 'How far it swings each way' }),
    place: amount('Place', {
      min: -1,
      max: 1,
      default: 0,
      tip: 'Offsets the delay by up to 5 ms each way. Link it and set the depth to 0',
    }),
    shape: choice('Shape', ['sine', 'triangle'], 1, 'Waveform of the swing'),
    sync: toggle('Sync', false, 'Locks the swing to a note length'),
    rate: hertz('Rate', { min: 0.01, max: 20, default: 0.15, tip: 'Swings per second' }),
    length: beats('Length', {
      min: 1 / 16,
      max: 32,
      default: 8,
      tip: 'Length of one swing as a note length',
    }),
    stereo: degrees('Stereo', {
      min: 0,
      max: 0.5,
      default: 0.1,
      tip: 'Phase offset of the right side',
    }),
    feedback: percent('Feedback', {
      min: -0.97,
      max: 0.97,
      default: 0.3,
      tip: 'Sharpens the notches; negative values shift them',
    }),
    polarity: choice(
      'Wet polarity',
      ['as it is', 'upside down'],
      0,
      'Inverted, the sound cancels completely at zero',
    ),
    mix: percent('Mix', { default: 0.5, tip: 'Balance of dry and wet; notches are deepest at 50 %' }),
  },
  latency: (sampleRate, v) => ((v?.through ?? 1) >= 0.5 ? Math.round(BEFORE * sampleRate) : 0),
  acts: (_, latency) => latency,
  clockAtEnd: true,
  tail: (v) => 0.06 + (Math.abs(v.feedback) > 0.001 ? (0.028 * -20) / log2(Math.abs(v.feedback)) : 0),
  gain: (v) => 6 - 6.02 * log2(1 - Math.abs(v.feedback)),
  groups: [
    { name: 'Time', gauges: ['through', 'time', 'depth', 'place'] },
    { name: 'Swing', gauges: ['sync', 'rate', 'length', 'shape', 'stereo'] },
    { name: 'Feedback', gauges: ['feedback'] },
    { name: 'Output', gauges: ['polarity', 'mix'] },
  ],
  presets: [
    {
      name: 'Two reels',
      tip: 'Tape flanging through zero',
      params: { time: 0, depth: 0.0022, rate: 0.07, feedback: 0, shape: 0 },
    },
    {
      name: 'Into silence',
      tip: 'Cancels completely at zero',
      params: { time: 0.0004, depth: 0.0018, rate: 0.11, feedback: 0, polarity: 1 },
    },
    {
      name: 'Jet over the bay',
      tip: 'Strong feedback sweep',
      params: { time: 0.0018, depth: 0.0016, rate: 0.09, feedback: 0.72 },
    },
    {
      name: 'Static, for a link',
      tip: 'Still until a link moves it',
      params: { depth: 0, time: 0, feedback: 0.4 },
    },
    {
      name: 'Eight beats down',
      tip: 'One slow sweep in four bars',
      params: { sync: 1, length: 16, shape: 1, time: 0.003, depth: 0.0026, feedback: -0.6 },
    },
  ],
  create: ({ sampleRate, latency = 0 }) => {
    const line = new StereoDelayLine(LONGEST * sampleRate + BLOCK, 6, BLOCK)
    const timesL = line.block(),
      timesR = line.block(),
      readL = line.block(),
      readR = line.block()
    const dry = new StereoDelayLine(LONGEST * sampleRate + BLOCK, 5, BLOCK)
    const dryTimes = dry.block(),
      dryL = dry.block(),
      dryR = dry.block()
    const inL = dry.block(),
      inR = dry.block(),
      writeL = line.block(),
      writeR = line.block()
    const swingL = new Float64Array(BLOCK),
      swingR = new Float64Array(BLOCK)
    // phase
    const state = new Float64Array(1)
    return {
      reset() {
        line.reset()
        dry.reset()
        state.fill(0)
      },
      isQuiet: () => line.isQuiet,
      advance(frames, p, song) {
        const to =
          state[0] +
          frames * (p.sync.value === 1 ? song.beatsPerFrame / p.length.value : p.rate.value / sampleRate)
        state[0] = to - Math.floor(to)
      },
      process({ in: input, out, song }, p) {
        const synced = p.sync.value === 1
        const shape = p.shape.value
        const centres = p.time.values(),
          depths = p.depth.values(),
          places = p.place.values(),
          rates = p.rate.values(),
          lengths = p.length.values()
        const apart = p.stereo.values(),
          fbs = p.feedback.values(),
          mixes = p.mix.values()
        let phase = state[0]
        let least = Infinity
        for (let i = 0; i < BLOCK; i++) {
          const at = synced && song.playing ? song.beats[i] / lengths[i] : phase
          swingL[i] = at
          swingR[i] = at - apart[i]
          phase += synced ? song.beatsPerFrame / lengths[i] : rates[i] / sampleRate
        }
        swingBlock(shape, swingL)
        swingBlock(shape, swingR)
        for (let i = 0; i < BLOCK; i++) {
          const middle = latency + (centres[i] + BEFORE * places[i]) * sampleRate
          const d = depths[i] * sampleRate
          timesL[i] = Math.max(LEAST_DELAY, middle + d * swingL[i])
          timesR[i] = Math.max(LEAST_DELAY, middle + d * swingR[i])
          least = Math.min(least, timesL[i], timesR[i])
        }
        state[0] = phase - Math.floor(phase)
        inL.set(input.left)
        inR.set(input.right)
        const wetSign = p.polarity.value === 1 ? -1 : 1
        // as many samples at a time as come out before the first of them goes in again
        const stretch = Math.max(1, Math.min(BLOCK, Math.floor(least) - LEAST_DELAY + 1))
        for (let start = 0; start < BLOCK; start += stretch) {
          const end = Math.min(BLOCK, start + stretch)
          line.read(timesR, readL, readR, start, end)
          // both sides are read at once; only one of them stands where it should
          for (let i = start; i < end; i++) writeR[i] = readR[i]
          line.read(timesL, readL, readR, start, end)
          for (let i = start; i < end; i++) {
            const l = readL[i]
            const r = writeR[i]
            out.left[i] = l
            out.right[i] = r
            const fl = fbs[i] * l
            const fr = fbs[i] * r
            writeL[i] = inL[i] + fl / Math.sqrt(1 + 0.05 * fl * fl)
            writeR[i] = inR[i] + fr / Math.sqrt(1 + 0.05 * fr * fr)
          }
          line.write(writeL, writeR, start, end)
        }
        dry.write(inL, inR, 0, BLOCK)
        let d: Float64Array = inL,
          e: Float64Array = inR
        if (latency > 0) {
          dryTimes.fill(latency + BLOCK)
          dry.read(dryTimes, dryL, dryR, 0, BLOCK)
          d = dryL
          e = dryR
        }
        for (let i = 0; i < BLOCK; i++) {
          const w = mixes[i]
          out.left[i] = d[i] * (1 - w) + out.left[i] * wetSign * w
          out.right[i] = e[i] * (1 - w) + out.right[i] * wetSign * w
        }
      },
    }
  },
})
