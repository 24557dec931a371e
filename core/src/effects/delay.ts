import { BLOCK, type ParamBlocks, type StereoBlock } from '../contract/block'
import { type EffectBlock, type EffectProcessor, defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { DelayTimes } from '../dsp/delay-times'
import { Diffuser } from '../dsp/diffuser'
import { Ducker } from '../dsp/ducker'
import { exp2Block, log2, poleFor } from '../dsp/math'
import { onePoleWeight, onePoleWeights } from '../dsp/one-pole'
import { RoundGate } from '../dsp/round-gate'
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

const params = {
  sync: toggle('Sync', false, 'Sets the time as a note length'),
  time: seconds('Time', { min: 0.0005, max: 4, default: 0.25, tip: 'Delay time' }),
  length: beats('Length', { min: 1 / 16, max: 16, default: 0.75, tip: 'Delay time as a note length' }),
  sides: choice('Sides', ['linked', 'separate'], 0, 'Uses one delay time, or one for each side'),
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
  feed: percent('Feed', { default: 1, tip: 'Input level; at 0 % only the existing echoes continue' }),
  feedback: percent('Feedback', {
    min: -1.2,
    max: 1.2,
    default: 0.35,
    tip: 'Share of the output that is fed back; above 100 % the saturation limits it',
  }),
  repeats: number('Repeats', {
    min: 0,
    max: 32,
    default: 0,
    glide: 0,
    zero: 'unlimited',
    tip: 'Maximum number of echoes',
  }),
  pingPong: toggle('Ping-pong', false, 'Sends each echo to the opposite side', { edit: 'continuous' }),
  path: percent('Cross-feed', {
    default: 0,
    tip: 'Feedback into the opposite side; 100 % is ping-pong',
  }),
  change: choice(
    'Change',
    ['bend pitch', 'crossfade'],
    0,
    'What a change of time does: bends the pitch, or crossfades',
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
    tip: 'Saturation in the feedback path, level-compensated',
  }),
  diffusion: percent('Diffusion', {
    default: 0,
    tip: 'Blurs the echoes, more with each repeat',
  }),
  pitch: semitones('Pitch', {
    min: -24,
    max: 24,
    default: 0,
    tip: 'Pitch shift per echo; cents after the point',
  }),
  duck: decibel('Duck', {
    min: 0,
    max: 40,
    default: 0,
    tip: 'Reduces the echoes while the input or the sidechain is loud',
  }),
  release: seconds('Duck release', {
    min: 0.02,
    max: 2,
    default: 0.25,
    tip: 'Time in which the echoes recover',
  }),
  freeze: toggle('Freeze', false, 'Repeats the buffer unchanged and ignores new input'),
  width: percent('Width', { max: 1.5, default: 1, tip: 'Stereo width of the echoes; 0 % is mono' }),
  trails: toggle('Trails', false, 'Lets the echoes ring out when the effect is turned off'),
}

type Params = ParamBlocks<typeof params>

/**
 * Delay with filters, saturation, diffusion, pitch and cross-feed in the loop, read by 8-tap windowed sinc.
 * Both sides have one time or one each. Time changes either bend pitch as a tape would (varispeed: the time
 * glides) or crossfade from the old place to the new. Frozen, whole samples are repeated as they are, so that
 * nothing changes however long it lasts.
 */
