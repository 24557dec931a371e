import type { AudioData, Stereo } from '../contract/audio'
import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import type { Project } from '../project/schema'
import { type LabSubject, TEST_SOUND, frozenAt, nodesOf, underTest } from './subject'
import type { LabSettings } from './settings'

/** What is measured: a signal goes in, and as many frames come out, its latency taken off. */
export interface Through {
  readonly sampleRate: number
  /** Frames of latency that the chain declares. */
  readonly latency: number
  /** The same signal always gives the same; each begins from silence. */
  run(signal: Stereo): Stereo
}

/** A chain as the engine plays it, with modulation frozen at a moment or running from the song’s start. */
export function chainThrough(
  subject: LabSubject,
  settings: Pick<LabSettings, 'modulation' | 'moment'>,
  audio: (hash: string) => AudioData | null,
): Through {
  const { sampleRate } = subject.project
  const state: LabSubject =
    settings.modulation === 'frozen'
      ? { ...subject, project: frozenAt(subject.project, settings.moment, audio) }
      : subject
  const nodes = nodesOf(state)
  const engineFor = (signal: Stereo): Engine => {
    const project: Project = underTest(state, nodes, signal[0].length)
    const engine = new Engine({
      sampleRate,
      audio: (hash) => (hash === TEST_SOUND ? { sampleRate, channels: [...signal] } : audio(hash)),
      looping: false,
    })
    engine.load(project)
    return engine
  }
  const silence = new Float32Array(BLOCK)
  const { latency } = engineFor([silence, silence])
  return {
    sampleRate,
    latency,
    run(signal) {
      const frames = signal[0].length
      // the sound would begin again while its last frames are on their way through the chain
      const longer = signal.map((c) => {
        const held = new Float32Array(frames + latency + BLOCK)
        held.set(c)
        return held
      }) as [Float32Array, Float32Array]
      const engine = engineFor(longer)
      engine.play(0, false)
      const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)]
      const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
      for (let at = -latency; at < frames; at += BLOCK) {
        engine.process(left, right)
        const from = Math.max(0, -at)
        const to = Math.min(BLOCK, frames - at)
        if (to <= from) continue
        out[0].set(engine.mix.left.subarray(from, to), at + from)
        out[1].set(engine.mix.right.subarray(from, to), at + from)
      }
      return out
    },
  }
}
