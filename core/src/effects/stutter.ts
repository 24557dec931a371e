import {
  BLOCK,
  type LaneBlocks,
  ParamBlock,
  type ParamBlocks,
  type SongBlock,
  type StereoBlock,
} from '../contract/block'
import { type EffectBlock, type EffectProcessor, defineEffect } from '../contract/effect'
import { prepareBandLimited } from '../dsp/band-limited-kernel'
import { FASTEST, FAST_REACH, StereoDelayLine } from '../dsp/delay-line'
import { exp2, log2 } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { randomAt } from '../dsp/random'
import { beats, choice, factor, number, percent, ratio, seconds, semitones, toggle } from '../units/parameter'

/** As much of the buffer as is kept as a sound, in seconds: a copy of more would make the next block late. */
const HELD_SECONDS = 10
const LONGEST = 100
const VOICES = 4
const NEAR = FAST_REACH + 8

type Params = ParamBlocks<typeof params>

const params = {
  by: choice(
    'Gate',
    ['steps', 'notes', 'hold only'],
    0,
    'What opens the gate: the step row, notes, or Hold alone. Hold always opens it',
  ),
  hold: percent('Hold', {
    default: 0,
    glide: 0,
    first: 'whole',
    momentary: true,
    tip: 'Opens the gate while above 50 %. Link a key, a pedal or a modulator',
  }),
  latch: toggle('Latch', false, 'Each press of Hold toggles the gate'),
  quantise: beats('Quantise', {
    min: 0,
    max: 4,
    default: 0,
    law: 'square',
    zero: 'off',
    tip: 'Delays Hold to the next multiple of this length',
  }),
  stepLength: beats('Step', { min: 1 / 16, max: 4, default: 0.5, tip: 'Length of one step of the gate row' }),
  repeat: toggle('Repeat', true, 'Repeats the slice; when off, only the speed acts'),
  sync: toggle('Sync', true, 'Sets the slice as a note length'),
  slice: seconds('Slice', {
    min: 0,
    max: 4,
    default: 0.12,
    zero: 'off',
    tip: 'Length of the slice; off repeats nothing',
  }),
  sliceLength: beats('Slice (note)', {
    min: 1 / 64,
    max: 4,
    default: 0.25,
    tip: 'Length of the slice as a note length',
  }),
  take: choice(
    'Capture',
    ['next', 'previous'],
    0,
    'Captures the slice after the gate opens, or the one before it',
  ),
  anew: choice('Recapture', ['with the gate', 'with each step', 'never'], 0, 'When a new slice is captured'),
  back: percent('Repeat level', { default: 1, tip: 'Level of each pass relative to the one before' }),
  times: number('Times', {
    min: 0,
    max: 64,
    default: 0,
    glide: 0,
    zero: 'unlimited',
    tip: 'Maximum number of passes',
  }),
  point: percent('Slow down each pass', {
    default: 0,
    tip: 'Feeds back before the speed (0 %) or after it (100 %), where each pass is slowed or sped up again',
  }),
  speed: factor('Speed', {
    min: -4,
    max: 4,
    default: 1,
    tip: 'Playback speed: ½ is an octave down, negative values play backwards',
  }),
  pitch: semitones('Pitch per pass', {
    min: -12,
    max: 12,
    default: 0,
    tip: 'Pitch shift of each pass',
  }),
  dull: percent('Damping per pass', { default: 0, tip: 'Treble lost with each pass' }),
  fade: seconds('Crossfade', {
    min: 0.0005,
    max: 0.1,
    default: 0.006,
    tip: 'Fade between passes, and at the edges of the gate',
  }),
}

/**
 * Repeats a slice while its gate is open, at any speed, either way. The gate is a drawn row of steps, notes,
 * or a hold that hands and modulators
 * move. Each pass is a reader of one long buffer; with the return taken after the speed, pass k plays at the
 * k-th power of it.
 */