export const delay = defineEffect({
  id: 'delay',
  name: 'Delay',
  group: 'time',
  spreads: true,
  load: { kB: 604, ns: 370, ring: LONGEST_DELAY },
  tip: 'Echoes in milliseconds or note lengths, with filters, saturation, diffusion and pitch in the feedback',
  also: ['echo', 'ping-pong', 'tape delay', 'slapback'],
  sidechain: true,
  trails: true,
  readouts: ['duck', 'left', 'right'],
  holds: true,
  params,
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
  applies: (param, value) => {
    const two = value('sides') >= 0.5
    if (param === 'timeRight') return two && value('sync') < 0.5
    if (param === 'lengthRight') return two && value('sync') >= 0.5
    if (param === 'path') return value('pingPong') < 0.5
    return param !== 'release' || value('duck') > 0
  },
  groups: [
    { name: 'Time', gauges: ['sync', 'time', 'length', 'sides', 'timeRight', 'lengthRight', 'change'] },
    { name: 'Feedback', gauges: ['feed', 'feedback', 'repeats', 'pingPong', 'path', 'freeze', 'trails'] },
    { name: 'Tone', gauges: ['lowCut', 'highCut', 'saturation', 'diffusion', 'pitch'] },
    { name: 'Ducking', gauges: ['duck', 'release'] },
    { name: 'Output', gauges: ['width'] },
  ],
  main: ['time', 'length', 'feedback', 'pingPong', 'lowCut', 'highCut', 'pitch'],
  presets: [
    {
      name: 'Across the quay',
      tip: 'Dotted ping-pong',
      params: { sync: 1, length: 0.75, feedback: 0.4, pingPong: 1, wet: 0.35 },
    },
    { name: 'Slap', tip: 'One short echo', params: { time: 0.095, feedback: 0.08, wet: 0.4 } },
    {
      name: 'Dark tape',
      tip: 'Warm, filtered repeats',
      params: { time: 0.38, feedback: 0.6, highCut: 2600, lowCut: 140, saturation: 9, wet: 0.35 },
    },
    { name: 'Metal tube', tip: 'Short ringing resonance', params: { time: 0.006, feedback: 0.8, wet: 0.5 } },
    {
      name: 'Ducked by the voice',
      tip: 'Echoes only in the gaps',
      params: { sync: 1, length: 0.5, feedback: 0.55, duck: 18, release: 0.35, wet: 0.45 },
    },
    {
      name: 'Pitch spiral',
      tip: 'Each repeat a fifth higher',
      params: { time: 0.21, feedback: 0.72, pitch: 7, diffusion: 0.3, highCut: 7000, wet: 0.45 },
    },
    {
      name: 'Melting',
      tip: 'Repeats blur into a pad',
      params: { sync: 1, length: 1, feedback: 0.75, diffusion: 0.75, highCut: 4200, wet: 0.4 },
    },
    {
      name: 'Throw, feed by hand',
      tip: 'Echoes only while Feed is up',
      params: { sync: 1, length: 0.75, feedback: 0.82, feed: 0, trails: 1, wet: 0.5 },
    },
  ],
  create: ({ sampleRate }) => new DelayProcessor(sampleRate),
})

// places of `state` of the whole
const PATH = 0,
  PATH_KNOWN = 1,
  FROZEN = 2,
  HELD_L = 3,
  HELD_R = 4,
  LONGEST_READ = 5,
  PATH_FROM = 6

class DelayProcessor implements EffectProcessor<typeof params> {
  readonly readouts = new Float64Array(3)
  private readonly line: StereoDelayLine
  private readonly times: Times
  private readonly reading: Reading
  private readonly tone: LoopTone
  private readonly gate: RoundGate
  private readonly spread: readonly [Diffuser, Diffuser]
  private readonly shift: Splicer
  private readonly ratios = new Float64Array(BLOCK)
  private readonly ducker: Ducker
  private readonly gains = new Float64Array(BLOCK)
  private readonly state = new Float64Array(7)
  /** How far each frame is frozen, and the one after the block. */
  private readonly frozen = new Float64Array(BLOCK + 1)
  private readonly written: readonly [Float64Array, Float64Array]

  constructor(private readonly sampleRate: number) {
    const longest = LONGEST_DELAY * sampleRate
    const line = new StereoDelayLine(longest, 12, BLOCK)
    this.line = line
    this.times = new Times(line, longest, sampleRate)
    this.reading = new Reading(line, this.times)
    this.tone = new LoopTone(sampleRate)
    this.gate = new RoundGate(line.longest, sampleRate)
    this.spread = [new Diffuser(sampleRate), new Diffuser(sampleRate, 1.07)]
    this.shift = new Splicer(
      sampleRate,
      Math.round(SHIFT_LONGEST * sampleRate),
      Math.round(SHIFT_RESTING * sampleRate),
      BLOCK,
    )
    this.ducker = new Ducker(sampleRate)
    this.written = [line.block(), line.block()]
  }

  reset(): void {
    this.line.reset()
    this.times.reset()
    for (const side of this.spread) side.reset()
    this.shift.reset()
    this.ducker.reset()
    this.tone.reset()
    this.gate.reset()
    this.state.fill(0)
  }

  held(): readonly [Float32Array, Float32Array] {
    return this.line.content(Math.max(this.state[HELD_L], this.state[LONGEST_READ], this.sampleRate))
  }

