import type { Link, Project, Track } from './schema'
import { mixOf, ownerId, ownersIn } from './walk'

/** A track whose chain is empty, at unity. */
export const withoutEffects = { a: { nodes: [] }, b: null, heard: 'a' as const, params: {} }

/**
 * A project of one track that goes to an empty mix at unity, with the links within it, and others that play
 * unheard. Its level and source are not moved by links.
 * @param own the track as it is to be heard
 * @param others tracks that go nowhere, which something of the track listens to
 */
export function trackAlone(project: Project, own: Track, others: readonly Track[] = []): Project {
  const mix = mixOf(project)
  const after: Track = {
    ...mix,
    ...withoutEffects,
    modulators: [],
    // the mix itself may be the track
    id: mix.id === own.id ? `${mix.id}-after` : mix.id,
  }
  const tracks = [...others, { ...own, kind: 'track' as const, output: undefined, params: {} }, after]
  const owners = new Set([...tracks.flatMap(ownersIn).map(ownerId), ...project.links.map((l) => l.id)])
  for (const id of [own.id, mix.id]) owners.delete(id)
  const stays = (l: Link): boolean => owners.has(l.target.owner) && owners.has(l.source)
  return {
    ...project,
    loop: { on: false, start: 0, end: 64 },
    tracks,
    links: project.links.filter(stays),
    sends: [],
  }
}
