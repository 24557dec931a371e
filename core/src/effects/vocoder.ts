import { exp2, log2, poleFor, tanPi } from '../dsp/math'
import { Random } from '../dsp/random'
import { bounded } from '../dsp/soft-ceiling'
import { BLOCK } from '../contract/block'
import { boost, hertz, number, percent, seconds, semitones, toggle } from '../units/parameter'
import { defineEffect } from '../contract/effect'

const MOST = 40

/**
 * Channel vocoder (Dudley, "Remaking speech", JASA 11, 1939): the shaping sound is heard in bands spaced
 * evenly in pitch, each by two state-variable band-passes in a row; the level of each goes onto the same band
 * of the sound that is shaped, or onto one further up or down. Where the shaping sound hisses, noise takes
 * the place of the shaped sound.
 */
export const vocoder = defineEffect({
  id: 'vocoder',
  name: 'Vocoder',
  group: 'filter',
  spreads: true,
  movesByItself: true,
  load: { kB: 64, ns: 750 },
  tip: 'Shapes this sound, band by band, by another track or itself',
  also: ['robot', 'voice', 'bands'],
  sidechain: true,
  readouts: ['hiss', ...Array.from({ length: MOST }, (_, b) => `band ${b + 1}`)],
  params: {
    bands: number('Bands', {
      min: 8,
      max: MOST,
      default: 20,
      glide: 0,
      tip: 'Number of bands; few sound robotic, many are clear',
    }),
    low: hertz('Lowest', { min: 40, max: 400, default: 90, tip: 'Centre of the lowest band' }),
    high: hertz('Highest', { min: 2000, max: 16_000, default: 9000, tip: 'Centre of the highest band' }),
    shift: semitones('Formant shift', {
      min: -24,
      max: 24,
      default: 0,
      tip: 'Shifts the output bands against the analysed ones',
    }),
    attack: seconds('Attack', { min: 0.0005, max: 0.2, default: 0.004, tip: 'Time to follow a rise' }),
    release: seconds('Release', { min: 0.005, max: 2, default: 0.04, tip: 'Time to follow a fall' }),
    unvoiced: percent('Unvoiced', { default: 0.5, tip: 'Adds noise for unvoiced sounds' }),
    hold: toggle('Hold', false, 'Holds the bands as they are'),
    output: boost('Output', { min: -24, max: 36, default: 12, tip: 'Output level' }),
  },
  tail: (v) => 14 * v.release + 0.4,
  groups: [
    { name: 'Bands', gauges: ['bands', 'low', 'high', 'shift'] },
    { name: 'Response', gauges: ['attack', 'release', 'hold'] },
    { name: 'Output', gauges: ['unvoiced', 'output'] },
  ],
  presets: [
    { name: 'Few planks', tip: 'Few bands, robotic', params: { bands: 10, release: 0.05 } },
    {
      name: 'Clear words',
      tip: 'Many bands, intelligible',
      params: { bands: 36, attack: 0.002, release: 0.025, unvoiced: 0.8 },
    },
    { name: 'Smaller throat', tip: 'Shifted formants', params: { shift: 5, bands: 24 } },
    {
      name: 'Fog that remembers',
      tip: 'Slow release, smeared',
      params: { bands: 28, attack: 0.05, release: 1.2 },
    },
  ],
  create: ({ sampleRate, seed }) => {
    const random = new Random(seed)
    const readouts = new Float64Array(1 + MOST)
    // for each band: two sections of two integrators for the shaping sound, and the same left and right
    const state = new Float64Array(12 * MOST)
    const levels = new Float64Array(MOST)
    // levels of what hisses and of the whole, and a first-order high-pass
    const hissing = new Float64Array(3)
    const shaping = new Float64Array(BLOCK)
    const left = new Float64Array(BLOCK)
    const right = new Float64Array(BLOCK)
    const noise = new Float64Array(BLOCK)
    const level = new Float64Array(BLOCK)
    const sumL = new Float64Array(BLOCK)
    const sumR = new Float64Array(BLOCK)
    const hissPole = poleFor(0.01, sampleRate)
    return {
      readouts,
      reset() {
        random.reset()
        state.fill(0)
        levels.fill(0)
        hissing.fill(0)
        readouts.fill(0)
      },
      process({ in: input, out, side }, p) {
        const count = Math.round(p.bands.value)
        const held = p.hold.value === 1
        const attack = poleFor(p.attack.value, sampleRate),
          release = poleFor(p.release.value, sampleRate)
        const unvoiced = p.unvoiced.values(),
          outputs = p.output.values()
        let high = hissing[0],
          whole = hissing[1],
          low = hissing[2]
        random.fill(noise)
        for (let i = 0; i < BLOCK; i++) {
          const x = 0.5 * (side.left[i] + side.right[i])
          shaping[i] = x
          // what lies above 4 kHz against all that there is
          low += 0.41 * (x - low)
          const h = x - low
          high = h * h + hissPole * (high - h * h)
          whole = x * x + hissPole * (whole - x * x)
          const share = whole > 1e-9 ? (high / whole - 0.25) * 2.5 : 0
          const hiss = unvoiced[i] * (share < 0 ? 0 : share > 1 ? 1 : share)
          // noise is laid in at the level of the sound that is shaped, or where that is silent at a tenth of
          // full scale
          const n = noise[i] * 0.4 * hiss
          left[i] = input.left[i] * (1 - hiss) + n
          right[i] = input.right[i] * (1 - hiss) + n
          if (i === BLOCK - 1) readouts[0] = hiss
        }
        hissing[0] = high < 1e-20 ? 0 : high
        hissing[1] = whole < 1e-20 ? 0 : whole
        hissing[2] = low < 1e-15 && low > -1e-15 ? 0 : low
        sumL.fill(0)
        sumR.fill(0)
        const octaves = log2(p.high.value / p.low.value) / (count - 1)
        // each band is as wide as the step to the next; two in a row are narrower than one
        const k = 1.1 * (exp2(0.5 * octaves) - exp2(-0.5 * octaves)) * 1.5537739740300374
        const up = exp2(p.shift.value / 12)
        for (let b = 0; b < count; b++) {
          const hz = p.low.value * exp2(b * octaves)
          const at = 12 * b
          if (!held) {
            const g = tanPi(hz > 0.45 * sampleRate ? 0.45 : hz / sampleRate)
            follow(shaping, level, state, at, g, k, levels, b, attack, release)
          } else level.fill(levels[b])
          readouts[1 + b] = levels[b]
          const to = hz * up
          // bands that are shifted out of range are silent
          if (to > 0.45 * sampleRate) continue
          lay(left, level, sumL, state, at + 4, tanPi(to / sampleRate), k)
          lay(right, level, sumR, state, at + 8, tanPi(to / sampleRate), k)
        }
        for (let i = 0; i < 12 * MOST; i++) if (state[i] < 1e-18 && state[i] > -1e-18) state[i] = 0
        for (let i = 0; i < BLOCK; i++) {
          // one level times another: a hot input leaves squared
          const g = 9 * outputs[i]
          out.left[i] = bounded(sumL[i] * g)
          out.right[i] = bounded(sumR[i] * g)
        }
      },
    }
  },
})