  isQuiet(): boolean {
    const { state, sampleRate } = this
    return (
      this.line.isQuietWithin(Math.max(8 * sampleRate, state[LONGEST_READ] + sampleRate)) &&
      state[FROZEN] === 0
    )
  }

  process({ in: input, out, side, song }: EffectBlock, p: Params): void {
    const { reading, gate, written, frozen, times, gains } = this
    const shifts = !p.pitch.constant || p.pitch.value !== 0
    const spreads = !p.diffusion.constant || p.diffusion.value !== 0
    // what the shift and the all-passes take is part of the time
    const [spreadL, spreadR] = this.spread
    const less = (shifts ? this.shift.resting : 0) + (spreads ? Math.max(spreadL.delay, spreadR.delay) : 0)
    const two = p.sides.value === 1
    const least = this.timesOf(p, 1 / song.beatsPerFrame, less)

    // from straight to crossed within milliseconds, since a jump would be repeated by the feedback
    this.pathTo(p.pingPong.value === 1 ? 1 : p.path.value)
    this.freezeTo(p.freeze.value === 1)
    const feedbacks = p.feedback.values()
    const feeds = p.feed.values()
    const diffusions = p.diffusion.values()
    this.tone.prepare(p)
    gate.most = Math.round(p.repeats.value)
    gate.ago = less
    if (shifts) {
      const pitches = p.pitch.values()
      for (let i = 0; i < BLOCK; i++) this.ratios[i] = pitches[i] / 12
      exp2Block(this.ratios)
    }
    if (!p.duck.constant || p.duck.value > 0)
      this.ducker.process(side.left, side.right, p.duck.values(), p.release.value, gains)
    else gains.fill(1)
    // As many samples at a time as come out before the first of them goes in again.
    const stretch = Math.max(1, Math.min(BLOCK, Math.floor(least) - LEAST_DELAY + 1))
    for (let start = 0; start < BLOCK; start += stretch) {
      const end = Math.min(BLOCK, start + stretch)
      reading.read(two, start, end)
      if (spreads) reading.through(spreadL, spreadR, diffusions, start, end)
      else reading.straight(start, end)
      if (shifts) reading.shifted(this.shift, this.ratios, start, end)
      if (frozen[BLOCK] > 0 || frozen[0] > 0) reading.freeze(frozen, start, end)
      this.tone.process(reading, feedbacks, start, end)
      for (let i = start; i < end; i++) {
        written[0][i] = input.left[i] * feeds[i]
        written[1][i] = input.right[i] * feeds[i]
      }
      gate.process(reading, written, times.left.times, two ? times.right.times : null, start, end)
      this.join(start, end)
      this.line.write(written[0], written[1], start, end)
    }
    this.give(out, p)
    this.readouts[0] = gains[BLOCK - 1]
    this.readouts[1] = (times.left.times[BLOCK - 1] + less) / this.sampleRate
    this.readouts[2] = two ? (times.right.times[BLOCK - 1] + less) / this.sampleRate : this.readouts[1]
  }

  /** Works out the times of a block, and gives the shortest in samples. */
  private timesOf(p: Params, framesPerBeat: number, less: number): number {
    const { state, times } = this
    const { left, right } = times
    const two = p.sides.value === 1
    const freeze = p.freeze.value === 1
    let least: number
    if (freeze && state[FROZEN] > 0) {
      times.hold(state[HELD_L], state[HELD_R])
      least = Math.min(state[HELD_L], two ? state[HELD_R] : state[HELD_L])
    } else {
      const synced = p.sync.value === 1
      const scale = synced ? framesPerBeat : this.sampleRate
      const fades = p.change.value === 1
      const a = synced ? p.length : p.time
      const b = synced ? p.lengthRight : p.timeRight
      least = left.follow(a.values(), a.constant, scale, fades, less)
      if (two) least = Math.min(least, right.follow(b.values(), b.constant, scale, fades, less))
      else right.reset()
      if (freeze) {
        // frozen: whole samples from here on, so that a round changes nothing
        state[HELD_L] = Math.round(left.times[BLOCK - 1] + less)
        state[HELD_R] = two ? Math.round(right.times[BLOCK - 1] + less) : state[HELD_L]
        times.hold(state[HELD_L], state[HELD_R])
        least = Math.min(state[HELD_L], state[HELD_R])
        times.reset()
      }
    }
    const longest = Math.max(left.times[0], two ? right.times[0] : 0)
    if (longest > state[LONGEST_READ]) state[LONGEST_READ] = longest
    return least
  }

