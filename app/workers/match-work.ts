import type { Stereo } from '@oleaje/core/contract/audio'
import { type Distance, type Traits, traitsOf } from '@oleaje/core/analysis/distance'
import type { Project } from '@oleaje/core/project/schema'
import { soundOf } from '@oleaje/core/render/replay'
import { type Excerpt, excerptOf, excerptPlan, referencePart } from '@oleaje/core/search/excerpt'
import { type MatchKind, MatchJudge, type Moving, type Place } from '@oleaje/core/search/match'
import { outOfReach } from '@oleaje/core/search/out-of-reach'
import type { Sound } from '../contract/messages'
import { audioOf } from './audio-of'

/** What a chain is steered towards: a sound, or another track of the project. */
export type MatchReference = { readonly sound: Sound } | { readonly track: string }

/** The search that this worker judges places of. */
let current: { readonly judge: MatchJudge; readonly reference: Traits } | null = null

function judging(): NonNullable<typeof current> {
  if (!current) throw new Error('The search was not begun in this worker.')
  return current
}

function partOf(
  { channels, sampleRate }: Sound,
  project: Project,
  excerpt: Excerpt,
  kind: MatchKind,
): Stereo {
  const [left, right = left] = channels
  if (!left || !right || left.length === 0) throw new Error('The reference has no sound.')
  return referencePart([left, right], sampleRate, project, excerpt, kind === 'aligned')
}

/** Judging of places in a search towards a reference. */
export const matchWork = {
  /** Begins a search. Gives the excerpt, which is the same in each worker. */
  beginMatch(
    project: Project,
    sounds: Sound[],
    track: string,
    seconds: number,
    reference: MatchReference,
    kind: MatchKind,
    moving: readonly Moving[],
  ): Excerpt {
    const audio = audioOf(sounds)
    const get = (hash: string) => audio.get(hash) ?? null
    const excerpt = excerptOf(project, track, get, seconds)
    const traits = traitsOf(
      'sound' in reference
        ? partOf(reference.sound, project, excerpt, kind)
        : soundOf(excerptPlan(project, reference.track, excerpt), get),
      'sound' in reference ? reference.sound.sampleRate : project.sampleRate,
    )
    const judge = new MatchJudge(project, track, excerpt, traits, moving, kind, get)
    current = { judge, reference: traits }
    return excerpt
  },

  /** Distance of a place from the reference in dB. */
  matchLoss: (place: Place): number => judging().judge.loss(place),

  /** Its parts, and what no effect of the chain creates, in sentences. */
  matchParts(place: Place): { distance: Distance; outOfReach: string[] } {
    const { judge, reference } = judging()
    const { distance, traits } = judge.judged(place)
    return { distance, outOfReach: outOfReach(reference, traits) }
  },
}
