import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import { BLOCK } from '@oleaje/core/contract/block'
import { modulators } from '@oleaje/core/modulators/index'
import { sources } from '@oleaje/core/sources/index'
import { effectRig, modulatorRig, noise, peak, RATE, shake, sourceRig } from './rig'

const bounded = (x: Float32Array): boolean => x.every((v) => Number.isFinite(v) && Math.abs(v) < 1e4)

describe.each(effects.map((d) => [d.id, d] as const))('contract of %s', (id, definition) => {
  it('stays finite at the ends of all its parameters', () => {
    for (const end of ['min', 'max'] as const) {
      const values = Object.fromEntries(Object.entries(definition.params).map(([k, s]) => [k, s[end]]))
      expect(bounded(effectRig(id, values).run(noise(0.5)).left)).toBe(true)
    }
  })
  it('stays finite while all its parameters move at audio rate', () => {
    const r = effectRig(id)
    const x = noise(1)
    const out = r.run(x, x, (at) => shake(r.params, at))
    expect(bounded(out.left) && bounded(out.right)).toBe(true)
  })
  it('is silent within its tail once its input is', () => {
    if (definition.generates) return
    const r = effectRig(id)
    const tail =
      definition.tail?.(
        Object.fromEntries(Object.entries(definition.params).map(([k, s]) => [k, s.default])) as never,
        2,
      ) ?? 0
    const x = new Float32Array(Math.round((0.5 + tail + 0.2) * RATE))
    x.set(noise(0.5))
    const { left } = r.run(x)
    const loud = peak(left.slice(0, RATE / 2))
    expect(peak(left.slice(Math.round((0.5 + tail + 0.1) * RATE), x.length))).toBeLessThan(
      Math.max(1e-6, loud * 0.002),
    )
    const silent = effectRig(id)
    expect(peak(silent.run(new Float32Array(RATE / 4)).left)).toBe(0)
  })
  it('reset brings the same output again, to the bit', () => {
    const r = effectRig(id)
    const x = noise(0.3)
    const first = r.run(x)
    r.processor.reset()
    const second = r.run(x)
    expect(second).toEqual(first)
  })
  it('has the latency that it declares', () => {
    const values = {
      feedback: 0,
      wet: 1,
      drive: 0,
      threshold: 0,
      ratio: 1,
      ahead: 3,
      predelay: 0,
      bits: 16,
      rate: 48_000,
      folds: 8,
      depth: 0,
      flutter: 0,
      pitch: 0,
      ...(id === 'gate' ? { threshold: -72, attack: 0.0001 } : {}),
    }
    const latency = definition.latency?.(RATE, values) ?? 0
    if (definition.spreads) return expect(latency).toBe(0)
    const x = new Float32Array(4096)
    x[100] = 0.01
    const { left } = effectRig(id, values).run(x)
    const at = left.reduce((best, v, i) => (Math.abs(v) > Math.abs(left[best]!) ? i : best), 0)
    expect(Math.abs(at - 100 - latency)).toBeLessThanOrEqual(definition.group === 'filter' ? 12 : 0)
  })
})

describe.each(modulators.map((d) => [d.id, d] as const))('contract of modulator %s', (id, definition) => {
  function run(shaken: boolean, blocks: number): Float64Array[] {
    const r = modulatorRig(id)
    const x = noise((blocks * BLOCK) / RATE + 0.01)
    const all = definition.outputs.map(() => new Float64Array(blocks * BLOCK))
    for (let b = 0; b < blocks; b++) {
      for (let i = 0; i < BLOCK; i++) {
        r.io.side.left[i] = r.io.side.right[i] = x[b * BLOCK + i]!
        for (const input of r.io.inputs) input!.buffer[i] = 0.5 + 0.5 * Math.sin((b * BLOCK + i) / 300)
      }
      for (const input of r.io.inputs) input!.move()
      // a note begins in one block and ends in another
      r.io.notes.count = b % 5 < 2 ? 1 : 0
      r.io.notes.frame[0] = 17
      r.io.notes.begins[0] = b % 5 === 0 ? 1 : 0
      r.io.notes.pitch[0] = 40 + (b % 60)
      r.io.notes.velocity[0] = 0.7
      if (shaken) shake(r.params, b * BLOCK)
      r.block()
      r.io.outputs.forEach((out, k) => all[k]!.set(out.values(), b * BLOCK))
    }
    return all
  }
  it('stays within 0 and 1, whatever moves', () => {
    for (const shaken of [false, true])
      for (const out of run(shaken, 400))
        for (const v of out) if (!(v >= -1e-9 && v <= 1 + 1e-9)) throw new Error(`${v} is outside`)
  })
  it('gives the same again, to the bit', () => expect(run(true, 60)).toEqual(run(true, 60)))
})

describe.each(sources.map((d) => [d.id, d] as const))('contract of source %s', (_id, definition) => {
  it('stays finite whatever moves, and is silent while the transport stands', () => {
    const rig = sourceRig(definition, {}, { channels: [noise(1)], sounds: [[noise(0.3)]] })
    for (let b = 0; b < 300; b++) {
      rig.song.playing = b < 200
      if (b < 150) shake(rig.params, b * BLOCK)
      else if (b === 150) for (const state of rig.params.all) state.block.hold(state.block.value)
      const { left } = rig.run(1, () => {
        if (b % 7 === 0 && b < 150) rig.note(36 + (b % 24), 0.8, b % 100)
        if (b % 7 === 4 || b === 200) for (let n = 36; n < 60; n++) rig.note(n, 0)
      })
      expect(bounded(left)).toBe(true)
    }
    const { out } = rig.io
    if (definition.notes) rig.run(8000)
    expect(peak(out.left)).toBeLessThan(1e-4)
  })
})
