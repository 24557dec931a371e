import { modulatorDefinition } from '../modulators/index'
import { type PlacedSnapshot, nearestOutput, placedSnapshots, weightOutput } from '../modulators/morph'
import { isStepped } from '../units/parameter'
import { toNormalized } from '../units/scale'
import { gaugeKey, splitGaugeKey, targetAt } from './param-path'
import type { Link, Modulator, Project, Snapshot, Track } from './schema'
import { newLink } from './new'
import { SNAPSHOTS } from './snapshots'
import { specAt } from './targets'
import { type Owner, findOwner } from './walk'
import { setData } from './value-edits'
import type { Edit } from './edit'

/** Whether a modulator moves between snapshots. */
export const isMorph = (m: Modulator): boolean => modulatorDefinition(m.type)?.movesSnapshots === true

/** Beginning of the ids of links that a morph makes in the engine. */
const MADE = 'morph:'
export const isMorphLink = (link: { readonly id: string }): boolean => link.id.startsWith(MADE)

/** A modulator, its links and what moves these, however far away: a morph does not move what moves it. */
function feedersOf(p: Project, id: string): Set<string> {
  const found = new Set([id])
  for (let before = -1; before !== found.size;) {
    before = found.size
    for (const link of p.links) if (found.has(link.target.owner)) found.add(link.source).add(link.id)
    for (const t of p.tracks)
      for (const m of t.modulators)
        if (found.has(m.id)) for (const input of m.inputs) if (input) found.add(input.source)
  }
  return found
}

/** What a morph moves, by gauge: the value at each of its points that has one, where they differ. */
export function morphedValues(
  track: Track,
  points: readonly PlacedSnapshot[],
): Map<string, (number | undefined)[]> {
  const values = points.map((p) => track.snapshots.find((s) => s.id === p.snapshot)?.values ?? {})
  const keys = new Set(values.flatMap((v) => Object.keys(v)))
  const found = new Map<string, (number | undefined)[]>()
  for (const key of keys) {
    const at = values.map((v) => v[key])
    const set = at.filter((x) => x !== undefined)
    if (set.some((x) => x !== set[0])) found.set(key, at)
  }
  return found
}

/**
 * The links that morphs are in the engine: one for each parameter and point, fixed to its place in that
 * snapshot, by the weight of the point. What is the same in all snapshots stays free to be edited.
 */
export function morphLinks(p: Project): Link[] {
  return p.tracks.flatMap((track) =>
    track.modulators.filter(isMorph).flatMap((m) => {
      const points = placedSnapshots(m.data)
      if (points.length < 2) return []
      const feeders = feedersOf(p, m.id)
      const owners = new Map<string, Owner | undefined>()
      return [...morphedValues(track, points)].flatMap(([key, values]) => {
        const [id, path] = splitGaugeKey(key)
        if (feeders.has(id)) return []
        if (!owners.has(id)) owners.set(id, findOwner(p, id))
        const owner = owners.get(id)
        const spec = owner && specAt(owner, path)
        if (!spec) return []
        return values.flatMap((value, n) => {
          if (value === undefined) return []
          const place = toNormalized(spec, Math.min(spec.max, Math.max(spec.min, value)))
          const output = isStepped(spec) ? nearestOutput(n) : weightOutput(n)
          const made = newLink(
            m.id,
            output,
            targetAt(id, path),
            place,
            place,
            `${MADE}${m.id}:${n}:${key}:${place}`,
          )
          return [{ ...made, mode: 'fixed' as const }]
        })
      })
    }),
  )
}

/** A text that differs where what morphs move does. */
export const morphText = (track: Track): string =>
  track.modulators.some(isMorph)
    ? JSON.stringify([
        track.modulators.filter(isMorph).map((m) => placedSnapshots(m.data).map((x) => x.snapshot)),
        track.snapshots.map((s) => [s.id, s.values]),
      ])
    : ''

/** The snapshots of a track that some modulators move between. */
export function morphedSnapshots(track: Track, modulators: readonly Modulator[]): Snapshot[] {
  const used = new Set(
    modulators.filter(isMorph).flatMap((m) => placedSnapshots(m.data).map((x) => x.snapshot)),
  )
  return track.snapshots.filter((s) => used.has(s.id))
}

/**
 * Gives a track the snapshots that came with a preset, in free places, and has the preset's morphs move
 * between those. What has no place any more is left out.
 * @param ids new ids by the old ones of the preset
 */
export function takeSnapshots(
  track: Track,
  {
    snapshots,
    modulators,
  }: { readonly snapshots: readonly Snapshot[]; readonly modulators: readonly Modulator[] },
  ids: ReadonlyMap<string, string>,
): void {
  const slots = new Map<string, string>()
  for (const s of snapshots) {
    const free = Array.from({ length: SNAPSHOTS }, (_, i) => String(i + 1)).find(
      (slot) => !track.snapshots.some((x) => x.id === slot),
    )
    if (!free) break
    slots.set(s.id, free)
    const values = Object.entries(s.values).flatMap(([key, value]) => {
      const [owner, path] = splitGaugeKey(key)
      const id = ids.get(owner)
      return id ? [[gaugeKey(id, path), value] as const] : []
    })
    track.snapshots.push({ id: free, name: s.name, values: Object.fromEntries(values) })
  }
  for (const m of modulators)
    if (isMorph(m) && m.data)
      m.data.points = placedSnapshots(m.data).flatMap((point) => {
        const snapshot = slots.get(point.snapshot)
        return snapshot ? [{ ...point, snapshot }] : []
      }) as never
}

/** Puts the points of a morph where they shall lie. */
export const placeSnapshots = (modulator: string, points: readonly PlacedSnapshot[]): Edit =>
  setData(
    modulator,
    'points',
    points.map((p) => ({ ...p })),
  )
