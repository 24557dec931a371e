import type { AudioData } from '../contract/audio'
import { BLOCK, type ParamBlocks, type SongBlock } from '../contract/block'
import { type EffectBlock, type EffectProcessor, defineEffect } from '../contract/effect'
import { FASTEST, FAST_REACH, StereoDelayLine } from '../dsp/delay-line'
import { exp2, log2 } from '../dsp/math'
import { randomAt } from '../dsp/random'
import { kernelAt, kernelSpeeds, prepareBandLimited } from '../dsp/band-limited-kernel'
import { sineOf } from '../dsp/sines'
import { beats, choice, hertz, number, percent, seconds, semitones, toggle } from '../units/parameter'

/** As much of the buffer as is kept as a sound, in seconds: a copy of more would make the next block late. */
const HELD_SECONDS = 10
const MOST = 64
/** Seconds of the input that are kept. */
export const GRAIN_BUFFER = 10
/** How close to live a grain reads, in samples. */
const NEAR = FAST_REACH + 8
/** Voices whose position and pitch the picture shows. */
const TOLD = 24

const scales = ['free', 'semitones', 'octaves', 'fifths', 'minor', 'major'] as const
const STEPS: readonly (readonly number[])[] = [
  [],
  [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11],
  [0],
  [0, 7],
  [0, 2, 3, 5, 7, 8, 10],
  [0, 2, 4, 5, 7, 9, 11],
]

/** One grain, by number: where, how fast, how far, how long, how loud. */
const ON = 0,
  PLACE = 1,
  SPEED = 2,
  AGE = 3,
  LENGTH = 4,
  LEFT = 5,
  RIGHT = 6,
  SPAN = 7
// places of `state`
const COUNT = 0,
  BEGUN = 1,
  NEXT = 2

const params = {
  from: choice(
    'Source',
    ['input', 'sound'],
    0,
    'Takes grains from the last ten seconds of input, or from a sound',
  ),
  place: percent('Place', {
    default: 0.02,
    tip: 'Position: how far back in the input (100 % is 10 s), or in the sound',
  }),
  scatter: percent('Scatter', { default: 0.03, tip: 'Random variation of the position' }),
  size: seconds('Size', { min: 0.005, max: 1, default: 0.09, tip: 'Length of a grain' }),
  by: choice(
    'Density unit',
    ['per second', 'note length', 'overlap'],
    2,
    'Sets the density per second, as a note length or as an overlap',
  ),
  rate: hertz('Density', { min: 0.5, max: 400, default: 22, tip: 'Grains per second' }),
  length: beats('Every', {
    min: 1 / 32,
    max: 4,
    default: 0.25,
    tip: 'Time between grains as a note length',
  }),
  overlap: number('Overlap', {
    min: 0.25,
    max: 32,
    default: 3,
    law: 'log',
    tip: 'Grains that sound at once',
  }),
  unsteady: percent('Unsteady', { default: 0.3, tip: 'Random variation of the time between grains' }),
  most: number('Max. grains', {
    min: 1,
    max: MOST,
    default: 32,
    glide: 0,
    tip: 'Maximum number of grains at once',
  }),
  pitch: semitones('Pitch', { min: -24, max: 24, default: 0, tip: 'Pitch of all grains' }),
  pitchScatter: semitones('Pitch scatter', {
    min: 0,
    max: 24,
    default: 0,
    tip: 'Random variation of the pitch',
  }),
  scale: choice('Scale', scales, 0, 'Scale that scattered pitches snap to'),
  backwards: percent('Backwards', { default: 0, tip: 'Share of grains that play backwards' }),
  pan: percent('Pan scatter', { default: 0.6, tip: 'Random pan position' }),
  level: percent('Level scatter', { default: 0.2, tip: 'Random level reduction' }),
  window: choice('Window', ['round', 'triangle', 'flat'], 0, 'Window shape of a grain'),
  slope: percent('Slope', {
    min: -1,
    max: 1,
    default: 0,
    tip: 'Moves the peak towards the start or the end',
  }),
  freeze: toggle('Freeze', false, 'Stops recording into the buffer'),
}

