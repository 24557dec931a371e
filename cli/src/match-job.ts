import { traitsOf } from '@oleaje/core/analysis/distance'
import type { Project } from '@oleaje/core/project/schema'
import { type Excerpt, referencePart } from '@oleaje/core/search/excerpt'
import { type MatchKind, MatchJudge, type Moving, type Place } from '@oleaje/core/search/match'
import { heldAudio } from '@oleaje/core/contract/audio'
import { type Loaded, loadProject, readSound } from './load'

/** What a search is about; the same for all of its jobs. */
export interface MatchTask {
  readonly project: string
  readonly track: string
  readonly reference: string
  readonly excerpt: Excerpt
  readonly kind: MatchKind
  readonly moving: readonly Moving[]
}

/** Places to be judged by one thread. */
export interface MatchJob {
  readonly places: readonly Place[]
  readonly task: MatchTask
}

/** The reference as it is compared. */
export async function referenceTraits(
  path: string,
  project: Project,
  excerpt: Excerpt,
  kind: MatchKind,
): Promise<ReturnType<typeof traitsOf>> {
  const { sound } = await readSound(path, false)
  const held = heldAudio(sound)
  if (!held) throw new Error(`“${path}” is too long for a reference. Cut a few seconds of it.`)
  const [left, right = left] = held.channels
  if (!left || !right || left.length === 0) throw new Error(`There is no sound in “${path}”.`)
  const part = referencePart([left, right], held.sampleRate, project, excerpt, kind === 'aligned')
  return traitsOf(part, held.sampleRate)
}

/** The judge of a search, made once for each thread. */
export async function judgeOf(task: MatchTask, loaded?: Loaded): Promise<MatchJudge> {
  const { project, audio } = loaded ?? (await loadProject(task.project))
  const reference = await referenceTraits(task.reference, project, task.excerpt, task.kind)
  const get = (hash: string) => audio.get(hash) ?? null
  return new MatchJudge(project, task.track, task.excerpt, reference, task.moving, task.kind, get)
}

let known: { readonly text: string; readonly judge: Promise<MatchJudge> } | null = null

/** Losses of some places. */
export async function runMatchJob({ task, places }: MatchJob): Promise<number[]> {
  const text = JSON.stringify(task)
  if (known?.text !== text) known = { text, judge: judgeOf(task) }
  const judge = await known.judge
  return places.map((place) => judge.loss(place))
}
