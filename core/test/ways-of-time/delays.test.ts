import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { setSplitMode } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSplit } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, place, play, projectOf } from '../project-rig'
import { RATE, db, noise, peak, rms, sine, spectrumDb } from '../rig'
import { through } from './time-rig'

describe('Chorus', () => {
  it('equals two Delays in a split whose times are linked to one LFO and its inverse, even in seconds', () => {
    const x = noise(2, 4, 0.3)
    const made = projectOf(x, [
      newEffect(
        'chorus',
        {
          voices: 2,
          time: 0.0113,
          by: 1,
          reach: 0.0037,
          rate: 0.9,
          spread: 0,
          stereo: 0,
          feedback: 0,
          lowCut: 20,
        },
        'c',
      ),
    ])
    const whole = play(made, 2).left
    const branches = ['a', 'b'].map((n) => {
      const b = newBranch(n, -3.0103, `b${n}`)
      b.nodes = [newEffect('delay', { time: 0.0113, feedback: 0, lowCut: 20, highCut: 20_000 }, `d${n}`)]
      return b
    })
    const parts = projectOf(x, [newSplit(branches, 's')])
    let p = edited(
      parts.project,
      together(setSplitMode('s', 'copies'), addModulator('t', 'lfo', { id: 'l', params: { rate: 0.9 } })),
    )
    const at = (v: number): number => place(p, 'da', 'time', v)
    p = edited(
      p,
      addLink('l', { owner: 'da', param: 'time' }, at(0.0113 - 0.0037), at(0.0113 + 0.0037), {
        id: 'ka',
        mode: 'fixed',
      }),
      addLink('l', { owner: 'db', param: 'time' }, at(0.0113 + 0.0037), at(0.0113 - 0.0037), {
        id: 'kb',
        mode: 'fixed',
      }),
    )
    const residue = (q: Project): number => {
      const made = play({ ...parts, project: q }, 2).left
      return db(
        rms(made.subarray(RATE / 2).map((v, i) => v - whole[RATE / 2 + i]!)) / rms(whole.subarray(RATE / 2)),
      )
    }
    expect(
      residue(edited(p, updateLink('ka', { law: 'unit' }), updateLink('kb', { law: 'unit' }))),
    ).toBeLessThan(-60)
    // on the gauge's own scale, the swing is not even in seconds
    expect(residue(p)).toBeGreaterThan(-30)
  })
})

describe('Delay', () => {
  it('frozen, loses nothing', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 12
    const x = new Float32Array(Math.round(3 * RATE))
    x.set(noise(0.3, 6, 0.4), 0.2 * RATE)
    const made = projectOf(x, [
      newEffect('delay', { time: 0.4131, feedback: 0.7, saturation: 6, wet: 1 }, 'd'),
    ])
    const engine = new Engine({ sampleRate: RATE, audio: made.audio, looping: true })
    engine.load(made.project)
    engine.play(0)
    const l = new Float32Array(BLOCK),
      r = new Float32Array(BLOCK)
    const blocks = Math.round((seconds * RATE) / BLOCK)
    const round = Math.round(0.4131 * RATE)
    const out = new Float32Array(blocks * BLOCK)
    for (let b = 0; b < blocks; b++) {
      if (b === Math.round((0.9 * RATE) / BLOCK))
        engine.update(edited(made.project, setParam('d', 'freeze', 1)))
      engine.process(l, r)
      out.set(engine.mix.left, b * BLOCK)
    }
    const from = 2 * RATE
    const rounds = Math.floor((out.length - from) / round) - 1
    expect(peak(out.subarray(from, from + round))).toBeGreaterThan(0.01)
    for (let i = 0; i < round; i++)
      if (out[from + i] !== out[from + rounds * round + i]) throw new Error(`sample ${i} has changed`)
  })
  it('with pitch in the loop, echo k is k times as far', () => {
    const x = new Float32Array(4 * RATE)
    x.set(sine(220, 0.3, 0.5).map((v, i) => v * Math.min(1, i / 480) * Math.min(1, (14_400 - i) / 480)))
    const { left } = through(
      x,
      [newEffect('delay', { time: 0.5, feedback: 0.9, pitch: 7, wet: 1, lowCut: 20, highCut: 20_000 }, 'd')],
      2.6,
    )
    for (const k of [1, 2, 3, 4]) {
      const hz = 220 * 2 ** ((7 * k) / 12)
      const stretch = left.subarray(Math.round((0.5 * k + 0.08) * RATE), Math.round((0.5 * k + 0.25) * RATE))
      const s = spectrumDb(stretch.subarray(0, 4096))
      const best = (s.reduce((m, v, i) => (v > s[m]! ? i : m), 0) * RATE) / 4096
      expect(Math.abs(best - hz)).toBeLessThan(9)
    }
  })
  it('gives as many repeats as are asked for', () => {
    const x = new Float32Array(4 * RATE)
    x.set(noise(0.05, 2, 0.5))
    const { left } = through(
      x,
      [newEffect('delay', { time: 0.3, feedback: 0.95, repeats: 3, wet: 1 }, 'd')],
      3,
    )
    const heard = (k: number): number =>
      db(peak(left.subarray(Math.round((0.3 * k - 0.02) * RATE), Math.round((0.3 * k + 0.1) * RATE))))
    for (const k of [1, 2, 3]) expect(heard(k)).toBeGreaterThan(-20)
    expect(heard(4)).toBeLessThan(-40)
  })
  it('steps back while the input sounds and comes forward again', () => {
    const x = new Float32Array(3 * RATE)
    x.set(noise(1, 3, 0.5))
    const plain = through(x, [newEffect('delay', { time: 0.25, feedback: 0.9, wet: 1 }, 'd')], 3).left
    const ducked = through(
      x,
      [newEffect('delay', { time: 0.25, feedback: 0.9, wet: 1, duck: 20, release: 0.1 }, 'd')],
      3,
    ).left
    const ratio = (from: number): number =>
      db(
        rms(ducked.subarray(from * RATE, (from + 0.3) * RATE)) /
          rms(plain.subarray(from * RATE, (from + 0.3) * RATE)),
      )
    expect(ratio(0.6)).toBeCloseTo(-20, 0)
    expect(ratio(2)).toBeGreaterThan(-0.5)
  })
  it('with trails rings on when it is switched off, and takes nothing in', () => {
    const x = new Float32Array(4 * RATE)
    x.set(noise(0.1, 3, 0.5))
    x.set(noise(0.1, 8, 0.5), 1.2 * RATE)
    const ring = (trails: number): Float32Array => {
      const made = projectOf(x, [newEffect('delay', { time: 0.25, feedback: 0.8, wet: 0.5, trails }, 'd')])
      return play(made, 2.5, {
        [Math.round((0.31 * RATE) / BLOCK)]: (e) => e.update(edited(made.project, setParam('d', 'on', 0))),
      }).left
    }
    const on = ring(1),
      off = ring(0)
    const at = (y: Float32Array, s: number): number =>
      peak(y.subarray(Math.round(s * RATE), Math.round((s + 0.11) * RATE)))
    expect(at(on, 0.5)).toBeGreaterThan(0.05)
    expect(at(off, 0.5)).toBeLessThan(1e-4)
    // what comes later is dry and alone
    expect(at(on, 1.2)).toBeGreaterThan(0.4)
    expect(at(on, 1.45)).toBeLessThan(2 * 0.5 * 0.8 ** 4 * 0.5)
  })
})