/** Level of one band of the shaping sound at each frame. */
function follow(
  x: Float64Array,
  level: Float64Array,
  state: Float64Array,
  at: number,
  g: number,
  k: number,
  levels: Float64Array,
  b: number,
  attack: number,
  release: number,
): void {
  const d = 1 / (1 + g * (g + k))
  let a1 = state[at],
    a2 = state[at + 1],
    b1 = state[at + 2],
    b2 = state[at + 3]
  let v = levels[b]
  for (let i = 0; i < BLOCK; i++) {
    const u = d * (a1 + g * (x[i] - a2))
    a1 = 2 * u - a1
    a2 += 2 * g * u
    const w = d * (b1 + g * (k * u - b2))
    b1 = 2 * w - b1
    b2 += 2 * g * w
    const y = w < 0 ? -k * w : k * w
    v = y + (y > v ? attack : release) * (v - y)
    level[i] = v
  }
  state[at] = a1
  state[at + 1] = a2
  state[at + 2] = b1
  state[at + 3] = b2
  levels[b] = v < 1e-12 ? 0 : v
}

/** Adds one band of the shaped sound, as loud as `level` says. */
function lay(
  x: Float64Array,
  level: Float64Array,
  sum: Float64Array,
  state: Float64Array,
  at: number,
  g: number,
  k: number,
): void {
  const d = 1 / (1 + g * (g + k))
  let a1 = state[at],
    a2 = state[at + 1],
    b1 = state[at + 2],
    b2 = state[at + 3]
  for (let i = 0; i < BLOCK; i++) {
    const u = d * (a1 + g * (x[i] - a2))
    a1 = 2 * u - a1
    a2 += 2 * g * u
    const w = d * (b1 + g * (k * u - b2))
    b1 = 2 * w - b1
    b2 += 2 * g * w
    sum[i] += k * w * level[i]
  }
  state[at] = a1
  state[at + 1] = a2
  state[at + 2] = b1
  state[at + 3] = b2
}
