import type { Traits } from '../analysis/distance'
import { MEL_BANDS, melBorders } from '../analysis/mel-levels'
import { toDb } from '../dsp/math'

/** A band is out of reach where the reference is so many dB above what was found, and above this level. */
const MISSING = 12
const AUDIBLE = -70
/** Bands at an end of the spectrum that must be missing, so that a single one says nothing. */
const FEWEST = 3

/** Says what of a reference a chain does not reach, in sentences; none where it comes near everywhere. */
export function outOfReach(reference: Traits, found: Traits): string[] {
  const level = (of: Traits, band: number): number => {
    const powers = of.levels[1]?.powers
    return powers ? toDb(1e-12 + (powers.left[band] + powers.right[band]) / 2) / 2 : -120
  }
  const isMissing = (band: number): boolean =>
    level(reference, band) > AUDIBLE && level(reference, band) - level(found, band) > MISSING
  let above = MEL_BANDS
  while (above > 0 && (isMissing(above - 1) || level(reference, above - 1) <= AUDIBLE)) above--
  const top = Array.from({ length: MEL_BANDS - above }, (_, i) => above + i).filter(isMissing).length
  let below = 0
  while (below < MEL_BANDS && (isMissing(below) || level(reference, below) <= AUDIBLE)) below++
  const bottom = Array.from({ length: below }, (_, i) => i).filter(isMissing).length
  return [
    ...(top >= FEWEST
      ? [`The reference has energy above ${hertz(melBorders[above])} that no effect in this chain creates.`]
      : []),
    ...(bottom >= FEWEST && below < MEL_BANDS
      ? [`The reference has energy below ${hertz(melBorders[below])} that no effect in this chain creates.`]
      : []),
    ...(found.loudness <= -120 ? ['The track is silent in this excerpt.'] : []),
  ]
}

const hertz = (hz: number): string =>
  hz >= 1000 ? `${(hz / 1000).toFixed(hz < 10_000 ? 1 : 0)} kHz` : `${hz.toFixed(0)} Hz`
