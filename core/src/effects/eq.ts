import { BandStages, STRIDE } from '../dsp/band-stages'
import { BAND_NUMBERS, PROTOTYPE_NUMBERS, bandKinds, designBand } from '../dsp/matched-band'
import { exp2, log2 } from '../dsp/math'
import { bounded } from '../dsp/soft-ceiling'
import { straight } from '../dsp/straight-block'
import { BLOCK } from '../contract/block'
import { boost, choice, decibel, factor, hertz, number, octaves, percent, toggle } from '../units/parameter'
import { type EffectPreset, defineEffect } from '../contract/effect'
import { MOST_BANDS, type Pose, poseAt, readPoses, settlePoses } from './eq-poses'

/** Second-order stages of the steepest cut. */
const STAGES = 4
/** Q of each stage of Butterworth cuts of 12, 24, 36 and 48 dB an octave. */
const cutQs: readonly (readonly number[])[] = [
  [0.7071],
  [0.5412, 1.3066],
  [0.5176, 0.7071, 1.9319],
  [0.5098, 0.6013, 0.9, 2.5629],
]

/**
 * Up to twelve bands, each matched to its analogue prototype (see dsp/matched-band), on both sides, middle,
 * sides, left or right, in series or parallel. All together they are shifted, drawn together or apart, offset
 * left against right, and scaled from mirrored through flat to exaggerated. Poses stand on a strip that one
 * control travels along.
 */
