import type { AudioData } from '../contract/audio'
import type { Project } from '../project/schema'
import { homeOf } from '../project/routing'
import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import { stepName } from '../project/targets'
import { branchAlone } from './stems'
import { RenderError, type RenderPlan, planRender, render } from './render'

/** Seconds at the start of a round that come from where its end has led. */
const SEAM = 0.02
/** Longest tail that is folded in or kept, in seconds. */
const LONGEST = 30

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

/**
 * One round of the loop, played as live, after as many as ring into it: as long as the loop to the sample,
 * with the tail folded in. Yields progress 0…1. @throws RenderError
 */
export function* roundOf(
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
  const fade = Math.min(Math.round(SEAM * plan.sampleRate), songFrames >> 2)
  const all = before + songFrames + fade
  const whole = [new Float32Array(songFrames + fade), new Float32Array(songFrames + fade)] as const
  const heard = new Float32Array(BLOCK)
  for (let at = 0; at < all; at += BLOCK) {
    engine.process(heard, heard)
    if (failed)
      throw new RenderError(
        `${stepName(project, failed)} failed, so the print would be incomplete. Remove it or turn it off.`,
      )
    const from = Math.max(0, before - at)
    const to = Math.min(BLOCK, all - at)
    if (from < to) {
      whole[0].set(engine.mix.left.subarray(from, to), at + from - before)
      whole[1].set(engine.mix.right.subarray(from, to), at + from - before)
    }
    if (at % (BLOCK * 256) === 0) yield at / all
  }
  // what moves by itself is elsewhere after a round: it comes from there, so that the end has no seam
  for (const side of whole)
    for (let i = 0; i < fade; i++) {
      const there = side[i] as number
      side[i] = there + ((side[songFrames + i] as number) - there) * (1 - i / fade)
    }
  return [whole[0].subarray(0, songFrames), whole[1].subarray(0, songFrames)]
}
