import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { readBundle } from '@oleaje/core/formats/bundle'
import { BLOCK } from '@oleaje/core/contract/block'
import { Random } from '@oleaje/core/dsp/random'
import { Engine } from '@oleaje/core/engine/engine'
import { checkBudget } from '@oleaje/core/project/budget'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'

/** OLEAJE_LONG=5000 runs so many; OLEAJE_FROM says which comes first. */
const FIRST = Number(process.env.OLEAJE_FROM ?? 1)
const RUNS = Number(process.env.OLEAJE_LONG ?? 60)
const SECONDS = process.env.OLEAJE_LONG ? 1 : 0.1
const SLOWEST = 5000
const MOST = 500 * 1024 * 1024

const texts = ['night-ferry', 'motion-studies', 'tone-studies', 'time-studies', 'playing-studies'].map(
  (name) => readFileSync(join(import.meta.dirname, `../../demo/assets/${name}.json`), 'utf8'),
)
const sound = {
  sampleRate: 48_000,
  channels: [Float32Array.from({ length: 9000 }, (_, i) => Math.sin(i * 0.0407))],
}

/** Values that something may not expect. */
const strange: readonly unknown[] = [
  0,
  -1,
  1e9,
  -1e9,
  1e308,
  0.37,
  null,
  '',
  'x',
  true,
  [],
  {},
  'pad',
  2 ** 31,
  1e-30,
  ['a'],
  { a: 1 },
]

/** Changes something somewhere in data, knowing how it is built: a value, an item, a key, a place. */
function mutate(data: unknown, random: Random): void {
  const at = <T>(list: readonly T[]): T => list[Math.floor(random.next() * list.length)] as T
  let here = data as Record<string, unknown>
  for (let depth = Math.floor(random.next() * 9); depth >= 0; depth--) {
    const inner = Object.values(here).filter(
      (v) => typeof v === 'object' && v !== null && Object.keys(v).length > 0,
    ) as Record<string, unknown>[]
    if (inner.length === 0) break
    here = at(inner)
  }
  const key = at(Object.keys(here))
  const what = Math.floor(random.next() * 6)
  if (what === 0) here[key] = at(strange)
  else if (what === 1 && typeof here[key] === 'number') here[key] = here[key] * (random.next() * 40 - 20)
  else if (what === 2 && Array.isArray(here))
    (here as unknown[]).splice(Math.floor(random.next() * here.length), 1)
  else if (what === 3 && Array.isArray(here)) (here as unknown[]).push(...structuredClone(here))
  else if (what === 4) delete here[key]
  else here[at(Object.keys(here))] = structuredClone(here[key])
}

function played(project: Project): void {
  const engine = new Engine({
    sampleRate: project.sampleRate,
    audio: () => sound,
    looping: true,
    onFault: (key, error) => {
      throw new Error(`${key} threw: ${String(error)}`)
    },
  })
  engine.load(project)
  engine.play(project.loop.start)
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  for (let b = 0; b * BLOCK < SECONDS * project.sampleRate; b++) {
    engine.process(l, r)
    for (let i = 0; i < BLOCK; i++)
      if (!Number.isFinite(l[i]! + r[i]!)) throw new Error('not a number was heard')
  }
}

/** A bundle of a project without its sounds, hit in some of its bytes. */
function bundleOf(project: Project, random: Random): Uint8Array {
  const text = JSON.stringify({
    ...project,
    audio: {},
    tracks: Array.isArray(project.tracks)
      ? project.tracks.map((t) => ({ ...t, source: null }))
      : project.tracks,
  })
  const file = zipSync({ 'project.json': strToU8(text) }, { level: random.next() < 0.5 ? 0 : 6 })
  for (let hits = Math.floor(random.next() * 4); hits > 0; hits--)
    file[Math.floor(random.next() * (random.next() < 0.5 ? 200 : file.length))] = Math.floor(
      random.next() * 256,
    )
  return file
}

describe('projects and bundles with something wrong in them', () => {
  it(`${RUNS} of them are read and play, or are refused with a sentence; none takes longer than five seconds or more than 500 MB`, async () => {
    let refused = 0
    const before = process.memoryUsage()
    const held = (m: NodeJS.MemoryUsage): number => m.heapUsed + m.arrayBuffers
    for (let seed = FIRST; seed < FIRST + RUNS; seed++) {
      const random = new Random(seed)
      const text = texts[seed % texts.length]!
      const data = JSON.parse(text) as unknown
      for (let n = 1 + Math.floor(random.next() * 3); n > 0; n--) mutate(data, random)
      let changed = JSON.stringify(data)
      // every fifth is hit in its bytes
      if (seed % 5 === 0)
        for (let n = 0; n < 3; n++) {
          const at = Math.floor(random.next() * changed.length)
          changed =
            changed.slice(0, at) +
            String.fromCharCode(32 + Math.floor(random.next() * 95)) +
            changed.slice(at + 1)
        }
      const began = performance.now()
      const cpu = process.cpuUsage()
      try {
        const project =
          seed % 7 === 0
            ? (await readBundle(bundleOf(data as Project, random))).project
            : readProject(changed)
        checkBudget(project, SECONDS)
        played(project)
      } catch (error) {
        const { name, message } = error as Error
        expect(
          ['ProjectError', 'BudgetError', 'BundleError'],
          `seed ${seed}: ${name}: ${(error as Error).stack}`,
        ).toContain(name)
        expect(message, `seed ${seed}`).toMatch(/^[A-ZÀ-Þ“].*[.!]$/s)
        expect(message, `seed ${seed}`).not.toMatch(
          /\bat .*:\d+|\/home|\/work|node_modules|undefined|\[object/,
        )
        refused++
      }
      // work, not what a busy machine takes beside it
      const { user, system } = process.cpuUsage(cpu)
      expect(Math.min(performance.now() - began, (user + system) / 1000), `seed ${seed}`).toBeLessThan(
        SLOWEST,
      )
      expect(held(process.memoryUsage()) - held(before), `seed ${seed}`).toBeLessThan(MOST)
    }
    expect(refused).toBeGreaterThan(0)
    expect(refused).toBeLessThan(RUNS)
  }, 1_800_000)
})
