import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { type Edit, apply } from '@oleaje/core/project/edit'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { findTarget } from '@oleaje/core/project/targets'
import { targetAt } from '@oleaje/core/project/param-path'
import { toNormalized } from '@oleaje/core/units/scale'
import { RATE } from './rig'

/** A project of one audio track named `t` with a chain, at 120 bpm. */
export function projectOf(sound: Float32Array, nodes: ChainNode[], right?: Float32Array) {
  const audio = { sampleRate: RATE, channels: right ? [sound, right] : [sound] }
  const track = newTrack('t', newSource('loop', {}, 'x', 'src'), 't')
  track.a.nodes = nodes
  const project: Project = {
    ...newProject('test'),
    loop: { on: false, start: 0, end: 1e5 },
    audio: { x: { name: 'x', frames: sound.length, channels: audio.channels.length, sampleRate: RATE } },
  }
  project.tracks.unshift(track)
  project.tracks[1]!.id = 'mix'
  return { project, audio: () => audio }
}

/** Plays a project for some seconds; `at` does something to the engine before a block. */
export function play(
  p: { project: Project; audio: () => { sampleRate: number; channels: Float32Array[] } },
  seconds: number,
  at: Record<number, (e: Engine) => void> = {},
  each?: (e: Engine, block: number) => void,
  looping = false,
) {
  const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping })
  engine.load(p.project)
  engine.play(0)
  const blocks = Math.ceil((seconds * RATE) / BLOCK)
  const left = new Float32Array(blocks * BLOCK)
  const right = new Float32Array(blocks * BLOCK)
  for (let b = 0; b < blocks; b++) {
    at[b]?.(engine)
    engine.process(left.subarray(b * BLOCK, (b + 1) * BLOCK), right.subarray(b * BLOCK, (b + 1) * BLOCK))
    each?.(engine, b)
  }
  return { left, right, engine }
}

/** An engine that plays a project from its beginning, as in the app. */
export function engineOf(p: ReturnType<typeof projectOf>): Engine {
  const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping: true })
  engine.load(p.project)
  engine.play(0)
  return engine
}

/** The left side of so many blocks more. */
export function run(engine: Engine, blocks: number): Float32Array {
  const left = new Float32Array(blocks * BLOCK)
  const right = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) engine.process(left.subarray(b * BLOCK, (b + 1) * BLOCK), right)
  return left
}

/** Place on its staff of a value of a parameter. */
export const place = (p: Project, owner: string, param: string, value: number): number =>
  toNormalized(findTarget(p, targetAt(owner, param))!.spec, value)

/** The project after some edits. */
export const edited = (p: Project, ...edits: Edit[]): Project => edits.reduce((q, e) => apply(q, e).next, p)

/** The live value of a telemetry key. */
export function live(engine: Engine, key: string): number {
  const slot = new Map(engine.slots.since(0)).get(key)
  return slot === undefined ? NaN : engine.telemetry.values[slot]!
}
