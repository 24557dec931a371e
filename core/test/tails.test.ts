import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import {
  newBranch,
  newEffect,
  newGroup,
  newLink,
  newLoopBack,
  newModulator,
  newSource,
  newSplit,
} from '@oleaje/core/project/new'
import { targetAt } from '@oleaje/core/project/param-path'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { planRender, render } from '@oleaje/core/render/render'
import { tailOf } from '@oleaje/core/render/tail'
import { RATE, db, noise, peak } from './rig'
import { projectOf } from './project-rig'

function rendered(project: Project, sound: Float32Array, options: Parameters<typeof planRender>[1]) {
  const plan = planRender(project, options)
  const left = new Float32Array(plan.frames)
  let at = 0
  for (const { channels, done } of render(plan, () => ({ sampleRate: RATE, channels: [sound] }))) {
    left.set(channels[0].subarray(0, done - at), at)
    at = done
  }
  return { left, plan }
}

const same = (a: Float32Array, b: Float32Array): boolean =>
  a.length === b.length && a.every((x, i) => x === b[i])

describe('nothing of what would follow the range is heard in its tail', () => {
  const to = 0.73
  const frames = Math.round(to * RATE)
  const chains: Record<string, () => ChainNode[]> = {
    'nothing': () => [],
    'a Stutter': () => [newEffect('stutter', { by: 0 })],
    'a Delay behind look-ahead': () => [
      newEffect('compressor', { ahead: 3 }),
      newEffect('delay', { feedback: 0.6 }),
    ],
    'a loop-back': () => [newLoopBack([])],
  }
  for (const [name, chain] of Object.entries(chains))
    for (const params of [{}, { play: 1, tempo: 91 }])
      it(`a loop ${JSON.stringify(params)} through ${name}`, () => {
        const quiet = noise(0.37, 3, 0.2)
        // what comes after the range is loud in one sound and nothing in the other
        const whole = Float32Array.from({ length: 3 * RATE }, (_, i) =>
          i < frames * 1.3 ? (quiet[i % quiet.length] ?? 0) : 0,
        )
        const make = (sound: Float32Array) => {
          const { project } = projectOf(sound, chain())
          project.tempo = 104
          Object.assign(project.tracks[0]!.source!.params, params)
          return rendered(project, sound, { from: 0, to, tail: 1.1 }).left
        }
        const loud = whole.slice()
        const speed = 'play' in params && params.play === 1 ? 104 / params.tempo : 1
        for (let i = Math.ceil(frames * speed) + 48; i < loud.length - 64; i++)
          loud[i] = i % 2 === 0 ? 0.99 : -0.99
        expect(
          same(make(loud), make(whole.map((x, i) => (i < Math.ceil(frames * speed) + 48 ? x : 0)))),
        ).toBe(true)
      })
  it('notes that would begin with its end do not', () => {
    const make = (late: boolean) => {
      const { project } = projectOf(noise(0.1), [newEffect('reverb', {}, 'r')])
      const track = project.tracks[0]!
      track.source = newSource('played', { plays: 2, release: 0.3 }, null, 'src')
      const beat = (frames / RATE) * 2
      const note = { start: 0.1, length: 0.3, pitch: 57, velocity: 0.8 }
      track.line = {
        length: 0,
        notes: late ? [note, { ...note, start: beat }] : [note],
        bend: [],
        pressure: [],
      }
      return rendered(project, noise(0.1), { from: 0, to, tail: 1 }).left
    }
    expect(same(make(true), make(false))).toBe(true)
  })
})