  /** Moves the cross-feed on by a block. */
  private pathTo(goal: number): void {
    const { state } = this
    const from = state[PATH_KNOWN] === 0 ? goal : state[PATH]
    const to =
      state[PATH_KNOWN] === 0 ? goal : from + (1 - poleFor(0.01, this.sampleRate / BLOCK)) * (goal - from)
    state[PATH] = Math.abs(to - goal) < 1e-4 ? goal : to
    state[PATH_KNOWN] = 1
    state[PATH_FROM] = from
  }

  private freezeTo(freeze: boolean): void {
    const { frozen, state } = this
    const step = 1 / (FREEZING * this.sampleRate)
    let now = state[FROZEN]
    if (now === 0 && !freeze) {
      frozen.fill(0)
      return
    }
    for (let i = 0; i < BLOCK; i++) {
      frozen[i] = now
      if (freeze ? now < 1 : now > 0) now = freeze ? Math.min(1, now + step) : Math.max(0, now - step)
    }
    frozen[BLOCK] = state[FROZEN] = now
  }

  /** Writes the line: the input plus the feedback, straight or crossed, or the frozen sound. */
  private join(start: number, end: number): void {
    const { frozen, state } = this
    const pathFrom = state[PATH_FROM]
    const pathStep = (state[PATH] - pathFrom) / BLOCK
    const [writeL, writeR] = this.written
    const { readL, readR, backL, backR } = this.reading
    const isStraight = pathFrom === 0 && state[PATH] === 0
    for (let i = start; i < end; i++) {
      const xL = writeL[i]
      const xR = writeR[i]
      const fl = backL[i]
      let wl = xL + fl
      let wr = xR + backR[i]
      if (!isStraight) {
        const crossed = pathFrom + pathStep * (i + 1)
        wl += crossed * (0.5 * (xL + xR) + backR[i] - wl)
        wr += crossed * (fl - wr)
      }
      const ice = frozen[i + 1]
      if (ice > 0) {
        wl += ice * (readL[i] - wl)
        wr += ice * (readR[i] - wr)
      }
      writeL[i] = wl
      writeR[i] = wr
    }
  }

  private give({ left, right }: StereoBlock, p: Params): void {
    const { otherL, otherR } = this.reading
    const { gains } = this
    if (p.width.constant && p.width.value === 1)
      for (let i = 0; i < BLOCK; i++) {
        left[i] = otherL[i] * gains[i]
        right[i] = otherR[i] * gains[i]
      }
    else {
      const widths = p.width.values()
      for (let i = 0; i < BLOCK; i++) {
        const m = 0.5 * (otherL[i] + otherR[i])
        const s = 0.5 * (otherL[i] - otherR[i]) * widths[i]
        left[i] = (m + s) * gains[i]
        right[i] = (m - s) * gains[i]
      }
    }
  }
}

/** The times of both sides. */
class Times {
  readonly left: DelayTimes
  readonly right: DelayTimes

  constructor(line: StereoDelayLine, longest: number, sampleRate: number) {
    this.left = new DelayTimes(line.block(), line.block(), longest, sampleRate)
    this.right = new DelayTimes(line.block(), line.block(), longest, sampleRate)
  }

  hold(left: number, right: number): void {
    this.left.times.fill(left)
    this.right.times.fill(right)
  }

  reset(): void {
    this.left.reset()
    this.right.reset()
  }
}

/** The output of the line in a block, and its processing in the feedback path. */
class Reading {
  readonly readL: Float64Array
  readonly readR: Float64Array
  /** Spread and shifted. */
  readonly otherL: Float64Array
  readonly otherR: Float64Array
  /** The part of it that is fed back. */
  readonly backL = new Float64Array(BLOCK)
  readonly backR = new Float64Array(BLOCK)
  private readonly fadeL: Float64Array
  private readonly fadeR: Float64Array

  constructor(
    private readonly line: StereoDelayLine,
    private readonly times: Times,
  ) {
    this.readL = line.block()
    this.readR = line.block()
    this.otherL = line.block()
    this.otherR = line.block()
    this.fadeL = line.block()
    this.fadeR = line.block()
  }

