import { BLOCK } from '../contract/block'
import { type EffectPreset, defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { LoopString } from '../dsp/loop-string'
import { exp2, exp2Block, log2, poleFor, tanPi } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { randomAt } from '../dsp/random'
import { Splicer } from '../dsp/splicer'
import { spacingLaws, tapPlace } from '../dsp/tap-times'
import {
  beats,
  boost,
  choice,
  gain,
  hertz,
  note,
  number,
  pan,
  percent,
  seconds,
  semitones,
  toggle,
} from '../units/parameter'

const MOST = 24
/** Longest whole in seconds: 16 beats at 20 bpm. */
const LONGEST = 48
const COMB_LOWEST = 20
const SHIFT_LONGEST = 0.034
const SHIFT_RESTING = 0.015

/** One tap's filter and combs. */
interface Voice {
  readonly state: Float64Array
  readonly strings: readonly LoopString[]
  readonly shift: Splicer
}

/** A field of up to 24 echoes of one line, each with level, place, filter, comb and pitch of its own. */
export const taps = defineEffect({
  id: 'taps',
  name: 'Taps',
  group: 'time',
  spreads: true,
  load: { kB: 3725, ns: 3500, ring: LONGEST },
  tip: 'Up to 24 echoes, each with its own level, place, filter, comb and pitch',
  also: ['multitap', 'multi-tap', 'cloud', 'delay'],
  readouts: ['whole'],
  params: {
    sync: toggle('Sync', true, 'Take the whole from a note length instead of seconds'),
    time: seconds('Whole', { min: 0.01, max: 20, default: 1, tip: 'Time of all taps together' }),
    length: beats('Whole length', {
      min: 1 / 8,
      max: 16,
      default: 2,
      tip: 'Time of all taps together as a note length',
    }),
    law: choice('Spacing', spacingLaws, 0, 'How the taps stand in the whole'),
    bend: percent('Bend', { min: -1, max: 1, default: 0.5, tip: 'How far the spacing departs from even' }),
    spread: percent('Spread', { default: 1, tip: 'How far from the middle the places of the taps reach' }),
    feed: percent('Feed', { default: 1, tip: 'How much of the input enters' }),
    feedback: percent('Feedback', {
      min: -1.1,
      max: 1.1,
      default: 0,
      tip: 'How much comes round again; stable at 95 % whatever the taps do',
    }),
    from: number('Round from', {
      min: 0,
      max: MOST,
      default: 0,
      glide: 0,
      tip: 'The tap that comes round; 0 for all of them',
    }),
    lowCut: hertz('Low cut', { min: 20, max: 2000, default: 60, tip: 'High-pass in the way round' }),
    highCut: hertz('High cut', { min: 500, max: 20_000, default: 9000, tip: 'Low-pass in the way round' }),
    saturation: boost('Saturation', { min: 0, max: 30, default: 0, tip: 'Drives the way round' }),
  },
  lanes: {
    taps: {
      name: 'Taps',
      item: 'tap',
      least: 1,
      most: MOST,
      solo: true,
      params: {
        on: toggle('On', true, 'Whether it is heard'),
        time: percent('Place', { default: 0.5, tip: 'Place in the whole, where the spacing is as drawn' }),
        level: gain('Level', { min: -60, max: 6, default: 0, tip: 'How loud it is' }),
        polarity: toggle('Upside down', false, 'Turns it upside down'),
        pan: pan('Pan', { tip: 'Between left and right' }),
        filter: choice(
          'Filter',
          ['off', 'low-pass', 'band-pass', 'high-pass', 'notch'],
          0,
          'What it is filtered by',
        ),
        cutoff: hertz('Cutoff', { min: 40, max: 18_000, default: 1200, tip: 'Frequency of its filter' }),
        resonance: percent('Resonance', { default: 0.2, tip: 'Resonance of its filter' }),
        comb: percent('Comb', { default: 0, tip: 'How much it rings in a note' }),
        note: note('Comb note', { min: 24, max: 96, default: 50, tip: 'The note it rings in' }),
        odd: toggle('Comb hollow', false, 'Only odd partials ring'),
        pitch: semitones('Pitch', { min: -24, max: 24, default: 0, tip: 'Shifts it; cents after the point' }),
      },
      initial: [0, -3, -6, -9, -12, -15].map((level, k) => ({
        level,
        pan: k % 2 === 0 ? -0.6 : 0.6,
        time: (k + 1) / 6,
      })),
    },
  },
  tail: (v, beatsPerSecond) => {
    const time = Math.min(LONGEST, v.sync >= 0.5 ? v.length / beatsPerSecond : v.time)
    const fb = Math.abs(v.feedback)
    return 2.5 + time * (1 + (fb >= 0.999 ? Infinity : fb > 0.001 ? -20 / log2(fb) : 0))
  },
  gain: (v) => 30 - 6.02 * log2(Math.max(0.02, 1 - Math.abs(v.feedback))),
  presets: [
    {
      name: 'Cloud of taps',
      params: { length: 4, law: 2, bend: 0.3, feedback: 0.35 },
      lanes: cloud(24, 11, true),
    },
    {
      name: 'Steps down the gangway',
      params: { length: 2, law: 0 },
      lanes: row(8, (k) => ({ level: -2 * k, pitch: -k, pan: k % 2 === 0 ? -0.7 : 0.7 })),
    },
    {
      name: 'Bouncing to rest',
      params: { sync: 0, time: 1.4, law: 1, bend: 0.9 },
      lanes: row(14, (k) => ({ level: -1.6 * k, pan: 0.5 - k / 13 })),
    },
    {
      name: 'Chord of combs',
      params: { length: 1, law: 0, feedback: 0.3 },
      lanes: row(5, (k) => ({ level: -8, comb: 0.8, note: [38, 45, 50, 53, 57][k], pan: (k - 2) / 2.5 })),
    },
    {
      name: 'Swung sixteenths, darker',
      params: { length: 2, law: 3, bend: 0.8 },
      lanes: row(8, (k) => ({
        level: -2.5 * k,
        filter: 1,
        cutoff: 6000 * exp2(-0.55 * k),
        pan: k % 2 === 0 ? -0.4 : 0.4,
      })),
    },
  ],
  create: ({ sampleRate }) => {
    const longest = LONGEST * sampleRate
    const line = new StereoDelayLine(longest + 2 * BLOCK, 5, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const writeL = new Float64Array(BLOCK),
      writeR = new Float64Array(BLOCK)
    const roundL = new Float64Array(BLOCK),
      roundR = new Float64Array(BLOCK)
    const sumL = new Float64Array(BLOCK),
      sumR = new Float64Array(BLOCK)
    const x32 = new Float32Array(BLOCK),
      ringing = new Float64Array(BLOCK),
      hz = new Float64Array(BLOCK),
      fbs = new Float64Array(BLOCK),
      none = new Float64Array(BLOCK).fill(1),
      ratios = new Float64Array(BLOCK)
    const voices: Voice[] = Array.from({ length: MOST }, () => ({
      state: new Float64Array(8),
      strings: [new LoopString(COMB_LOWEST, sampleRate), new LoopString(COMB_LOWEST, sampleRate)],
      shift: new Splicer(
        sampleRate,
        Math.round(SHIFT_LONGEST * sampleRate),
        Math.round(SHIFT_RESTING * sampleRate),
        BLOCK,
      ),
    }))
    // times at the end of the last block, levels left and right, by tap; below 0 before the first block
    const last = new Float64Array(MOST),
      gainL = new Float64Array(MOST),
      gainR = new Float64Array(MOST)
    // filter states of the way round; what its cuts are worked out for
    const state = new Float64Array(8)
    const glide = 1 - poleFor(0.03, sampleRate / BLOCK)
    const readouts = new Float64Array(1)
    let solo: readonly number[] = []
    return {
      readouts,
      solo(items) {
        solo = items
      },
      reset() {
        line.reset()
        last.fill(-1)
        gainL.fill(-1)
        state.fill(0)
        roundL.fill(0)
        roundR.fill(0)
        for (const v of voices) {
          v.state.fill(0)
          for (const s of v.strings) s.reset()
          v.shift.reset()
        }
      },
      process({ in: input, out, song, lanes }, p) {
        const items = lanes.taps
        const n = items.length
        const whole = Math.min(
          longest,
          p.sync.value === 1 ? p.length.value / song.beatsPerFrame : p.time.value * sampleRate,
        )
        const law = p.law.value,
          bend = p.bend.value,
          spread = p.spread.value,
          from = Math.round(p.from.value)
        const feeds = p.feed.values(),
          backs = p.feedback.values(),
          drives = p.saturation.values()
        if (state[4] !== p.lowCut.value) state[5] = onePoleWeight((state[4] = p.lowCut.value), sampleRate)
        if (state[6] !== p.highCut.value) state[7] = onePoleWeight((state[6] = p.highCut.value), sampleRate)
        const a = state[5],
          b = state[7]
        let lowL = state[0],
          lowR = state[1],
          highL = state[2],
          highR = state[3]
        // what came out of the taps in the block before goes in again, a block (2.7 ms) later than each
        // stands
        for (let i = 0; i < BLOCK; i++) {
          lowL += a * (roundL[i] - lowL)
          lowR += a * (roundR[i] - lowR)
          highL += b * (roundL[i] - lowL - highL)
          highR += b * (roundR[i] - lowR - highR)
          const d = drives[i]
          const l = highL * backs[i],
            r = highR * backs[i]
          writeL[i] = input.left[i] * feeds[i] + l / Math.sqrt(1 + 0.25 * d * d * l * l)
          writeR[i] = input.right[i] * feeds[i] + r / Math.sqrt(1 + 0.25 * d * d * r * r)
        }
        state[0] = Math.abs(lowL) < 1e-20 ? 0 : lowL
        state[1] = Math.abs(lowR) < 1e-20 ? 0 : lowR
        state[2] = Math.abs(highL) < 1e-20 ? 0 : highL
        state[3] = Math.abs(highR) < 1e-20 ? 0 : highR
        line.write(writeL, writeR, 0, BLOCK)
        sumL.fill(0)
        sumR.fill(0)
        roundL.fill(0)
        roundR.fill(0)
        let levels = 0
        for (let k = 0; k < n; k++)
          if (items[k].on.value === 1 && (from === 0 || from === k + 1 || from > n))
            levels += items[k].level.value
        const share = levels > 1 ? 1 / levels : 1
        for (let k = 0; k < n; k++) {
          const t = items[k]
          const v = voices[k]
          const heard = t.on.value === 1 && (solo.length === 0 || solo.includes(k))
          const shifts = !t.pitch.constant || t.pitch.value !== 0
          // what it is shifted by takes part of its time
          let wanted = whole * tapPlace(law, bend, k, n, t.time.value) - (shifts ? v.shift.resting : 0)
          if (wanted < LEAST_DELAY) wanted = LEAST_DELAY
          if (wanted > longest) wanted = longest
          const before = last[k] < 0 ? wanted : last[k]
          const next =
            Math.abs(wanted - before) < 1e-4
              ? wanted
              : t.time.constant
                ? before + glide * (wanted - before)
                : wanted
          last[k] = next
          const level = (heard ? t.level.value : 0) * (t.polarity.value === 1 ? -1 : 1)
          const place = t.pan.value * spread
          const toL = level * (place > 0 ? 1 - place : 1),
            toR = level * (place < 0 ? 1 + place : 1)
          const fromL = gainL[k] === -1 ? toL : gainL[k],
            fromR = gainL[k] === -1 ? toR : gainR[k]
          gainL[k] = toL
          gainR[k] = toR
          if (fromL === 0 && toL === 0 && fromR === 0 && toR === 0) continue
          const step = (next - before) / BLOCK
          for (let i = 0; i < BLOCK; i++) times[i] = before + step * (i + 1) + BLOCK
          line.read(times, readL, readR, 0, BLOCK)
          if (shifts) {
            const pitches = t.pitch.values()
            for (let i = 0; i < BLOCK; i++) ratios[i] = pitches[i] / 12
            exp2Block(ratios)
            v.shift.process(readL, readR, ratios, 0, BLOCK)
            readL.set(v.shift.left)
            readR.set(v.shift.right)
          }
          if (from === 0 || from === k + 1 || from > n) {
            const w = t.on.value === 1 ? share * t.level.value * (t.polarity.value === 1 ? -1 : 1) : 0
            for (let i = 0; i < BLOCK; i++) {
              roundL[i] += w * readL[i]
              roundR[i] += w * readR[i]
            }
          }
          if (t.filter.value > 0)
            filter(v.state, readL, readR, t.filter.value, t.cutoff.value / sampleRate, t.resonance.value)
          if (!t.comb.constant || t.comb.value > 0) {
            const notes = t.note.values()
            for (let i = 0; i < BLOCK; i++) hz[i] = (notes[i] - 69) / 12
            exp2Block(hz)
            const amounts = t.comb.values()
            const sign = t.odd.value === 1 ? -0.96 : 0.96
            for (let i = 0; i < BLOCK; i++) {
              hz[i] *= 440
              fbs[i] = sign * amounts[i]
            }
            for (let c = 0; c < 2; c++) {
              const x = c === 0 ? readL : readR
              for (let i = 0; i < BLOCK; i++) x32[i] = x[i]
              v.strings[c].process(x32, ringing, hz, fbs, none)
              for (let i = 0; i < BLOCK; i++)
                x[i] += amounts[i] * (ringing[i] * (1 - 0.5 * amounts[i]) - x[i])
            }
          }
          const dl = (toL - fromL) / BLOCK,
            dr = (toR - fromR) / BLOCK
          for (let i = 0; i < BLOCK; i++) {
            sumL[i] += readL[i] * (fromL + dl * (i + 1))
            sumR[i] += readR[i] * (fromR + dr * (i + 1))
          }
        }
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = sumL[i]
          out.right[i] = sumR[i]
        }
        for (let k = n; k < MOST; k++) {
          last[k] = -1
          gainL[k] = -1
        }
        readouts[0] = whole / sampleRate
      },
    }
  },
})

/**
 * State-variable filter (Zavalishin, "The Art of VA Filter Design", 2018), in place; its corner goes straight
 * from block to block.
 */
function filter(
  state: Float64Array,
  left: Float64Array,
  right: Float64Array,
  shape: number,
  corner: number,
  resonance: number,
): void {
  const to = tanPi(Math.min(0.45, corner))
  const from = state[4] > 0 ? state[4] : to
  state[4] = to
  const k = 2 - 1.96 * resonance
  const step = (to - from) / left.length
  let a = state[0],
    b = state[1],
    c = state[2],
    d = state[3]
  for (let i = 0; i < left.length; i++) {
    const g = from + step * (i + 1)
    const h = 1 / (1 + g * (g + k))
    const x = left[i],
      y = right[i]
    const bandL = h * (a + g * (x - b)),
      lowL = b + g * bandL
    const bandR = h * (c + g * (y - d)),
      lowR = d + g * bandR
    a = 2 * bandL - a
    b = 2 * lowL - b
    c = 2 * bandR - c
    d = 2 * lowR - d
    left[i] =
      shape === 1 ? lowL : shape === 2 ? k * bandL : shape === 3 ? x - k * bandL - lowL : x - k * bandL
    right[i] =
      shape === 1 ? lowR : shape === 2 ? k * bandR : shape === 3 ? y - k * bandR - lowR : y - k * bandR
  }
  state[0] = Math.abs(a) < 1e-20 ? 0 : a
  state[1] = Math.abs(b) < 1e-20 ? 0 : b
  state[2] = Math.abs(c) < 1e-20 ? 0 : c
  state[3] = Math.abs(d) < 1e-20 ? 0 : d
}

function row(n: number, of: (k: number) => Record<string, number | undefined>): EffectPreset['lanes'] {
  return { taps: Array.from({ length: n }, (_, k) => of(k) as Record<string, number>) }
}

/** Taps with random values by column. */
function cloud(n: number, seed: number, combs: boolean): EffectPreset['lanes'] {
  const draw = (k: number, column: number): number => randomAt(seed + column, k)
  return row(n, (k) => ({
    level: -9 - 12 * draw(k, 1),
    pan: 2 * draw(k, 2) - 1,
    filter: 2,
    cutoff: 300 * exp2(4.5 * draw(k, 3)),
    resonance: 0.3 + 0.4 * draw(k, 4),
    comb: combs ? 0.6 * draw(k, 5) : 0,
    note: 50 + [0, 3, 5, 7, 10, 12, 15][Math.floor(7 * draw(k, 6))],
  }))
}
