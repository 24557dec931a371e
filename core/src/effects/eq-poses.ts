import { bend } from '../dsp/drawn-shape'
import { exp2, log2 } from '../dsp/math'
import { readNumber } from '../units/read-number'

/** Bands an EQ can have. */
export const MOST_BANDS = 12

/** One pose of the whole EQ: where it stands on the strip, how the way to it is eased, and its bands. */
export interface Pose {
  readonly at: number
  readonly ease: number
  readonly bands: readonly { readonly frequency: number, readonly gain: number, readonly q: number }[]
}

/** Takes what a file or an edit says the poses are, in order of their places. Never throws. */
export function readPoses(raw: unknown): Pose[] {
  if (!Array.isArray(raw)) return []
  return raw.slice(0, 64).filter((p): p is Record<string, unknown> => typeof p === 'object' && p !== null).map((p) => ({
    at: readNumber(p.at, 0, 1, 0), ease: readNumber(p.ease, -1, 1, 0),
    bands: (Array.isArray(p.bands) ? p.bands : []).slice(0, MOST_BANDS).map((b: unknown) => {
      const band = (typeof b === 'object' && b !== null ? b : {}) as Record<string, unknown>
      return { frequency: readNumber(band.frequency, 20, 20_000, 1000), gain: readNumber(band.gain, -24, 24, 0), q: readNumber(band.q, 0.1, 40, 1) }
    }),
  })).sort((a, b) => a.at - b.at)
}

/** A band between two poses: frequency and Q by octaves, gain by decibels. Writes frequency, gain and Q. */
export function poseAt(poses: readonly Pose[], travel: number, band: number, out: Float64Array): boolean {
  const last = poses.length - 1
  let k = 0
  while (k < last && travel >= poses[k + 1].at) k++
  const a = poses[k].bands[band]
  const next = poses[k < last ? k + 1 : k]
  const b = next.bands[band]
  if (!a || !b) return false
  const way = next.at - poses[k].at
  const t = way > 0 ? bend(Math.min(1, Math.max(0, (travel - poses[k].at) / way)), next.ease) : 0
  out[0] = a.frequency * exp2(t * log2(b.frequency / a.frequency))
  out[1] = a.gain + t * (b.gain - a.gain)
  out[2] = a.q * exp2(t * log2(b.q / a.q))
  return true
}
