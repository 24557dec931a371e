import { type Traits, traitsOf } from '@oleaje/core/analysis/distance'
import type { AudioData } from '@oleaje/core/contract/audio'
import { Random } from '@oleaje/core/dsp/random'
import { apply } from '@oleaje/core/project/edit'
import { newEffect } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { soundOf } from '@oleaje/core/render/replay'
import { excerptOf, excerptPlan } from '@oleaje/core/search/excerpt'
import { MatchJudge, type Moving, goTo, placeOf } from '@oleaje/core/search/match'
import { MatchSearch } from '@oleaje/core/search/match-search'
import { loadProject } from '../src/load'

export type Sounds = (hash: string) => AudioData | null

/** The demo with a chain of its own on one of its tracks, and nothing else that moves there. */
export async function demoWith(
  track: string,
  nodes: ChainNode[],
): Promise<{ project: Project; sounds: Sounds }> {
  const { project: demo, audio } = await loadProject('demo/assets/night-ferry.json')
  const own = demo.tracks.find((t) => t.id === track)
  const ids = JSON.stringify(own)
  const project: Project = {
    ...demo,
    tracks: demo.tracks.map((t) =>
      t === own ? { ...t, modulators: [], snapshots: [], a: { nodes }, b: null, heard: 'a' } : t,
    ),
    links: demo.links.filter((l) => !ids.includes(`"${l.target.owner}"`)),
  }
  return { project, sounds: (hash) => audio.get(hash) ?? null }
}

/** Filter, drive, delay and reverb on the guitar, 2.5 s of it. */
export async function fourEffects() {
  const { project, sounds } = await demoWith('guitar', [
    newEffect('filter', { cutoff: 1800 }, 'filter'),
    newEffect('drive', { drive: 12 }, 'drive'),
    newEffect('delay', { time: 0.21, feedback: 0.4, wet: 0.4 }, 'delay'),
    newEffect('reverb', { wet: 0.25 }, 'reverb'),
  ])
  return { project, sounds, excerpt: excerptOf(project, 'guitar', sounds, 2.5) }
}

/** Parameters by “effect.parameter”. */
export const rangesOf = (paths: readonly string[]): Moving[] =>
  paths.map((path) => {
    const [owner = '', param = ''] = path.split('.')
    return { owner, path: param, steps: 0 }
  })

/** A place that is displaced by 0.12 to 0.37 in each parameter, either way, mirrored at the borders. */
export function displaced(project: Project, moving: readonly Moving[], seed: number): number[] {
  const random = new Random(seed)
  return placeOf(project, moving).map((x) => {
    const y = x + (random.next() < 0.5 ? -1 : 1) * (0.12 + 0.25 * random.next())
    return y < 0 ? -y : y > 1 ? 2 - y : y
  })
}

/** The sound of a track at a place, as a reference. */
export function referenceAt(
  { project, sounds, excerpt }: Awaited<ReturnType<typeof fourEffects>>,
  moving: readonly Moving[],
  place: readonly number[],
): Traits {
  const { next } = apply(project, goTo(moving, place))
  return traitsOf(soundOf(excerptPlan(next, 'guitar', excerpt), sounds), project.sampleRate)
}

/**
 * Searches until it is near enough or has used up its processor time. @param budget in seconds
 * @returns distance at first and at last in dB, how many places were tried, and the processor time
 */
export function searched(
  judge: MatchJudge,
  start: readonly number[],
  moving: readonly Moving[],
  to: SearchTo,
) {
  const search = new MatchSearch(moving, start, to.seed, to.most)
  const first = judge.judged(start).distance.total
  const began = process.cpuUsage()
  const spent = (): number => process.cpuUsage(began).user / 1e6
  let last = first
  while (last >= to.near && spent() < to.budget) {
    search.take(search.next().map((p) => judge.loss(p)))
    const [best] = search.state.best
    // losses are those of drafts
    if (best && best.loss < to.near + 0.1) last = judge.judged(best.place).distance.total
  }
  const [best] = search.state.best
  if (best) last = judge.judged(best.place).distance.total
  return { first, last, evaluations: search.state.evaluations, spent: spent() }
}

export interface SearchTo {
  readonly seed: number
  /** Distance in dB that is near enough. */
  readonly near: number
  /** Processor time in seconds. */
  readonly budget: number
  /** Parameters that are moved at once; all of them if not given. */
  readonly most?: number
}

/** ns of one turn of a loop of eight products, where the design's figures were measured. */
const NOMINAL = 12.4

/** How many times as long this machine takes as that one, by a plain loop. */
export function slowness(): number {
  const x = Float64Array.from({ length: 4104 }, (_, i) => ((i * 37) % 101) / 101)
  const w = Float64Array.from({ length: 1024 }, (_, i) => ((i * 53) % 97) / 97)
  let sink = 0
  const rounds = Array.from({ length: 9 }, () => {
    const start = process.cpuUsage()
    for (let n = 0; n < 60; n++)
      for (let i = 0; i < 4096; i++) {
        let sum = 0
        for (let k = 0; k < 8; k++) sum += (w[((i * 7) & 127) * 8 + k] ?? 0) * (x[i + k] ?? 0)
        sink += sum
      }
    return (process.cpuUsage(start).user * 1000) / 60 / 4096
  })
  if (!Number.isFinite(sink)) throw new Error('The loop gave no number.')
  return (rounds.sort((a, b) => a - b)[4] ?? NOMINAL) / NOMINAL
}