export const stutter = defineEffect({
  id: 'stutter',
  name: 'Stutter',
  group: 'time',
  load: { kB: 180, ns: 230, ring: LONGEST },
  tip: 'Repeats slices while its gate is open, at any speed or backwards',
  also: ['glitch', 'repeat', 'gated repeater', 'reverse', 'slice'],
  notes: true,
  readouts: ['open', 'start', 'slice', 'place', 'speed', 'pass', 'step'],
  outputs: ['gate'],
  holds: true,
  params,
  lanes: {
    steps: {
      name: 'Gate row',
      item: 'step',
      asTable: 'narrow',
      least: 1,
      most: 64,
      params: {
        on: toggle('Open', false, 'Opens the gate for this step'),
        slice: ratio('Slice', {
          min: 1 / 8,
          max: 8,
          default: 1,
          tip: 'Factor for the slice length in this step',
        }),
        speed: factor('Speed', { min: -4, max: 4, default: 1, tip: 'Factor for the speed in this step' }),
        chance: percent('Chance', { default: 1, tip: 'Probability that the step plays' }),
      },
      initial: [0, 0, 0, 1, 0, 0, 1, 0].map((on) => ({ on })),
    },
  },
  tail: (v, beatsPerSecond) =>
    v.hold > 0.5 ? Infinity : 0.2 + 4 * (v.sync >= 0.5 ? v.sliceLength / beatsPerSecond : v.slice),
  gain: () => 12,
  prepare: () => {
    prepareBandLimited(FASTEST)
  },
  pair: { sync: 'sync', free: 'slice', synced: 'sliceLength' },
  groups: [
    { name: 'Gate', gauges: ['by', 'hold', 'latch', 'quantise', 'stepLength'] },
    { name: 'Repeat', gauges: ['repeat', 'sync', 'slice', 'sliceLength', 'take', 'anew', 'times'] },
    { name: 'Each pass', gauges: ['back', 'point', 'pitch', 'dull'] },
    { name: 'Output', gauges: ['speed', 'fade'] },
  ],
  main: ['by', 'hold', 'slice', 'sliceLength', 'speed', 'back', 'pitch'],
  presets: [
    {
      name: 'Half-speed stutter',
      tip: 'Repeats an octave lower',
      params: { speed: 0.5, sliceLength: 0.25 },
      lanes: { steps: [0, 0, 1, 1, 0, 0, 1, 1].map((on) => ({ on })) },
    },
    { name: 'Reverse stutter', tip: 'Repeats backwards', params: { speed: -1, sliceLength: 0.5, take: 1 } },
    {
      name: 'Slower with each pass',
      tip: 'Each repeat slows down',
      params: { speed: 0.84, point: 1, sliceLength: 0.25, back: 0.97 },
    },
    {
      name: 'Thirty-seconds, falling',
      tip: 'Fast repeats that fall in pitch',
      params: { sliceLength: 0.125, back: 0.86, dull: 0.25 },
    },
    {
      name: 'Pre-drop, by Hold',
      tip: 'Repeats while Hold is on',
      params: { by: 2, sliceLength: 0.25, quantise: 0.5, take: 1, pitch: 1 },
    },
    { name: 'Grain of a snare', tip: 'Very short slices', params: { sync: 0, slice: 0.023, fade: 0.002 } },
  ],
  create: ({ sampleRate, seed }) => new StutterProcessor(sampleRate, seed),
})

// places of `state`
const OPEN = 0,
  SLICE_START = 1,
  ELAPSED = 2,
  PASSES = 3,
  RECORDING = 4

class StutterProcessor implements EffectProcessor<typeof params> {
  readonly readouts = new Float64Array(7)
  readonly outputs = [new ParamBlock(0)]
  private readonly line: StereoDelayLine
  private readonly gate: Gate
  private readonly passes: Passes
  private readonly live = new LiveFade()
  private readonly written: { readonly left: Float64Array; readonly right: Float64Array }
  /** Of each frame: length of a slice in samples, 0 for none; speed; length of fades in samples. */
  private readonly slices = new Float64Array(BLOCK)
  private readonly speeds = new Float64Array(BLOCK)
  private readonly fades = new Float64Array(BLOCK)
  private readonly lives = new Float64Array(BLOCK)
  private readonly state = new Float64Array(5)
  /** Parameters of the present block. */
  private params!: Params

  constructor(
    private readonly sampleRate: number,
    seed: number,
  ) {
    this.line = new StereoDelayLine(LONGEST * sampleRate + 4 * BLOCK, 6, BLOCK)
    this.written = { left: this.line.block(), right: this.line.block() }
    this.gate = new Gate(seed)
    this.passes = new Passes(this.line, sampleRate)
  }

  reset(): void {
    this.line.reset()
    this.gate.reset()
    this.passes.reset()
    this.live.reset()
    this.state.fill(0)
  }

