import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import { Engine } from '@oleaje/core/engine/engine'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav } from '@oleaje/core/formats/wav'
import { newEffect } from '@oleaje/core/project/new'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { exp2, exp2Block, log2 } from '@oleaje/core/dsp/math'
import { RATE, noise } from './rig'
import { projectOf } from './project-rig'

/**
 * Audio threads of many browsers treat denormal numbers as zero. What never holds one gives the same bits
 * there and here. So no state of an engine may be denormal, while it plays, while its tails fade and in the
 * silence after them.
 */
const folder = join(import.meta.dirname, '../../demo/assets')
const sounds = new Map(
  await Promise.all(
    readdirSync(folder)
      .filter((n) => n.endsWith('.wav'))
      .map(async (n) => {
        const wav = readWav(readFileSync(join(folder, n)))
        return [await audioHash(wav), wav] as const
      }),
  ),
)
const LEAST = { Float32Array: 1.1754943508222875e-38, Float64Array: 2.2250738585072014e-308 }

/** Arrays that are longer hold what has been for a while: looked at now and then, they are seen whole. */
const LONG = 4096

/**
 * Finds the denormal numbers in all that can be reached from an object, long arrays included or not: their
 * paths.
 */
function denormalsIn(root: object, long: boolean): string[] {
  const found: string[] = []
  const seen = new Set<unknown>([root])
  const queue: [object, string][] = [[root, '']]
  for (const [at, path] of queue) {
    if (at instanceof Float32Array || at instanceof Float64Array) {
      if (!long && at.length > LONG) continue
      const least = at instanceof Float32Array ? LEAST.Float32Array : LEAST.Float64Array
      for (let i = 0; i < at.length; i++) {
        const x = at[i]!
        if (x === 0 || x >= least || x <= -least || x !== x) continue
        found.push(`${path}[${i}] = ${x}`)
        break
      }
      continue
    }
    if (ArrayBuffer.isView(at)) continue
    const inside = at instanceof Map ? [...at] : Object.entries(at)
    for (const [name, value] of inside) {
      if (typeof value === 'number' && value !== 0 && Math.abs(value) < LEAST.Float64Array)
        found.push(`${path}.${name} = ${value}`)
      if (typeof value !== 'object' || value === null || seen.has(value)) continue
      seen.add(value)
      queue.push([value as object, `${path}.${String(name)}`])
    }
  }
  return found
}

/** Plays a project, stops it, and lets it ring; gives what was denormal at any of the looks. */
function denormals(
  project: Project,
  audio: (hash: string) => ReturnType<typeof readWav> | null,
  seconds: number,
): string[] {
  const engine = new Engine({ sampleRate: RATE, audio, looping: false })
  engine.load(project)
  engine.play(0)
  const left = new Float32Array(128)
  const right = new Float32Array(128)
  const blocks = Math.ceil((seconds * RATE) / 128)
  for (let b = 0; b < blocks; b++) {
    if (b === Math.floor(blocks / 4)) engine.stop()
    engine.process(left, right)
    if (b % 97 !== 0) continue
    const found = denormalsIn(engine, b % (97 * 7) === 0)
    if (found.length > 0) return [`after block ${b}`, ...found.slice(0, 9)]
  }
  return []
}

const seconds = process.env.OLEAJE_LONG ? 60 : 9

describe('no state is denormal', () => {
  for (const name of ['night-ferry', 'motion-studies', 'tone-studies', 'time-studies', 'playing-studies']) {
    const project = readProject(readFileSync(join(folder, `${name}.json`), 'utf8'))
    it(name, () => {
      const open = {
        ...project,
        tracks: project.tracks.map((t) => ({ ...t, params: { ...t.params, mute: 0 } })),
      }
      expect(denormals(open, (hash) => sounds.get(hash) ?? null, seconds)).toEqual([])
    })
  }
  it.each(effects.map((d) => [d.id, d] as const))('%s, as it falls silent', (_, definition) => {
    const { project, audio } = projectOf(noise(0.37, 5), [newEffect(definition.id)])
    project.tracks[0]!.source!.params.repeat = 0
    expect(denormals(project, audio, seconds)).toEqual([])
  })
})

describe('elementary functions', () => {
  it('neither take nor give denormals', () => {
    expect(log2(3e-310)).toBe(-Infinity)
    expect(log2(-3e-310)).toBe(-Infinity)
    const block = new Float64Array(1)
    for (let x = -1030; x <= -1010; x += 0.37) {
      const y = exp2(x)
      expect(y === 0 || y >= LEAST.Float64Array).toBe(true)
      block[0] = x
      exp2Block(block)
      expect(block[0]).toBe(y)
    }
  })
})
