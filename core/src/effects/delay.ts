import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { DelayTimes } from '../dsp/delay-times'
import { Diffuser } from '../dsp/diffuser'
import { Ducker } from '../dsp/ducker'
import { exp2Block, log2, poleFor } from '../dsp/math'
import { onePoleWeight, onePoleWeights } from '../dsp/one-pole'
import { Splicer } from '../dsp/splicer'
import {
  beats,
  boost,
  choice,
  decibel,
  hertz,
  number,
  percent,
  seconds,
  semitones,
  toggle,
} from '../units/parameter'

/** Longest delay in seconds: 16 beats at 20 bpm. */
export const LONGEST_DELAY = 48
/** Seconds in which sound goes over into a frozen loop and back. */
const FREEZING = 0.012
/** Delay of the loop's pitch shift, at most and at rest, in seconds. */
const SHIFT_LONGEST = 0.034
const SHIFT_RESTING = 0.015

// places of `state`
const PATH = 0,
  PATH_KNOWN = 1,
  LOW_L = 2,
  LOW_R = 3,
  HIGH_L = 4,
  HIGH_R = 5,
  FROZEN = 6,
  HELD_L = 7,
  HELD_R = 8,
  COUNT = 9,
  LOUD_IN = 10,
  LOUD_BACK = 11,
  PASS = 12,
  PASS_R = 13,
  LONGEST_READ = 14

/**
 * Delay with filters, saturation, diffusion, pitch and cross-feed in the loop, read by 8-tap windowed sinc.
 * Both sides have one time or one each. Time changes either bend pitch as a tape would (varispeed: the time
 * glides) or fade from the old place to the new. Frozen, whole samples go round as they are: nothing changes,
 * however long it lasts.
 */