  held(): readonly [Float32Array, Float32Array] {
    return this.line.content(HELD_SECONDS * this.sampleRate)
  }

  isQuiet(): boolean {
    return this.line.isQuietWithin(this.passes.longest) || (this.state[OPEN] === 0 && this.live.isAll)
  }

  process(io: EffectBlock, p: Params): void {
    const { line, gate, passes, written, fades, lives, state } = this
    const { in: input, out, song } = io
    this.params = p
    for (let i = 0; i < BLOCK; i++) {
      written.left[i] = input.left[i]
      written.right[i] = input.right[i]
    }
    line.write(written.left, written.right, 0, BLOCK)
    gate.process(io, p)
    this.outputs[0].buffer.set(gate.open)
    this.outputs[0].move()
    const lengths = p.sync.value === 1 ? p.sliceLength.values() : p.slice.values()
    const scale = p.sync.value === 1 ? 1 / song.beatsPerFrame : this.sampleRate
    this.plan(lengths, scale)
    passes.begin(p, this.speeds, fades)
    for (let i = 0; i < BLOCK; i++) {
      this.turn(i)
      this.repeat(i)
      // live sound passes while the gate is closed, and while the first slice is recorded
      this.live.next(state[OPEN] === 0 || state[RECORDING] === 1 ? 1 : 0, fades, lives, i)
      passes.advance(i)
    }
    for (let i = 0; i < BLOCK; i++) {
      out.left[i] = lives[i] * input.left[i]
      out.right[i] = lives[i] * input.right[i]
    }
    passes.mix(out, p.dull.value)
    this.say(p.repeat.value === 1 ? lengths[BLOCK - 1] * scale : 0)
  }

  private plan(lengths: Float64Array, scale: number): void {
    const { params: p, gate, slices, speeds, fades } = this
    const repeats = p.repeat.value === 1
    const least = 0.001 * this.sampleRate
    const asked = p.speed.values()
    const fade = p.fade.value * this.sampleRate
    for (let i = 0; i < BLOCK; i++) {
      const slice = repeats ? lengths[i] * scale * gate.slices[i] : 0
      slices[i] = slice >= least ? slice : 0
      speeds[i] = asked[i] * gate.speeds[i]
      fades[i] = Math.max(16, Math.min(fade, slice >= least ? 0.5 * slice : Infinity))
    }
  }

  /** Takes a new slice where the gate opens or a step asks for one, and ends it where the gate closes. */
  private turn(i: number): void {
    const { state, passes, gate } = this
    const open = gate.open[i] === 1
    const wasOpen = state[OPEN] === 1
    if (open && (!wasOpen || (gate.fresh[i] === 1 && this.params.anew.value === 1))) this.open(i)
    if (!open && wasOpen) {
      passes.end(this.fades[i])
      state[RECORDING] = 0
    }
    state[OPEN] = open ? 1 : 0
  }

  private open(i: number): void {
    const { state, passes, params: p } = this
    const slice = this.slices[i]
    const fade = this.fades[i]
    const { count } = passes
    const justWas = p.take.value === 1
    const same = p.anew.value === 2
    state[PASSES] = 0
    state[ELAPSED] = 0
    if (!same || state[SLICE_START] === 0)
      state[SLICE_START] = justWas && slice > 0 ? Math.max(0, count - slice) : count
    state[RECORDING] = 0
    if (slice === 0) passes.start(count, 0, 1, 1, fade, true)
    else if (justWas || (same && count - state[SLICE_START] > slice)) {
      state[PASSES] = 1
      const from = this.speeds[i] < 0 ? state[SLICE_START] + slice : state[SLICE_START]
      passes.start(from, slice, 1, 1, fade, false)
    } else {
      state[RECORDING] = 1
      passes.end(fade)
    }
  }

  /** Begins the next pass over the slice where one ends. */
  private repeat(i: number): void {
    const { state, passes } = this
    if (state[OPEN] === 0) return
    const slice = this.slices[i]
    const v = passes.now
    const recording = state[RECORDING] === 1
    if (slice === 0) {
      if (!recording && v[FREE] === 0) passes.start(passes.count, 0, 1, 1, this.fades[i], true)
      return
    }
    state[ELAPSED]++
    if (!(recording ? state[ELAPSED] - 1 >= slice : v[FREE] === 1 || v[AGE] >= v[LENGTH])) return
    // a pass ends between two samples: the next has begun by as much
    const over = recording ? state[ELAPSED] - 1 - slice : v[FREE] === 1 ? 0 : v[AGE] - v[LENGTH]
    state[PASSES]++
    state[RECORDING] = 0
    this.startPass(i, over)
  }