type Params = ParamBlocks<typeof params>

/**
 * Clouds of short windows of the live input or of a sound: each grain has its place, size, pitch, direction
 * and pan, scattered about what is set. Which numbers chance gives follows from the seed and the grain's
 * count alone, so a cloud sounds the same each time (Roads, "Microsound", 2001).
 */
export const grains = defineEffect({
  id: 'grains',
  name: 'Grains',
  group: 'time',
  spreads: true,
  movesByItself: true,
  load: { kB: 96, ns: 900, ring: GRAIN_BUFFER + 2 },
  tip: 'Clouds of short grains from recent input or from a sound',
  also: ['granular', 'cloud', 'texture'],
  sound: true,
  readouts: [
    'active',
    'frozen',
    'length',
    ...Array.from({ length: TOLD }, (_, k) => [`place${k}`, `pitch${k}`, `size${k}`]).flat(),
  ],
  holds: true,
  params,
  tail: (v) => (v.from >= 0.5 ? 0 : v.freeze >= 0.5 ? Infinity : GRAIN_BUFFER + 2),
  gain: () => 12,
  prepare: () => {
    prepareBandLimited(FASTEST)
  },
  applies: (param, value) => {
    const by = ['rate', 'length', 'overlap'].indexOf(param)
    return by < 0 || by === value('by')
  },
  groups: [
    { name: 'Place', gauges: ['from', 'place', 'scatter', 'freeze'] },
    { name: 'Grains', gauges: ['size', 'by', 'rate', 'length', 'overlap', 'unsteady', 'most'] },
    { name: 'Pitch', gauges: ['pitch', 'pitchScatter', 'scale', 'backwards'] },
    { name: 'Window', gauges: ['window', 'slope'] },
    { name: 'Output', gauges: ['pan', 'level'] },
  ],
  main: ['place', 'scatter', 'size', 'rate', 'length', 'pitch'],
  presets: [
    {
      name: 'Fog over the water',
      tip: 'Dense, slow cloud',
      params: { size: 0.35, overlap: 6, scatter: 0.12, pan: 1, place: 0.04, wet: 0.6 },
    },
    {
      name: 'Octaves above',
      tip: 'Pitches scattered by up to an octave',
      params: { pitchScatter: 12, scale: 2, size: 0.16, overlap: 4, wet: 0.5 },
    },
    {
      name: 'Backwards confetti',
      tip: 'Short reversed grains',
      params: { size: 0.045, by: 0, rate: 40, backwards: 1, scatter: 0.06, pan: 1 },
    },
    {
      name: 'Sixteenths of a moment ago',
      tip: 'Rhythmic grains of recent sound',
      params: { by: 1, length: 0.25, size: 0.12, place: 0.05, scatter: 0, unsteady: 0, window: 2 },
    },
    {
      name: 'Minor swarm',
      tip: 'Pitches scattered in a scale',
      params: { scale: 4, pitchScatter: 14, size: 0.2, overlap: 8, scatter: 0.1, slope: -0.6, wet: 0.55 },
    },
  ],
  create: ({ sampleRate, seed }) => new GrainsProcessor(sampleRate, seed),
})

class GrainsProcessor implements EffectProcessor<typeof params> {
  readonly readouts = new Float64Array(3 + 3 * TOLD)
  private readonly line: StereoDelayLine
  private readonly reader: GrainReader
  private readonly written: { readonly left: Float64Array; readonly right: Float64Array }
  private readonly voices = Array.from({ length: MOST }, () => new Float64Array(SPAN))
  /** Frame of the block at which each begins. */
  private readonly starts = new Int32Array(MOST)
  /** Samples written, grains begun, frames to the next grain. */
  private readonly state = new Float64Array(3)
  private readonly buffer: number
  private sound: AudioData | null = null
  // state of the present block
  private params!: Params
  private song!: SongBlock
  private active = 0

