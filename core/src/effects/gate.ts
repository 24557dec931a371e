import { exp2, fromDb, fromDbBlock, poleFor, toDb } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK, ParamBlock } from '../contract/block'
import { choice, decibel, hertz, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Opens above the threshold and closes 4 dB below it, after a hold: as a level, as a low-pass, or as both.
 */
export const gate = defineEffect({
  id: 'gate',
  name: 'Gate',
  group: 'dynamics',
  load: { kB: 38, ns: 50 },
  tip: 'Reduces level, brightness or both while the sound is quiet',
  also: ['expander', 'noise gate'],
  sidechain: true,
  readouts: ['input level', 'gain change'],
  outputs: ['gate'],
  params: {
    how: choice(
      'Closes',
      ['level', 'brightness', 'both'],
      0,
      'What the gate reduces: level, brightness or both',
    ),
    threshold: decibel('Threshold', {
      min: -72,
      max: 0,
      default: -36,
      tip: 'Level above which the gate opens',
    }),
    range: decibel('Range', { min: -90, max: 0, default: -60, tip: 'Reduction when closed' }),
    attack: seconds('Attack', {
      min: 0.0001,
      max: 0.2,
      default: 0.001,
      tip: 'Time for 63 % of the opening',
    }),
    hold: seconds('Hold', {
      min: 0,
      max: 2,
      default: 0.03,
      tip: 'Time that it stays open after the level falls',
    }),
    release: seconds('Release', {
      min: 0.002,
      max: 4,
      default: 0.12,
      tip: 'Time for 63 % of the closing',
    }),
    sideCut: hertz('Sidechain cut', {
      min: 20,
      max: 4000,
      default: 20,
      tip: 'High-pass before the detector',
    }),
  },
  tail: (v) => 0.2 + v.hold + 14 * v.release,
  presets: [
    {
      name: 'Short drums',
      tip: 'Cuts the ring of drums',
      params: { threshold: -30, hold: 0.04, release: 0.05 },
    },
    {
      name: 'Closes dark',
      tip: 'Removes treble instead of level',
      params: { how: 1, threshold: -28, release: 0.25, range: -60 },
    },
    {
      name: 'Slow door',
      tip: 'Slow opening and closing',
      params: { how: 2, threshold: -34, attack: 0.03, release: 0.6 },
    },
    { name: 'Half closed', tip: 'Reduces noise by a few dB', params: { threshold: -32, range: -12 } },
  ],
  create: ({ sampleRate }) => {
    const readouts = new Float64Array([-120, 0])
    // detector level, hold frames left, openness, open or closed, sidechain cut, low-pass two poles a side
    const state = new Float64Array(10)
    const fall = poleFor(0.01, sampleRate)
    // linear threshold and floor of each frame
    const levels = new Float64Array(BLOCK)
    const floors = new Float64Array(BLOCK)
    const opened = new ParamBlock(0)
    return {
      readouts,
      outputs: [opened],
      reset() {
        state.fill(0)
        readouts[0] = -120
        readouts[1] = 0
      },
      process({ in: input, out, side }, p) {
        let level = state[0],
          held = state[1],
          open = state[2],
          on = state[3],
          cutL = state[4],
          cutR = state[5]
        const thresholds = p.threshold.values(),
          ranges = p.range.values()
        const hold = p.hold.value * sampleRate
        const attack = poleFor(p.attack.value, sampleRate),
          release = poleFor(p.release.value, sampleRate)
        const w = onePoleWeight(p.sideCut.value, sampleRate)
        const cutting = p.sideCut.value > 20.01
        const how = p.how.value
        if (p.threshold.constant) levels.fill(fromDb(thresholds[0]))
        else {
          levels.set(thresholds)
          fromDbBlock(levels)
        }
        if (p.range.constant) floors.fill(fromDb(ranges[0]))
        else {
          floors.set(ranges)
          fromDbBlock(floors)
        }
        let l1 = state[6],
          l2 = state[7],
          r1 = state[8],
          r2 = state[9]
        for (let i = 0; i < BLOCK; i++) {
          let l = side.left[i]
          let r = side.right[i]
          if (cutting) {
            cutL += w * (l - cutL)
            cutR += w * (r - cutR)
            l -= cutL
            r -= cutR
          }
          if (l < 0) l = -l
          if (r < 0) r = -r
          const x = l > r ? l : r
          level = x > level ? x : x + fall * (level - x)
          const threshold = levels[i]
          const floor = floors[i]
          if (level > threshold) {
            on = 1
            held = hold
          } else if (level < 0.63 * threshold && held-- <= 0) on = 0
          opened.buffer[i] = on
          open = on + (on > open ? attack : release) * (open - on)
          let y = input.left[i]
          let z = input.right[i]
          if (how > 0) {
            // from 60 Hz closed to 20 kHz open, by octaves
            const a = 1 - exp2((-9.064720283654387 * 60 * exp2(8.38 * open)) / sampleRate)
            y = l2 += a * ((l1 += a * (y - l1)) - l2)
            z = r2 += a * ((r1 += a * (z - r1)) - r2)
            const clear = open > 0.98 ? (open - 0.98) * 50 : 0
            y += clear * (input.left[i] - y)
            z += clear * (input.right[i] - z)
          }
          const g = how === 1 ? 1 : floor + (1 - floor) * open
          out.left[i] = y * g
          out.right[i] = z * g
        }
        opened.move()
        state[0] = level < 1e-15 ? 0 : level
        state[1] = held < 0 ? 0 : held
        state[2] = open < 1e-15 ? 0 : open
        state[3] = on
        state[4] = cutL
        state[5] = cutR
        state[6] = Math.abs(l1) < 1e-18 ? 0 : l1
        state[7] = Math.abs(l2) < 1e-18 ? 0 : l2
        state[8] = Math.abs(r1) < 1e-18 ? 0 : r1
        state[9] = Math.abs(r2) < 1e-18 ? 0 : r2
        readouts[0] = level > 1e-6 ? toDb(level) : -120
        readouts[1] = (1 - open) * p.range.value
      },
    }
  },
})