describe('Ping-pong', () => {
  it('plays the echoes of a sound in the middle on the left and on the right in turn', () => {
    const x = new Float32Array(3 * RATE)
    x.set(sine(311, 0.1, 0.4), 1000)
    const params = { time: 0.37, feedback: 0.8, pingPong: 1, wet: 1 }
    const { left, right } = through(x, [newEffect('delay', params, 'd')], 2.5)
    for (const k of [1, 2, 3, 4]) {
      const from = 1000 + Math.round((k * 0.37 + 0.03) * RATE)
      const sides = [left, right].map((s) => db(rms(s.subarray(from, from + Math.round(0.04 * RATE)))))
      expect(sides[1 - (k % 2)]! - sides[k % 2]!).toBeGreaterThan(60)
    }
  })
})

describe('Taps', () => {
  it('stand where their law says', () => {
    const x = new Float32Array(2 * RATE)
    x[100] = 0.5
    for (const [law, bend] of [
      [0, 0],
      [1, 0.7],
      [2, 0.7],
    ] as const) {
      const { left } = through(
        x,
        [
          {
            ...newEffect('taps', { sync: 0, time: 1, law, bend }, 'a'),
            lanes: { taps: Array.from({ length: 5 }, () => ({ level: 0 })) },
          },
        ],
        1.5,
      )
      const times = [...left.keys()].filter((i) => left[i]! > 0.2).map((i) => (i - 100) / RATE)
      const expected = [1, 2, 3, 4, 5].map((k) =>
        law === 0 ? k / 5 : law === 1 ? 1 - (1 - k / 5) ** 2.4 : (k / 5) ** 2.4,
      )
      expected.forEach((t) =>
        expect(
          times.some((s) => Math.abs(s - t) < 0.0002),
          `${law}: ${t} of ${times}`,
        ).toBe(true),
      )
    }
  })
  it('a cloud with feedback of 95 % stays bounded', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 8
    const preset = newEffect('taps', { sync: 0, time: 0.9, feedback: 0.95 }, 'a')
    const lanes = {
      taps: Array.from({ length: 24 }, (_, k) => ({
        level: 6,
        filter: 2,
        cutoff: 300 + 211 * k,
        resonance: 0.9,
        comb: 0.9,
        note: 40 + k,
        pan: k % 2 ? 1 : -1,
      })),
    }
    let most = 0
    play(projectOf(noise(4, 3, 0.5), [{ ...preset, lanes }]), seconds, {}, (e) => {
      most = Math.max(most, peak(e.mix.left))
    })
    expect(most).toBeLessThan(60)
    expect(Number.isFinite(most)).toBe(true)
  })
})
