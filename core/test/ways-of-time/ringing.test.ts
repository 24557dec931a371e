import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newEffect } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { play, projectOf } from '../project-rig'
import { RATE, noise, peak, sine } from '../rig'

describe('what a buffer holds', () => {
  it.each(['varispeed', 'stutter', 'grains', 'delay'])(
    '%s gives it back as it went in, and nothing where there is no buffer',
    (type) => {
      const x = noise(2, 9, 0.4)
      const { engine } = play(projectOf(x, [newEffect(type, {}, 'e'), newEffect('gain', {}, 'g')]), 1.5)
      const held = engine.held('e')!
      expect(held[0].length).toBeGreaterThan(0.9 * RATE)
      // the newest sample is the last of the block that was played last
      const end = Math.ceil((1.5 * RATE) / BLOCK) * BLOCK
      if (type !== 'delay')
        for (let i = 1; i <= 20_000; i++)
          if (held[0][held[0].length - i] !== x[end - i]) throw new Error(`differs ${i} before the end`)
      expect(engine.held('g')).toBeNull()
    },
  )
})

describe('what rings, and what is stale', () => {
  const ringing = (): ChainNode[] => [
    newEffect('delay', { time: 0.4, feedback: 0.9, wet: 0.5 }, 'd'),
    newEffect('taps', { sync: 0, time: 2, feedback: 0.5, wet: 0.5 }, 't1'),
    newEffect('reverb', { decay: 6, wet: 0.4 }, 'r'),
    newEffect('grains', {}, 'g'),
  ]
  it('another project that is loaded while long buffers ring sounds as in a new engine', () => {
    const first = projectOf(noise(4, 3, 0.3), ringing())
    const second = projectOf(sine(311, 4, 0.2), ringing())
    const engine = new Engine({ sampleRate: RATE, audio: first.audio, looping: true })
    const fresh = new Engine({ sampleRate: RATE, audio: first.audio, looping: true })
    const l = new Float32Array(BLOCK),
      r = new Float32Array(BLOCK)
    engine.load(first.project)
    engine.play(0)
    for (let b = 0; b < 400; b++) engine.process(l, r)
    engine.load(second.project)
    engine.play(0, false)
    fresh.load(second.project)
    fresh.play(0, false)
    for (let b = 0; b < 400; b++) {
      engine.process(l, r)
      const before = l.slice()
      fresh.process(l, r)
      for (let i = 0; i < BLOCK; i++)
        if (l[i] !== before[i]) throw new Error(`block ${b}, frame ${i}: ${before[i]} instead of ${l[i]}`)
    }
  })
  it('a start that waits for a fade ends with its project', () => {
    const made = projectOf(noise(4, 3, 0.3), ringing())
    const engine = new Engine({ sampleRate: RATE, audio: made.audio, looping: true })
    const l = new Float32Array(BLOCK),
      r = new Float32Array(BLOCK)
    engine.load(made.project)
    engine.play(0)
    for (let b = 0; b < 100; b++) engine.process(l, r)
    engine.stop()
    for (let b = 0; b < 5; b++) engine.process(l, r)
    engine.play(0)
    engine.process(l, r)
    engine.load(made.project)
    for (let b = 0; b < 20; b++) engine.process(l, r)
    expect(engine.transport.playing).toBe(false)
  })
  it('where the song jumps back, echoes of before go on', () => {
    const x = new Float32Array(4 * RATE)
    x.fill(0.8, Math.round(0.6 * RATE), Math.round(0.6 * RATE) + 40)
    const made = projectOf(x, [newEffect('delay', { time: 0.7, feedback: 0, wet: 1 }, 'd')])
    // two beats of half a second each: the echo at 1.3 s comes 0.3 s after the jump
    const { left } = play(
      { ...made, project: { ...made.project, loop: { on: true, start: 0, end: 2 } } },
      1.6,
      {},
      undefined,
      true,
    )
    expect(peak(left.subarray(Math.round(1.29 * RATE), Math.round(1.32 * RATE)))).toBeGreaterThan(0.2)
  })
  it('a changed tempo moves synced times without a step', () => {
    const made = projectOf(sine(311, 4, 0.3), [
      newEffect('delay', { sync: 1, length: 0.5, feedback: 0.4, wet: 0.5 }, 'd'),
      { ...newEffect('taps', { length: 1, wet: 0.4 }, 't1') },
    ])
    const { left } = play(made, 3, {
      [Math.round((1.5 * RATE) / BLOCK)]: (e) => e.update({ ...made.project, tempo: 131 }),
    })
    let most = 0
    for (let i = RATE; i < left.length; i++) most = Math.max(most, Math.abs(left[i]! - left[i - 1]!))
    expect(most).toBeLessThan(0.06)
  })
})

describe('silence', () => {
  const made = projectOf(noise(8, 3, 0.3), [
    newEffect('reverb', { decay: 8, wet: 0.5 }, 'r'),
    newEffect('delay', { time: 0.4, feedback: 0.9, wet: 0.5 }, 'd'),
  ])
  it('all that rings is let go of with a soft end', () => {
    const { left } = play(
      made,
      3,
      {
        [Math.round((1 * RATE) / BLOCK)]: (e) => e.stop(),
        [Math.round((1.5 * RATE) / BLOCK)]: (e) => e.silenceAll(),
      },
      undefined,
      true,
    )
    expect(peak(left.subarray(Math.round(1.2 * RATE), Math.round(1.4 * RATE)))).toBeGreaterThan(0.01)
    expect(peak(left.subarray(Math.round(1.56 * RATE)))).toBeLessThan(1e-4)
    const at = Math.round(1.5 * RATE)
    const steps = (from: number, to: number): number => {
      let most = 0
      for (let i = from; i < to; i++) most = Math.max(most, Math.abs(left[i]! - left[i - 1]!))
      return most
    }
    expect(steps(at - 200, at + 2000)).toBeLessThan(1.3 * steps(at - 4000, at - 200))
  })
  it('Stop cuts what rings where that is wished, and Play starts clean', () => {
    const { left } = play(
      made,
      2.4,
      {
        [Math.round((1 * RATE) / BLOCK)]: (e) => e.stop(true),
        [Math.round((1.4 * RATE) / BLOCK)]: (e) => e.play(0),
      },
      undefined,
      true,
    )
    expect(peak(left.subarray(Math.round(1.1 * RATE), Math.round(1.39 * RATE)))).toBeLessThan(1e-4)
    const again = play(made, 1, {}, undefined, true).left
    const at = Math.round((1.4 * RATE) / BLOCK) * BLOCK
    for (let i = 0; i < 0.5 * RATE; i++)
      if (Math.abs(left[at + i]! - again[i]!) > 1e-6) throw new Error(`stale at ${i}`)
  })
})