  private startPass(i: number, over: number): void {
    const { state, passes, params: p } = this
    const fade = this.fades[i]
    const slice = this.slices[i]
    const speed = this.speeds[i]
    const pass = state[PASSES]
    const most = Math.round(p.times.value)
    if (most > 0 && pass > most) {
      const ended = passes.now
      passes.start(passes.count, Infinity, pass, 0, fade, false)
      ended[FADE_OUT] = fade
      return
    }
    const power = exp2((p.pitch.value / 12) * (pass - 1))
    const way = (p.point.values()[i] >= 0.5 ? powerOf(speed, pass) : speed) * power
    const back = p.back.values()[i]
    passes.start(
      (way < 0 ? state[SLICE_START] + slice : state[SLICE_START]) + over * way,
      slice / Math.max(1, Math.abs(way)),
      pass,
      back >= 1 ? 1 : exp2(pass * log2(back + 1e-9)),
      fade,
      false,
    )
    passes.now[AGE] = over
  }

  private say(slice: number): void {
    const { readouts, state, passes, sampleRate } = this
    const { now, count } = passes
    readouts[0] = state[OPEN]
    readouts[1] = (count - state[SLICE_START]) / sampleRate
    readouts[2] = slice / sampleRate
    readouts[3] = now[ON] === 1 ? (count - now[PLACE]) / sampleRate : 0
    readouts[4] = this.speeds[BLOCK - 1]
    readouts[5] = state[PASSES]
    readouts[6] = this.gate.step
  }
}

// places of `state` of the gate
const HELD = 0,
  WAS_DOWN = 1,
  WANTED = 2,
  LAST_BEAT = 3,
  STEP = 4

/** Says for each frame whether slices repeat: by a drawn row of steps, notes, or a hold. */
class Gate {
  readonly open = new Uint8Array(BLOCK)
  /** Whether a step begins. */
  readonly fresh = new Uint8Array(BLOCK)
  /** Factors of the step for slice length and speed. */
  readonly slices = new Float64Array(BLOCK)
  readonly speeds = new Float64Array(BLOCK)
  /** The step that is read. */
  step = 0
  private readonly state = new Float64Array(5)
  private notesDown = 0

  constructor(private readonly seed: number) {}

  reset(): void {
    this.state.fill(0)
    this.state[STEP] = this.state[LAST_BEAT] = -1
    this.notesDown = 0
  }

  process({ song, notes, lanes }: EffectBlock, p: Params): void {
    const { open, fresh } = this
    this.hold(song, p)
    const byNotes = p.by.value === 1
    let note = 0
    for (let i = 0; i < BLOCK; i++) {
      while (note < notes.count && notes.frame[note] <= i)
        this.notesDown = Math.max(0, this.notesDown + (notes.begins[note++] === 1 ? 1 : -1))
      if (byNotes && this.notesDown > 0) open[i] = 1
    }
    fresh.fill(0)
    this.slices.fill(1)
    this.speeds.fill(1)
    if (p.by.value === 0 && song.playing) this.read(lanes.steps, song, p.stepLength.value)
    const { length } = lanes.steps
    const at = this.state[STEP]
    this.step = at < 0 ? 0 : at - Math.floor(at / length) * length
  }

  /** The hold, as it is or turned over by each press, at once or from the next line of its grid. */
  private hold(song: SongBlock, p: Params): void {
    const { state, open } = this
    const holds = p.hold.values()
    const latch = p.latch.value === 1
    const quantise = p.quantise.value
    const waits = quantise > 0.001 && song.playing
    for (let i = 0; i < BLOCK; i++) {
      const down = holds[i] > 0.5 ? 1 : 0
      if (latch) {
        if (down === 1 && state[WAS_DOWN] === 0) state[WANTED] = 1 - state[WANTED]
      } else state[WANTED] = down
      state[WAS_DOWN] = down
      if (state[WANTED] !== state[HELD]) {
        const turn = waits ? Math.floor(song.beats[i] / quantise) : 0
        if (!waits || (state[LAST_BEAT] >= 0 && turn !== state[LAST_BEAT])) state[HELD] = state[WANTED]
        state[LAST_BEAT] = turn
      } else state[LAST_BEAT] = waits ? Math.floor(song.beats[i] / quantise) : -1
      open[i] = state[HELD]
    }
  }