  /** Reads both sides at their times, and what fades from other times. */
  read(two: boolean, start: number, end: number): void {
    const { line, readL, readR, fadeL, fadeR, otherL, otherR } = this
    const { left, right } = this.times
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
    const { weights } = two ? right : left
    if (left.isFading) for (let i = start; i < end; i++) readL[i] += left.weights[i] * (fadeL[i] - readL[i])
    if (two ? right.isFading : left.isFading)
      for (let i = start; i < end; i++) readR[i] += weights[i] * (fadeR[i] - readR[i])
  }

  straight(start: number, end: number): void {
    const { readL, readR, otherL, otherR } = this
    for (let i = start; i < end; i++) {
      otherL[i] = readL[i]
      otherR[i] = readR[i]
    }
  }

  through(left: Diffuser, right: Diffuser, amounts: Float64Array, start: number, end: number): void {
    left.process(this.readL, this.otherL, amounts, start, end)
    right.process(this.readR, this.otherR, amounts, start, end)
  }

  shifted(shift: Splicer, ratios: Float64Array, start: number, end: number): void {
    const { otherL, otherR } = this
    shift.process(otherL, otherR, ratios, start, end)
    for (let i = start; i < end; i++) {
      otherL[i] = shift.left[i]
      otherR[i] = shift.right[i]
    }
  }

  /** Frozen sound is neither diffused nor shifted. */
  freeze(frozen: Float64Array, start: number, end: number): void {
    const { readL, readR, otherL, otherR } = this
    for (let i = start; i < end; i++) {
      otherL[i] += frozen[i] * (readL[i] - otherL[i])
      otherR[i] += frozen[i] * (readR[i] - otherR[i])
    }
  }
}

/** Low cut, high cut and saturation of the feedback. */
class LoopTone {
  private readonly lowWeights = new Float64Array(BLOCK)
  private readonly highWeights = new Float64Array(BLOCK)
  /** The last low and high cut, and their weights. */
  private readonly known = new Float64Array(4).fill(NaN)
  /** Low cut left and right, high cut left and right. */
  private readonly state = new Float64Array(4)
  private drives!: Float64Array
  private isDriven = false

  constructor(private readonly sampleRate: number) {}

  reset(): void {
    this.state.fill(0)
  }

  prepare({ lowCut, highCut, saturation }: Params): void {
    const { known, lowWeights, highWeights, sampleRate } = this
    if (known[0] !== lowCut.value) known[2] = onePoleWeight((known[0] = lowCut.value), sampleRate)
    if (known[1] !== highCut.value) known[3] = onePoleWeight((known[1] = highCut.value), sampleRate)
    if (lowCut.constant) lowWeights.fill(known[2])
    else onePoleWeights(lowCut.buffer, sampleRate, lowWeights)
    if (highCut.constant) highWeights.fill(known[3])
    else onePoleWeights(highCut.buffer, sampleRate, highWeights)
    this.drives = saturation.values()
    this.isDriven = !saturation.constant || saturation.value > 1
  }

  process(
    { otherL, otherR, backL, backR }: Reading,
    feedbacks: Float64Array,
    start: number,
    end: number,
  ): void {
    const { state, lowWeights, highWeights, drives, isDriven } = this
    let lowL = state[0]
    let lowR = state[1]
    let highL = state[2]
    let highR = state[3]
    for (let i = start; i < end; i++) {
      const a = lowWeights[i]
      const b = highWeights[i]
      lowL += a * (otherL[i] - lowL)
      lowR += a * (otherR[i] - lowR)
      highL += b * (otherL[i] - lowL - highL)
      highR += b * (otherR[i] - lowR - highR)
      const feedback = feedbacks[i]
      let l = highL * feedback
      let r = highR * feedback
      // from unity on the loop always saturates, so self-oscillation stays bounded
      if (isDriven || feedback >= 1 || feedback <= -1) {
        const d = drives[i]
        l = l / Math.sqrt(1 + d * d * l * l * 0.25)
        r = r / Math.sqrt(1 + d * d * r * r * 0.25)
      }
      backL[i] = l
      backR[i] = r
    }
    const ends = end === BLOCK
    state[0] = ends && Math.abs(lowL) < 1e-20 ? 0 : lowL
    state[1] = ends && Math.abs(lowR) < 1e-20 ? 0 : lowR
    state[2] = ends && Math.abs(highL) < 1e-20 ? 0 : highL
    state[3] = ends && Math.abs(highR) < 1e-20 ? 0 : highR
  }
}