  constructor(
    private readonly sampleRate: number,
    private readonly seed: number,
  ) {
    this.buffer = GRAIN_BUFFER * sampleRate
    this.line = new StereoDelayLine((GRAIN_BUFFER + 2) * sampleRate, 5, BLOCK)
    this.written = { left: this.line.block(), right: this.line.block() }
    this.reader = new GrainReader(this.line)
  }

  reset(): void {
    this.line.reset()
    for (const v of this.voices) v.fill(0)
    this.state.fill(0)
  }

  take(_data: unknown, audio?: AudioData | null): void {
    this.sound = audio ?? null
  }

  held(): readonly [Float32Array, Float32Array] {
    return this.line.content(HELD_SECONDS * this.sampleRate)
  }

  isQuiet(): boolean {
    return this.line.isQuietWithin(this.buffer + 2 * this.sampleRate) && !this.sound
  }

  process({ in: input, out, song }: EffectBlock, p: Params): void {
    const { voices, state, reader, written } = this
    this.params = p
    this.song = song
    const freeze = p.freeze.value === 1
    if (!freeze) {
      for (let i = 0; i < BLOCK; i++) {
        written.left[i] = input.left[i]
        written.right[i] = input.right[i]
      }
      this.line.write(written.left, written.right, 0, BLOCK)
      state[COUNT] += BLOCK
    }
    const sound = this.soundIn()
    this.starts.fill(0)
    this.active = 0
    for (let k = 0; k < MOST; k++) if (voices[k][ON] === 1) this.active++
    this.scatter()
    reader.begin(p, this.level(), state[COUNT], sound)
    for (let k = 0; k < MOST; k++) if (voices[k][ON] === 1) reader.add(voices[k], this.starts[k])
    for (let i = 0; i < BLOCK; i++) {
      out.left[i] = reader.left[i]
      out.right[i] = reader.right[i]
    }
    this.say(sound)
  }

  /** The sound that grains are taken from; null for the live input. */
  private soundIn(): AudioData | null {
    return this.params.from.value === 1 ? this.sound : null
  }

  /** Begins the grains of a block. */
  private scatter(): void {
    const { state, params: p, sampleRate, seed } = this
    const most = Math.round(p.most.value)
    const by = p.by.value
    const rates = p.rate.values()
    const lengths = p.length.values()
    const sizes = p.size.values()
    const overlaps = p.overlap.values()
    const unsteadies = p.unsteady.values()
    let next = state[NEXT]
    for (let i = 0; i < BLOCK; i++) {
      if (next-- > 0) continue
      const apart =
        by === 0
          ? sampleRate / rates[i]
          : by === 1
            ? lengths[i] / this.song.beatsPerFrame
            : (sizes[i] * sampleRate) / overlaps[i]
      const n = state[BEGUN]++
      next = Math.max(8, apart * (1 + unsteadies[i] * (randomAt(seed, 8 * n) - 0.5))) - 1
      if (this.active < most) this.start(i)
    }
    state[NEXT] = next
  }

  /** Begins a grain at a frame, by the number of the last. */
  private start(i: number): void {
    const { voices, params: p, seed, sampleRate } = this
    let k = 0
    while (k < MOST && voices[k][ON] === 1) k++
    if (k === MOST) return
    const v = voices[k]
    const n = this.state[BEGUN] - 1
    const sound = this.soundIn()
    let st = p.pitch.values()[i]
    const wide = p.pitchScatter.values()[i]
    if (wide > 0) st += onScale(wide * (2 * randomAt(seed, 8 * n + 1) - 1), p.scale.value)
    const backwards = randomAt(seed, 8 * n + 2) < p.backwards.values()[i]
    const speed =
      Math.min(4, exp2(st / 12)) * (sound ? sound.sampleRate / sampleRate : 1) * (backwards ? -1 : 1)
    v[ON] = 1
    v[SPEED] = speed
    v[AGE] = 0
    v[LENGTH] = p.size.values()[i] * sampleRate
    const scattered = p.place.values()[i] + p.scatter.values()[i] * (2 * randomAt(seed, 8 * n + 3) - 1)
    v[PLACE] = sound ? this.placeInSound(v, scattered, sound) : this.placeInLine(v, scattered, i)
    const pan = p.pan.values()[i] * (2 * randomAt(seed, 8 * n + 4) - 1)
    const level = 1 - p.level.values()[i] * randomAt(seed, 8 * n + 5)
    v[LEFT] = level * (pan > 0 ? 1 - pan : 1)
    v[RIGHT] = level * (pan < 0 ? 1 + pan : 1)
    this.starts[k] = i
    this.active++
  }

