import { apply, together } from '../project/edit'
import { branchesOf } from '../project/nodes/index'
import { outputOf, waysOf } from '../project/routing'
import type { Project, Track } from '../project/schema'
import { goTowards } from '../project/snapshots'
import { setParam } from '../project/value-edits'
import { findOwner, heardChain, mixOf, nodesIn, trackOf } from '../project/walk'

/** What is to be heard in the files of a delivery. */
export const stemKinds = [
  { value: 'mix', text: 'The mix' },
  { value: 'stems', text: 'Stems: all that goes into the mix' },
  { value: 'track', text: 'One track, through the mix' },
  { value: 'branches', text: 'Branches of one track' },
  { value: 'wet', text: 'Wet only' },
  { value: 'difference', text: 'Difference from dry' },
  { value: 'both', text: 'Dry beside wet' },
  { value: 'snapshots', text: 'Every snapshot of one track' },
] as const
export type StemKind = (typeof stemKinds)[number]['value']

/** One thing to be heard: a project to be rendered whole, and what is taken from it. */
export interface Stem {
  readonly name: string
  readonly project: Project
  /** The track that is heard alone through the mix; all of it without one. */
  readonly track?: string
  /** What is subtracted, sample by sample. */
  readonly minus?: Project
}

/**
 * What is to be heard, as projects. A track is by itself, through the mix; without one it is the mix.
 *
 * - Stems are one file for each track and bus that goes into the mix: what arrives there of it, with the
 *   level of the mix and without its effects, so that all of them together are the mix before its effects.
 *   All tracks play in each, so that what follows another track still does.
 * - Branches are the branches of the first split of the track, each through the rest of its chain.
 * - Wet only has every Wet of the track’s effects at 100 %, and nothing that moves it.
 * - The difference is what the effects change: the sound less the same without effects, in time with it.
 */
export function stemsOf(project: Project, kind: StemKind, of?: string): Stem[] {
  const track = of === undefined ? undefined : trackOf(project, of)
  const name = track?.name ?? mixOf(project).name
  const alone = { track: track?.id }
  switch (kind) {
    case 'mix':
      return [{ name: mixOf(project).name, project }]
    case 'track':
      return [{ name, project, ...alone }]
    case 'stems':
      return intoMix(project).map((t) => ({ name: t.name, project: onlyInto(project, t) }))
    case 'branches':
      return (track ? branchesIn(track) : []).map((b) => ({
        name: `${name} ${b.name}`,
        project: branchAlone(project, b.id),
        ...alone,
      }))
    case 'wet':
      return [{ name: `${name} wet`, project: allWet(project, track), ...alone }]
    case 'difference':
      return [{ name: `${name} difference`, project, minus: withoutEffects(project, track), ...alone }]
    case 'both':
      return [
        { name: `${name} dry`, project: withoutEffects(project, track), ...alone },
        { name: `${name} wet`, project, ...alone },
      ]
    case 'snapshots':
      return (track?.snapshots ?? []).map((s) => ({
        name: `${name} ${s.name}`,
        project: apply(project, goTowards({}, s.values, 1)).next,
        ...alone,
      }))
  }
}

/** Tracks and buses whose output is the mix, and that can be heard. */
const intoMix = (project: Project): Track[] => {
  const mix = mixOf(project)
  const fed = new Set(waysOf(project).map((way) => way.to))
  return project.tracks.filter(
    (t) =>
      outputOf(project, t)?.id === mix.id &&
      (t.params.mute ?? 0) < 0.5 &&
      (t.kind === 'track' || fed.has(t.id)),
  )
}

/** A project in which only one track goes into the mix, which has no effects. */
function onlyInto(project: Project, stem: Track): Project {
  const text = JSON.stringify(project.tracks)
  /** What nobody hears, and nothing follows, may rest. */
  const isNeeded = (t: Track): boolean =>
    text.includes(`"track":"${t.id}"`) || waysOf(project).some((way) => way.from === t.id && way.send)
  const silenced = (t: Track): Track =>
    isNeeded(t) ? { ...t, output: null } : { ...t, output: null, params: { ...t.params, mute: 1 } }
  return {
    ...project,
    tracks: project.tracks.map((t) =>
      t.kind === 'mix' ? bare(t) : t.id !== stem.id && outputOf(project, t)?.kind === 'mix' ? silenced(t) : t,
    ),
  }
}

const bare = (t: Track): Track => ({ ...t, a: { nodes: [] }, b: null, heard: 'a' })

/** A project in which a track has no effects; without one, nothing has. */
const withoutEffects = (project: Project, track?: Track): Project => ({
  ...project,
  tracks: project.tracks.map((t) => (!track || t.id === track.id ? bare(t) : t)),
})

/** A project in which all effects of a track, or of all without one, give nothing of the dry sound. */
function allWet(project: Project, track?: Track): Project {
  const wet = new Set(
    project.tracks
      .filter((t) => !track || t.id === track.id)
      .flatMap((t) => [...nodesIn(heardChain(t).nodes)])
      .filter((n) => n.kind === 'effect')
      .map((n) => n.id),
  )
  const set = apply(project, together(...[...wet].map((id) => setParam(id, 'wet', 1)))).next
  return { ...set, links: set.links.filter((l) => !(wet.has(l.target.owner) && l.target.param === 'wet')) }
}

/** Branches of the first node of a track’s chain that has more than one. */
const branchesIn = (track: Track): readonly { readonly id: string; readonly name: string }[] =>
  [...nodesIn(heardChain(track).nodes)].map(branchesOf).find((branches) => branches.length > 1) ?? []

/** A project in which only one branch of a split is heard; as it is where the id is no branch. */
export function branchAlone(project: Project, branch: string): Project {
  const found = findOwner(project, branch)
  if (found?.kind !== 'branch') return project
  const others = branchesOf(found.node)
    .filter((b) => b.id !== branch)
    .map((b) => setParam(b.id, 'mute', 1))
  return apply(project, together(...others, setParam(branch, 'mute', 0))).next
}
