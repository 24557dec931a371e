import type { Distance } from '@oleaje/core/analysis/distance'
import type { Project } from '@oleaje/core/project/schema'
import { costsOf } from '@oleaje/core/search/costs'
import { type Excerpt, excerptOf } from '@oleaje/core/search/excerpt'
import { Comparison, type Contribution, type Part } from '@oleaje/core/search/what-matters'
import type { Sound } from '../contract/messages'
import { audioOf } from './audio-of'

const comparing = (project: Project, sounds: Sound[], track: string, excerpt: Excerpt): Comparison => {
  const audio = audioOf(sounds)
  return new Comparison(project, track, excerpt, (hash) => audio.get(hash) ?? null)
}

/** What the parts of a chain contribute. */
export const matterWork = {
  /** The stretch of the loop by which a track is judged, and what its parts cost there. */
  excerptOf(
    project: Project,
    sounds: Sound[],
    track: string,
    seconds: number,
  ): { excerpt: Excerpt; costs: Map<string, number> } {
    const audio = audioOf(sounds)
    const get = (hash: string) => audio.get(hash) ?? null
    const excerpt = excerptOf(project, track, get, seconds)
    return { excerpt, costs: costsOf(project, track, excerpt, get, () => performance.now()) }
  },

  /** Contributions of some parts, each also told when it is there. */
  async contributions(
    project: Project,
    sounds: Sound[],
    track: string,
    excerpt: Excerpt,
    parts: Part[],
    onPart: (found: Contribution) => void,
  ): Promise<Contribution[]> {
    const comparison = comparing(project, sounds, track, excerpt)
    const all: Contribution[] = []
    for (const part of parts) {
      const found = comparison.of(part)
      all.push(found)
      onPart(found)
      await new Promise((resolve) => setTimeout(resolve))
    }
    return all
  },

  /** What changes when all of some parts are left out. */
  withoutAll(project: Project, sounds: Sound[], track: string, excerpt: Excerpt, parts: Part[]): Distance {
    return comparing(project, sounds, track, excerpt).without(parts)
  },
}
