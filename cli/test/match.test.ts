import { execFile } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { audioHash } from '@oleaje/core/formats/hash'
import { writeWav } from '@oleaje/core/formats/wav'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'

const RATE = 48_000
const program = join(import.meta.dirname, '..', 'oleaje.mjs')
let folder = ''
const at = (name: string): string => join(folder, name)
const run = (...args: string[]) =>
  promisify(execFile)(process.execPath, [program, 'match', at('project.json'), ...args]).then(
    ({ stdout, stderr }) => ({ stdout, stderr, failed: false }),
    (e: { stdout: string; stderr: string }) => ({ ...e, failed: true }),
  )

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'oleaje-match-'))
  let seed = 7
  const noise = Float32Array.from({ length: RATE }, (_, i) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    return (seed / 2 ** 31 - 1) * 0.3 * Math.exp((-6 * (i % 15_000)) / RATE)
  })
  const sound = { sampleRate: RATE, channels: [noise] }
  const hash = await audioHash(sound)
  const project = newProject('Night Ferry')
  const track = newTrack('Hull bass', newSource('loop', {}, hash, 'src'), 'bass')
  track.a.nodes = [newEffect('filter', { cutoff: 6000 }, 'f'), newEffect('delay', { wet: 0.3 }, 'd')]
  project.tracks.unshift(track)
  project.loop = { ...project.loop, start: 0, end: 2 }
  project.audio[hash] = { name: 'noise', frames: RATE, sampleRate: RATE, channels: 1 }
  let y = 0
  const dull = noise.map((x) => (y += 0.09 * (x - y)))
  writeFileSync(at('project.json'), JSON.stringify(project))
  writeFileSync(at('noise.wav'), writeWav(sound, 32))
  writeFileSync(at('reference.wav'), writeWav({ sampleRate: RATE, channels: [dull] }, 32))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

interface Result {
  readonly start: number
  readonly history: readonly (readonly [number, number])[]
  readonly found: readonly {
    readonly total: number
    readonly changes: readonly { readonly name: string }[]
  }[]
}

describe('steering by the command line', () => {
  const usual = ['--track', 'hull bass', '--excerpt', '0.9', '--parameters', '3', '--seed', '5']

  it('comes nearer, tells what changed, and finds the same with one and with four threads', async () => {
    const results = await Promise.all(
      ['1', '4'].map(async (workers) => {
        const out = at(`by-${workers}.json`)
        const reference = ['--reference', at('reference.wav'), '--out', out]
        const { stderr, failed } = await run(
          ...usual,
          ...reference,
          '--evaluations',
          '40',
          '--workers',
          workers,
        )
        expect([failed, stderr]).toEqual([false, ''])
        return readFileSync(out, 'utf8')
      }),
    )
    expect(results[0]).toBe(results[1])
    const { start, history, found } = JSON.parse(results[0]!) as Result
    expect(found[0]!.total).toBeLessThan(0.7 * start)
    expect(history.at(-1)![0]).toBeGreaterThanOrEqual(40)
    expect(found[0]!.changes.length).toBeGreaterThan(0)
    for (const { name } of found[0]!.changes) expect(name).toMatch(/^(Filter|Delay) /)
  }, 120_000)

  it('says what is wrong in a sentence', async () => {
    const none = await run('--track', 'Galley', '--reference', at('reference.wav'), '--out', at('x.json'))
    expect(none.failed).toBe(true)
    expect(none.stderr).toContain('There is no track called “Galley”')
    const bad = await run(...usual, '--reference', at('project.json'), '--out', at('x.json'))
    expect(bad.failed).toBe(true)
    expect(bad.stderr).toMatch(/^✗ .+\.\n$/)
    expect(
      (await run(...usual, '--reference', at('reference.wav'), '--out', at('x.json'), '--as', 'x')).stderr,
    ).toContain('--as can be')
  }, 60_000)
})
