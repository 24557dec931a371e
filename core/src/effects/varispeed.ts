import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { prepareBandLimited } from '../dsp/band-limited-kernel'
import { FASTEST, FAST_REACH, StereoDelayLine } from '../dsp/delay-line'
import { exp2, log2, poleFor } from '../dsp/math'
import { choice, factor, percent, seconds, toggle } from '../units/parameter'

/** As much of the buffer as is kept as a sound, in seconds: a copy of more would make the next block late. */
const HELD_SECONDS = 10
const LONGEST = 60
/** How close to live it reads, in samples: what reading at four times the speed needs. */
const NEAR = FAST_REACH + 8
/** Speed below which the sound fades, since a tape that stands gives nothing. */
const STANDING = 0.04
/** Samples read at one width of the interpolation. */
const PIECE = 32

// places of `state`
const BEHIND = 0,
  MOTOR = 1,
  FADE = 2,
  OLD = 3,
  LEVEL = 4,
  KNOWN = 5,
  LAST = 6

/**
 * Reads what has come in at any speed, either way: a tape that is braked, run backwards, scratched. `Scratch`
 * moves the place by hand or modulator, its slope is speed. Reading that reaches live, or the oldest sample,
 * stays there.
 */
export const varispeed = defineEffect({
  id: 'varispeed',
  name: 'Varispeed',
  group: 'time',
  load: { kB: 51, ns: 170, ring: LONGEST },
  tip: 'Plays recent input at any speed: tape stops, reverse, scratching',
  also: ['tape stop', 'half speed', 'scratch', 'reverse'],
  holds: true,
  params: {
    speed: factor('Speed', {
      min: -4,
      max: 4,
      default: 1,
      tip: 'Playback speed: 1 is normal, 0 stops, negative values play backwards',
    }),
    stop: toggle('Stop', false, 'Slows the tape to a stop, and starts it again'),
    stopTime: seconds('Stop time', { min: 0.01, max: 8, default: 0.9, tip: 'Time to stop' }),
    startTime: seconds('Start time', {
      min: 0.01,
      max: 8,
      default: 0.4,
      tip: 'Time to full speed',
    }),
    curve: percent('Curve', {
      min: -1,
      max: 1,
      default: 0.2,
      tip: 'Curve of the stop: above 0 slows early, below 0 late',
    }),
    scratch: percent('Scratch', {
      default: 0,
      glide: 0.03,
      tip: 'Scratch position: 0 % is now, 100 % is as far back as Span',
    }),
    span: seconds('Span', { min: 0.01, max: 4, default: 0.5, tip: 'Range of the scratch' }),
    after: choice(
      'Then',
      ['stays behind', 'catches up'],
      1,
      'Whether it returns to live input at normal speed',
    ),
    fade: seconds('Catch-up', { min: 0.005, max: 2, default: 0.06, tip: 'Crossfade back to live input' }),
  },
  readouts: ['speed', 'behind'],
  latency: () => NEAR,
  acts: (_, latency) => latency,
  tail: () => LONGEST,
  prepare: () => {
    prepareBandLimited(FASTEST)
  },
  groups: [
    { name: 'Speed', gauges: ['speed', 'stop', 'stopTime', 'startTime', 'curve'] },
    { name: 'Scratch', gauges: ['scratch', 'span'] },
    { name: 'Return', gauges: ['after', 'fade'] },
  ],
  presets: [
    {
      name: 'Tape stop, by hand',
      tip: 'Turn Stop on to slow down',
      params: { stop: 0, stopTime: 0.9, curve: 0.3 },
    },
    { name: 'Half speed, far behind', tip: 'Plays at half speed', params: { speed: 0.5, after: 0 } },
    { name: 'Falling behind', tip: 'A little slow, falls behind', params: { speed: 0.84, after: 0 } },
    { name: 'Scratch, for a link', tip: 'Still until a link scratches it', params: { span: 0.35, after: 0 } },
    {
      name: 'Power cut',
      tip: 'Fast stop, slow restart',
      params: { stopTime: 0.25, startTime: 1.6, curve: -0.5, fade: 0.4 },
    },
  ],
  create: ({ sampleRate }) => {
    const line = new StereoDelayLine(LONGEST * sampleRate + 2 * BLOCK, 8, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const oldTimes = line.block(),
      oldL = line.block(),
      oldR = line.block()
    const weights = new Float64Array(BLOCK),
      levels = new Float64Array(BLOCK),
      speeds = new Float64Array(BLOCK)
    const writeL = line.block(),
      writeR = line.block()
    const longest = LONGEST * sampleRate
    const glide = 1 - poleFor(0.01, sampleRate)
    const state = new Float64Array(7)
    const readouts = new Float64Array(2)
    return {
      readouts,
      reset() {
        line.reset()
        state.fill(0)
      },
      held: () => line.content(HELD_SECONDS * sampleRate),
      isQuiet: () => line.isQuiet,
      process({ in: input, out }, p) {
        writeL.set(input.left)
        writeR.set(input.right)
        line.write(writeL, writeR, 0, BLOCK)
        const asked = p.speed.values(),
          hands = p.scratch.values(),
          spans = p.span.values(),
          stops = p.stopTime.values(),
          starts = p.startTime.values()
        const braked = p.stop.value === 1
        const power = exp2(2 * p.curve.value)
        const catches = p.after.value === 1
        let behind = state[BEHIND],
          motor = state[MOTOR],
          fade = state[FADE],
          old = state[OLD],
          level = state[LEVEL],
          last = state[LAST]
        if (state[KNOWN] === 0) {
          state[KNOWN] = 1
          motor = braked ? 0 : 1
          level = motor
          last = hands[0] * spans[0] * sampleRate
        }
        const filled = Math.min(longest, line.filled - BLOCK)
        let fading = fade > 0
        for (let i = 0; i < BLOCK; i++) {
          motor = braked
            ? Math.max(0, motor - 1 / (stops[i] * sampleRate))
            : Math.min(1, motor + 1 / (starts[i] * sampleRate))
          const pull = motor === 1 ? 1 : motor === 0 ? 0 : exp2(power * log2(motor))
          const hand = hands[i] * spans[i] * sampleRate
          const moved = hand - last
          last = hand
          let step = 1 - asked[i] * pull + moved
          const oldest = Math.max(0, filled + i)
          let to = behind + step
          if (to < 0) to = 0
          if (to > oldest) to = oldest
          step = to - behind
          behind = to
          if (fade > 0) {
            old = Math.min(longest, Math.max(0, old + 1 - asked[i]))
            fade = Math.max(0, fade - 1 / (p.fade.value * sampleRate))
          } else if (catches && pull === 1 && asked[i] === 1 && moved === 0 && hand === 0 && behind > 0) {
            old = behind
            behind = 0
            fade = 1
            fading = true
          }
          const speed = fade > 0 ? 1 : 1 - step
          const moves = Math.abs(speed) >= STANDING ? 1 : Math.abs(speed) / STANDING
          level += glide * (moves - level)
          levels[i] = level
          speeds[i] = speed
          // a piece is read as if what is written came after its first sample
          times[i] = behind + NEAR + BLOCK - (i & -PIECE)
          weights[i] = fade
          oldTimes[i] = old + NEAR + BLOCK - (i & -PIECE)
        }
        for (let start = 0; start < BLOCK; start += PIECE) {
          let most = 0
          for (let i = start; i < start + PIECE; i++)
            if (Math.abs(speeds[i]) > most) most = Math.abs(speeds[i])
          line.readFast(times, most, readL, readR, start, start + PIECE)
          if (fading) line.readFast(oldTimes, most, oldL, oldR, start, start + PIECE)
        }
        for (let i = 0; i < BLOCK; i++) {
          const w = fading ? weights[i] * weights[i] * (3 - 2 * weights[i]) : 0
          out.left[i] = levels[i] * (w > 0 ? readL[i] + w * (oldL[i] - readL[i]) : readL[i])
          out.right[i] = levels[i] * (w > 0 ? readR[i] + w * (oldR[i] - readR[i]) : readR[i])
        }
        state[BEHIND] = behind
        state[MOTOR] = motor
        state[FADE] = fade
        state[OLD] = old
        state[LEVEL] = level
        state[LAST] = last
        readouts[0] = speeds[BLOCK - 1]
        readouts[1] = behind / sampleRate
      },
    }
  },
})
