import type { AudioData } from '@oleaje/core/contract/audio'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import type { Project } from '@oleaje/core/project/schema'
import { planRender, render } from '@oleaje/core/render/render'

/**
 * Some seconds of one track, or of all without one, with their loudness in LUFS.
 * @param onFrames told how many frames of the channels are there
 */
export function renderPart(
  project: Project,
  audio: ReadonlyMap<string, AudioData>,
  track: string | undefined,
  from: number,
  seconds: number,
  onFrames: (done: number, channels: readonly [Float32Array, Float32Array]) => void = () => {},
): { channels: [Float32Array, Float32Array]; loudness: number } {
  const plan = planRender(project, { track, from, to: from + seconds, tail: 0 })
  const channels: [Float32Array, Float32Array] = [
    new Float32Array(plan.frames),
    new Float32Array(plan.frames),
  ]
  const meter = new LoudnessMeter(plan.sampleRate)
  let at = 0
  for (const chunk of render(plan, (hash) => audio.get(hash) ?? null)) {
    const [left, right] = chunk.channels.map((c) => c.subarray(0, chunk.done - at)) as [
      Float32Array,
      Float32Array,
    ]
    channels[0].set(left, at)
    channels[1].set(right, at)
    meter.process(left, right)
    at = chunk.done
    onFrames(at, channels)
  }
  return { channels, loudness: meter.integrated }
}

/** A project whose mix has no effects. */
export const withoutMix = (project: Project): Project => ({
  ...project,
  tracks: project.tracks.map((t) =>
    t.kind === 'mix' ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const } : t,
  ),
})

/** A project in which a track and the mix have no effects. */
export const bareTrack = (project: Project, track: string): Project => ({
  ...project,
  tracks: project.tracks.map((t) =>
    t.id === track || t.kind === 'mix' ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const } : t,
  ),
})