  private read(steps: LaneBlocks[string], song: SongBlock, stepLength: number): void {
    const { state, open, fresh, slices, speeds, seed } = this
    for (let i = 0; i < BLOCK; i++) {
      const index = Math.floor(song.run[i] / stepLength + 1e-9)
      const item = steps[index - Math.floor(index / steps.length) * steps.length]
      fresh[i] = index !== state[STEP] ? 1 : 0
      state[STEP] = index
      if (item.on.value === 1 && (item.chance.value >= 1 || randomAt(seed, index) < item.chance.value)) {
        open[i] = 1
        slices[i] = item.slice.value
        speeds[i] = item.speed.value
      }
    }
  }
}

// numbers of a pass over a slice
const ON = 0,
  PLACE = 1,
  AGE = 2,
  LENGTH = 3,
  PASS = 4,
  LEVEL = 5,
  FADE_OUT = 6,
  LOW_L = 7,
  LOW_R = 8,
  FREE = 9,
  SPAN = 10

/** Passes over slices: up to four readers of the line, of which the last that began is the present one. */
class Passes {
  /** Samples written so far, up to the present frame. */
  count = 0
  /** Furthest that a pass can read back, in samples. */
  readonly longest: number
  private readonly times: Float64Array
  private readonly readL: Float64Array
  private readonly readR: Float64Array
  private readonly voices = Array.from({ length: VOICES }, () => new Float64Array(SPAN))
  private readonly delays = Array.from({ length: VOICES }, () => new Float64Array(BLOCK))
  private readonly weights = Array.from({ length: VOICES }, () => new Float64Array(BLOCK))
  /** Fastest that each reads in this block. */
  private readonly fastest = new Float64Array(VOICES)
  private current = 0
  // state of the present block
  private params!: Params
  private speeds!: Float64Array
  private fades!: Float64Array

  constructor(
    private readonly line: StereoDelayLine,
    private readonly sampleRate: number,
  ) {
    this.times = line.block()
    this.readL = line.block()
    this.readR = line.block()
    this.longest = LONGEST * sampleRate - 2 * BLOCK
  }

  get now(): Float64Array {
    return this.voices[this.current]
  }

  reset(): void {
    for (const v of this.voices) v.fill(0)
    this.count = this.current = 0
  }

  begin(p: Params, speeds: Float64Array, fades: Float64Array): void {
    this.params = p
    this.speeds = speeds
    this.fades = fades
    for (const w of this.weights) w.fill(0)
    this.fastest.fill(1)
  }

  /** Fades out the playing passes. */
  end(fade: number): void {
    for (const v of this.voices) if (v[ON] === 1 && v[FADE_OUT] === 0) v[FADE_OUT] = fade
  }

  /** Starts a pass at a place of the line. `free` has no end. */
  start(place: number, length: number, pass: number, level: number, fade: number, free: boolean): void {
    const { voices } = this
    this.end(fade)
    let k = 0
    while (k < VOICES - 1 && voices[k][ON] === 1) k++
    const v = voices[k]
    v.fill(0)
    v[ON] = 1
    v[PLACE] = place
    v[LENGTH] = length
    v[PASS] = pass
    v[LEVEL] = level
    v[FREE] = free ? 1 : 0
    this.current = k
  }

  /** Works out where each pass reads at a frame, and how loud. */
  advance(i: number): void {
    const { voices, delays, weights, fastest, longest, count } = this
    const speed = this.speeds[i]
    const fade = this.fades[i]
    const point = this.params.point.values()[i]
    const pitchEach = this.params.pitch.value / 12
    for (let k = 0; k < VOICES; k++) {
      const v = voices[k]
      if (v[ON] === 0) continue
      const pass = v[PASS]
      let s = speed
      // between the two return points the two speeds are passed through by their logarithms
      if (point > 0 && pass > 1 && v[FREE] === 0) s = blendOf(speed, pass, point)
      if (pass > 1 && pitchEach !== 0) s *= exp2(pitchEach * (pass - 1))
      v[PLACE] += s
      v[AGE]++
      let d = count + 1 - v[PLACE]
      if (d < 0) {
        d = 0
        v[PLACE] = count + 1
      } else if (d > longest) {
        d = longest
        v[PLACE] = count + 1 - longest
      }
      const t = v[AGE] < fade ? v[AGE] / fade : 1
      let w = t * t * (3 - 2 * t)
      if (v[FADE_OUT] > 0) {
        v[FADE_OUT]--
        const left = Math.max(0, Math.min(1, v[FADE_OUT] / fade))
        w *= left * left * (3 - 2 * left)
        if (v[FADE_OUT] <= 0) v[ON] = 0
      }
      delays[k][i] = d
      weights[k][i] = v[LEVEL] * w
      const quick = s < 0 ? -s : s
      if (quick > fastest[k]) fastest[k] = quick
    }
    this.count = count + 1
  }

