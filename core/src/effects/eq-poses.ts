import type { EffectChange, KeptEffect } from '../contract/effect'
import { bend } from '../dsp/drawn-shape'
import { exp2, log2 } from '../dsp/math'
import { readNumber } from '../units/read-number'

/** Bands an EQ can have. */
export const MOST_BANDS = 12

/** One pose of the whole EQ: where it stands on the strip, how the way to it is eased, and its bands. */
export interface Pose {
  readonly at: number
  readonly ease: number
  readonly bands: readonly { readonly frequency: number; readonly gain: number; readonly q: number }[]
}

/** Takes what a file or an edit says the poses are, in order of their places. Never throws. */
export function readPoses(raw: unknown): Pose[] {
  if (!Array.isArray(raw)) return []
  return raw
    .slice(0, 64)
    .filter((p): p is Record<string, unknown> => typeof p === 'object' && p !== null)
    .map((p) => ({
      at: readNumber(p.at, 0, 1, 0),
      ease: readNumber(p.ease, -1, 1, 0),
      bands: (Array.isArray(p.bands) ? p.bands : []).slice(0, MOST_BANDS).map((b: unknown) => {
        const band = (typeof b === 'object' && b !== null ? b : {}) as Record<string, unknown>
        return {
          frequency: readNumber(band.frequency, 20, 20_000, 1000),
          gain: readNumber(band.gain, -24, 24, 0),
          q: readNumber(band.q, 0.1, 40, 1),
        }
      }),
    }))
    .sort((a, b) => a.at - b.at)
}

/** The place that a new pose has, and those of the others beside it: all as far from each other. */
export const spaced = (poses: readonly Pose[]): Pose[] =>
  poses.map((p, i) => ({ ...p, at: poses.length > 1 ? i / (poses.length - 1) : 0 }))

/** The present pose, or the nearer one of the two around the present travel. */
export function poseHeard(poses: readonly Pose[], travel: number): number {
  let nearest = 0
  poses.forEach((p, i) => {
    if (Math.abs(p.at - travel) < Math.abs((poses[nearest]?.at ?? 0) - travel) - 1e-9) nearest = i
  })
  return nearest
}

/**
 * Writes the bands as they are heard where travel stands into the values of the bands, so that gauges show
 * what is heard.
 */
function showHeard(effect: KeptEffect, poses: readonly Pose[]): void {
  const at = new Float64Array(3)
  effect.lanes?.bands?.forEach((band, i) => {
    if (!poseAt(poses, effect.params.travel ?? 0, i, at)) return
    band.frequency = at[0]
    band.gain = at[1]
    band.q = at[2]
  })
}

/**
 * Keeps the bands of an EQ and its poses together: gauges show what is heard, and what is set on them goes to
 * the pose that is heard; where travel stands between two, to the nearer of them, by as much as makes it
 * heard. A band that comes or goes does so in every pose.
 */
export function settlePoses(effect: KeptEffect, change: EffectChange): void {
  const poses = readPoses(effect.data?.poses)
  if (poses.length === 0 || !effect.data) return
  if ('path' in change) {
    if (change.path === 'travel') return showHeard(effect, poses)
    const found = /^bands\[(\d+|\*)\]\.(frequency|gain|q)$/.exec(change.path)
    if (!found) return
    const k = poseHeard(poses, effect.params.travel ?? 0)
    const heard = new Float64Array(3)
    const nudged = new Float64Array(3)
    effect.data.poses = poses.map((pose, n) =>
      n !== k
        ? pose
        : {
            ...pose,
            bands: pose.bands.map((band, i) => {
              const wanted = effect.lanes?.bands?.[i]
              if (
                !wanted ||
                (found[1] !== '*' && Number(found[1]) !== i) ||
                !poseAt(poses, effect.params.travel ?? 0, i, heard)
              )
                return band
              if (found[2] === 'gain') {
                poseAt(
                  poses.map((p, m) =>
                    m === k
                      ? { ...p, bands: p.bands.map((b, j) => (j === i ? { ...b, gain: b.gain + 1 } : b)) }
                      : p,
                  ),
                  effect.params.travel ?? 0,
                  i,
                  nudged,
                )
                const weight = Math.max(0.25, nudged[1] - heard[1])
                return {
                  ...band,
                  gain: Math.min(24, Math.max(-24, band.gain + ((wanted.gain ?? 0) - heard[1]) / weight)),
                }
              }
              const [key, place, low, high] =
                found[2] === 'frequency'
                  ? (['frequency', 0, 20, 20_000] as const)
                  : (['q', 2, 0.1, 40] as const)
              poseAt(
                poses.map((p, m) =>
                  m === k
                    ? { ...p, bands: p.bands.map((b, j) => (j === i ? { ...b, [key]: b[key] * 2 } : b)) }
                    : p,
                ),
                effect.params.travel ?? 0,
                i,
                nudged,
              )
              const weight = Math.max(0.25, log2(nudged[place] / heard[place]))
              return {
                ...band,
                [key]: Math.min(
                  high,
                  Math.max(
                    low,
                    band[key] * exp2(log2((wanted[key] ?? heard[place]) / heard[place]) / weight),
                  ),
                ),
              }
            }),
          },
    )
    return
  }
  if (change.lane !== 'bands') return
  effect.data.poses = poses.map((pose) => {
    const bands = [...pose.bands]
    const band = 'added' in change ? effect.lanes?.bands?.[change.added] : undefined
    if ('removed' in change) bands.splice(change.removed, 1)
    else
      bands.splice(change.added, 0, {
        frequency: band?.frequency ?? 1000,
        gain: band?.gain ?? 0,
        q: band?.q ?? 1,
      })
    return { ...pose, bands }
  })
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