export const eq = defineEffect({
  id: 'eq',
  name: 'EQ',
  group: 'filter',
  load: { kB: 162, ns: 1000 },
  tip: 'Up to twelve bands that move together, and travel from pose to pose',
  also: ['equaliser', 'equalizer', 'parametric', 'bell', 'shelf', 'notch'],
  params: {
    amount: percent('Amount', {
      min: -2,
      max: 2,
      default: 1,
      tip: 'Mirrored below 0, flat at 0, as set at 100 %, exaggerated above',
    }),
    travel: percent('Travel', {
      default: 0,
      tip: 'Place along the strip of poses; does nothing while there are none',
    }),
    shift: octaves('Transpose', {
      min: -4,
      max: 4,
      default: 0,
      tip: 'Moves all bands, in octaves and semitones',
    }),
    gather: factor('Gather', {
      min: -1,
      max: 2,
      default: 1,
      tip: '1 as set; towards 0 all bands come to the centre, above 1 they spread from it, below 0 they turn round',
    }),
    centre: hertz('Centre', {
      min: 40,
      max: 16_000,
      default: 1000,
      tip: 'What bands gather at and spread from',
    }),
    apart: octaves('Left/right', {
      min: -2,
      max: 2,
      default: 0,
      tip: 'How far the right side stands above the left',
    }),
    row: choice('Row', ['series', 'parallel'], 0, 'One band after the other, or all beside each other'),
    output: choice(
      'Hears',
      ['whole', 'chosen bands'],
      0,
      'The whole EQ, or only what the chosen bands lift out',
    ),
    input: boost('Input', { min: -24, max: 24, default: 0, tip: 'Level before the bands' }),
    gain: boost('Output', { min: -24, max: 24, default: 0, tip: 'Level after the bands' }),
    clip: toggle('Soft clip', false, 'Rounds off what goes over'),
  },
  lanes: {
    bands: {
      name: 'Bands',
      item: 'band',
      solo: true,
      spread: 'frequency',
      least: 1,
      most: MOST_BANDS,
      params: {
        on: toggle('On', true, 'Takes the band out'),
        kind: choice('Kind', bandKinds, 0, 'What the band does'),
        frequency: hertz('Frequency', { min: 20, max: 20_000, default: 1000, tip: 'Centre or corner' }),
        gain: decibel('Gain', { min: -24, max: 24, default: 0, tip: 'Height of bells and shelves' }),
        q: number('Q', { min: 0.1, max: 40, default: 1, law: 'log', tip: 'Narrow or wide' }),
        slope: choice('Slope', ['12 dB/oct', '24 dB/oct', '36 dB/oct', '48 dB/oct'], 0, 'Steepness of cuts'),
        place: choice('Place', ['both', 'middle', 'sides', 'left', 'right'], 0, 'What it works on'),
        chosen: toggle('Chosen', false, 'Among what is heard when only chosen bands are'),
      },
      initial: [
        { kind: 1, frequency: 120 },
        { frequency: 450 },
        { frequency: 1600 },
        { kind: 2, frequency: 6000 },
      ],
    },
  },
  settle: settlePoses,
  tail: () => 1,
  presets: [
    {
      name: 'Room for a voice',
      params: {},
      lanes: bands([
        [3, 90, 0, 0.7, 1],
        [0, 320, -3, 1.2],
        [0, 2800, -4, 1.1],
        [2, 9000, 2, 0.7],
      ]),
    },
    {
      name: 'Weight and air',
      params: {},
      lanes: bands([
        [1, 110, 4, 0.7],
        [0, 500, -3, 1],
        [2, 8000, 4, 0.7],
      ]),
    },
    {
      name: 'Wooden box',
      params: {},
      lanes: bands([
        [0, 240, 7, 3],
        [0, 610, 6, 4],
        [0, 1450, 4, 5],
        [4, 6000, 0, 0.7, 1],
      ]),
    },
    {
      name: 'Growl in four poses',
      params: { travel: 0.3 },
      lanes: bands([
        [0, 300, 9, 3],
        [0, 1100, 9, 4],
        [0, 2600, 6, 4],
      ]),
      data: {
        poses: [
          pose(0, 0, [240, 12, 3], [700, 6, 4], [2400, 2, 3]),
          pose(0.33, 0.4, [520, 14, 4], [1300, 9, 5], [2600, 4, 4]),
          pose(0.66, -0.5, [380, 10, 3], [2100, 14, 6], [3100, 8, 4]),
          pose(1, 0.2, [900, 13, 4], [1700, 4, 4], [4200, 9, 5]),
        ],
      },
    },
  ],
  create: ({ sampleRate }) => {
    const all = { amount: 0, shift: 0, gather: 0, centre: 0, apart: 0, travel: 0 }
    const row = new BandStages(MOST_BANDS * STAGES, BLOCK)
    const { left, right, next } = row
    // what each band was designed for, so that a still one is designed once
    const known = new Float64Array(MOST_BANDS * 8)
    const pose = new Float64Array(3)
    const sumL = new Float64Array(BLOCK),
      sumR = new Float64Array(BLOCK)
    // whether each band is off (0), stands still (1), moves (2) or moves so straight that one design a block
    // is enough (3)
    const heard = new Uint8Array(MOST_BANDS)
    // what each band is in this block
    const kinds = new Uint8Array(MOST_BANDS)
    const slopes = new Uint8Array(MOST_BANDS)
    const nothing = new Float64Array(BLOCK)
    const frequencies = new Array<Float64Array>(MOST_BANDS).fill(nothing)
    const heights = new Array<Float64Array>(MOST_BANDS).fill(nothing)
    const qs = new Array<Float64Array>(MOST_BANDS).fill(nothing)
    const prototypes = Array.from({ length: MOST_BANDS * STAGES }, () =>
      new Float64Array(PROTOTYPE_NUMBERS).fill(NaN),
    )
    const solo = new Uint8Array(MOST_BANDS)
    let soloed = false
    let poses: Pose[] = []

    /** Designs a band as it stands at one frame, both sides, into `next`. */
    function design(b: number, kind: number, f: number, gain: number, q: number, slope: number): void {
      const middle =
        all.gather === 1 && all.shift === 0
          ? f
          : all.centre * exp2(log2(f / all.centre) * all.gather + all.shift)
      const stages = kind === 3 || kind === 4 ? slope + 1 : 1
      // both sides are one design unless they stand apart
      const sides = all.apart === 0 ? 1 : 2
      for (let side = 0; side < sides; side++) {
        const hz = sides === 1 ? middle : middle * exp2((side - 0.5) * all.apart)
        const share = (hz < 10 ? 10 : hz) / sampleRate
        for (let s = 0; s < stages; s++) {
          const at = (side * row.rightSide + b * STAGES + s) * BAND_NUMBERS
          const stageQ =
            kind === 3 || kind === 4
              ? cutQs[slope][s] * (s === stages - 1 ? (q / 0.7071) * (stages === 1 ? 1 : 0.7071) : 1)
              : q
          designBand(
            kind,
            share,
            stageQ < 0.1 ? 0.1 : stageQ,
            gain * all.amount,
            next,
            at,
            prototypes[b * STAGES + s],
          )
          if (kind < 3) continue
          // kinds without a height are mixed with what goes in
          const w = all.amount < 0 ? 0 : all.amount > 1 ? 1 : all.amount
          next[at + 2] = 1 + w * (next[at + 2] - 1)
          next[at + 3] *= w
          next[at + 4] *= w
        }
      }
    }

    /** Designs a band for the frame `last` where it is not the same as before. */
    function prepare(b: number, last: number, still: boolean): void {
      const kind = kinds[b]
      const slope = slopes[b]
      const posed = poses.length >= 2 && poseAt(poses, all.travel, b, pose)
      const hz = posed ? pose[0] : frequencies[b][last],
        gain = posed ? pose[1] : heights[b][last],
        q = posed ? pose[2] : qs[b][last]
      const k = 8 * b
      const mark = kind + 10 * slope + 100 * all.apart
      const fresh = !(known[k] === known[k])
      if (!still && !fresh && known[k + 3] === mark) {
        design(b, kind, hz, gain, q, slope)
        known[k] = hz
        known[k + 1] = gain
        known[k + 2] = q
        return
      }
      if (
        !fresh &&
        still &&
        known[k] === hz &&
        known[k + 1] === gain &&
        known[k + 2] === q &&
        known[k + 3] === mark &&
        known[k + 4] === all.amount &&
        known[k + 5] === all.shift &&
        known[k + 6] === all.gather &&
        known[k + 7] === all.centre
      )
        return
      design(b, kind, hz, gain, q, slope)
      if (fresh || known[k + 3] - 100 * all.apart !== kind + 10 * slope) {
        for (let s = b * STAGES; s < (b + 1) * STAGES; s++) row.jump(s)
      }
      known[k] = hz
      known[k + 1] = gain
      known[k + 2] = q
      known[k + 3] = mark
      known[k + 4] = all.amount
      known[k + 5] = all.shift
      known[k + 6] = all.gather
      known[k + 7] = all.centre
    }

    /**
     * Whether a band goes so straight through this block that its numbers may do so too: frequency and Q
     * within 2 % and 0.02 % of a line, height within ½ and 0.005 dB.
     */
    function goesStraight(b: number): boolean {
      const k = 8 * b
      const hz = known[k],
        q = known[k + 2]
      return (
        hz === hz &&
        straight(frequencies[b], hz, 0.02 * hz, 2e-4 * hz) &&
        straight(qs[b], q, 0.02 * q, 2e-4 * q) &&
        straight(heights[b], known[k + 1], 0.5, 0.005)
      )
    }

    return {
      reset() {
        row.reset()
        known.fill(NaN)
      },
      solo(items) {
        soloed = items.length > 0
        for (let b = 0; b < MOST_BANDS; b++) solo[b] = items.includes(b) ? 1 : 0
      },
      take(data) {
        poses = readPoses(data.poses)
        known.fill(NaN)
      },
      process({ in: input, out, lanes }, p) {
        const bands = lanes.bands
        left.set(input.left)
        right.set(input.right)
        if (!p.input.constant || p.input.value !== 1) {
          const inputs = p.input.values()
          for (let i = 0; i < BLOCK; i++) {
            left[i] *= inputs[i]
            right[i] *= inputs[i]
          }
        }
        const parallel = p.row.value === 1
        const alone = soloed || p.output.value === 1
        if (parallel || alone) {
          sumL.fill(0)
          sumR.fill(0)
        }
        const moves = !(
          p.amount.constant &&
          p.shift.constant &&
          p.gather.constant &&
          p.centre.constant &&
          p.apart.constant &&
          (p.travel.constant || poses.length < 2)
        )
        const amounts = p.amount.values(),
          shifts = p.shift.values(),
          gathers = p.gather.values(),
          centres = p.centre.values(),
          aparts = p.apart.values(),
          travels = p.travel.values()
        const count = bands.length < MOST_BANDS ? bands.length : MOST_BANDS
        heard.fill(0)
        let plain = !parallel && !alone
        for (let b = 0; b < count; b++) {
          const band = bands[b]
          const still = !moves && band.frequency.constant && band.gain.constant && band.q.constant
          heard[b] =
            band.on.value < 0.5 || (soloed ? solo[b] === 0 : alone && band.chosen.value < 0.5)
              ? 0
              : still
                ? 1
                : 2
          if (heard[b] === 0) continue
          if (band.place.value !== 0) plain = false
          kinds[b] = band.kind.value
          slopes[b] = band.slope.value
          frequencies[b] = band.frequency.values()
          heights[b] = band.gain.values()
          qs[b] = band.q.values()
          if (!still && !moves && goesStraight(b)) heard[b] = 3
        }
        plain &&= p.apart.constant && p.apart.value === 0
        // where nothing bends, one go over the whole block is enough
        const whole = plain && !heard.includes(2)
        for (let start = 0; start < BLOCK; start += STRIDE) {
          const last = whole ? BLOCK - 1 : start + STRIDE - 1
          all.amount = amounts[last]
          all.shift = shifts[last]
          all.gather = gathers[last]
          all.centre = centres[last]
          all.apart = aparts[last]
          all.travel = travels[last]
          for (let b = 0; b < count; b++) {
            if (heard[b] === 0) continue
            const kind = kinds[b]
            if (start === 0 || heard[b] === 2) prepare(b, heard[b] === 3 ? BLOCK - 1 : last, heard[b] === 1)
            const share = heard[b] === 3 ? STRIDE / (BLOCK - start) : 1
            const stages = kind === 3 || kind === 4 ? slopes[b] + 1 : 1
            for (let s = 0; s < stages; s++) {
              const stage = b * STAGES + s
              if (plain) row.enqueue(stage, share)
              else
                row.runApart(
                  stage,
                  all.apart === 0 ? stage : stage + row.rightSide,
                  share,
                  bands[b].place.value,
                  (parallel || alone ? 1 : 0) + (alone ? 1 : 0),
                  start,
                  sumL,
                  sumR,
                )
            }
          }
          if (whole) {
            row.block()
            break
          }
          row.stride(start)
        }
        const levels = p.gain.values()
        const clip = p.clip.value === 1
        if (parallel || alone || clip || !p.gain.constant || p.gain.value !== 1) {
          for (let i = 0; i < BLOCK; i++) {
            let l = (alone ? sumL[i] : parallel ? left[i] + sumL[i] : left[i]) * levels[i]
            let r = (alone ? sumR[i] : parallel ? right[i] + sumR[i] : right[i]) * levels[i]
            if (clip) {
              l /= Math.sqrt(1 + 0.5 * l * l)
              r /= Math.sqrt(1 + 0.5 * r * r)
            }
            out.left[i] = bounded(l)
            out.right[i] = bounded(r)
          }
        } else {
          for (let i = 0; i < BLOCK; i++) {
            const l = left[i]
            const r = right[i]
            out.left[i] = l > 8 || l < -8 ? bounded(l) : l
            out.right[i] = r > 8 || r < -8 ? bounded(r) : r
          }
        }
        row.settle()
      },
    }
  },
})

/** Bands of a preset: kind, frequency, gain, Q, slope. */
function bands(
  list: readonly (readonly [kind: number, frequency: number, gain: number, q?: number, slope?: number])[],
): EffectPreset['lanes'] {
  return {
    bands: list.map(([kind, frequency, gain, q = 1, slope = 0]) => ({ kind, frequency, gain, q, slope })),
  }
}

/** A pose of a preset: its place along the travel, its ease, and frequency, gain and Q of each band. */
function pose(
  at: number,
  ease: number,
  ...of: readonly (readonly [frequency: number, gain: number, q: number])[]
): object {
  return { at, ease, bands: of.map(([frequency, gain, q]) => ({ frequency, gain, q })) }
}