describe('the tail of a render', () => {
  it('a loop-back of 1 s at 0.9 rings for two minutes, not for nothing', () => {
    const { project } = projectOf(noise(0.2), [
      { ...newLoopBack([]), params: { ...newLoopBack([]).params, sync: 0, time: 1, feedback: 0.9 } },
    ])
    expect(tailOf(project)).toBeGreaterThan(130)
    expect(tailOf(project)).toBeLessThan(140)
  })
  it('a loop-back counts what an effect in it does to beginnings, and how late it comes', () => {
    const around = (inside: ChainNode): ChainNode => ({
      ...newLoopBack([inside]),
      params: { ...newLoopBack([]).params, feedback: 0.4 },
    })
    const ends = (inside: ChainNode): number => tailOf(projectOf(noise(0.2), [around(inside)]).project)
    // 9 dB more at each beginning make it more than it was
    expect(ends(newEffect('transient', { attack: 9 }))).toBe(Infinity)
    // fourteen rounds of a beat, and then of a beat and 1.4 s
    const alone = ends(newEffect('gain'))
    const late = ends(newEffect('delay', { sync: 0, time: 1.37, feedback: 0, wet: 1 }))
    expect(late / alone).toBeGreaterThan(2.5)
  })
  it('measures each of many nested loop-backs once', () => {
    // measured twice at each level, the innermost one would be measured 4,096 times
    let nodes: ChainNode[] = [newEffect('gain')]
    for (let depth = 0; depth < 12; depth++)
      nodes = [{ ...newLoopBack(nodes), params: { ...newLoopBack([]).params, feedback: 0.03 } }]
    const tail = tailOf(projectOf(noise(0.2), nodes).project)
    expect(tail).toBeGreaterThan(12 * 0.5)
    expect(tail).toBeLessThan(Infinity)
  })
  it('a release of 3 s is heard to its end', () => {
    const { project } = projectOf(noise(0.2), [])
    project.tracks[0]!.source = newSource('played', { plays: 1, release: 3 }, null, 'src')
    expect(tailOf(project)).toBeGreaterThan(3)
    expect(tailOf(project)).toBeLessThan(3.2)
  })
  it('takes the longest of parallel branches', () => {
    const delay = (time: number): ChainNode => newEffect('delay', { sync: 0, time, feedback: 0 })
    const one = tailOf(projectOf(noise(0.2), [delay(1.7)]).project)
    const branch = (time: number) => ({ ...newBranch('b'), nodes: [delay(time)] })
    expect(
      tailOf(projectOf(noise(0.2), [newSplit([branch(1.7), branch(1.1), branch(0.4)])]).project),
    ).toBeCloseTo(one, 6)
  })
  it('counts how far links reach', () => {
    const { project } = projectOf(noise(0.2), [
      newEffect('delay', { sync: 0, time: 0.2, feedback: 0.1 }, 'd'),
    ])
    const before = tailOf(project)
    project.tracks[0]!.modulators = [newModulator('lfo', 'LFO', 'L', 0, {}, 'm')]
    project.links = [{ ...newLink('m', 'lfo', targetAt('d', 'feedback'), 0, 1), mode: 'fixed' }]
    expect(tailOf(project)).toBeGreaterThan(4 * before)
  })

  const count = process.env.OLEAJE_LONG ? 300 : 14
  it(`ends ${count} random chains below −120 dBFS, or is said to be endless`, () => {
    const usual = effects.filter((d) => !d.generates && !d.sound)
    const effect = fc.integer({ min: 0, max: usual.length - 1 }).map((k): ChainNode => {
      const { id, presets } = usual[k]!
      const preset = presets?.[k % (presets.length || 1)]
      return {
        ...newEffect(id, preset?.params),
        ...(preset?.lanes && { lanes: structuredClone(preset.lanes) as never }),
      }
    })
    const chain: fc.Arbitrary<ChainNode[]> = fc.array(
      fc.oneof(
        { weight: 5, arbitrary: effect },
        fc
          .array(effect, { maxLength: 2 })
          .map((nodes) => newSplit([{ ...newBranch('a'), nodes }, newBranch('b')])),
        fc
          .array(effect, { maxLength: 1 })
          .map((nodes) => ({ ...newLoopBack(nodes), params: { ...newLoopBack([]).params, feedback: 0.4 } })),
        fc.array(effect, { maxLength: 2 }).map((nodes) => newGroup('g', nodes)),
      ),
      { minLength: 1, maxLength: 3 },
    )
    fc.assert(
      fc.property(chain, (nodes) => {
        const sound = noise(0.37, 9, 0.5)
        const { project } = projectOf(sound, nodes)
        const tail = tailOf(project)
        if (tail > 12) return
        const { left } = rendered(project, sound, { from: 0, to: 0.31, tail: tail + 0.1 })
        expect(db(peak(left.subarray(-Math.round(0.09 * RATE)))), JSON.stringify([tail, nodes])).toBeLessThan(
          -120,
        )
      }),
      { numRuns: count, seed: 20 },
    )
  })
})
