import { FaderStep } from './fader-step'
import { type Plan, stepAt } from './plan'
import { SourceStep } from './source-step'
import type { Step } from './step'
import type { TapeStep } from './tape-step'

/** What steps without a load of their own cost, in ns a frame: containers, faders, sums. */
const USUAL_NS = 60
/** Sources tell what they cost where they stretch or play many voices; this part of it is usual. */
const SOURCE_PART = 0.2
/** What a track costs that is not worked out but played. */
const PLAYED_NS = 6
/** Less than this is not worth the copies of sounds that each worker needs. */
const LEAST_GAIN = 1.3

/**
 * Divides the tracks of a plan among workers, so that each has about as much to do: the longest first, to
 * where it adds least (Graham, *Bounds on Multiprocessing Timing Anomalies*, 1969). What several tracks need,
 * such as a track that others follow, is computed by each of them.
 * @param order steps that run
 * @returns for each worker beside the one that mixes, the keys of the tracks that it records; nothing where
 *   the tracks hang together too much to gain from it
 */
export function sharesOf(plan: Plan, order: readonly Step[], workers: number): readonly string[][] {
  const runs = new Set(order)
  const tracks = [...plan.steps.keys()]
    .filter((key) => key.startsWith('track:'))
    .map((key) => ({ key, fader: stepAt(plan, key, FaderStep) }))
    .filter(({ fader }) => fader && fader !== plan.mix && runs.has(fader))
    .map(({ key, fader }) => ({ key, needs: needsOf(plan, fader as Step) }))
  const bins = Array.from({ length: Math.max(1, workers) }, (_, n) => ({
    keys: [] as string[],
    steps:
      n === 0
        ? needsOf(plan, plan.mix, new Set(tracks.flatMap((t) => plan.steps.get(t.key) ?? [])))
        : new Set<Step>(),
  }))
  const whole = weightOf(needsOf(plan, plan.mix), runs)
  const longestFirst = [...tracks].sort((a, b) => weightOf(b.needs, runs) - weightOf(a.needs, runs))
  for (const { key, needs } of longestFirst) {
    const best = bins
      .map((bin) => ({ bin, weight: weightOf(union(bin.steps, needs), runs) }))
      .reduce((least, next) => (next.weight < least.weight ? next : least))
    best.bin.keys.push(key)
    best.bin.steps = union(best.bin.steps, needs)
  }
  const longest = Math.max(...bins.map((bin) => weightOf(bin.steps, runs)))
  const played = bins.slice(1).flatMap((bin) => bin.keys).length * PLAYED_NS
  if (whole < LEAST_GAIN * (longest + played)) return []
  return bins.slice(1).flatMap((bin) => (bin.keys.length ? [bin.keys] : []))
}

/** A plan of which only some tracks are worked out, and nothing that comes after them. */
export function onlyTracks(plan: Plan, keys: readonly string[]): Plan {
  const needed = keys.reduce((all, key) => {
    const fader = plan.steps.get(key)
    return fader ? union(all, needsOf(plan, fader)) : all
  }, new Set<Step>())
  return { ...plan, order: plan.order.filter((step) => needed.has(step)) }
}

/** A plan in which tapes take the place of tracks, and all that only these need is not worked out. */
export function withTapes(plan: Plan, tapes: ReadonlyMap<string, TapeStep>): Plan {
  const places = new Map<Step, Step>()
  for (const [key, tape] of tapes) {
    const fader = plan.steps.get(key)
    if (fader) places.set(fader, tape)
  }
  const needed = needsOf(plan, plan.mix, new Set(places.keys()))
  const at = (step: Step): Step => places.get(step) ?? step
  return {
    ...plan,
    order: plan.order.filter((step) => needed.has(step) || places.has(step)).map(at),
    steps: new Map([...plan.steps].map(([key, step]) => [key, at(step)])),
    needs: new Map(
      [...plan.needs].map(([step, from]) => (places.has(step) ? [at(step), []] : [step, from.map(at)])),
    ),
  }
}

/** The tracks and effects nearest to the mix, out of those that could be played from tapes. */
export function nearestTo(plan: Plan, playable: ReadonlySet<Step>): ReadonlySet<Step> {
  const run = needsOf(plan, plan.mix, playable)
  return new Set([...run].flatMap((step) => plan.needs.get(step) ?? []).filter((step) => playable.has(step)))
}

/** A step and all that it reads from, directly or not, as far as the steps of `end`, which are left out. */
function needsOf(plan: Plan, step: Step, end: ReadonlySet<Step> = new Set()): Set<Step> {
  const found = new Set<Step>()
  const waiting = [step]
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    if (found.has(next) || end.has(next)) continue
    found.add(next)
    waiting.push(...(plan.needs.get(next) ?? []))
  }
  return found
}

const union = (a: ReadonlySet<Step>, b: ReadonlySet<Step>): Set<Step> => new Set([...a, ...b])

function weightOf(steps: ReadonlySet<Step>, runs: ReadonlySet<Step>): number {
  let ns = 0
  for (const step of steps)
    if (runs.has(step)) ns += (step.load?.ns ?? USUAL_NS) * (step instanceof SourceStep ? SOURCE_PART : 1)
  return ns
}
