import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { readWav } from '@oleaje/core/formats/wav'
import { removeTrack } from '@oleaje/core/project/chain-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { edited } from '../../core/test/project-rig'
import { RATE } from '../../core/test/rig'

const assets = join(import.meta.dirname, '../assets')

export const demoProject = (id: string): Project =>
  readProject(readFileSync(join(assets, `${id}.json`), 'utf8'))
export const demoSound = (file: string): Float32Array =>
  readWav(new Uint8Array(readFileSync(join(assets, `${file}.wav`)))).channels[0] ?? new Float32Array(0)

/** One track of a project heard alone, without the tracks that it does not listen to. */
export const alone = (p: Project, id: string, ...kept: string[]): Project =>
  edited(
    p,
    ...p.tracks
      .filter((t) => ![id, ...kept].includes(t.id) && t.kind !== 'mix')
      .map((t) => removeTrack(t.id)),
    setParam(id, 'mute', 0),
  )

/**
 * Plays a project over sounds of one's own, one for each track, and notes a live value after each block.
 * `values` are places on its staff.
 */
export function record(
  p: Project,
  seconds: number,
  o: { sounds?: Record<string, Float32Array>; input?: Float32Array; key?: string },
): { left: Float32Array; values: number[]; latency: number } {
  const byHash = new Map(
    Object.entries(o.sounds ?? {}).map(([track, sound]) => [
      p.tracks.find((t) => t.id === track)?.source?.audio ?? '',
      sound,
    ]),
  )
  const engine = new Engine({
    sampleRate: RATE,
    audio: (hash) => ({ sampleRate: RATE, channels: [byHash.get(hash) ?? new Float32Array(RATE)] }),
  })
  engine.load({ ...p, loop: { on: false, start: 0, end: 64 } })
  engine.arm(o.input !== undefined)
  engine.play(0)
  const left = new Float32Array(Math.floor((seconds * RATE) / BLOCK) * BLOCK)
  const right = new Float32Array(BLOCK)
  const values: number[] = []
  for (let at = 0; at < left.length; at += BLOCK) {
    for (let i = 0; i < BLOCK; i++) engine.input.left[i] = engine.input.right[i] = o.input?.[at + i] ?? 0
    engine.process(left.subarray(at, at + BLOCK), right)
    left.set(engine.mix.left, at)
    if (o.key) values.push(engine.telemetry.values[new Map(engine.slots.since(0)).get(o.key) ?? -1] ?? NaN)
  }
  return { left, values, latency: engine.latency / RATE }
}
