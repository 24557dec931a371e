import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { play, projectOf } from '../project-rig'
import { RATE } from '../rig'

/** What a chain makes of a sound, both sides. */
export function through(
  sound: Float32Array,
  nodes: ChainNode[],
  seconds: number,
  change: (p: Project) => Project = (p) => p,
) {
  const made = projectOf(sound, nodes)
  return play({ ...made, project: change(made.project) }, seconds)
}

/** Turns of phase of a tone over a stretch, from its start to its end, against the tone asked for. */
export function drift(x: Float32Array, hz: number, from: number, seconds: number): number {
  const n = 9600
  const phase = (at: number): number => {
    let re = 0
    let im = 0
    for (let i = 0; i < n; i++) {
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n)
      const p = (2 * Math.PI * hz * (at + i)) / RATE
      re += w * x[at + i]! * Math.cos(p)
      im -= w * x[at + i]! * Math.sin(p)
    }
    return Math.atan2(im, re) / (2 * Math.PI)
  }
  let turns = 0
  let last = phase(from)
  const steps = Math.round(seconds * 40)
  for (let k = 1; k <= steps; k++) {
    const next = phase(from + k * 1200)
    turns += next - last - Math.round(next - last)
    last = next
  }
  return turns / seconds
}
export const centsOff = (x: Float32Array, hz: number, from = RATE / 2, seconds = 1): number =>
  1200 * Math.log2(1 + drift(x, hz, from, seconds) / hz)

/** Largest line near a frequency, in dB. */
export function line(spectrum: Float64Array, hz: number, n: number, width = 4): number {
  const k = Math.round((Math.abs(hz) * n) / RATE)
  let most = -300
  for (let j = Math.max(0, k - width); j <= k + width; j++) most = Math.max(most, spectrum[j] ?? -300)
  return most
}
