import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
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

/** One pass over a slice, in typed arrays by voice: what numbers it has. */
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
// places of `state`
const OPEN = 0,
  SLICE_START = 1,
  ELAPSED = 2,
  COUNT = 3,
  STEP = 4,
  HELD = 5,
  WAS_DOWN = 6,
  PASSES = 7,
  LIVE = 8,
  LAST_BEAT = 9,
  CURRENT = 10,
  WANTED = 11,
  RECORDING = 12,
  LIVE_FROM = 13,
  LIVE_SLOPE = 14,
  LIVE_TIME = 15,
  LIVE_TO = 16,
  SIZE = 17

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
  tip: 'Repeats slices while its gate is open: at half speed, backwards, slower with each pass',
  also: ['glitch', 'repeat', 'gated repeater', 'reverse', 'slice'],
  notes: true,
  readouts: ['open', 'start', 'slice', 'place', 'speed', 'pass', 'step'],
  holds: true,
  params: {
    by: choice('Gate', ['steps', 'notes', 'hold only'], 0, 'What opens it; Hold always does'),
    hold: percent('Hold', {
      default: 0,
      glide: 0,
      tip: 'Open while it is above half: a key, a pedal, a modulator',
    }),
    latch: toggle('Latch', false, 'Hold opens and closes in turn each time it is pressed'),
    quantise: beats('Quantise', {
      min: 0,
      max: 4,
      default: 0,
      law: 'square',
      tip: 'Hold waits for the next multiple of this length; 0 for at once',
    }),
    stepLength: beats('Step', { min: 1 / 16, max: 4, default: 0.5, tip: 'Length of one step of the row' }),
    repeat: toggle('Repeat', true, 'Off, nothing is repeated while speed still acts'),
    sync: toggle('Sync', true, 'Take the slice from a note length instead of milliseconds'),
    slice: seconds('Slice', {
      min: 0,
      max: 4,
      default: 0.12,
      tip: 'Length of the slice; 0 switches repeating off',
    }),
    sliceLength: beats('Slice length', {
      min: 1 / 64,
      max: 4,
      default: 0.25,
      tip: 'Length of the slice as a note length',
    }),
    take: choice(
      'Repeat what',
      ['is coming', 'just was'],
      0,
      'The slice that begins with the gate, or that which ended there',
    ),
    anew: choice('Begins anew', ['with the gate', 'with each step', 'never'], 0, 'When a new slice is taken'),
    back: percent('Return', { default: 1, tip: 'How loud each pass is against the one before' }),
    times: number('Times', {
      min: 0,
      max: 64,
      default: 0,
      glide: 0,
      tip: 'At most so many passes; 0 for as long as the gate is open',
    }),
    point: percent('Return point', {
      default: 0,
      tip: 'Before the speed (0 %), or after it (100 %): then each pass is at a higher power of the speed',
    }),
    speed: factor('Speed', { min: -4, max: 4, default: 1, tip: '½ is an octave down, below 0 is backwards' }),
    pitch: semitones('Pitch each', {
      min: -12,
      max: 12,
      default: 0,
      tip: 'Each pass is shifted against the one before',
    }),
    dull: percent('Duller each', { default: 0, tip: 'Each pass loses some of its treble' }),
    fade: seconds('Cross-fade', {
      min: 0.0005,
      max: 0.1,
      default: 0.006,
      tip: 'From pass to pass, and into and out of the gate',
    }),
  },
  lanes: {
    steps: {
      name: 'Gate row',
      item: 'step',
      least: 1,
      most: 64,
      params: {
        on: toggle('Open', false, 'Whether the gate is open for this step'),
        slice: ratio('Slice', { min: 1 / 8, max: 8, default: 1, tip: 'Factor on the slice in this step' }),
        speed: factor('Speed', { min: -4, max: 4, default: 1, tip: 'Factor on the speed in this step' }),
        chance: percent('Chance', { default: 1, tip: 'How often it opens' }),
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
  presets: [
    {
      name: 'Half-speed stutter',
      params: { speed: 0.5, sliceLength: 0.25 },
      lanes: { steps: [0, 0, 1, 1, 0, 0, 1, 1].map((on) => ({ on })) },
    },
    { name: 'Reverse stutter', params: { speed: -1, sliceLength: 0.5, take: 1 } },
    { name: 'Slower with each pass', params: { speed: 0.84, point: 1, sliceLength: 0.25, back: 0.97 } },
    { name: 'Thirty-seconds, falling', params: { sliceLength: 0.125, back: 0.86, dull: 0.25 } },
    { name: 'Pre-drop, to be held', params: { by: 2, sliceLength: 0.25, quantise: 0.5, take: 1, pitch: 1 } },
    { name: 'Grain of a snare', params: { sync: 0, slice: 0.023, fade: 0.002 } },
  ],
  create: ({ sampleRate, seed }) => {
    const line = new StereoDelayLine(LONGEST * sampleRate + 4 * BLOCK, 4, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const longest = LONGEST * sampleRate - 2 * BLOCK
    const writeL = new Float64Array(BLOCK),
      writeR = new Float64Array(BLOCK)
    const voices = Array.from({ length: VOICES }, () => new Float64Array(SPAN))
    const delays = Array.from({ length: VOICES }, () => new Float64Array(BLOCK))
    const weights = Array.from({ length: VOICES }, () => new Float64Array(BLOCK))
    const speedsOf = Array.from({ length: VOICES }, () => new Float64Array(1))
    const lives = new Float64Array(BLOCK)
    const state = new Float64Array(SIZE)
    const readouts = new Float64Array(7)
    let notesDown = 0

    /** Begins a pass at a place of the buffer. `free` goes on without an end. */
    function begin(
      place: number,
      length: number,
      pass: number,
      level: number,
      fade: number,
      free: boolean,
    ): void {
      for (const v of voices) if (v[ON] === 1 && v[FADE_OUT] === 0) v[FADE_OUT] = fade
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
      state[CURRENT] = k
    }

    return {
      readouts,
      reset() {
        line.reset()
        for (const v of voices) v.fill(0)
        state.fill(0)
        state[LIVE] = state[LIVE_FROM] = state[LIVE_TO] = state[LIVE_TIME] = 1
        state[STEP] = -1
        state[LAST_BEAT] = -1
        notesDown = 0
      },
      held: () => line.content(HELD_SECONDS * sampleRate),
      isQuiet: () => line.isQuietWithin(longest) || (state[OPEN] === 0 && state[LIVE] === 1),
      process({ in: input, out, song, notes, lanes }, p) {
        for (let i = 0; i < BLOCK; i++) {
          writeL[i] = input.left[i]
          writeR[i] = input.right[i]
        }
        line.write(writeL, writeR, 0, BLOCK)
        const steps = lanes.steps
        const by = p.by.value,
          latch = p.latch.value === 1,
          anew = p.anew.value
        const holds = p.hold.values(),
          quantise = p.quantise.value,
          stepLength = p.stepLength.value
        const synced = p.sync.value === 1
        const slices = synced ? p.sliceLength.values() : p.slice.values()
        const scale = synced ? 1 / song.beatsPerFrame : sampleRate
        const asked = p.speed.values(),
          points = p.point.values(),
          backs = p.back.values()
        const repeats = p.repeat.value === 1
        const justWas = p.take.value === 1
        const most = Math.round(p.times.value)
        const pitchEach = p.pitch.value / 12
        for (const w of weights) w.fill(0)
        for (const s of speedsOf) s[0] = 1
        let note = 0
        let count = state[COUNT]
        let heardSpeed = asked[BLOCK - 1]
        for (let i = 0; i < BLOCK; i++) {
          // the gate
          while (note < notes.count && notes.frame[note] <= i)
            notesDown = Math.max(0, notesDown + (notes.begins[note++] === 1 ? 1 : -1))
          const down = holds[i] > 0.5 ? 1 : 0
          if (latch) {
            if (down === 1 && state[WAS_DOWN] === 0) state[WANTED] = 1 - state[WANTED]
          } else state[WANTED] = down
          state[WAS_DOWN] = down
          if (state[WANTED] !== state[HELD]) {
            const turn = quantise > 0.001 && song.playing ? Math.floor(song.beats[i] / quantise) : 0
            if (quantise <= 0.001 || !song.playing || (state[LAST_BEAT] >= 0 && turn !== state[LAST_BEAT]))
              state[HELD] = state[WANTED]
            state[LAST_BEAT] = turn
          } else
            state[LAST_BEAT] = quantise > 0.001 && song.playing ? Math.floor(song.beats[i] / quantise) : -1
          let open = state[HELD] === 1
          let stepSlice = 1,
            stepSpeed = 1
          let newStep = false
          if (by === 0 && song.playing) {
            const index = Math.floor(song.run[i] / stepLength + 1e-9)
            const item = steps[index - Math.floor(index / steps.length) * steps.length]
            newStep = index !== state[STEP]
            state[STEP] = index
            if (
              item.on.value === 1 &&
              (item.chance.value >= 1 || randomAt(seed, index) < item.chance.value)
            ) {
              open = true
              stepSlice = item.slice.value
              stepSpeed = item.speed.value
            }
          } else if (by === 1 && notesDown > 0) open = true
          const slice = repeats ? slices[i] * scale * stepSlice : 0
          const repeating = slice >= 0.001 * sampleRate
          const speed = asked[i] * stepSpeed
          heardSpeed = speed
          const fade = Math.max(16, Math.min(p.fade.value * sampleRate, repeating ? 0.5 * slice : Infinity))
          const wasOpen = state[OPEN] === 1
          if (open && (!wasOpen || (newStep && anew === 1))) {
            state[PASSES] = 0
            state[ELAPSED] = 0
            if (anew !== 2 || state[SLICE_START] === 0)
              state[SLICE_START] = justWas && repeating ? Math.max(0, count - slice) : count
            if (!repeating) {
              begin(count, 0, 1, 1, fade, true)
              state[RECORDING] = 0
            } else if (justWas || (anew === 2 && count - state[SLICE_START] > slice)) {
              state[PASSES] = 1
              begin(speed < 0 ? state[SLICE_START] + slice : state[SLICE_START], slice, 1, 1, fade, false)
              state[RECORDING] = 0
            } else {
              state[RECORDING] = 1
              for (const v of voices) if (v[ON] === 1 && v[FADE_OUT] === 0) v[FADE_OUT] = fade
            }
          }
          if (!open && wasOpen) {
            for (const v of voices) if (v[ON] === 1 && v[FADE_OUT] === 0) v[FADE_OUT] = fade
            state[RECORDING] = 0
          }
          state[OPEN] = open ? 1 : 0
          if (open && repeating) {
            state[ELAPSED]++
            const v = voices[state[CURRENT]]
            const done =
              state[RECORDING] === 1 ? state[ELAPSED] - 1 >= slice : v[FREE] === 1 || v[AGE] >= v[LENGTH]
            if (done) {
              // a pass ends between two samples: the next has begun by as much
              const over =
                state[RECORDING] === 1 ? state[ELAPSED] - 1 - slice : v[FREE] === 1 ? 0 : v[AGE] - v[LENGTH]
              const pass = ++state[PASSES]
              state[RECORDING] = 0
              const power = exp2(pitchEach * (pass - 1))
              const way = (points[i] >= 0.5 ? powerOf(speed, pass) : speed) * power
              if (most > 0 && pass > most) {
                begin(count, Infinity, pass, 0, fade, false)
                v[FADE_OUT] = fade
              } else {
                begin(
                  (way < 0 ? state[SLICE_START] + slice : state[SLICE_START]) + over * way,
                  slice / Math.max(1, Math.abs(way)),
                  pass,
                  backs[i] >= 1 ? 1 : exp2(pass * log2(backs[i] + 1e-9)),
                  fade,
                  false,
                )
                voices[state[CURRENT]][AGE] = over
              }
            }
          } else if (open && !repeating && state[RECORDING] === 0 && voices[state[CURRENT]][FREE] === 0)
            begin(count, 0, 1, 1, fade, true)
          // live is heard while it is closed, and while the first slice is taken
          const live = !open || state[RECORDING] === 1 ? 1 : 0
          lives[i] = turnTo(state, live, fade)
          // the voices
          for (let k = 0; k < VOICES; k++) {
            const v = voices[k]
            if (v[ON] === 0) continue
            const pass = v[PASS]
            let s = speed
            // between the two return points the two speeds are passed through by their logarithms
            if (points[i] > 0 && pass > 1 && v[FREE] === 0) s = blendOf(speed, pass, points[i])
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
            if (quick > speedsOf[k][0]) speedsOf[k][0] = quick
          }
          count++
        }
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = lives[i] * input.left[i]
          out.right[i] = lives[i] * input.right[i]
        }
        const dull = p.dull.value
        for (let k = 0; k < VOICES; k++) {
          const w = weights[k]
          let first = 0
          while (first < BLOCK && w[first] === 0) first++
          if (first === BLOCK) continue
          let last = BLOCK
          while (w[last - 1] === 0) last--
          const v = voices[k]
          const near = speedsOf[k][0] > 1 ? NEAR : 5
          for (let i = first; i < last; i++) times[i] = Math.max(near, delays[k][i]) + BLOCK - first
          line.readFast(times, Math.min(4, speedsOf[k][0]), readL, readR, first, last)
          const cut =
            dull > 0 && v[PASS] > 1 ? onePoleWeight(18_000 * exp2(-(v[PASS] - 1) * 2 * dull), sampleRate) : 1
          for (let i = first; i < last; i++) {
            v[LOW_L] += cut * (readL[i] - v[LOW_L])
            v[LOW_R] += cut * (readR[i] - v[LOW_R])
            out.left[i] += w[i] * v[LOW_L]
            out.right[i] += w[i] * v[LOW_R]
          }
        }
        state[COUNT] = count
        const now = voices[state[CURRENT]]
        readouts[0] = state[OPEN]
        readouts[1] = (count - state[SLICE_START]) / sampleRate
        readouts[2] = (repeats ? slices[BLOCK - 1] * scale : 0) / sampleRate
        readouts[3] = now[ON] === 1 ? (count - now[PLACE]) / sampleRate : 0
        readouts[4] = heardSpeed
        readouts[5] = state[PASSES]
        readouts[6] =
          state[STEP] < 0 ? 0 : state[STEP] - Math.floor(state[STEP] / steps.length) * steps.length
      },
    }
  },
})

/**
 * How much of the live sound is heard, a sample further on its way to all or nothing: along a cubic that
 * begins with the slope there is, so that
 * turning round on the way makes no corner.
 */
function turnTo(state: Float64Array, to: number, frames: number): number {
  if (to !== state[LIVE_TO]) {
    const t = state[LIVE_TIME]
    const from = state[LIVE_FROM],
      slope = state[LIVE_SLOPE],
      before = state[LIVE_TO]
    state[LIVE_SLOPE] = t >= 1 ? 0 : (6 * t * t - 6 * t) * (from - before) + (3 * t * t - 4 * t + 1) * slope
    state[LIVE_FROM] = state[LIVE]
    state[LIVE_TO] = to
    state[LIVE_TIME] = 0
  }
  if (state[LIVE_TIME] < 1) {
    const t = (state[LIVE_TIME] = Math.min(1, state[LIVE_TIME] + 1 / frames))
    const back = (1 - t) * (1 - t)
    state[LIVE] =
      state[LIVE_FROM] * (1 + 2 * t) * back + state[LIVE_SLOPE] * t * back + to * t * t * (3 - 2 * t)
  }
  return state[LIVE]
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