  private placeInSound(v: Float64Array, scattered: number, sound: AudioData): number {
    const reach = v[LENGTH] * Math.abs(v[SPEED])
    const at = Math.min(1, Math.max(0, scattered))
    return at * Math.max(0, sound.channels[0].length - reach - 1) + (v[SPEED] < 0 ? reach : 0)
  }

  /** As far back as is set, and never so near that it would run into what is not there yet. */
  private placeInLine(v: Float64Array, scattered: number, i: number): number {
    const { buffer, line } = this
    const speed = v[SPEED]
    const size = v[LENGTH]
    const behind = Math.min(buffer - NEAR, Math.max(0, scattered * buffer))
    const least = speed > 1 ? NEAR + size * (speed - 1) + 8 : NEAR
    const oldest = Math.max(0, Math.min(line.filled - BLOCK, buffer))
    const nearest = speed < 0 ? NEAR : least
    const reach = speed < 0 ? size * -speed : 0
    return (
      this.state[COUNT] -
      BLOCK +
      (this.params.freeze.value === 1 ? BLOCK : i) -
      Math.max(nearest, Math.min(behind, Math.max(least, oldest - reach)))
    )
  }

  /** As loud as one, however many there are. */
  private level(): number {
    const { params: p, sampleRate } = this
    const by = p.by.value
    const size = p.size.value * sampleRate
    const overlap =
      by === 2
        ? p.overlap.value
        : by === 0
          ? (size * p.rate.value) / sampleRate
          : (size * this.song.beatsPerFrame) / p.length.value
    return 1 / Math.sqrt(Math.max(1, 0.6 * Math.min(overlap, Math.round(p.most.value))))
  }

  private say(sound: AudioData | null): void {
    const { readouts, voices, buffer, sampleRate } = this
    const frames = sound ? sound.channels[0].length : buffer
    const speed = sound ? sound.sampleRate / sampleRate : 1
    const count = this.state[COUNT]
    readouts[0] = this.active
    readouts[1] = this.params.freeze.value === 1 ? 1 : 0
    readouts[2] = frames
    for (let k = 0; k < TOLD; k++) {
      const v = voices[k]
      readouts[3 + 3 * k] = v[ON] === 0 ? -1 : sound ? v[PLACE] / frames : (count - v[PLACE]) / buffer
      readouts[4 + 3 * k] = v[ON] === 0 ? 0 : 12 * log2(Math.abs(v[SPEED]) / speed)
      readouts[5 + 3 * k] = v[LENGTH] / sampleRate
    }
  }
}

/** Reads grains of the line or of a sound, and adds them up. */
class GrainReader {
  readonly left = new Float64Array(BLOCK)
  readonly right = new Float64Array(BLOCK)
  private readonly times: Float64Array
  private readonly readL: Float64Array
  private readonly readR: Float64Array
  // state of the present block: level, samples written, and the power of time that the slope of windows makes
  private readonly now = new Float64Array(3)
  private params!: Params
  private sound: AudioData | null = null

  constructor(private readonly line: StereoDelayLine) {
    this.times = line.block()
    this.readL = line.block()
    this.readR = line.block()
  }