export const delay = defineEffect({
  id: 'delay',
  name: 'Delay',
  group: 'time',
  spreads: true,
  load: { kB: 604, ns: 370, ring: LONGEST_DELAY },
  tip: 'Echoes, free or in note lengths, filtered, saturated, spread and shifted each time round',
  also: ['echo', 'ping-pong', 'tape delay', 'slapback'],
  sidechain: true,
  trails: true,
  readouts: ['duck', 'left', 'right'],
  holds: true,
  params: {
    sync: toggle('Sync', false, 'Take the time from a note length instead of milliseconds'),
    time: seconds('Time', { min: 0.0005, max: 4, default: 0.25, tip: 'Delay time' }),
    length: beats('Length', { min: 1 / 16, max: 16, default: 0.75, tip: 'Delay time as a note length' }),
    sides: choice('Sides', ['one time', 'two times'], 0, 'One time for both sides, or one each'),
    timeRight: seconds('Time, right', {
      min: 0.0005,
      max: 4,
      default: 0.375,
      tip: 'Delay time of the right side',
    }),
    lengthRight: beats('Length, right', {
      min: 1 / 16,
      max: 16,
      default: 1,
      tip: 'Delay time of the right side as a note length',
    }),
    feed: percent('Feed', { default: 1, tip: 'How much of the input enters: at 0 % the echoes go on alone' }),
    feedback: percent('Feedback', {
      min: -1.2,
      max: 1.2,
      default: 0.35,
      tip: 'How much comes round again; beyond 100 % it holds itself in the saturation',
    }),
    repeats: number('Repeats', {
      min: 0,
      max: 32,
      default: 0,
      glide: 0,
      tip: 'At most so many echoes of a sound; 0 for as many as the feedback gives',
    }),
    path: percent('Cross-feed', {
      default: 0,
      tip: 'How much of each side goes round into the other: at 100 % echoes go from side to side',
    }),
    change: choice(
      'Change',
      ['varispeed', 'cross-fade'],
      0,
      'What a changed time does: bend the pitch, or fade to the new place',
    ),
    lowCut: hertz('Low cut', { min: 20, max: 2000, default: 60, tip: 'High-pass in the feedback path' }),
    highCut: hertz('High cut', {
      min: 500,
      max: 20_000,
      default: 9000,
      tip: 'Low-pass in the feedback path',
    }),
    saturation: boost('Saturation', {
      min: 0,
      max: 30,
      default: 0,
      tip: 'Drives the feedback path; its level stays the same',
    }),
    diffusion: percent('Diffusion', {
      default: 0,
      tip: 'Spreads each echo in time, the more the oftener it has gone round',
    }),
    pitch: semitones('Pitch', {
      min: -24,
      max: 24,
      default: 0,
      tip: 'Shifts each echo against the one before; cents after the point',
    }),
    duck: decibel('Duck', {
      min: 0,
      max: 40,
      default: 0,
      tip: 'How far the echoes step back while the input, or the sidechain, sounds',
    }),
    release: seconds('Duck release', {
      min: 0.02,
      max: 2,
      default: 0.25,
      tip: 'How long they take to come forward again',
    }),
    freeze: toggle(
      'Freeze',
      false,
      'Nothing enters and nothing is lost: what is in the line goes round as it is',
    ),
    width: percent('Width', { max: 1.5, default: 1, tip: 'Width of the echoes: 0 % is mono' }),
    trails: toggle('Trails', false, 'Switched off, the echoes ring out instead of falling silent'),
  },
  tail: (v, beatsPerSecond) => {
    const times =
      v.sync >= 0.5 ? [v.length / beatsPerSecond, v.lengthRight / beatsPerSecond] : [v.time, v.timeRight]
    const time = Math.min(LONGEST_DELAY, v.sides >= 0.5 ? Math.max(...times) : times[0])
    if (v.freeze >= 0.5) return Infinity
    const fb = Math.abs(v.feedback)
    const rounds = fb >= 0.999 ? Infinity : fb > 0.001 ? -20 / log2(fb) : 0
    return (
      (time + (v.diffusion > 0 ? 0.1 : 0)) * (1 + (v.repeats >= 0.5 ? Math.min(v.repeats, rounds) : rounds)) +
      0.05
    )
  },
  presets: [
    { name: 'Across the quay', params: { sync: 1, length: 0.75, feedback: 0.4, path: 1, wet: 0.35 } },
    { name: 'Slap', params: { time: 0.095, feedback: 0.08, wet: 0.4 } },
    {
      name: 'Dark tape',
      params: { time: 0.38, feedback: 0.6, highCut: 2600, lowCut: 140, saturation: 9, wet: 0.35 },
    },
    { name: 'Metal tube', params: { time: 0.006, feedback: 0.8, wet: 0.5 } },
    {
      name: 'Steps back for the voice',
      params: { sync: 1, length: 0.5, feedback: 0.55, duck: 18, release: 0.35, wet: 0.45 },
    },
    {
      name: 'Pitch spiral',
      params: { time: 0.21, feedback: 0.72, pitch: 7, diffusion: 0.3, highCut: 7000, wet: 0.45 },
    },
    {
      name: 'Melting',
      params: { sync: 1, length: 1, feedback: 0.75, diffusion: 0.75, highCut: 4200, wet: 0.4 },
    },
    {
      name: 'Throw, feed by hand',
      params: { sync: 1, length: 0.75, feedback: 0.82, feed: 0, trails: 1, wet: 0.5 },
    },
  ],
  create: ({ sampleRate }) => {
    const longest = LONGEST_DELAY * sampleRate
    const line = new StereoDelayLine(longest, 10, BLOCK)
    const block = (): Float64Array => line.block()
    const left = new DelayTimes(block(), block(), longest, sampleRate)
    const right = new DelayTimes(block(), block(), longest, sampleRate)
    const readL = block(),
      readR = block(),
      fadeL = block(),
      fadeR = block(),
      otherL = block(),
      otherR = block()
    const writeL = new Float64Array(BLOCK),
      writeR = new Float64Array(BLOCK)
    const spreadL = new Diffuser(sampleRate),
      spreadR = new Diffuser(sampleRate, 1.07)
    const shift = new Splicer(
      sampleRate,
      Math.round(SHIFT_LONGEST * sampleRate),
      Math.round(SHIFT_RESTING * sampleRate),
      BLOCK,
    )
    const ratios = new Float64Array(BLOCK)
    const ducker = new Ducker(sampleRate)
    const gains = new Float64Array(BLOCK)
    // how often what is in the line has gone round, in steps of eight samples, as far back as the line goes:
    // a power of two
    const rounds = new Uint8Array((line.longest >> 3) + 1)
    const roundMask = rounds.length - 1
    const state = new Float64Array(15)
    const pathGlide = 1 - poleFor(0.01, sampleRate / BLOCK)
    const freezing = 1 / (FREEZING * sampleRate)
    const passing = 1 - poleFor(0.002, sampleRate)
    const falling = poleFor(0.02, sampleRate)
    const known = new Float64Array(4).fill(NaN)
    const lowWeights = new Float64Array(BLOCK),
      highWeights = new Float64Array(BLOCK)
    const readouts = new Float64Array(3)
    const ahead = Math.round(0.012 * sampleRate)
    const extra = Math.max(spreadL.delay, spreadR.delay)

    /** Reads both sides at their times, and what fades from other times. */
    function read(two: boolean, start: number, end: number): void {
      line.read(left.times, readL, readR, start, end)
      if (two) {
        line.read(right.times, otherL, otherR, start, end)
        for (let i = start; i < end; i++) readR[i] = otherR[i]
      }
      if (left.isFading) line.read(left.old, fadeL, fadeR, start, end)
      if (two && right.isFading) {
        line.read(right.old, otherL, otherR, start, end)
        for (let i = start; i < end; i++) fadeR[i] = otherR[i]
      }
    }

    return {
      readouts,
      reset() {
        line.reset()
        left.reset()
        right.reset()
        spreadL.reset()
        spreadR.reset()
        shift.reset()
        ducker.reset()
        rounds.fill(0)
        state.fill(0)
      },
      held: () => line.content(Math.max(state[HELD_L], state[LONGEST_READ], sampleRate)),
      isQuiet: () =>
        line.isQuietWithin(Math.max(8 * sampleRate, state[LONGEST_READ] + sampleRate)) && state[FROZEN] === 0,
      process({ in: input, out, side, song }, p) {
        const synced = p.sync.value === 1
        const two = p.sides.value === 1
        const scale = synced ? 1 / song.beatsPerFrame : sampleRate
        const crossfade = p.change.value === 1
        const shifts = !p.pitch.constant || p.pitch.value !== 0
        const spreads = !p.diffusion.constant || p.diffusion.value !== 0
        const inL = input.left,
          inR = input.right,
          outL = out.left,
          outR = out.right
        const freeze = p.freeze.value === 1
        // what the shift and the all-passes take is part of the time
        const less = (shifts ? shift.resting : 0) + (spreads ? extra : 0)
        let least = Infinity
        if (freeze && state[FROZEN] > 0) {
          left.times.fill(state[HELD_L])
          right.times.fill(state[HELD_R])
          least = Math.min(state[HELD_L], two ? state[HELD_R] : state[HELD_L])
        } else {
          const a = synced ? p.length : p.time
          const b = synced ? p.lengthRight : p.timeRight
          least = left.follow(a.values(), a.constant, scale, crossfade, less)
          if (two) least = Math.min(least, right.follow(b.values(), b.constant, scale, crossfade, less))
          else right.reset()
          if (freeze) {
            // frozen: whole samples from here on, so that a round changes nothing
            state[HELD_L] = Math.round(left.times[BLOCK - 1] + less)
            state[HELD_R] = two ? Math.round(right.times[BLOCK - 1] + less) : state[HELD_L]
            left.times.fill(state[HELD_L])
            right.times.fill(state[HELD_R])
            least = Math.min(state[HELD_L], state[HELD_R])
            left.reset()
            right.reset()
          }
        }
        const longestNow = Math.max(left.times[0], two ? right.times[0] : 0)
        if (longestNow > state[LONGEST_READ]) state[LONGEST_READ] = longestNow

        // from straight to crossed in some milliseconds, since a jump would go round in the line
        const pathFrom = state[PATH_KNOWN] === 0 ? p.path.value : state[PATH]
        const pathTo =
          state[PATH_KNOWN] === 0 ? p.path.value : pathFrom + pathGlide * (p.path.value - pathFrom)
        state[PATH] = Math.abs(pathTo - p.path.value) < 1e-4 ? p.path.value : pathTo
        state[PATH_KNOWN] = 1
        const pathStep = (state[PATH] - pathFrom) / BLOCK
        const isStraight = pathFrom === 0 && state[PATH] === 0
        const fbs = p.feedback.values(),
          feeds = p.feed.values(),
          diffusions = p.diffusion.values()
        if (known[0] !== p.lowCut.value) known[2] = onePoleWeight((known[0] = p.lowCut.value), sampleRate)
        if (known[1] !== p.highCut.value) known[3] = onePoleWeight((known[1] = p.highCut.value), sampleRate)
        if (p.lowCut.constant) lowWeights.fill(known[2])
        else onePoleWeights(p.lowCut.buffer, sampleRate, lowWeights)
        if (p.highCut.constant) highWeights.fill(known[3])
        else onePoleWeights(p.highCut.buffer, sampleRate, highWeights)
        const drives = p.saturation.values()
        const driven = !p.saturation.constant || p.saturation.value > 1
        const widths = p.width.values()
        const mono = p.width.constant && p.width.value === 1
        const most = Math.round(p.repeats.value)
        if (shifts) {
          const pitches = p.pitch.values()
          for (let i = 0; i < BLOCK; i++) ratios[i] = pitches[i] / 12
          exp2Block(ratios)
        }
        const ducks = !p.duck.constant || p.duck.value > 0
        if (ducks) ducker.process(side.left, side.right, p.duck.values(), p.release.value, gains)
        else gains.fill(1)
        let lowL = state[LOW_L],
          lowR = state[LOW_R],
          highL = state[HIGH_L],
          highR = state[HIGH_R]
        let frozen = state[FROZEN],
          count = state[COUNT],
          loudIn = state[LOUD_IN],
          loudBack = state[LOUD_BACK],
          pass = state[PASS],
          passR = state[PASS_R]
        // As many samples at a time as come out before the first of them goes in again.
        const stretch = Math.max(1, Math.min(BLOCK, Math.floor(least) - LEAST_DELAY + 1))
        for (let start = 0; start < BLOCK; start += stretch) {
          const end = Math.min(BLOCK, start + stretch)
          read(two, start, end)
          if (left.isFading || right.isFading)
            for (let i = start; i < end; i++) {
              if (left.isFading) readL[i] += left.weights[i] * (fadeL[i] - readL[i])
              if (two ? right.isFading : left.isFading)
                readR[i] += (two ? right.weights[i] : left.weights[i]) * (fadeR[i] - readR[i])
            }
          if (spreads) {
            spreadL.process(readL, otherL, diffusions, start, end)
            spreadR.process(readR, otherR, diffusions, start, end)
          } else
            for (let i = start; i < end; i++) {
              otherL[i] = readL[i]
              otherR[i] = readR[i]
            }
          if (shifts) {
            shift.process(otherL, otherR, ratios, start, end)
            for (let i = start; i < end; i++) {
              otherL[i] = shift.left[i]
              otherR[i] = shift.right[i]
            }
          }
          for (let i = start; i < end; i++) {
            const l = otherL[i] + frozen * (readL[i] - otherL[i])
            const r = otherR[i] + frozen * (readR[i] - otherR[i])
            // feedback path: low cut, high cut, saturation
            const a = lowWeights[i]
            const b = highWeights[i]
            lowL += a * (l - lowL)
            lowR += a * (r - lowR)
            highL += b * (l - lowL - highL)
            highR += b * (r - lowR - highR)
            let fl = highL * fbs[i]
            let fr = highR * fbs[i]
            // from unity on the loop always saturates, so self-oscillation stays bounded
            if (driven || fbs[i] >= 1 || fbs[i] <= -1) {
              const d = drives[i]
              fl = fl / Math.sqrt(1 + d * d * fl * fl * 0.25)
              fr = fr / Math.sqrt(1 + d * d * fr * fr * 0.25)
            }
            const xL = inL[i] * feeds[i]
            const xR = inR[i] * feeds[i]
            if (most > 0) {
              // whichever is louder of what comes in and what comes round says how often this has gone round
              const x = Math.abs(xL) + Math.abs(xR)
              const y = Math.abs(fl) + Math.abs(fr)
              loudIn = x > loudIn ? x : loudIn * falling
              loudBack = y > loudBack ? y : loudBack * falling
              const now = (count >> 3) & roundMask
              const at = count - Math.round(left.times[i] + less)
              const atR = two ? count - Math.round(right.times[i] + less) : at
              // a little further as well, so that it has closed when the sound comes
              const gone = Math.max(
                rounds[(at >> 3) & roundMask],
                rounds[(Math.min(count, at + ahead) >> 3) & roundMask],
              )
              const goneR = two
                ? Math.max(
                    rounds[(atR >> 3) & roundMask],
                    rounds[(Math.min(count, atR + ahead) >> 3) & roundMask],
                  )
                : gone
              pass += passing * ((gone + 1 < most ? 1 : 0) - pass)
              passR += passing * ((goneR + 1 < most ? 1 : 0) - passR)
              rounds[now] = loudIn >= loudBack ? 0 : Math.min(200, Math.max(gone, goneR) + 1)
              fl *= pass
              fr *= passR
            } else pass = passR = 1
            count++
            let wl = xL + fl
            let wr = xR + fr
            if (!isStraight) {
              const crossed = pathFrom + pathStep * (i + 1)
              const straightL = wl
              wl = straightL + crossed * (0.5 * (xL + xR) + fr - straightL)
              wr += crossed * (fl - wr)
            }
            if (freeze ? frozen < 1 : frozen > 0)
              frozen = freeze ? Math.min(1, frozen + freezing) : Math.max(0, frozen - freezing)
            if (frozen > 0) {
              wl += frozen * (readL[i] - wl)
              wr += frozen * (readR[i] - wr)
            }
            writeL[i] = wl
            writeR[i] = wr
            const g = gains[i]
            if (mono) {
              outL[i] = l * g
              outR[i] = r * g
            } else {
              const m = 0.5 * (l + r)
              const s = 0.5 * (l - r) * widths[i]
              outL[i] = (m + s) * g
              outR[i] = (m - s) * g
            }
          }
          line.write(writeL, writeR, start, end)
        }
        state[FROZEN] = frozen
        state[COUNT] = count
        state[LOUD_IN] = loudIn
        state[LOUD_BACK] = loudBack
        state[PASS] = pass
        state[PASS_R] = passR
        state[LOW_L] = Math.abs(lowL) < 1e-20 ? 0 : lowL
        state[LOW_R] = Math.abs(lowR) < 1e-20 ? 0 : lowR
        state[HIGH_L] = Math.abs(highL) < 1e-20 ? 0 : highL
        state[HIGH_R] = Math.abs(highR) < 1e-20 ? 0 : highR
        readouts[0] = gains[BLOCK - 1]
        readouts[1] = (left.times[BLOCK - 1] + less) / sampleRate
        readouts[2] = two ? (right.times[BLOCK - 1] + less) / sampleRate : readouts[1]
      },
    }
  },
})
