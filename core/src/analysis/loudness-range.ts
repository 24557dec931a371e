import { fromDb, toDb } from '../dsp/math'

/** Loudness below this is left out altogether, in LUFS; and what lies further below the mean, in LU. */
const ABSOLUTE = -70
const RELATIVE = -20
/** Shares of the gated values that the range lies between. */
const LOW = 0.1
const HIGH = 0.95

/**
 * Loudness range in LU of short-term loudness values in LUFS (EBU Tech 3342, "Loudness Range: a measure to
 * supplement EBU R 128 loudness normalisation", 2016); 0 where there is nothing to be told.
 */
export function loudnessRange(shortTerm: readonly number[]): number {
  const heard = shortTerm.filter((v) => v >= ABSOLUTE)
  if (heard.length < 2) return 0
  const mean = toDb(heard.reduce((sum, v) => sum + fromDb(v) ** 2, 0) / heard.length) / 2
  const gated = heard.filter((v) => v >= mean + RELATIVE).sort((a, b) => a - b)
  const at = (share: number): number => gated[Math.round(share * (gated.length - 1))] ?? 0
  return at(HIGH) - at(LOW)
}
