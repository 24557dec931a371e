import { describe, expect, it } from 'vitest'
import { apply } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { placeSnapshots } from '@oleaje/core/project/morph'
import { newEffect, newSource } from '@oleaje/core/project/new'
import { presetOfTrack } from '@oleaje/core/project/preset'
import type { Project, Track } from '@oleaje/core/project/schema'
import { takeSnapshot } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import { heardChain } from '@oleaje/core/project/walk'
import { diceKinds } from '@oleaje/core/variation/dice'
import {
  type Variant,
  bred,
  diceVariants,
  differenceInWords,
  morphVariants,
  orderVariants,
  presetVariants,
  snapshotVariants,
  sourceVariants,
} from '@oleaje/core/variation/variants'
import { edited, projectOf } from './project-rig'
import { noise } from './rig'

const { project } = projectOf(noise(1, 3, 0.4), [
  newEffect('filter', { cutoff: 500 }, 'f'),
  newEffect('drive', { drive: 6 }, 'd'),
  newEffect('delay', { time: 0.2 }, 'e'),
])
const made = (v: Variant | undefined, p = project): Project => apply(p, v?.edit ?? (() => {})).next
const first = (p: Project): Track => p.tracks[0] as Track
const order = (p: Project): string =>
  heardChain(first(p))
    .nodes.map((n) => n.id)
    .join('')

describe('variants of a track', () => {
  it('by dice: the first is as it is, the others differ, and the same seed gives the same', () => {
    const list = diceVariants('t', 6, 311, 0.4, diceKinds)
    expect(list).toHaveLength(6)
    expect(made(list[0])).toEqual(project)
    const texts = list.map((v) => JSON.stringify(made(v)))
    expect(new Set(texts).size).toBe(6)
    expect(diceVariants('t', 6, 311, 0.4, diceKinds).map((v) => JSON.stringify(made(v)))).toEqual(texts)
  })

  it('by order: each order once', () => {
    const list = orderVariants(project, 't', 24, 5)
    const orders = list.map((v) => order(made(v)))
    expect(new Set(orders).size).toBe(orders.length)
    expect(orders.length).toBeGreaterThan(3)
    expect(orders[0]).toBe('fde')
  })

  it('by snapshots, by places of a morph, by presets and by sources', () => {
    const kept = edited(
      project,
      takeSnapshot('t', 1, 'Low'),
      setParam('f', 'cutoff', 5000),
      takeSnapshot('t', 2, 'High'),
      addModulator('t', 'morph', { id: 'm', name: 'Tide' }),
      placeSnapshots('m', [
        { snapshot: '1', x: 0, y: 0 },
        { snapshot: '2', x: 1, y: 1 },
      ]),
    )
    const snapshots = snapshotVariants(first(kept))
    expect(snapshots.map((v) => v.name)).toEqual(['As it is', 'Low', 'High'])
    expect(heardChain(first(made(snapshots[1], kept))).nodes[0]?.params.cutoff).toBe(500)
    const places = morphVariants(first(kept), 9)
    expect(places.map((v) => v.name).slice(0, 3)).toEqual([
      'Tide 0 %, 0 %',
      'Tide 50 %, 0 %',
      'Tide 100 %, 0 %',
    ])
    expect(first(made(places[8], kept)).modulators[0]?.params).toMatchObject({ x: 1, y: 1 })
    expect(morphVariants(first(project), 9)).toEqual([])
    const other = presetOfTrack(projectOf(noise(1), [newEffect('reverb', {}, 'r')]).project, 't', 'Quay')
    const presets = presetVariants('t', other ? [other] : [])
    expect(presets[1]?.name).toBe('Quay')
    expect(heardChain(first(made(presets[1]))).nodes.map((n) => n.kind === 'effect' && n.type)).toEqual([
      'reverb',
    ])
    const sources = sourceVariants('t', [
      { name: 'Sine', source: newSource('tone', {}, null, 'other'), audio: {} },
    ])
    expect(first(made(sources[1])).source).toMatchObject({ id: 'src', type: 'tone' })
  })

  it('are bred: the structure of the first, each parameter from one of the parents', () => {
    const a = orderVariants(project, 't', 2, 5)[1]
    const b: Variant = {
      name: 'b',
      edit: (p) =>
        void [setParam('f', 'cutoff', 4000)(p), setParam('d', 'drive', 20)(p), setParam('e', 'time', 0.4)(p)],
    }
    if (!a) throw new Error('There is no other order.')
    const seen = new Set<string>()
    for (let seed = 0; seed < 40; seed++) {
      const child = apply(project, bred(project, 't', a.edit, b.edit, seed)).next
      expect(order(child)).toBe(order(made(a)))
      const of = (id: string, param: string): number | undefined =>
        heardChain(first(child)).nodes.find((n) => n.id === id)?.params[param]
      const values = [of('f', 'cutoff'), of('d', 'drive'), of('e', 'time')]
      expect([500, 4000]).toContain(values[0])
      expect([6, 20]).toContain(values[1])
      expect([0.2, 0.4]).toContain(values[2])
      seen.add(values.join())
    }
    expect(seen.size).toBe(8)
  })

  it('are told apart in words, the largest difference first', () => {
    const next = edited(project, setParam('f', 'cutoff', 8000), setParam('d', 'drive', 7))
    expect(differenceInWords(project, next, 't')).toBe(
      'Filter cutoff 500 Hz → 8.00 kHz · Drive 6.0 dB → 7.0 dB',
    )
    expect(differenceInWords(project, project, 't')).toBe('')
    const linked = edited(
      project,
      addModulator('t', 'lfo', { id: 'l', name: 'Swell' }),
      addLink('l', { owner: 'f', param: 'cutoff' }, -0.1, 0.2, { id: 'k' }),
    )
    const lower = edited(linked, setParam('k', 'from', -0.37))
    expect(differenceInWords(linked, lower, 't')).toBe('Swell on Filter cutoff, minimum −0.566 → −0.37')
    const twice = edited(project, (p) => {
      first(p).a.nodes.push(newEffect('filter', { cutoff: 700 }, 'f2'))
    })
    const second = edited(twice, setParam('f2', 'cutoff', 900))
    expect(differenceInWords(twice, second, 't')).toBe('Filter 2 cutoff 700 Hz → 900 Hz')
    const swapped = made(orderVariants(project, 't', 2, 5)[1])
    expect(differenceInWords(project, swapped, 't')).toMatch(/^order: /)
  })
})
