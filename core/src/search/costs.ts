import type { AudioData } from '../contract/audio'
import { BLOCK } from '../contract/block'
import { costLines } from '../engine/cost-lines'
import { Engine } from '../engine/engine'
import type { Clock } from '../engine/step-costs'
import type { Project } from '../project/schema'
import { trackOf } from '../project/walk'
import { type Excerpt, excerptPlan } from './excerpt'

/** Seconds that are played to measure; each step is timed in some of its blocks. */
const MEASURED = 3

/**
 * Processor time of the source, effects and modulators of a track, as a share of one core, by their ids;
 * containers with all in them.
 */
export function costsOf(
  project: Project,
  track: string,
  excerpt: Excerpt,
  audio: (hash: string) => AudioData | null,
  clock: Clock,
): Map<string, number> {
  const plan = excerptPlan(project, track, excerpt)
  const own = trackOf(plan.project, track)
  const engine = new Engine({ sampleRate: plan.sampleRate, audio })
  engine.load({ ...plan.project, loop: { ...plan.project.loop, on: false } })
  engine.measureCosts(clock)
  engine.play(plan.startBeat, false)
  const block = new Float32Array(BLOCK)
  for (let at = 0; at < MEASURED * plan.sampleRate; at += BLOCK) engine.process(block, block)
  const { values } = engine.telemetry
  const cost = (key: string): number => {
    const share = values[engine.slots.of(`cost:${key}`)] ?? 0
    return share > 0 ? share : 0
  }
  return new Map(
    (own ? costLines(plan.project, own) : []).map(({ id, keys }) => [
      id,
      keys.reduce((sum, key) => sum + cost(key), 0),
    ]),
  )
}
