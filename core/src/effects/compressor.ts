import { BlockDelay } from '../dsp/block-delay'
import { DB_PER_LOG2, GainComputer } from '../dsp/gain-computer'
import { poleFor } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK, type ParamBlock } from '../contract/block'
import { boost, choice, decibel, gain, hertz, ratio, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Gain change in dB of the static curve at a level in dB, with a quadratic knee (Giannoulis et al. 2012, eq.
 * 4).
 */
export function compressorCurve(level: number, threshold: number, ratioValue: number, knee: number): number {
  const over = level - threshold
  const slope = 1 / ratioValue - 1
  if (2 * over <= -knee) return 0
  if (2 * over >= knee) return slope * over
  const x = over + knee / 2
  return (slope * x * x) / (2 * knee)
}

/** Most that is turned up, in dB, and level below which nothing is: noise stays where it is. */
const MOST_LIFT = 24
const FLOOR = -72

/** Gain change in dB below a threshold: what is quiet is turned up, fading in over 12 dB above the floor. */
export function upwardCurve(level: number, threshold: number, ratioValue: number): number {
  const lift = (threshold - level) * (1 - 1 / ratioValue)
  if (lift <= 0 || level <= FLOOR) return 0
  return (lift < MOST_LIFT ? lift : MOST_LIFT) * (level < FLOOR + 12 ? (level - FLOOR) / 12 : 1)
}

/** Milliseconds of each choice of look-ahead. */
const AHEAD = [0, 1, 3, 5] as const

/**
 * Feed-forward compressor in the log domain (see dsp/gain-computer): level, static curve, then smoothing of
 * the gain itself. Attack and release are the
 * times in which 1 − 1/e of a change of gain is covered. Both channels get the same gain.
 */
export const compressor = defineEffect({
  id: 'compressor',
  name: 'Compressor',
  group: 'dynamics',
  load: { kB: 43, ns: 130 },
  tip: 'Evens out the level, controlled by its own signal or another track',
  also: ['dynamics', 'multiband', 'upward', 'level'],
  sidechain: true,
  readouts: ['input level', 'gain change'],
  params: {
    threshold: decibel('Threshold', {
      min: -60,
      max: 0,
      default: -18,
      tip: 'Level above which the gain is reduced',
    }),
    ratio: ratio('Ratio', {
      min: 1,
      max: 40,
      default: 4,
      tip: 'Input change in dB per 1 dB of output change, above the threshold',
    }),
    knee: decibel('Knee', {
      min: 0,
      max: 24,
      default: 6,
      tip: 'Width of the soft transition around the threshold',
    }),
    attack: seconds('Attack', {
      min: 0.0001,
      max: 0.25,
      default: 0.01,
      tip: 'Time for 63 % of a gain reduction',
    }),
    release: seconds('Release', {
      min: 0.005,
      max: 2.5,
      default: 0.15,
      tip: 'Time for 63 % of the recovery',
    }),
    makeup: boost('Makeup', { min: -12, max: 36, default: 0, tip: 'Gain after compression' }),
    detector: choice('Detector', ['peak', 'RMS'], 0, 'Detects peaks, or the RMS level over 10 ms'),
    upThreshold: decibel('Lift below', {
      min: -70,
      max: 0,
      default: -40,
      tip: 'Level below which the gain is raised',
    }),
    upRatio: ratio('Lift ratio', {
      min: 1,
      max: 10,
      default: 1,
      tip: 'Input change in dB per 1 dB of output change below it; 1 is off',
    }),
    parallel: gain('Parallel', {
      min: -72,
      max: 12,
      default: -72,
      tip: 'Uncompressed sound mixed in',
    }),
    ahead: choice(
      'Look-ahead',
      ['off', '1 ms', '3 ms', '5 ms'],
      0,
      'Detects this far ahead; adds the same latency',
    ),
    sideCut: hertz('Sidechain cut', {
      min: 20,
      max: 2000,
      default: 20,
      tip: 'High-pass before the detector, so that bass causes less pumping',
    }),
  },
  latency: (sampleRate, values) => Math.round(((AHEAD[values?.ahead ?? 0] ?? 0) * sampleRate) / 1000),
  // the gain of what leaves is worked out from what enters
  acts: (_, latency) => latency,
  // until its gain has recovered, so that sound after silence finds it as new
  tail: (v) => 0.01 + 8 * v.release,
  groups: [
    { name: 'Gain', gauges: ['threshold', 'ratio', 'knee', 'makeup'] },
    { name: 'Time', gauges: ['attack', 'release', 'ahead'] },
    { name: 'Lift', gauges: ['upThreshold', 'upRatio'] },
    { name: 'Detector', gauges: ['detector', 'sideCut'] },
    { name: 'Output', gauges: ['parallel'] },
  ],
  presets: [
    {
      name: 'Gentle levelling',
      tip: 'Evens out a performance',
      params: { threshold: -22, ratio: 2, knee: 12, attack: 0.02, release: 0.2, makeup: 2 },
    },
    {
      name: 'Drum room',
      tip: 'Fast and heavy, mixed with dry',
      params: { threshold: -34, ratio: 12, attack: 0.002, release: 0.09, makeup: 8, parallel: -3 },
    },
    {
      name: 'Lift quiet parts',
      tip: 'Raises soft sounds only',
      params: { ratio: 1, upThreshold: -30, upRatio: 3, attack: 0.02, release: 0.2 },
    },
    {
      name: 'Duck to sidechain',
      tip: 'Pumps with another track',
      params: { threshold: -36, ratio: 6, attack: 0.004, release: 0.22, knee: 6 },
    },
    {
      name: 'Look-ahead peaks',
      tip: 'Catches peaks before they happen',
      params: { threshold: -20, ratio: 8, attack: 0.002, release: 0.08, ahead: 2, makeup: 4 },
    },
  ],
  create: ({ sampleRate, latency = 0 }) => {
    const aheadL = new BlockDelay(latency)
    const aheadR = new BlockDelay(latency)
    const lateL = new Float32Array(BLOCK)
    const lateR = new Float32Array(BLOCK)
    const powerPole = poleFor(0.005, sampleRate)
    const readouts = new Float64Array([-120, 0])
    const computer = new GainComputer(BLOCK)
    const { level, change, gain: gains } = computer
    // smoothed change in dB, running power, sidechain high-pass states
    const state = new Float64Array(4)
    // attack, release, sidechain cut, and the poles and weight worked out for them
    const known = new Float64Array(6).fill(NaN)
    return {
      readouts,
      reset() {
        state.fill(0)
        aheadL.reset()
        aheadR.reset()
        readouts[0] = -120
        readouts[1] = 0
      },
      process({ in: input, out, side }, p) {
        let smoothed = state[0],
          power = state[1],
          cutL = state[2],
          cutR = state[3]
        const sideL = side.left,
          sideR = side.right,
          outL = out.left,
          outR = out.right
        const inL = latency > 0 ? lateL : input.left,
          inR = latency > 0 ? lateR : input.right
        if (latency > 0) {
          aheadL.process(input.left, lateL, BLOCK)
          aheadR.process(input.right, lateR, BLOCK)
        }
        fill(computer.threshold, p.threshold)
        fill(computer.knee, p.knee)
        if (p.ratio.constant) computer.slope.fill(1 / p.ratio.value - 1)
        else for (let i = 0; i < BLOCK; i++) computer.slope[i] = 1 / p.ratio.buffer[i] - 1
        const rms = p.detector.value === 1
        if (known[0] !== p.attack.value) known[3] = poleFor((known[0] = p.attack.value), sampleRate)
        if (known[1] !== p.release.value) known[4] = poleFor((known[1] = p.release.value), sampleRate)
        if (known[2] !== p.sideCut.value) known[5] = onePoleWeight((known[2] = p.sideCut.value), sampleRate)
        const cutting = !p.sideCut.constant || p.sideCut.value > 20.01
        const w = known[5]
        const heardL = computer.left,
          heardR = computer.right
        if (cutting) {
          for (let i = 0; i < BLOCK; i++) {
            cutL += w * (sideL[i] - cutL)
            cutR += w * (sideR[i] - cutR)
            heardL[i] = sideL[i] - cutL
            heardR[i] = sideR[i] - cutR
          }
        } else {
          heardL.set(sideL)
          heardR.set(sideR)
        }
        if (rms) {
          for (let i = 0; i < BLOCK; i++) {
            const e = 0.5 * (heardL[i] * heardL[i] + heardR[i] * heardR[i])
            power = e + powerPole * (power - e)
            level[i] = power + 1e-12
          }
        } else computer.peaks()
        readouts[0] = computer.wanted(rms ? 0.5 * DB_PER_LOG2 : DB_PER_LOG2)
        if (!p.upRatio.constant || p.upRatio.value > 1) {
          const lifts = p.upThreshold.values(),
            liftRatios = p.upRatio.values()
          for (let i = 0; i < BLOCK; i++) change[i] += upwardCurve(level[i], lifts[i], liftRatios[i])
        }
        if (p.attack.constant && p.release.constant) smoothed = computer.smooth(known[3], known[4], smoothed)
        else {
          const attacks = p.attack.values(),
            releases = p.release.values()
          for (let i = 0; i < BLOCK; i++) {
            const wanted = change[i]
            change[i] = smoothed =
              wanted + poleFor(wanted < smoothed ? attacks[i] : releases[i], sampleRate) * (smoothed - wanted)
          }
        }
        computer.gains()
        const makeups = p.makeup.values(),
          parallels = p.parallel.values()
        for (let i = 0; i < BLOCK; i++) {
          const g = gains[i] * makeups[i] + parallels[i]
          outL[i] = inL[i] * g
          outR[i] = inR[i] * g
        }
        if (smoothed > -1e-9 && smoothed < 1e-9) smoothed = 0
        state[0] = smoothed
        state[1] = power < 1e-20 ? 0 : power
        state[2] = cutL
        state[3] = cutR
        readouts[1] = smoothed
      },
    }
  },
})

function fill(to: Float64Array, from: ParamBlock): void {
  if (from.constant) to.fill(from.value)
  else to.set(from.buffer)
}
