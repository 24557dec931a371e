import { describe, expect, it } from 'vitest'
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { Engine } from '@oleaje/core/engine/engine'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav } from '@oleaje/core/formats/wav'
import { readProject } from '@oleaje/core/project/read'
import { RenderError, planRender, render, renderWav } from '@oleaje/core/render/render'
import { peak } from './rig'

const folder = join(import.meta.dirname, '../../demo/assets')
const demo = readProject(readFileSync(join(folder, 'night-ferry.json'), 'utf8'))
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
const audio = (hash: string) => sounds.get(hash) ?? null

function whole(options: Parameters<typeof planRender>[1]): Float32Array {
  const plan = planRender(demo, options)
  const out = new Float32Array(plan.frames)
  let at = 0
  for (const { channels, done } of render(plan, audio)) {
    out.set(channels[0], at)
    at = done
  }
  return out
}

describe('render', () => {
  it('equals what the engine plays live, bit for bit', () => {
    const engine = new Engine({ sampleRate: 48_000, audio })
    engine.load(demo)
    engine.play(0)
    const left = new Float32Array(128)
    const right = new Float32Array(128)
    const live: number[] = []
    for (let b = 0; b < 1200; b++) {
      engine.process(left, right)
      live.push(...engine.mix.left)
    }
    const offline = whole({ from: 0, to: 3, tail: 0 })
    expect(Float32Array.from(live.slice(engine.latency, engine.latency + 140_000))).toEqual(
      offline.slice(0, 140_000),
    )
  })
  it('is the same twice, and the size of its chunks does not matter', () => {
    expect(whole({ from: 1, to: 2, tail: 0.5, chunkFrames: 1000 })).toEqual(
      whole({ from: 1, to: 2, tail: 0.5 }),
    )
  })
  it('the demo sounds: no clipping, no dead air, every track heard', () => {
    const mix = whole({ tail: 0 })
    expect(peak(mix)).toBeLessThan(1)
    for (let at = 0; at + 24_000 < mix.length; at += 24_000)
      expect(peak(mix.slice(at, at + 24_000))).toBeGreaterThan(0.05)
    for (const track of demo.tracks.filter((t) => t.source?.type === 'loop'))
      expect(peak(whole({ track: track.name, from: 0, to: 3, tail: 0 })), track.name).toBeGreaterThan(0.02)
  })
  it('streams a WAV of the size it promised', () => {
    let bytes = 0
    const plan = planRender(demo, { from: 0, to: 0.5, tail: 0.25 })
    for (const part of renderWav(plan, audio, 24)) bytes += part.bytes.length
    expect(bytes).toBe(44 + 36_000 * 2 * 3)
  })
  it.each([
    [{ from: 2, to: 1 }, /empty/],
    [{ track: 'Anchor' }, /no track called “Anchor”. There are: Deck kit/],
    [{ from: -1, to: 2 }, /0 or more/],
    [{ from: 0, to: 1e6 }, /four hours/],
  ])('%o gets its sentence', (options, sentence) => {
    expect(() => planRender(demo, options)).toThrow(RenderError)
    expect(() => planRender(demo, options)).toThrow(sentence)
  })
})
