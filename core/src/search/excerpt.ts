import type { AudioData, Stereo } from '../contract/audio'
import { toDb } from '../dsp/math'
import { effectDefinition } from '../effects/index'
import { apply } from '../project/edit'
import type { Project, Track } from '../project/schema'
import { type RenderPlan, planRender } from '../render/render'
import { soundOf } from '../render/replay'
import { tailOf } from '../render/tail'
import { nodesIn, ownerId, ownersIn, trackOf } from '../project/walk'

/** A short stretch of the song by which chains are compared, in seconds. */
export interface Excerpt {
  readonly from: number
  readonly seconds: number
  /** What is played before it and left out, so that echoes of what comes before are heard. */
  readonly warm: number
}

type Audio = (hash: string) => AudioData | null

/** Longest stretch in which the excerpt is looked for, and longest warming up, in seconds. */
const SEARCHED = 32
const LONGEST_WARM = 2
/** Steps in seconds by which it is moved, and by which its level is read. */
const MOVE = 0.25
const STEP = 0.01
const QUIET = 1e-9

/**
 * Chooses the stretch of the loop in which the source of a track has most energy and its level moves most.
 * @param seconds its length at most; shorter where the loop is
 */
export function excerptOf(project: Project, track: string, audio: Audio, seconds: number): Excerpt {
  const perBeat = 60 / project.tempo
  const start = project.loop.start * perBeat
  const length = Math.min(SEARCHED, (project.loop.end - project.loop.start) * perBeat)
  const whole = Math.min(seconds, length)
  const dry = onlyHeard(bareOf(project, track), track)
  const sound = soundOf(planRender(dry, { track, from: start, to: start + length, tail: 0 }), audio)
  const from = start + liveliest(sound, project.sampleRate, whole)
  return { from, seconds: whole, warm: Math.min(LONGEST_WARM, from, tailOf(project)) }
}

/**
 * The part of a reference that an excerpt is compared with. Of the same performance, which begins where the
 * loop begins, it is the same moment; of another one its liveliest stretch.
 */
export function referencePart(
  sound: Stereo,
  sampleRate: number,
  project: Project,
  { from, seconds }: Excerpt,
  isAligned: boolean,
): Stereo {
  const start = isAligned
    ? from - (project.loop.start * 60) / project.tempo
    : liveliest(sound, sampleRate, seconds)
  const at = Math.round(start * sampleRate)
  const frames = Math.round(seconds * sampleRate)
  const [left, right] = sound.map((side) => side.slice(at, at + frames))
  if (!left || !right || left.length === 0)
    throw new Error('The reference is shorter than the loop up to the part that is compared.')
  return [left, right]
}

/** Where in a sound a stretch of so many seconds has most energy and its level moves most, in seconds. */
function liveliest([left, right]: Stereo, sampleRate: number, seconds: number): number {
  const step = Math.round(STEP * sampleRate)
  const powers = Float64Array.from({ length: Math.floor(left.length / step) }, (_, n) => {
    let power = 0
    for (let i = n * step; i < (n + 1) * step; i++) power += left[i] ** 2 + right[i] ** 2
    return power / step
  })
  let best = { at: 0, score: -1 }
  for (let at = 0; at + seconds <= left.length / sampleRate + 1e-9; at += MOVE) {
    const score = scoreOf(powers.subarray(Math.round(at / STEP), Math.round((at + seconds) / STEP)))
    if (score > best.score) best = { at, score }
  }
  return best.at
}

/** Mean power, more of it where the level moves. */
function scoreOf(powers: Float64Array): number {
  const mean = powers.reduce((sum, p) => sum + p, 0) / powers.length
  const levels = powers.map((p) => Math.max(-60, (toDb(p + QUIET) - toDb(mean + QUIET)) / 2))
  const middle = levels.reduce((sum, l) => sum + l, 0) / levels.length
  const spread = Math.sqrt(levels.reduce((sum, l) => sum + (l - middle) ** 2, 0) / levels.length)
  return mean * (1 + spread / 10)
}

/** The render of a track over an excerpt, through all that it goes on to but the effects of the mix. */
export function excerptPlan(project: Project, track: string, { from, seconds, warm }: Excerpt): RenderPlan {
  const plan = planRender(onlyHeard(project, track), { track, from, to: from + seconds, tail: 0 })
  const lead = Math.round(warm * plan.sampleRate)
  return { ...plan, startBeat: ((from - warm) * project.tempo) / 60, lead }
}

/** A copy of the project in which effects use the draft values of their definitions. */
export function draftOf(project: Project): Project {
  const { next } = apply(project, (p) => {
    for (const t of p.tracks)
      for (const chain of [t.a, t.b])
        for (const node of chain ? nodesIn(chain.nodes) : []) {
          if (node.kind !== 'effect') continue
          const definition = effectDefinition(node.type)
          for (const [path, value] of Object.entries(definition?.draft ?? {}))
            node.params[path] = Math.min(
              value,
              node.params[path] ?? definition?.params[path]?.default ?? value,
            )
        }
  })
  return next
}

const bare = (t: Track): Track => ({ ...t, a: { nodes: [] }, b: null, heard: 'a' })

/** A project whose mix has no effects, and no tracks that have no part in one of them. */
function onlyHeard(project: Project, track: string): Project {
  const kept = new Set(project.tracks.filter((t) => t.id === track || t.kind !== 'track'))
  for (let size = -1; size !== kept.size;) {
    size = kept.size
    const text = JSON.stringify([...kept])
    const owners = new Set(ownIds([...kept]))
    const sources = new Set(project.links.filter((l) => owners.has(l.target.owner)).map((l) => l.source))
    for (const t of project.tracks)
      if (text.includes(`"track":"${t.id}"`) || ownersIn(t).some((o) => sources.has(ownerId(o)))) kept.add(t)
  }
  const tracks = project.tracks.filter((t) => kept.has(t)).map((t) => (t.kind === 'mix' ? bare(t) : t))
  const owners = new Set([...ownIds(tracks), ...project.links.map((l) => l.id)])
  const sends = project.sends.filter((s) => owners.has(s.from) && owners.has(s.to))
  for (const send of sends) owners.add(send.id)
  return {
    ...project,
    tracks,
    links: project.links.filter((l) => owners.has(l.target.owner) && owners.has(l.source)),
    sends,
  }
}

/** Ids of tracks, their sources and all that is in them. */
const ownIds = (tracks: readonly Track[]): string[] =>
  tracks.flatMap((t) => [t.id, t.source?.id ?? t.id, ...ownersIn(t).map(ownerId)])

/** A project in which a track and the mix have no effects. */
function bareOf(project: Project, track: string): Project {
  const own = trackOf(project, track)
  return {
    ...project,
    tracks: project.tracks.map((t) => (t === own || t.kind === 'mix' ? bare(t) : t)),
  }
}
