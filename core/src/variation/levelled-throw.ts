import { pow } from '../dsp/math'
import { mix32 } from '../dsp/random'
import { type Edit, apply, together } from '../project/edit'
import type { Project } from '../project/schema'
import { setParam } from '../project/value-edits'
import { type DiceThrow, isLocked, throwDice, tracksOf } from './dice'

/** Loudness in LUFS and true peak in dBTP of what a scope is heard in. */
export interface Heard {
  readonly loudness: number
  readonly truePeak: number
}

/** A throw as it was found to be as loud as before: its seed and amount, and what the level is changed by. */
export interface LevelledThrow {
  readonly thrown: DiceThrow
  /** dB that the level of each track is changed by. */
  readonly trim: number
}

/** Most LU by which the result may differ from the state before; it is aimed well below that. */
export const MOST_LU = 2
const AIM_LU = 0.5
/** Below this, a sound is taken for silence. */
const SILENT = -60
/** Seeds that are tried, the amount becoming smaller. */
const TRIES = 8

/** Carries a levelled throw out. */
export const carryOut = ({ thrown, trim }: LevelledThrow): Edit =>
  together(throwDice(thrown), (p) => {
    for (const track of tracksOf(p, thrown.scope))
      if (trim !== 0) setParam(track.id, 'level', (track.params.level ?? 0) + trim)(p)
  })

/**
 * Finds a throw after which the sound is as loud as before: it is measured, its level is made up for by the
 * track's, and measured again. One that is silent, over, or cannot be matched is thrown again, by less.
 * @param measure renders some seconds of a project and measures them; called a few times
 * @returns null where no throw can be matched, as where the level is locked and matters
 */
export function levelledThrow(
  project: Project,
  first: DiceThrow,
  measure: (project: Project) => Heard,
): LevelledThrow | null {
  const before = measure(project)
  const canTrim = tracksOf(project, first.scope).every(
    (track) =>
      !isLocked(project, { kind: 'track', track }, 'level') &&
      !project.links.some(
        (l) => l.target.owner === track.id && l.target.param === 'level' && l.mode === 'fixed',
      ),
  )
  const ceiling = Math.max(0, before.truePeak)
  for (let n = 0; n < TRIES; n++) {
    const thrown = {
      ...first,
      seed: n === 0 ? first.seed : mix32(first.seed + n),
      amount: first.amount * pow(0.75, n),
    }
    let trim = 0
    for (let round = 0; round < 3; round++) {
      const heard = measure(apply(project, carryOut({ thrown, trim })).next)
      const louder = heard.loudness - before.loudness
      // silence stays silence, and is not brought up
      if (before.loudness <= SILENT) return { thrown, trim: 0 }
      if (heard.loudness <= SILENT) break
      if (Math.abs(louder) <= (canTrim ? AIM_LU : MOST_LU - 0.2) && heard.truePeak <= ceiling)
        return { thrown, trim }
      if (!canTrim || Math.abs(trim - louder) > 12) break
      // over: softer by what is over, as far as the loudness allows
      trim -= heard.truePeak > ceiling && louder < AIM_LU ? heard.truePeak - ceiling + 0.1 : louder
    }
  }
  return null
}
