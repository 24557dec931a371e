import { rollup } from 'rollup'
import { beforeAll, describe, expect, it } from 'vitest'
import { type Bundler, type ChainParts, bundleChain } from '@oleaje/core/chain-module/bundle'
import { type ChainExport, chainExport, codeName } from '@oleaje/core/chain-module/chain-export'
import { pageOf, typesOf } from '@oleaje/core/chain-module/texts'
import { planRender, render } from '@oleaje/core/render/render'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { chainParts } from '../../scripts/chain-parts.mjs'
import { edited, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const BLOCK = 128
const sound = [noise(1.37, 1), noise(1.37, 2)] as const

/** A chain with two macros, an LFO, a delay that follows the tempo, and noise of its own. */
function song(): ReturnType<typeof projectOf> {
  const rig = projectOf(
    sound[0],
    [
      newEffect('filter', { cutoff: 500, resonance: 2 }, 'f'),
      newEffect('drive', { drive: 9 }, 'd'),
      newEffect('delay', { sync: 1, length: 0.25, feedback: 0.5 }, 'e'),
      newEffect('noise-layer', {}, 'n'),
    ],
    sound[1],
  )
  const project = edited(
    { ...rig.project, tempo: 107 },
    addModulator('t', 'macro', { id: 'm', name: 'Más brillo' }),
    addModulator('t', 'macro', { id: 'k', name: 'Más brillo' }),
    addModulator('t', 'lfo', { id: 'l', params: { rate: 0.9 } }),
    addLink('m', { owner: 'f', param: 'cutoff' }, 0.1, 0.8, { mode: 'fixed' }),
    addLink('l', { owner: 'd', param: 'drive' }, 0.2, 0.5),
  )
  return { ...rig, project }
}

function rendered(rig: ReturnType<typeof projectOf>, frames: number): Float32Array[] {
  const out = [new Float32Array(frames), new Float32Array(frames)]
  const plan = planRender(rig.project, { track: 't', from: 0, to: frames / RATE, tail: 0 })
  let at = 0
  for (const { channels, done } of render(plan, rig.audio)) {
    channels.forEach((c, i) => out[i]!.set(c.subarray(0, done - at), at))
    at = done
  }
  return out
}

/** What an exported module registers, run without a browser. */
async function processorOf(code: string) {
  const globals = globalThis as Record<string, unknown>
  let made: new (o: object) => {
    process(i: Float32Array[][], o: Float32Array[][], p: Record<string, Float32Array>): boolean
  }
  const said: { latency: number }[] = []
  globals.AudioWorkletProcessor = class {
    port = { postMessage: (m: { latency: number }) => said.push(m), onmessage: null as unknown }
  }
  globals.sampleRate = RATE
  globals.currentTime = 0
  globals.registerProcessor = (_: string, c: typeof made) => (made = c)
  await import(`data:text/javascript;base64,${Buffer.from(code).toString('base64')}`)
  delete globals.AudioWorkletProcessor
  const node = new made!({ processorOptions: { sounds: {} } })
  return { node, latency: said[0]!.latency }
}

let parts: ChainParts
beforeAll(async () => {
  parts = await chainParts()
}, 60_000)
const moduleOf = (chain: ChainExport): Promise<string> =>
  bundleChain(rollup as unknown as Bundler, parts, chain, {})
const chainOf = (project: Project): ChainExport => chainExport(project, 't', 'effect', 'Night ferry')

describe('a chain as a module', () => {
  it('gives the samples of a render, and its macros move it', async () => {
    const rig = song()
    const code = await moduleOf(chainOf(rig.project))
    const { node, latency } = await processorOf(code)
    const frames = sound[0].length
    const wanted = rendered(rig, frames)
    const run = (brighter: (block: number) => number): Float32Array[] => {
      const out = [new Float32Array(frames + BLOCK), new Float32Array(frames + BLOCK)]
      for (let at = 0; at < frames - BLOCK; at += BLOCK)
        node.process(
          [sound.map((c) => c.subarray(at, at + BLOCK))],
          [out.map((c) => c.subarray(at, at + BLOCK))],
          { 'mas-brillo': Float32Array.of(brighter(at / BLOCK)), 'mas-brillo-2': Float32Array.of(0.5) },
        )
      return out
    }
    const out = run(() => 0.5)
    let different = 0
    for (let i = 0; i + latency < frames - 2 * BLOCK; i++)
      for (const side of [0, 1]) if (out[side]![i + latency] !== wanted[side]![i]) different++
    expect(Math.max(...wanted[0]!.map(Math.abs))).toBeGreaterThan(0.05)
    expect(different).toBe(0)
    const highs = (x: Float32Array): number => x.reduce((s, v, i) => s + (v - (x[i - 1] ?? 0)) ** 2, 0)
    expect(highs(run(() => 1)[0]!)).toBeGreaterThan(3 * highs(run(() => 0)[0]!))
  })

  it('has only the effects that it uses, no packages, and is smaller than 400 kB', async () => {
    const code = await moduleOf(chainOf(song().project))
    expect(code.length).toBeLessThan(400_000)
    expect(code).not.toMatch(/^import /m)
    expect(code).toContain('"filter"')
    for (const other of ['"reverb"', '"vocoder"', '"stutter"', 'ZodError']) expect(code).not.toContain(other)
  })

  it('names macros for code, and tells what it listens to in vain', () => {
    const rig = song()
    const chain = chainOf(
      edited(
        rig.project,
        addModulator('t', 'follower', { id: 'w', listens: { track: 'mix', point: 'after' } }),
      ),
    )
    expect(chain.data.macros.map((m) => m.key)).toEqual(['mas-brillo', 'mas-brillo-2'])
    expect(chain.missed).toEqual(['Mix'])
    expect(codeName('  Dark — Wâter #3 ')).toBe('dark-water-3')
    expect(() => chainExport(rig.project, 'gone', 'effect', 'x')).toThrow('is gone')
    expect(typesOf(chain.data)).toContain("readonly 'mas-brillo': AudioParam")
    expect(pageOf({ ...chain.data, name: '<b>&' }, 'chain.js', parts.page)).not.toContain('<b>')
  })

  it('as an instrument plays notes with the source of its track', async () => {
    const rig = song()
    rig.project.tracks[0]!.source = { id: 'src', type: 'tone', params: { wave: 2 }, seed: 1, audio: null }
    const code = await moduleOf(chainExport(rig.project, 't', 'notes', 'Horn'))
    const { node } = await processorOf(code)
    const out = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    for (let i = 0; i < 100; i++) node.process([], [out], {})
    expect(Math.max(...out[0]!.map(Math.abs))).toBeGreaterThan(0.001)
  })
})
