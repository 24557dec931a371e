import type { AudioData } from '../contract/audio'
import type { Project } from '../project/schema'
import { apply, together } from '../project/edit'
import { branchesOf } from '../project/nodes/index'
import { homeOf } from '../project/routing'
import { setParam } from '../project/value-edits'
import { findOwner } from '../project/walk'
import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import { stepName } from '../project/targets'
import { RenderError, type RenderPlan, planRender, render } from './render'

/** Longest tail that is folded in or kept, in seconds. */
const LONGEST = 30

/** A project in which only one branch of a split is heard, for printing a branch. */
function branchAlone(project: Project, branch: string): Project {
  const found = findOwner(project, branch)
  if (found?.kind !== 'branch') return project
  const others = branchesOf(found.node)
    .filter((b) => b.id !== branch)
    .map((b) => setParam(b.id, 'mute', 1))
  return apply(project, together(...others, setParam(branch, 'mute', 0))).next
}

/**
 * A track, a branch of one, or the mix, over the project's loop as a sound of its own. Folded, it is as long
 * as the loop to the sample and what is heard when that has gone round until what it rang has come round too;
 * kept, it is a render, and its tail follows the loop. Yields progress 0…1. @throws RenderError
 */
export function* printLoop(
  source: Project,
  of: string | null,
  tail: 'folded' | 'kept',
  audio: (hash: string) => AudioData | null,
): Generator<number, readonly [Float32Array, Float32Array]> {
  const home = of === null ? undefined : homeOf(source, of)
  const plan = planRender(of !== null && home?.id !== of ? branchAlone(source, of) : source, {
    track: home?.id,
    tail: 'auto',
  })
  const seconds = (plan.frames - plan.songFrames) / plan.sampleRate
  return yield* tail === 'folded'
    ? roundOf(plan, audio)
    : rendered(
        { ...plan, frames: plan.songFrames + Math.round(Math.min(LONGEST, seconds) * plan.sampleRate) },
        audio,
      )
}

function* rendered(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
): Generator<number, readonly [Float32Array, Float32Array]> {
  const whole = [new Float32Array(plan.frames), new Float32Array(plan.frames)] as const
  let at = 0
  for (const { channels, done } of render(plan, audio)) {
    for (const side of [0, 1] as const) whole[side].set(channels[side].subarray(0, done - at), at)
    at = done
    yield done / plan.frames
  }
  return whole
}

/** One round of the loop, played as live, after as many as ring into it. */
function* roundOf(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
): Generator<number, readonly [Float32Array, Float32Array]> {
  let failed = ''
  const project = { ...plan.project, loop: { ...plan.project.loop, on: true } }
  const engine = new Engine({
    sampleRate: plan.sampleRate,
    audio,
    looping: true,
    reportEvery: 1e9,
    onFault: (key) => {
      failed ||= key
    },
  })
  engine.load(project)
  engine.play(plan.startBeat, false)
  const { songFrames } = plan
  // at least one before it, so that its beginning follows its end
  const before = Math.max(1, Math.ceil((plan.frames - songFrames) / songFrames)) * songFrames + engine.latency
  const whole = [new Float32Array(songFrames), new Float32Array(songFrames)] as const
  const heard = new Float32Array(BLOCK)
  for (let at = 0; at < before + songFrames; at += BLOCK) {
    engine.process(heard, heard)
    if (failed)
      throw new RenderError(
        `${stepName(project, failed)} failed, so the print would be incomplete. Remove it or turn it off.`,
      )
    const from = Math.max(0, before - at)
    const to = Math.min(BLOCK, before + songFrames - at)
    if (from < to) {
      whole[0].set(engine.mix.left.subarray(from, to), at + from - before)
      whole[1].set(engine.mix.right.subarray(from, to), at + from - before)
    }
    if (at % (BLOCK * 256) === 0) yield at / (before + songFrames)
  }
  return whole
}