  /** Adds what the passes read in this block, each duller than the one before. */
  mix(out: StereoBlock, dull: number): void {
    const { times, readL, readR } = this
    for (let k = 0; k < VOICES; k++) {
      const w = this.weights[k]
      let first = 0
      while (first < BLOCK && w[first] === 0) first++
      if (first === BLOCK) continue
      let last = BLOCK
      while (w[last - 1] === 0) last--
      const v = this.voices[k]
      const near = this.fastest[k] > 1 ? NEAR : 5
      for (let i = first; i < last; i++) times[i] = Math.max(near, this.delays[k][i]) + BLOCK - first
      this.line.readFast(times, Math.min(4, this.fastest[k]), readL, readR, first, last)
      const cut =
        dull > 0 && v[PASS] > 1 ? onePoleWeight(18_000 * exp2(-(v[PASS] - 1) * 2 * dull), this.sampleRate) : 1
      for (let i = first; i < last; i++) {
        v[LOW_L] += cut * (readL[i] - v[LOW_L])
        v[LOW_R] += cut * (readR[i] - v[LOW_R])
        out.left[i] += w[i] * v[LOW_L]
        out.right[i] += w[i] * v[LOW_R]
      }
    }
  }
}

// places of `state` of the live sound
const LIVE = 0,
  LIVE_FROM = 1,
  LIVE_SLOPE = 2,
  LIVE_TIME = 3,
  LIVE_TO = 4

/**
 * How much of the live sound is heard, on its way to all or nothing: along a cubic that begins with the slope
 * there is, so that turning round on the way makes no corner.
 */
class LiveFade {
  private readonly state = new Float64Array(5)

  get isAll(): boolean {
    return this.state[LIVE] === 1
  }

  reset(): void {
    this.state.fill(1)
    this.state[LIVE_SLOPE] = 0
  }

  /** Writes frame `i`, a frame further on its way, which takes as many as `frames` says there. */
  next(to: number, frames: Float64Array, out: Float64Array, i: number): void {
    const { state } = this
    if (to !== state[LIVE_TO]) {
      const t = state[LIVE_TIME]
      const from = state[LIVE_FROM]
      const slope = state[LIVE_SLOPE]
      state[LIVE_SLOPE] =
        t >= 1 ? 0 : (6 * t * t - 6 * t) * (from - state[LIVE_TO]) + (3 * t * t - 4 * t + 1) * slope
      state[LIVE_FROM] = state[LIVE]
      state[LIVE_TO] = to
      state[LIVE_TIME] = 0
    }
    if (state[LIVE_TIME] < 1) {
      const t = (state[LIVE_TIME] = Math.min(1, state[LIVE_TIME] + 1 / frames[i]))
      const back = (1 - t) * (1 - t)
      state[LIVE] =
        state[LIVE_FROM] * (1 + 2 * t) * back + state[LIVE_SLOPE] * t * back + to * t * t * (3 - 2 * t)
    }
    out[i] = state[LIVE]
  }
}

/** A whole power of a speed of either sign. */
function powerOf(speed: number, n: number): number {
  let y = 1
  for (let k = 0; k < n; k++) y *= speed
  return y < -4 ? -4 : y > 4 ? 4 : y
}

/** Speed of a pass between the two return points. */
function blendOf(speed: number, pass: number, point: number): number {
  const last = powerOf(speed, pass)
  if (point >= 1 || speed === 0) return last
  const size = exp2((1 - point) * log2(Math.abs(speed) + 1e-12) + point * log2(Math.abs(last) + 1e-12))
  return (point < 0.5 ? speed : last) < 0 ? -size : size
}
