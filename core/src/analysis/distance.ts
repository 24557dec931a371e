import type { Stereo } from '../contract/audio'
import { fromDb, toDb } from '../dsp/math'
import { LoudnessMeter } from '../dsp/loudness'
import { resample } from '../formats/resample'
import { FLOOR, MEL_BANDS, MelAnalysis, type MelLevels } from './mel-levels'
import { type Texture, textureOf, textureParts } from './texture'

/** Rate at which sounds are compared, in Hz, and the loudness that they are brought to, in LUFS. */
const RATE = 48_000
const LOUDNESS = -23
/** Window lengths in frames: for attacks, for most things, and for pitch. */
const WINDOWS = [512, 2048, 8192] as const
/** Frames of an RMS value: 10 ms. */
const STEP = 480
/** Window and hop in frames of the envelopes of a texture: 187.5 of them in a second. */
const TEXTURE_WINDOW = 1024
const TEXTURE_HOP = 256
/** Largest ratio of sides or of left that is told, in dB. */
const MOST_RATIO = 40
const QUIET = 1e-8
/** What a correlation of 1 instead of 0 counts, in dB. */
const CORRELATION_DB = 10

/** What sounds are compared by; worked out once for each. */
export interface Traits {
  /** Integrated loudness in LUFS before it was brought to the common one; −120 for silence. */
  readonly loudness: number
  readonly levels: readonly MelLevels[]
  /** RMS of both sides in dB, a value each 10 ms. */
  readonly envelope: Float32Array
  /** Worked out when it is asked for first. */
  readonly texture: Texture
}

/** How far two sounds are from each other, in dB; 0 for equal ones. */
export interface Distance {
  /** The one figure: tone and envelope of the same performance, or all parts of a texture. */
  readonly total: number
  /** Difference of the spectra, moment by moment; of a texture, of their means. */
  readonly tone: number
  /** Difference of the levels, moment by moment; of a texture, of their deviations. */
  readonly envelope: number
  /** Difference in how much the bands move between 0.5 and 20 Hz. */
  readonly movement: number
  /** Difference of the loudness in LU before both were brought to the same. */
  readonly loudness: number
  /** Difference in width and balance of the bands. */
  readonly stereo: number
}

/**
 * Works out what a sound is compared by.
 * @param sound left and right, at `sampleRate` in Hz
 * @param isLevelled whether it is brought to −23 LUFS (ITU-R BS.1770-4) first
 */
export function traitsOf(sound: Stereo, sampleRate: number, isLevelled = true): Traits {
  const at48 = sampleRate === RATE ? sound : sound.map((side) => resample(side, sampleRate, RATE))
  const meter = new LoudnessMeter(RATE)
  const [left, right] = at48 as unknown as Stereo
  meter.process(left, right)
  const loudness = meter.integrated
  const gain = isLevelled && loudness > -120 ? fromDb(LOUDNESS - loudness) : 1
  const levelled = [left, right].map((side) => (gain === 1 ? side : side.map((x) => x * gain)))
  const heard = levelled as unknown as Stereo
  let texture: Texture | null = null
  return {
    loudness,
    levels: WINDOWS.map((size) => analysisOf(size).of(heard)),
    envelope: envelopeOf(heard),
    get texture() {
      return (texture ??= textureOf(analysisOf(TEXTURE_WINDOW).of(heard, TEXTURE_HOP)))
    },
  }
}

/**
 * How far two sounds of the same performance are apart: the mean difference of log-mel spectra at three
 * window lengths, and that of the RMS envelopes, in dB. The longer one is compared as far as the other goes.
 */
export const distance = (a: Traits, b: Traits): Distance => ({ ...mainDistance(a, b), ...shared(a, b) })

/** The parts of {@link distance} that make its total, which are found sooner. */
export function mainDistance(a: Traits, b: Traits): Pick<Distance, 'total' | 'tone' | 'envelope'> {
  const tone =
    WINDOWS.reduce((sum, _, w) => sum + apart(a.levels[w]?.levels, b.levels[w]?.levels), 0) / WINDOWS.length
  const envelope = apart(a.envelope, b.envelope)
  return { total: tone + envelope, tone, envelope }
}

/**
 * How far two sounds are apart as textures: of different performances, whose events fall at other times.
 */
export function textureDistance(a: Traits, b: Traits): Distance {
  const { means, deviations, correlations, modulation } = textureParts(a.texture, b.texture)
  const total = means + deviations + CORRELATION_DB * correlations + modulation
  return { total, tone: means, envelope: deviations, ...shared(a, b) }
}

const shared = (a: Traits, b: Traits): Pick<Distance, 'movement' | 'loudness' | 'stereo'> => ({
  movement: textureParts(a.texture, b.texture).modulation,
  loudness: Math.abs(a.loudness - b.loudness),
  stereo: stereoApart(a.levels[1] as MelLevels, b.levels[1] as MelLevels),
})

/** Mean difference of two lists as far as both go. */
function apart(a: Float32Array = none, b: Float32Array = none): number {
  const count = Math.min(a.length, b.length)
  let sum = 0
  for (let i = 0; i < count; i++) sum += Math.abs(a[i] - b[i])
  return count ? sum / count : 0
}

const none = new Float32Array(0)

function envelopeOf([left, right]: Stereo): Float32Array {
  return Float32Array.from({ length: Math.max(1, Math.floor(left.length / STEP)) }, (_, n) => {
    let power = 0
    const end = Math.min(left.length, (n + 1) * STEP)
    for (let i = n * STEP; i < end; i++) power += left[i] * left[i] + right[i] * right[i]
    power /= 2 * STEP
    return power > QUIET ? toDb(power) / 2 : FLOOR
  })
}

/** Mean difference of width and balance over the bands in which both have something. */
function stereoApart({ powers: a }: MelLevels, { powers: b }: MelLevels): number {
  let sum = 0
  let count = 0
  for (let k = 0; k < MEL_BANDS; k++) {
    if (a.left[k] + a.right[k] < QUIET || b.left[k] + b.right[k] < QUIET) continue
    sum += Math.abs(ratio(a.sides[k], a.middle[k]) - ratio(b.sides[k], b.middle[k]))
    sum += Math.abs(ratio(a.right[k], a.left[k]) - ratio(b.right[k], b.left[k]))
    count += 2
  }
  return count ? sum / count : 0
}

function ratio(a: number, b: number): number {
  const db = (toDb(Math.max(1e-20, a)) - toDb(Math.max(1e-20, b))) / 2
  return Math.min(MOST_RATIO, Math.max(-MOST_RATIO, db))
}

const analyses = new Map<number, MelAnalysis>()
/** Windows and bands of one length, made once. */
function analysisOf(size: number): MelAnalysis {
  const known = analyses.get(size)
  if (known) return known
  const made = new MelAnalysis(size, RATE)
  analyses.set(size, made)
  return made
}
