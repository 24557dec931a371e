import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { effects } from '@oleaje/core/effects/index'
import { commonParams } from '@oleaje/core/project/nodes/common-params'
import { effectFrom, newEffect } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { engineOf, projectOf } from './project-rig'
import { RATE, peak } from './rig'

/** Seconds of silence before the second click: ten minutes in the long form. */
const PAUSE = process.env.OLEAJE_LONG ? 600 : 14.3
/** The same for each of the presets. */
const SHORT_PAUSE = process.env.OLEAJE_LONG ? 37.1 : 1.7

/**
 * What an engine gives for one click, `before` seconds after the song's start, and for `seconds` from then
 * on. The click comes 17 frames into a block.
 */
function click(nodes: ChainNode[], before: number, seconds: number, tempo = 120, length = 1): Float32Array {
  const at = Math.floor((before * RATE) / BLOCK) * BLOCK + 17
  const sound = new Float32Array(at + Math.ceil(seconds * RATE) + BLOCK)
  // long enough that what holds samples cannot miss it
  sound.fill(0.9, at, at + length)
  const made = projectOf(sound, nodes)
  const engine = engineOf({ ...made, project: { ...made.project, tempo } })
  const out = new Float32Array(Math.ceil((seconds * RATE) / BLOCK) * BLOCK)
  const block = new Float32Array(BLOCK)
  const other = new Float32Array(BLOCK)
  const first = Math.floor(at / BLOCK)
  for (let b = 0; b < first; b++) engine.process(block, other)
  for (let b = 0; b * BLOCK < out.length; b++) {
    engine.process(block, other)
    // before the monitor stage, which has a limiter of its own
    out.set(engine.mix.left, b * BLOCK)
  }
  return out
}

/** Frame of the largest sample from a frame on. */
const largestFrom = (x: Float32Array, from: number): number =>
  x.reduce((best, v, i) => (i >= from && Math.abs(v) > Math.abs(x[best]!) ? i : best), from)

describe('one click into a long delay', () => {
  it.each([0.3, 0.37, 1, 2.5, 3.91])('comes back after %d s, after any silence', (time) => {
    for (const before of [0.01, 0.61, 5.3]) {
      const y = click(
        [newEffect('delay', { time, feedback: 0, wet: 1, lowCut: 20, highCut: 20_000 }, 'd')],
        before,
        time + 0.3,
      )
      expect(largestFrom(y, 0)).toBe(17 + Math.round(time * RATE))
      expect(Math.abs(y[17 + Math.round(time * RATE)]!)).toBeGreaterThan(0.8)
    }
  })
  it.each([43, 107, 233])('comes back after a note length at %i bpm', (tempo) => {
    const y = click(
      [newEffect('delay', { sync: 1, length: 1.5, feedback: 0, wet: 1 }, 'd')],
      1.7,
      90 / tempo + 0.3,
      tempo,
    )
    expect(Math.abs(largestFrom(y, 0) - 17 - (90 / tempo) * RATE)).toBeLessThan(2)
  })
  it('comes back as often as feedback has it, though seconds of silence lie between', () => {
    const y = click(
      [newEffect('delay', { time: 1.13, feedback: 0.5, wet: 1, lowCut: 20, highCut: 20_000 }, 'd')],
      0.9,
      5,
    )
    for (const k of [1, 2, 3, 4])
      expect(
        Math.abs(
          largestFrom(
            y.subarray(0, 17 + Math.round((k * 1.13 + 0.4) * RATE)),
            17 + Math.round((k * 1.13 - 0.4) * RATE),
          ) -
            17 -
            Math.round(k * 1.13 * RATE),
        ),
      ).toBeLessThan(3)
  })
  it('is heard in a reverb and a convolver with long pre-delays', () => {
    const reverb = click([newEffect('reverb', { predelay: 0.25, wet: 1 }, 'r')], 0.8, 1.5)
    expect(peak(reverb.subarray(0, Math.round(0.249 * RATE)))).toBeLessThan(1e-6)
    expect(peak(reverb.subarray(Math.round(0.25 * RATE)))).toBeGreaterThan(0.003)
    const convolver = click([newEffect('convolver', { predelay: 0.4, wet: 1 }, 'c')], 0.8, 1.5)
    expect(peak(convolver.subarray(0, Math.round(0.399 * RATE)))).toBeLessThan(1e-6)
    expect(peak(convolver.subarray(Math.round(0.4 * RATE)))).toBeGreaterThan(0.003)
  })
})

describe.each(effects.map((d) => [d.id, d] as const))('%s in a chain', (id, definition) => {
  // dense enough that no click falls between two grains
  const dense: Record<string, number> = id === 'grains' ? { scatter: 0, unsteady: 0, overlap: 8 } : {}
  const values = {
    ...Object.fromEntries(
      Object.entries({ ...definition.params, ...commonParams }).map(([k, s]) => [k, s.default]),
    ),
  }
  const tail = definition.tail?.(values as never, 2) ?? 0
  const latency = definition.latency?.(RATE, values) ?? 0
  const struck = (nodes: ChainNode[], before: number, seconds: number): Float32Array =>
    click(nodes, before, seconds, 120, 24)
  // what swings by itself meets the click elsewhere on its way
  const swings = definition.movesByItself === true

  it('sounds until its tail has passed, and no longer', () => {
    const y = struck([newEffect(id, dense, 'e')], 0.71, tail + 0.6)
    const loudest = peak(y)
    expect(loudest).toBeGreaterThan(0)
    if (definition.generates) return
    const end = 41 + latency + Math.ceil(tail * RATE)
    // by 120 dB, or to what 24 bits can hold
    expect(peak(y.subarray(end + BLOCK))).toBeLessThan(Math.max(2e-7, loudest * 2e-6))
  })
  it('gives the same for a click after a long silence, or what its own oscillator makes of it by then', () => {
    if (definition.generates) return
    const seconds = Math.min(2, tail + 0.2)
    const early = struck([newEffect(id, dense, 'e')], 0.02, seconds)
    const late = struck([newEffect(id, dense, 'e')], PAUSE, seconds)
    const energy = (x: Float32Array): number => x.reduce((s, v) => s + v * v, 0)
    const ratio = energy(late) / energy(early)
    if (swings) {
      expect(ratio).toBeGreaterThan(0.02)
      expect(ratio).toBeLessThan(50)
    } else
      for (let i = 0; i < late.length; i++)
        if (Math.abs(late[i]! - early[i]!) > 2e-6)
          throw new Error(`differs at ${i}: ${late[i]} instead of ${early[i]}`)
  })
  it('with its presets answers to a click after seconds of silence', () => {
    // the short form takes every other one
    const presets = (definition.presets ?? []).filter((_, i) => process.env.OLEAJE_LONG || i % 2 === 0)
    for (const preset of presets) {
      const node = effectFrom(id, preset, 'e')
      const early = peak(struck([node], 0.01, 1.2))
      const late = peak(struck([node], SHORT_PAUSE, 1.2))
      expect(late, preset.name).toBeGreaterThan((swings ? 0.02 : 0.5) * early)
    }
  })
})
