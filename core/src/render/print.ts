import type { AudioData } from '../contract/audio'
import type { Project } from '../project/schema'
import { apply, together } from '../project/edit'
import { branchesOf } from '../project/nodes/index'
import { homeOf } from '../project/routing'
import { setParam } from '../project/value-edits'
import { findOwner } from '../project/walk'
import { planRender, render } from './render'

/** Longest tail that is folded in or kept, in seconds. */
const LONGEST = 30

/** A project in which of one split only a branch is heard: what is printed where a branch is. */
function branchAlone(project: Project, branch: string): Project {
  const found = findOwner(project, branch)
  if (found?.kind !== 'branch') return project
  const others = branchesOf(found.node).filter((b) => b.id !== branch).map((b) => setParam(b.id, 'mute', 1))
  return apply(project, together(...others, setParam(branch, 'mute', 0))).next
}

/**
 * A track, a branch of one, or the mix, over the project's loop as a sound of its own. Folded, it is as long as the loop to the sample, and what rings
 * past its end is added to its beginning, round after round, as when the loop goes round; kept, the tail follows the loop. Yields
 * progress 0…1. @throws RenderError
 */
export function* printLoop(source: Project, of: string | null, tail: 'folded' | 'kept', audio: (hash: string) => AudioData | null): Generator<number, readonly [Float32Array, Float32Array]> {
  const home = of === null ? undefined : homeOf(source, of)
  const project = of !== null && home?.id !== of ? branchAlone(source, of) : source
  const track = home?.id
  const first = planRender(project, { track, tail: 'auto' })
  const plan = planRender(project, { track, tail: Math.min(LONGEST, (first.frames - first.songFrames) / first.sampleRate) })
  const whole = [new Float32Array(plan.frames), new Float32Array(plan.frames)] as const
  let at = 0
  for (const { channels, done } of render(plan, audio)) {
    for (const side of [0, 1] as const) whole[side].set(channels[side].subarray(0, done - at), at)
    at = done
    yield done / plan.frames
  }
  if (tail === 'kept') return whole
  const { songFrames } = plan
  return [folded(whole[0], songFrames), folded(whole[1], songFrames)]
}

/** What lies behind so many frames, added to their beginning. */
function folded(x: Float32Array, frames: number): Float32Array {
  const out = x.slice(0, frames)
  for (let i = frames; i < x.length; i++) out[i % frames] += x[i]
  return out
}
