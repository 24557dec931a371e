import { isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import type { Edit } from './edit'
import { gaugeKey, splitGaugeKey } from './param-path'
import type { Project, Track } from './schema'
import { pathsOf, specAt, valueAt, writeValue } from './targets'
import { type Owner, findOwner, ownerId, ownersIn, trackOf } from './walk'

/** Snapshots that a track has room for, on the keys 1 to 9. */
export const SNAPSHOTS = 9

/** Parameters that snapshots do not change: the mute of the track. */
const LEFT_OUT = new Set(['mute'])

/**
 * Everything of a track that a snapshot is about: its effects, branches, modulators, macros, the links of
 * those, its level.
 */
function ownersOf(p: Project, track: Track): Owner[] {
  const modulators = new Set(track.modulators.map((m) => m.id))
  return [
    { kind: 'track', track },
    ...ownersIn(track),
    ...p.links.filter((l) => modulators.has(l.source)).map((link): Owner => ({ kind: 'link', link })),
  ]
}

/** All values of a track as they stand, by gauge. */
export function valuesOf(p: Project, track: Track): Record<string, number> {
  return Object.fromEntries(
    ownersOf(p, track).flatMap((owner) =>
      pathsOf(owner).flatMap((path) => {
        const value = LEFT_OUT.has(path) ? undefined : valueAt(owner, path)
        return value === undefined ? [] : [[gaugeKey(ownerId(owner), path), value] as const]
      }),
    ),
  )
}

/** Keeps all values of a track in one of its nine places. */
export const takeSnapshot =
  (track: string, slot: number, name = ''): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t || slot < 1 || slot > SNAPSHOTS) return
    const id = String(slot)
    const before = t.snapshots.find((s) => s.id === id)
    t.snapshots = [
      ...t.snapshots.filter((s) => s.id !== id),
      { id, name: name || before?.name || `Snapshot ${slot}`, values: valuesOf(p, t) },
    ].sort((a, b) => a.id.localeCompare(b.id))
  }

export const removeSnapshot =
  (track: string, slot: number): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (t) t.snapshots = t.snapshots.filter((s) => s.id !== String(slot))
  }

/**
 * Goes a part of the way from some values to others: each along its own scale, switches and choices at
 * half-way. What is in only one of them, or not there any more, stays as it is.
 * @param way 0…1
 */
export const goTowards =
  (from: Readonly<Record<string, number>>, to: Readonly<Record<string, number>>, way: number): Edit =>
  (p) => {
    const owners = new Map<string, Owner | undefined>()
    for (const [key, goal] of Object.entries(to)) {
      const [id, path] = splitGaugeKey(key)
      if (!owners.has(id)) owners.set(id, findOwner(p, id))
      const owner = owners.get(id)
      const spec = owner && specAt(owner, path)
      if (!owner || !spec) continue
      const start = from[key] ?? valueAt(owner, path)
      if (start === undefined || (start === goal && way < 1)) continue
      if (way >= 1) writeValue(owner, path, Math.min(spec.max, Math.max(spec.min, goal)))
      else if (isStepped(spec)) writeValue(owner, path, way < 0.5 ? start : goal)
      else
        writeValue(
          owner,
          path,
          fromNormalized(
            spec,
            toNormalized(spec, start) + way * (toNormalized(spec, goal) - toNormalized(spec, start)),
          ),
        )
    }
  }
