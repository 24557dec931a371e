import type { AudioData } from '../contract/audio'
import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
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
/** Voices whose place and pitch are told to the picture. */
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
  tip: 'Clouds of short grains of what has come in, or of a sound',
  also: ['granular', 'cloud', 'texture'],
  sound: true,
  readouts: [
    'active',
    'frozen',
    'length',
    ...Array.from({ length: TOLD }, (_, k) => [`place${k}`, `pitch${k}`, `size${k}`]).flat(),
  ],
  holds: true,
  params: {
    from: choice(
      'Of',
      ['input', 'sound'],
      0,
      'Grains of the last ten seconds of the input, or of a sound of the project',
    ),
    place: percent('Place', {
      default: 0.02,
      tip: 'How far back in the input (100 % is 10 s), or where in the sound',
    }),
    scatter: percent('Scatter', { default: 0.03, tip: 'How far places depart from it' }),
    size: seconds('Size', { min: 0.005, max: 1, default: 0.09, tip: 'Length of a grain' }),
    by: choice(
      'Density in',
      ['grains a second', 'note length', 'overlap'],
      2,
      'What says how often a grain begins',
    ),
    rate: hertz('Density', { min: 0.5, max: 400, default: 22, tip: 'Grains a second' }),
    length: beats('Every', {
      min: 1 / 32,
      max: 4,
      default: 0.25,
      tip: 'Time from grain to grain as a note length',
    }),
    overlap: number('Overlap', {
      min: 0.25,
      max: 32,
      default: 3,
      law: 'log',
      tip: 'How many grains sound at once',
    }),
    unsteady: percent('Unsteady', { default: 0.3, tip: 'How much the time from grain to grain varies' }),
    most: number('At most', {
      min: 1,
      max: MOST,
      default: 32,
      glide: 0,
      tip: 'Grains at once; beyond that none begins until one has ended',
    }),
    pitch: semitones('Pitch', { min: -24, max: 24, default: 0, tip: 'Shifts all grains' }),
    pitchScatter: semitones('Pitch scatter', {
      min: 0,
      max: 24,
      default: 0,
      tip: 'How far pitches depart from it',
    }),
    scale: choice('Scale', scales, 0, 'Where scattered pitches may fall'),
    backwards: percent('Backwards', { default: 0, tip: 'Share of grains that run backwards' }),
    pan: percent('Pan scatter', { default: 0.6, tip: 'How far grains lie from the middle' }),
    level: percent('Level scatter', { default: 0.2, tip: 'How much quieter some grains are' }),
    window: choice('Window', ['round', 'triangle', 'flat'], 0, 'Shape of a grain'),
    slope: percent('Slope', {
      min: -1,
      max: 1,
      default: 0,
      tip: 'Moves its peak to the start or to the end',
    }),
    freeze: toggle('Freeze', false, 'Nothing enters the buffer any more'),
  },
  tail: (v) => (v.from >= 0.5 ? 0 : v.freeze >= 0.5 ? Infinity : GRAIN_BUFFER + 2),
  gain: () => 12,
  prepare: () => {
    prepareBandLimited(FASTEST)
  },
  presets: [
    {
      name: 'Fog over the water',
      params: { size: 0.35, overlap: 6, scatter: 0.12, pan: 1, place: 0.04, wet: 0.6 },
    },
    { name: 'Octaves above', params: { pitchScatter: 12, scale: 2, size: 0.16, overlap: 4, wet: 0.5 } },
    {
      name: 'Backwards confetti',
      params: { size: 0.045, by: 0, rate: 40, backwards: 1, scatter: 0.06, pan: 1 },
    },
    {
      name: 'Sixteenths of a moment ago',
      params: { by: 1, length: 0.25, size: 0.12, place: 0.05, scatter: 0, unsteady: 0, window: 2 },
    },
    {
      name: 'Minor swarm',
      params: { scale: 4, pitchScatter: 14, size: 0.2, overlap: 8, scatter: 0.1, slope: -0.6, wet: 0.55 },
    },
  ],
  create: ({ sampleRate, seed }) => {
    const line = new StereoDelayLine((GRAIN_BUFFER + 2) * sampleRate, 3, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const writeL = new Float64Array(BLOCK),
      writeR = new Float64Array(BLOCK)
    const sumL = new Float64Array(BLOCK),
      sumR = new Float64Array(BLOCK)
    const voices = Array.from({ length: MOST }, () => new Float64Array(SPAN))
    const starts = new Int32Array(MOST)
    // samples written, grains begun, frames to the next grain, how far the freeze has gone, whether it has
    // run
    const state = new Float64Array(5)
    const readouts = new Float64Array(3 + 3 * TOLD)
    const buffer = GRAIN_BUFFER * sampleRate
    let sound: AudioData | null = null

    const onScale = (st: number, scale: number): number => {
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

    return {
      readouts,
      reset() {
        line.reset()
        for (const v of voices) v.fill(0)
        state.fill(0)
      },
      take(_data, audio) {
        sound = audio ?? null
      },
      held: () => line.content(HELD_SECONDS * sampleRate),
      isQuiet: () => line.isQuietWithin(buffer + 2 * sampleRate) && !sound,
      process({ in: input, out, song }, p) {
        const freeze = p.freeze.value === 1
        const inSound = p.from.value === 1 && sound !== null
        let count = state[0]
        if (!freeze) {
          for (let i = 0; i < BLOCK; i++) {
            writeL[i] = input.left[i]
            writeR[i] = input.right[i]
          }
          line.write(writeL, writeR, 0, BLOCK)
          count += BLOCK
        }
        const frames = inSound && sound ? sound.channels[0].length : buffer
        const speedOfSound = inSound && sound ? sound.sampleRate / sampleRate : 1
        const most = Math.round(p.most.value)
        const sizes = p.size.values(),
          places = p.place.values(),
          scatters = p.scatter.values(),
          pitches = p.pitch.values(),
          wide = p.pitchScatter.values()
        const rates = p.rate.values(),
          lengths = p.length.values(),
          overlaps = p.overlap.values(),
          unsteadies = p.unsteady.values(),
          pans = p.pan.values(),
          levels = p.level.values(),
          backs = p.backwards.values()
        const by = p.by.value,
          scale = p.scale.value
        let active = 0
        for (let k = 0; k < MOST; k++) {
          starts[k] = 0
          if (voices[k][ON] === 1) active++
        }
        let next = state[2]
        for (let i = 0; i < BLOCK; i++) {
          if (next-- > 0) continue
          const size = sizes[i] * sampleRate
          const apart =
            by === 0 ? sampleRate / rates[i] : by === 1 ? lengths[i] / song.beatsPerFrame : size / overlaps[i]
          const n = state[1]++
          next = Math.max(8, apart * (1 + unsteadies[i] * (randomAt(seed, 8 * n) - 0.5))) - 1
          if (active >= most) continue
          let k = 0
          while (k < MOST && voices[k][ON] === 1) k++
          if (k === MOST) continue
          const v = voices[k]
          let st = pitches[i]
          if (wide[i] > 0) st += onScale(wide[i] * (2 * randomAt(seed, 8 * n + 1) - 1), scale)
          const backwards = randomAt(seed, 8 * n + 2) < backs[i]
          const speed = Math.min(4, exp2(st / 12)) * speedOfSound * (backwards ? -1 : 1)
          const reach = size * (speed < 0 ? -speed : speed)
          let place: number
          if (inSound) {
            const at = Math.min(1, Math.max(0, places[i] + scatters[i] * (2 * randomAt(seed, 8 * n + 3) - 1)))
            place = at * Math.max(0, frames - reach - 1) + (backwards ? reach : 0)
          } else {
            // as far back as is set, and never so near that it would run into what is not there yet
            const behind = Math.min(
              buffer - NEAR,
              Math.max(0, (places[i] + scatters[i] * (2 * randomAt(seed, 8 * n + 3) - 1)) * buffer),
            )
            const least = speed > 1 ? NEAR + size * (speed - 1) + 8 : NEAR
            const oldest = Math.max(0, Math.min(line.filled - BLOCK, buffer))
            place =
              count -
              BLOCK +
              (freeze ? BLOCK : i) -
              Math.max(
                backwards ? NEAR : least,
                Math.min(behind, Math.max(least, oldest - (backwards ? reach : 0))),
              )
          }
          v[ON] = 1
          v[PLACE] = place
          v[SPEED] = speed
          v[AGE] = 0
          v[LENGTH] = size
          const pan = pans[i] * (2 * randomAt(seed, 8 * n + 4) - 1)
          const level = 1 - levels[i] * randomAt(seed, 8 * n + 5)
          v[LEFT] = level * (pan > 0 ? 1 - pan : 1)
          v[RIGHT] = level * (pan < 0 ? 1 + pan : 1)
          starts[k] = i
          active++
        }
        state[0] = count
        state[2] = next
        // as loud as one, however many there are
        const meanSize = p.size.value * sampleRate
        const overlap =
          by === 2
            ? p.overlap.value
            : by === 0
              ? (meanSize * p.rate.value) / sampleRate
              : (meanSize * song.beatsPerFrame) / p.length.value
        const level = 1 / Math.sqrt(Math.max(1, 0.6 * Math.min(overlap, most)))
        const window = p.window.value
        const skew = exp2(1.5 * p.slope.value)
        const skewed = p.slope.value !== 0
        sumL.fill(0)
        sumR.fill(0)
        for (let k = 0; k < MOST; k++) {
          const v = voices[k]
          if (v[ON] === 0) continue
          const first = starts[k]
          const left = v[LENGTH] - v[AGE]
          const last = Math.min(BLOCK, first + Math.ceil(left))
          const speed = v[SPEED]
          if (inSound && sound) readSound(sound, v[PLACE], speed, readL, readR, first, last)
          else {
            for (let i = first; i < last; i++) {
              let d = (freeze ? count : count - BLOCK + i) - v[PLACE] - speed * (i - first)
              if (freeze) {
                // nothing is written: the place in the line is all that moves
                d += i - first
              } else d += BLOCK - first
              times[i] = d < 5 ? 5 : d
            }
            line.readFast(times, speed, readL, readR, first, last)
          }
          const perFrame = 1 / v[LENGTH]
          let t = v[AGE] * perFrame
          const a = v[LEFT] * level,
            b = v[RIGHT] * level
          for (let i = first; i < last; i++) {
            const x = skewed ? exp2(skew * log2(t + 1e-9)) : t
            let w = window === 0 ? 0.5 - 0.5 * sineOf(x + 0.25) : 1 - Math.abs(2 * x - 1)
            if (window === 2) {
              w = Math.min(1, 5 * w)
              w = w * w * (3 - 2 * w)
            }
            if (w < 0) w = 0
            sumL[i] += a * w * readL[i]
            sumR[i] += b * w * readR[i]
            t += perFrame
          }
          v[PLACE] += speed * (last - first)
          v[AGE] += last - first
          if (v[AGE] >= v[LENGTH]) v[ON] = 0
        }
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = sumL[i]
          out.right[i] = sumR[i]
        }
        readouts[0] = active
        readouts[1] = freeze ? 1 : 0
        readouts[2] = frames
        for (let k = 0; k < TOLD; k++) {
          const v = voices[k]
          readouts[3 + 3 * k] = v[ON] === 0 ? -1 : inSound ? v[PLACE] / frames : (count - v[PLACE]) / buffer
          readouts[4 + 3 * k] = v[ON] === 0 ? 0 : 12 * log2(Math.abs(v[SPEED]) / speedOfSound)
          readouts[5 + 3 * k] = v[LENGTH] / sampleRate
        }
      },
    }
  },
})

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
