import { BLOCK, type ParamBlock, type ParamBlocks, type StereoBlock } from '../contract/block'
import { type EffectBlock, type EffectPreset, type EffectProcessor, defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { LoopStrings } from '../dsp/loop-string'
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

const params = {
  sync: toggle('Sync', true, 'Sets the total time as a note length'),
  time: seconds('Total time', { min: 0.01, max: 20, default: 1, tip: 'Time from the first tap to the last' }),
  length: beats('Total time (note)', {
    min: 1 / 8,
    max: 16,
    default: 2,
    tip: 'Time from the first tap to the last, as a note length',
  }),
  law: choice('Spacing', spacingLaws, 0, 'How the taps are spaced'),
  bend: percent('Bend', { min: -1, max: 1, default: 0.5, tip: 'Deviation from even spacing' }),
  spread: percent('Spread', { default: 1, tip: 'Stereo spread of the taps' }),
  feed: percent('Feed', { default: 1, tip: 'Input level' }),
  feedback: percent('Feedback', {
    min: -1.1,
    max: 1.1,
    default: 0,
    tip: 'Share that is fed back; stable up to 95 %',
  }),
  from: number('Feedback tap', {
    min: 0,
    max: MOST,
    default: 0,
    glide: 0,
    zero: 'all',
    tip: 'Number of the tap that is fed back',
  }),
  lowCut: hertz('Low cut', { min: 20, max: 2000, default: 60, tip: 'High-pass in the feedback path' }),
  highCut: hertz('High cut', { min: 500, max: 20_000, default: 9000, tip: 'Low-pass in the feedback path' }),
  saturation: boost('Saturation', { min: 0, max: 30, default: 0, tip: 'Saturation in the feedback path' }),
}

type Params = ParamBlocks<typeof params>

/** A field of up to 24 echoes of one line, each with level, place, filter, comb and pitch of its own. */
export const taps = defineEffect({
  id: 'taps',
  name: 'Taps',
  group: 'time',
  spreads: true,
  load: { kB: 3725, ns: 3500, ring: LONGEST },
  tip: 'Up to 24 echoes, each with its own level, pan, filter, comb and pitch',
  also: ['multitap', 'multi-tap', 'cloud', 'delay'],
  readouts: ['whole'],
  params,
  lanes: {
    taps: {
      name: 'Taps',
      item: 'tap',
      least: 1,
      most: MOST,
      solo: true,
      asTable: 'wide',
      applies: (param, owner) => param !== 'time' || spacingLaws[owner('law')] === 'as drawn',
      params: {
        on: toggle('On', true, 'Turns the tap on or off'),
        time: percent('Place', { default: 0.5, tip: 'Position in the total time (spacing “as drawn” only)' }),
        level: gain('Level', { min: -60, max: 6, default: 0, tip: 'Level of the tap' }),
        polarity: toggle('Invert', false, 'Inverts the polarity of the tap'),
        pan: pan('Pan', { tip: 'Pan position of the tap' }),
        filter: choice(
          'Filter',
          ['off', 'low-pass', 'band-pass', 'high-pass', 'notch'],
          0,
          'Filter type of the tap',
        ),
        cutoff: hertz('Cutoff', { min: 40, max: 18_000, default: 1200, tip: 'Cutoff of the tap’s filter' }),
        resonance: percent('Resonance', { default: 0.2, tip: 'Resonance of the tap’s filter' }),
        comb: percent('Comb', { default: 0, tip: 'Amount of comb resonance' }),
        note: note('Comb note', { min: 24, max: 96, default: 50, tip: 'Note of the comb' }),
        odd: toggle('Hollow', false, 'Limits the comb to odd harmonics'),
        pitch: semitones('Pitch', {
          min: -24,
          max: 24,
          default: 0,
          tip: 'Pitch of the tap; cents after the point',
        }),
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
  groups: [
    { name: 'Time', gauges: ['sync', 'time', 'length', 'law', 'bend'] },
    { name: 'Feedback', gauges: ['feed', 'feedback', 'from'] },
    { name: 'Tone', gauges: ['lowCut', 'highCut', 'saturation'] },
    { name: 'Output', gauges: ['spread'] },
  ],
  main: ['time', 'length', 'law', 'bend', 'feedback', 'spread'],
  presets: [
    {
      name: 'Cloud of taps',
      tip: 'Scattered, diffuse echoes',
      params: { length: 4, law: 2, bend: 0.3, feedback: 0.35 },
      lanes: cloud(24, 11, true),
    },
    {
      name: 'Steps down the gangway',
      tip: 'Falling echoes',
      params: { length: 2, law: 0 },
      lanes: row(8, (k) => ({ level: -2 * k, pitch: -k, pan: k % 2 === 0 ? -0.7 : 0.7 })),
    },
    {
      name: 'Bouncing to rest',
      tip: 'Echoes speed up and fade',
      params: { sync: 0, time: 1.4, law: 1, bend: 0.9 },
      lanes: row(14, (k) => ({ level: -1.6 * k, pan: 0.5 - k / 13 })),
    },
    {
      name: 'Chord of combs',
      tip: 'Echoes ring as a chord',
      params: { length: 1, law: 0, feedback: 0.3 },
      lanes: row(5, (k) => ({ level: -8, comb: 0.8, note: [38, 45, 50, 53, 57][k], pan: (k - 2) / 2.5 })),
    },
    {
      name: 'Swung sixteenths, darker',
      tip: 'Rhythmic echoes that get darker',
      params: { length: 2, law: 3, bend: 0.8 },
      lanes: row(8, (k) => ({
        level: -2.5 * k,
        filter: 1,
        cutoff: 6000 * exp2(-0.55 * k),
        pan: k % 2 === 0 ? -0.4 : 0.4,
      })),
    },
  ],
  create: ({ sampleRate }) => new TapsProcessor(sampleRate),
})

class TapsProcessor implements EffectProcessor<typeof params> {
  readonly readouts = new Float64Array(1)
  private readonly line: StereoDelayLine
  private readonly longest: number
  private readonly round: Round
  private readonly taps: readonly Tap[]
  private readonly sumL = new Float64Array(BLOCK)
  private readonly sumR = new Float64Array(BLOCK)
  private solos: readonly number[] = []

  constructor(private readonly sampleRate: number) {
    this.longest = LONGEST * sampleRate
    const line = new StereoDelayLine(this.longest + 2 * BLOCK, 5, BLOCK)
    this.line = line
    this.round = new Round(line, sampleRate)
    const read = { times: line.block(), left: line.block(), right: line.block() }
    this.taps = Array.from({ length: MOST }, () => new Tap(line, read, sampleRate))
  }

  solo(items: readonly number[]): void {
    this.solos = items
  }

  reset(): void {
    this.line.reset()
    this.round.reset()
    for (const tap of this.taps) tap.reset()
  }

  process({ in: input, out, song, lanes }: EffectBlock, p: Params): void {
    const { round, taps, sumL, sumR, solos } = this
    const items = lanes.taps
    const n = items.length
    const whole = Math.min(
      this.longest,
      p.sync.value === 1 ? p.length.value / song.beatsPerFrame : p.time.value * this.sampleRate,
    )
    round.enter(input, p)
    sumL.fill(0)
    sumR.fill(0)
    const from = Math.round(p.from.value)
    const all = from === 0 || from > n
    let levels = 0
    for (let k = 0; k < n; k++)
      if (items[k].on.value === 1 && (all || from === k + 1)) levels += items[k].level.value
    const share = levels > 1 ? 1 / levels : 1
    for (let k = 0; k < n; k++) {
      const item = items[k]
      const tap = taps[k]
      const isOn = item.on.value === 1
      const place = tapPlace(p.law.value, p.bend.value, k, n, item.time.value)
      if (!tap.aim(item, whole * place, p.spread.value, isOn && (solos.length === 0 || solos.includes(k))))
        continue
      tap.read(item)
      if (all || from === k + 1)
        round.take(tap, isOn ? share * item.level.value * (item.polarity.value === 1 ? -1 : 1) : 0)
      tap.colour(item)
      tap.addTo(sumL, sumR)
    }
    for (let i = 0; i < BLOCK; i++) {
      out.left[i] = sumL[i]
      out.right[i] = sumR[i]
    }
    for (let k = n; k < MOST; k++) taps[k].forget()
    this.readouts[0] = whole / this.sampleRate
  }
}

/** The feedback: output of the taps in the previous block. */
class Round {
  private readonly left = new Float64Array(BLOCK)
  private readonly right = new Float64Array(BLOCK)
  private readonly writeL: Float64Array
  private readonly writeR: Float64Array
  /** Low cut left and right, high cut left and right; what the cuts are worked out for, and their weights. */
  private readonly state = new Float64Array(8)

  constructor(
    private readonly line: StereoDelayLine,
    private readonly sampleRate: number,
  ) {
    this.writeL = line.block()
    this.writeR = line.block()
  }

  reset(): void {
    this.state.fill(0)
    this.left.fill(0)
    this.right.fill(0)
  }

  /** Writes the input and the feedback, which is one block (2.7 ms) later than each tap, into the line. */
  enter(input: StereoBlock, p: Params): void {
    const { line, left, right, writeL, writeR, state, sampleRate } = this
    const feeds = p.feed.values()
    const backs = p.feedback.values()
    const drives = p.saturation.values()
    if (state[4] !== p.lowCut.value) state[5] = onePoleWeight((state[4] = p.lowCut.value), sampleRate)
    if (state[6] !== p.highCut.value) state[7] = onePoleWeight((state[6] = p.highCut.value), sampleRate)
    const a = state[5]
    const b = state[7]
    let lowL = state[0]
    let lowR = state[1]
    let highL = state[2]
    let highR = state[3]
    for (let i = 0; i < BLOCK; i++) {
      lowL += a * (left[i] - lowL)
      lowR += a * (right[i] - lowR)
      highL += b * (left[i] - lowL - highL)
      highR += b * (right[i] - lowR - highR)
      const d = drives[i]
      const l = highL * backs[i]
      const r = highR * backs[i]
      writeL[i] = input.left[i] * feeds[i] + l / Math.sqrt(1 + 0.25 * d * d * l * l)
      writeR[i] = input.right[i] * feeds[i] + r / Math.sqrt(1 + 0.25 * d * d * r * r)
    }
    state[0] = Math.abs(lowL) < 1e-20 ? 0 : lowL
    state[1] = Math.abs(lowR) < 1e-20 ? 0 : lowR
    state[2] = Math.abs(highL) < 1e-20 ? 0 : highL
    state[3] = Math.abs(highR) < 1e-20 ? 0 : highR
    line.write(writeL, writeR, 0, BLOCK)
    left.fill(0)
    right.fill(0)
  }

  /** Takes a share of what a tap has read. */
  take({ left, right }: Tap, share: number): void {
    for (let i = 0; i < BLOCK; i++) {
      this.left[i] += share * left[i]
      this.right[i] += share * right[i]
    }
  }
}

// places of `state` of a tap: its times and levels at the beginning and at the end of the block
const TIME_FROM = 0,
  TIME = 1,
  LEFT_FROM = 2,
  LEFT = 3,
  RIGHT_FROM = 4,
  RIGHT = 5

type TapItem = Readonly<Record<string, ParamBlock>>

/** One echo: reads the line, shifts, filters, combs. */
class Tap {
  readonly left: Float64Array
  readonly right: Float64Array
  private readonly times: Float64Array
  private readonly filtered = new Float64Array(8)
  private readonly strings: LoopStrings
  private readonly shift: Splicer
  /** Its time is below 0 before its first block. */
  private readonly state = new Float64Array(6)
  private readonly glide: number

  constructor(
    private readonly line: StereoDelayLine,
    read: { times: Float64Array; left: Float64Array; right: Float64Array },
    private readonly sampleRate: number,
  ) {
    this.left = read.left
    this.right = read.right
    this.times = read.times
    this.strings = new LoopStrings(COMB_LOWEST, sampleRate, BLOCK)
    this.strings.weights.fill(1)
    const [longest, resting] = [SHIFT_LONGEST, SHIFT_RESTING].map((s) => Math.round(s * sampleRate))
    this.shift = new Splicer(sampleRate, longest, resting, BLOCK)
    this.glide = 1 - poleFor(0.03, sampleRate / BLOCK)
  }

  reset(): void {
    this.forget()
    this.filtered.fill(0)
    this.strings.reset()
    this.shift.reset()
  }

  forget(): void {
    this.state[TIME] = -1
  }

  /** Read position and level at the end of the block; whether it is audible. */
  aim(item: TapItem, time: number, spread: number, isHeard: boolean): boolean {
    const { state } = this
    const longest = LONGEST * this.sampleRate
    // what it is shifted by takes part of its time
    let wanted = time - (shifts(item) ? this.shift.resting : 0)
    if (wanted < LEAST_DELAY) wanted = LEAST_DELAY
    if (wanted > longest) wanted = longest
    const isNew = state[TIME] < 0
    const before = isNew ? wanted : state[TIME]
    state[TIME_FROM] = before
    state[TIME] =
      Math.abs(wanted - before) < 1e-4
        ? wanted
        : item.time.constant
          ? before + this.glide * (wanted - before)
          : wanted
    const level = (isHeard ? item.level.value : 0) * (item.polarity.value === 1 ? -1 : 1)
    const place = item.pan.value * spread
    const toL = level * (place > 0 ? 1 - place : 1)
    const toR = level * (place < 0 ? 1 + place : 1)
    state[LEFT_FROM] = isNew ? toL : state[LEFT]
    state[RIGHT_FROM] = isNew ? toR : state[RIGHT]
    state[LEFT] = toL
    state[RIGHT] = toR
    return !(state[LEFT_FROM] === 0 && toL === 0 && state[RIGHT_FROM] === 0 && toR === 0)
  }

  read(item: TapItem): void {
    const { state, times, left, right, shift } = this
    const before = state[TIME_FROM]
    const step = (state[TIME] - before) / BLOCK
    for (let i = 0; i < BLOCK; i++) times[i] = before + step * (i + 1) + BLOCK
    this.line.read(times, left, right, 0, BLOCK)
    if (!shifts(item)) return
    const pitches = item.pitch.values()
    const ratios = times
    for (let i = 0; i < BLOCK; i++) ratios[i] = pitches[i] / 12
    exp2Block(ratios)
    shift.process(left, right, ratios, 0, BLOCK)
    left.set(shift.left)
    right.set(shift.right)
  }

  colour(item: TapItem): void {
    const corner = item.cutoff.value / this.sampleRate
    if (item.filter.value > 0)
      filter(this.filtered, this.left, this.right, item.filter.value, corner, item.resonance.value)
    if (!item.comb.constant || item.comb.value > 0) this.comb(item)
  }

  private comb(item: TapItem): void {
    const { strings, left, right } = this
    const { hz, feedback, x, y } = strings
    const notes = item.note.values()
    for (let i = 0; i < BLOCK; i++) hz[i] = (notes[i] - 69) / 12
    exp2Block(hz)
    const amounts = item.comb.values()
    const sign = item.odd.value === 1 ? -0.96 : 0.96
    for (let i = 0; i < BLOCK; i++) {
      hz[i] *= 440
      feedback[i] = sign * amounts[i]
      x[2 * i] = left[i]
      x[2 * i + 1] = right[i]
    }
    strings.process()
    for (let i = 0; i < BLOCK; i++) {
      const a = amounts[i]
      left[i] += a * (y[2 * i] * (1 - 0.5 * a) - left[i])
      right[i] += a * (y[2 * i + 1] * (1 - 0.5 * a) - right[i])
    }
  }

  addTo(sumL: Float64Array, sumR: Float64Array): void {
    const { state, left, right } = this
    const fromL = state[LEFT_FROM]
    const fromR = state[RIGHT_FROM]
    const dl = (state[LEFT] - fromL) / BLOCK
    const dr = (state[RIGHT] - fromR) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      sumL[i] += left[i] * (fromL + dl * (i + 1))
      sumR[i] += right[i] * (fromR + dr * (i + 1))
    }
  }
}

const shifts = (item: TapItem): boolean => !item.pitch.constant || item.pitch.value !== 0

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
