import { describe, expect, it } from 'vitest'
import { modulators } from '@oleaje/core/modulators/index'
import { fromNormalized } from '@oleaje/core/units/scale'
import { newModulator } from '@oleaje/core/project/new'
import type { Modulator } from '@oleaje/core/project/schema'
import { BLOCK } from '@oleaje/core/contract/block'
import { modulatorRig, noise, RATE } from './rig'

/** The parameters of a modulator that do something as it is set. */
function gaugesOf(m: Modulator): string[] {
  const definition = modulators.find((d) => d.id === m.type)
  const value = (k: string): number => m.params[k] ?? definition?.params[k]?.default ?? 0
  return Object.keys(definition?.params ?? {}).filter((k) => definition?.applies?.(k, value) ?? true)
}

/**
 * What a modulator gives in two seconds of a noisy track with some notes, all its outputs after each other.
 */
function heard(type: string, params: Record<string, number>): number[] {
  const rig = modulatorRig(type, params, { seed: 7 })
  const sound = noise(2.1, 5, 0.5)
  const all: number[] = []
  for (let at = 0; at < 2 * RATE; at += BLOCK) {
    rig.io.side.left.set(sound.subarray(at, at + BLOCK))
    rig.io.side.right.set(sound.subarray(at, at + BLOCK))
    for (const [k, input] of rig.io.inputs.entries()) {
      for (let i = 0; i < BLOCK; i++)
        if (input) input.buffer[i] = 0.5 + 0.5 * Math.sin(((at + i) * (k + 1)) / 5000)
      input?.move()
    }
    const { notes } = rig.io
    notes.count = at % (60 * BLOCK) === 0 ? 1 : 0
    notes.frame[0] = 17
    notes.begins[0] = at % (120 * BLOCK) === 0 ? 1 : 0
    notes.pitch[0] = 57
    notes.velocity[0] = notes.begins[0] ? 0.7 : 0
    rig.block()
    for (const out of rig.io.outputs) all.push(out.values()[3]!, out.values()[90]!)
  }
  return all
}

describe('the gauges of a modulator', () => {
  const of = (type: string, params: Record<string, number> = {}): string[] =>
    gaugesOf(newModulator(type, 'tide', 'a', 0, params))

  it('are those that do something as it is set', () => {
    expect(of('lfo', { sync: 0 })).toContain('rate')
    expect(of('lfo', { sync: 1 })).not.toContain('rate')
    expect(of('lfo', { sync: 1 })).toContain('length')
    expect(of('drift', { kind: 2 })).toEqual(expect.arrayContaining(['density', 'back']))
  })

  // for each kind, as it comes and by each of its choices and switches
  const ways = modulators.flatMap((d) =>
    [
      {},
      ...Object.entries(d.params).flatMap(([name, spec]) =>
        spec.unit === 'choice' || spec.unit === 'toggle'
          ? Array.from({ length: spec.max + 1 }, (_, k): Record<string, number> => ({ [name]: k }))
          : [],
      ),
    ].map((params) => [d.id, params] as const),
  )
  it.each(
    ways.filter(
      ([type, params]) =>
        of(type, params).length < Object.keys(modulators.find((d) => d.id === type)?.params ?? {}).length,
    ),
  )('hide nothing that is heard: %s %j', (type, params) => {
    const definition = modulators.find((d) => d.id === type)!
    const shown = of(type, params)
    const wanted = heard(type, params)
    for (const [name, spec] of Object.entries(definition.params)) {
      if (shown.includes(name)) continue
      const other = spec.unit === 'choice' || spec.unit === 'toggle' ? spec.max : fromNormalized(spec, 0.83)
      expect(heard(type, { ...params, [name]: other }), name).toEqual(wanted)
    }
  })
})
