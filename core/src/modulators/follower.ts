import { poleFor } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { boost, choice, hertz, percent, seconds } from '../units/parameter'
import { Onset } from '../dsp/onset'
import { defineModulator } from '../contract/modulator'

/**
 * Envelope follower: the level of a sound as motion. Peak: rectified amplitude; RMS: square root of power
 * over 10 ms. Attack and release are the times in which 1 − 1/e of a step is covered (one-pole, branching;
 * Zölzer, DAFX, 2011, ch. 4). Sensitivity turns the sound up first; the output stops at 1. Besides the level
 * it gives a gate (open above the threshold, closed 3 dB below it) and the level of the last hit.
 */
export const follower = defineModulator({
  id: 'follower',
  name: 'Follower',
  restsLow: true,
  load: { kB: 29, ns: 42 },
  tip: 'Turns the level of a track into motion',
  outputs: ['level', 'gate', 'hit'],
  listens: true,
  params: {
    sensitivity: boost('Sensitivity', {
      min: -24,
      max: 48,
      default: 6,
      tip: 'Sensitivity: how strongly level becomes motion',
    }),
    attack: seconds('Attack', { min: 0.0005, max: 1, default: 0.005, tip: 'Time for 63 % of a rise' }),
    hold: seconds('Hold', { min: 0, max: 2, default: 0, tip: 'Hold time before it falls' }),
    release: seconds('Release', { min: 0.002, max: 5, default: 0.18, tip: 'Time for 63 % of a fall' }),
    detector: choice('Detector', ['peak', 'RMS'], 0, 'Detects peaks, or the RMS level over 10 ms'),
    lowCut: hertz('Low cut', { min: 20, max: 10_000, default: 20, tip: 'High-pass before the detector' }),
    highCut: hertz('High cut', {
      min: 40,
      max: 20_000,
      default: 20_000,
      tip: 'Low-pass before the detector',
    }),
    threshold: percent('Threshold', {
      default: 0.25,
      tip: 'Level at which the gate opens; hits below it are ignored',
    }),
  },
  followsOthers: true,
  summary: (is) => `follows ${is.listens || 'nothing'} · ${is.text('attack')} / ${is.text('release')}`,
  create: ({ sampleRate }) => {
    const powerPole = poleFor(0.01, sampleRate)
    // level, power, the states of low and high cut, frames of hold left, gate, and frames left to find a
    // hit's peak; in an array, since numbers in a closure are boxed again at each change
    const state = new Float64Array(9)
    const onset = new Onset(sampleRate)
    const levels = new Float64Array(BLOCK)
    const marks = new Uint8Array(BLOCK)
    const hitLevel = new Float64Array(1)
    const measuring = Math.round(0.01 * sampleRate)
    return {
      reset() {
        state.fill(0)
        onset.reset()
        hitLevel[0] = 0
      },
      process({ outputs, side }, p) {
        let level = state[0],
          power = state[1],
          lowL = state[2],
          lowR = state[3],
          highL = state[4],
          highR = state[5],
          held = state[6]
        const hold = p.hold.value * sampleRate
        const sideL = side.left,
          sideR = side.right
        const out = outputs[0]
        const y = out.buffer
        const sens = p.sensitivity.values()
        const rms = p.detector.value === 1
        const steady = p.attack.constant && p.release.constant
        let attack = poleFor(p.attack.value, sampleRate)
        let release = poleFor(p.release.value, sampleRate)
        const cutLow = p.lowCut.value > 20.01
        const cutHigh = p.highCut.value < 19_990
        const a = onePoleWeight(p.lowCut.value, sampleRate)
        const b = onePoleWeight(p.highCut.value, sampleRate)
        for (let i = 0; i < BLOCK; i++) {
          let l = sideL[i]
          let r = sideR[i]
          if (cutLow) {
            lowL += a * (l - lowL)
            lowR += a * (r - lowR)
            l -= lowL
            r -= lowR
          }
          if (cutHigh) {
            highL += b * (l - highL)
            highR += b * (r - highR)
            l = highL
            r = highR
          }
          let x: number
          if (rms) {
            const e = 0.5 * (l * l + r * r)
            power = e + powerPole * (power - e)
            x = Math.sqrt(power)
          } else {
            if (l < 0) l = -l
            if (r < 0) r = -r
            x = l > r ? l : r
          }
          x *= sens[i]
          levels[i] = x
          if (x > 1) x = 1
          if (!steady) {
            attack = poleFor(p.attack.constant ? p.attack.value : p.attack.buffer[i], sampleRate)
            release = poleFor(p.release.constant ? p.release.value : p.release.buffer[i], sampleRate)
          }
          if (x > level) {
            level = x + attack * (level - x)
            held = hold
          } else if (held > 0) held--
          else level = x + release * (level - x)
          y[i] = level
        }
        const threshold = p.threshold.value
        onset.mark(levels, threshold, marks)
        const gates = outputs[1].buffer
        const hits = outputs[2].buffer
        let gate = state[7],
          finding = state[8],
          hit = hitLevel[0]
        for (let i = 0; i < BLOCK; i++) {
          if (y[i] > threshold) gate = 1
          else if (y[i] < 0.7071 * threshold) gate = 0
          gates[i] = gate
          if (marks[i] === 1) {
            finding = measuring
            hit = 0
          }
          if (finding > 0) {
            finding--
            const x = levels[i] > 1 ? 1 : levels[i]
            if (x > hit) hit = x
          }
          hits[i] = hit
        }
        hitLevel[0] = hit
        state[6] = held
        state[7] = gate
        state[8] = finding
        outputs[1].move()
        outputs[2].move()
        state[0] = level < 1e-15 ? 0 : level
        state[1] = power < 1e-20 ? 0 : power
        state[2] = lowL
        state[3] = lowR
        state[4] = highL
        state[5] = highR
        out.move()
      },
    }
  },
})