  begin(p: Params, level: number, count: number, sound: AudioData | null): void {
    this.left.fill(0)
    this.right.fill(0)
    this.params = p
    this.sound = sound
    this.now[0] = level
    this.now[1] = count
    this.now[2] = p.slope.value === 0 ? 1 : exp2(1.5 * p.slope.value)
  }

  /** Adds what a grain gives in this block, from the frame `first` on. */
  add(v: Float64Array, first: number): void {
    const { left, right, readL, readR, now } = this
    const last = Math.min(BLOCK, first + Math.ceil(v[LENGTH] - v[AGE]))
    this.read(v, first, last)
    const window = this.params.window.value
    const skewed = this.params.slope.value !== 0
    const skew = now[2]
    const perFrame = 1 / v[LENGTH]
    let t = v[AGE] * perFrame
    const a = v[LEFT] * now[0]
    const b = v[RIGHT] * now[0]
    for (let i = first; i < last; i++) {
      const x = skewed ? exp2(skew * log2(t + 1e-9)) : t
      let w = window === 0 ? 0.5 - 0.5 * sineOf(x + 0.25) : 1 - Math.abs(2 * x - 1)
      if (window === 2) {
        w = Math.min(1, 5 * w)
        w = w * w * (3 - 2 * w)
      }
      if (w < 0) w = 0
      left[i] += a * w * readL[i]
      right[i] += b * w * readR[i]
      t += perFrame
    }
    v[PLACE] += v[SPEED] * (last - first)
    v[AGE] += last - first
    if (v[AGE] >= v[LENGTH]) v[ON] = 0
  }

  private read(v: Float64Array, first: number, last: number): void {
    const { times, readL, readR, sound } = this
    const speed = v[SPEED]
    if (sound) {
      readSound(sound, v[PLACE], speed, readL, readR, first, last)
      return
    }
    const count = this.now[1]
    const freeze = this.params.freeze.value === 1
    for (let i = first; i < last; i++) {
      let d = (freeze ? count : count - BLOCK + i) - v[PLACE] - speed * (i - first)
      // frozen, nothing is written: the place in the line is all that moves
      d += freeze ? i - first : BLOCK - first
      times[i] = d < 5 ? 5 : d
    }
    this.line.readFast(times, speed, readL, readR, first, last)
  }
}

/** The step of a scale that lies nearest to an interval in semitones. */
function onScale(st: number, scale: number): number {
  if (scale === 0) return st
  const octave = Math.floor(st / 12)
  let best = 0
  let least = Infinity
  const within = st - 12 * octave
  const steps = STEPS[scale]
  for (let k = 0; k <= steps.length; k++) {
    const at = k === steps.length ? 12 : steps[k]
    const d = Math.abs(at - within)
    if (d < least) {
      least = d
      best = at
    }
  }
  return 12 * octave + best
}

/** A stretch of a sound from a place on at a speed, without what would alias; silence outside. */
function readSound(
  sound: AudioData,
  place: number,
  speed: number,
  left: Float64Array,
  right: Float64Array,
  first: number,
  last: number,
): void {
  const a = sound.channels[0]
  const b = sound.channels.length > 1 ? sound.channels[1] : a
  const frames = a.length
  const width = speed < 0 ? -speed : speed
  let index = 0
  while (index < kernelSpeeds.length && width > kernelSpeeds[index]) index++
  const { taps, phases, rows } = kernelAt(index)
  const half = taps >> 1
  for (let i = first; i < last; i++) {
    const at = place + speed * (i - first)
    const whole = Math.floor(at)
    const from = whole - half + 1
    if (from < 0 || from + taps > frames) {
      left[i] = right[i] = 0
      continue
    }
    const phase = (at - whole) * phases
    const p = Math.floor(phase)
    const t = phase - p
    const row = p * taps
    let l = 0
    let r = 0
    for (let k = 0; k < taps; k++) {
      const w = rows[row + k] + t * (rows[row + taps + k] - rows[row + k])
      l += w * a[from + k]
      r += w * b[from + k]
    }
    left[i] = l
    right[i] = r
  }
}
