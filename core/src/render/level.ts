import type { Stereo } from '../contract/audio'
import { LoudnessMeter } from '../dsp/loudness'
import { fromDb, toDb } from '../dsp/math'
import { TruePeakMeter } from '../dsp/true-peak'
import { Limited } from './limited'

export const levelKinds = [
  { value: 'as it is', text: 'As it is' },
  { value: 'loudness', text: 'Loudness target' },
  { value: 'peak', text: 'True peak' },
  { value: 'limited', text: 'As it is, limited' },
] as const
export type LevelKind = (typeof levelKinds)[number]['value']

/** The level that a file is brought to. */
export interface LevelTarget {
  readonly kind: LevelKind
  /** Integrated loudness in LUFS, where that is the target. */
  readonly loudness: number
  /** Highest true peak in dBTP, where there is a target. */
  readonly ceiling: number
}

/** Loudness, true peak, and the number of samples over full scale, of a whole sound. */
export interface RenderFigures {
  /** Integrated loudness in LUFS (ITU-R BS.1770-4); −Infinity where nothing is above the gate. */
  readonly loudness: number
  readonly truePeakDb: number
  readonly overs: number
}

/** Measures a sound piece by piece. */
export class LevelMeter {
  private readonly loudness: LoudnessMeter
  private readonly peaks = [new TruePeakMeter(), new TruePeakMeter()] as const
  private overs = 0

  constructor(sampleRate: number) {
    this.loudness = new LoudnessMeter(sampleRate)
  }

  add(sound: Stereo): void {
    sound.forEach((side, k) => {
      for (const x of side) if (x > 1 || x < -1) this.overs++
      this.peaks[k as 0].process(side)
    })
    this.loudness.process(sound[0], sound[1])
  }

  get figures(): RenderFigures {
    const peak = Math.max(this.peaks[0].peak, this.peaks[1].peak)
    return { loudness: this.loudness.integrated, truePeakDb: toDb(peak), overs: this.overs }
  }
}

/** How a sound is brought to its level: a gain in dB, and a limiter behind it where it needs one. */
export interface LevelPlan {
  readonly gain: number
  readonly ceiling: number | null
  /** By how many LU the target is missed; 0 where it is met. */
  readonly missed: number
}

/** Most gain in dB, and how near a target is met, in LU. */
const MOST_GAIN = 60
const NEAR = 0.04
/** Measurements at most on the way to a target. */
const TRIES = 12

/**
 * Finds how a sound is brought to a level. A loudness that the ceiling leaves room for is a gain alone; above
 * that, the gain before the limiter is found by measuring what leaves it.
 * @param sound gives the whole sound again each time
 */
export function levelPlan(
  target: LevelTarget,
  sampleRate: number,
  found: RenderFigures,
  sound: () => Iterable<Stereo>,
): LevelPlan {
  const { kind, ceiling } = target
  if (kind === 'as it is' || found.truePeakDb < -120) return { gain: 0, ceiling: null, missed: 0 }
  if (kind === 'limited') return { gain: 0, ceiling, missed: 0 }
  if (kind === 'peak') return { gain: ceiling - found.truePeakDb, ceiling: null, missed: 0 }
  if (!Number.isFinite(found.loudness)) return { gain: 0, ceiling: null, missed: 0 }
  let gain = target.loudness - found.loudness
  if (found.truePeakDb + gain <= ceiling) return { gain, ceiling: null, missed: 0 }
  let off = 0
  for (let n = 0; n < TRIES; n++) {
    const meter = new LoudnessMeter(sampleRate)
    for (const [left, right] of brought(sound(), { gain, ceiling, missed: 0 }, sampleRate))
      meter.process(left, right)
    off = target.loudness - meter.integrated
    if (Math.abs(off) <= NEAR || gain >= MOST_GAIN) break
    // a limiter gives back less than it is given: the step is a little longer
    gain = Math.min(MOST_GAIN, gain + off * (off > 0 ? 1.3 : 1))
  }
  return { gain, ceiling, missed: Math.abs(off) <= 2 * NEAR ? 0 : off }
}

/** A sound at the level that was found for it, in arrays of its own. */
export function* brought(sound: Iterable<Stereo>, plan: LevelPlan, sampleRate: number): Generator<Stereo> {
  const factor = fromDb(plan.gain)
  const limited = plan.ceiling === null ? null : new Limited(sampleRate, plan.ceiling)
  for (const piece of sound) {
    const louder = piece.map((side) => side.map((x) => x * factor)) as unknown as Stereo
    yield limited ? limited.add(louder) : louder
  }
  if (limited) yield limited.end()
}
