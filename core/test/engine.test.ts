import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { OVERSAMPLER_LATENCY } from '@oleaje/core/dsp/oversampler'
import { addNode, hear, moveNode, removeNode, shiftNode } from '@oleaje/core/project/chain-edits'
import { apply, type Edit } from '@oleaje/core/project/edit'
import { addLink, addModulator, setLinkMode } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { edited, live, place, play, projectOf } from './project-rig'
import { RATE, db, noise, peak, rms, sine, spectrumDb, toneAt } from './rig'

describe('paths line up', () => {
  const drive = (): ChainNode => newEffect('drive', { drive: 0, output: 0, wet: 0 }, 'd')

  it('everything off passes the input bit for bit, after the latency that is declared', () => {
    const x = noise(1)
    const y = noise(1, 9)
    const off = ['filter', 'drive', 'compressor', 'delay', 'reverb', 'gain'].map((t) =>
      newEffect(t, { on: 0 }, t),
    )
    const { left, right, engine } = play(projectOf(x, off, y), 0.9)
    expect(engine.latency).toBe(OVERSAMPLER_LATENCY.short)
    const n = 40_000
    expect(left.slice(engine.latency, engine.latency + n)).toEqual(x.slice(0, n))
    expect(right.slice(engine.latency, engine.latency + n)).toEqual(y.slice(0, n))
  })
  it('a split of copies with latency in one branch nulls below −140 dB', () => {
    const x = noise(1)
    const a = newBranch('a', 0, 'a')
    a.nodes = [drive()]
    const b = newBranch('b', 0, 'b')
    b.params.polarity = -1
    const { left } = play(projectOf(x, [newSplit([a, b], 's')]), 0.9)
    expect(db(peak(left))).toBeLessThan(-140)
  })
  it('tracks line up with each other, and a break of it would show', () => {
    const x = noise(1)
    const p = projectOf(x, [drive()])
    const second = newTrack('u', newSource('loop', {}, 'x', 'src2'), 'u')
    second.a.nodes = [newEffect('gain', { mode: 1, factor: -1 }, 'g')]
    p.project.tracks.splice(1, 0, second)
    expect(db(peak(play(p, 0.9).left))).toBeLessThan(-140)
    const { left } = play(p, 0.9, { 0: (e) => e.arm(true) })
    expect(db(peak(left))).toBeGreaterThan(-20)
  })
  it('mid/side and left/right splits add up to what went in', () => {
    for (const mode of ['mid-side', 'left-right'] as const) {
      const split = { ...newSplit([newBranch('1', 0, 'b1'), newBranch('2', 0, 'b2')], 's'), mode }
      const x = noise(1)
      const y = noise(1, 5)
      const { left, right } = play(projectOf(x, [split], y), 0.5)
      expect(peak(left.slice(0, 20_000).map((v, i) => v - x[i]!))).toBeLessThan(1e-6)
      expect(peak(right.slice(0, 20_000).map((v, i) => v - y[i]!))).toBeLessThan(1e-6)
    }
  })
})

describe('links', () => {
  it('an LFO at 440 Hz on a gain gives exactly the sidebands of theory', () => {
    const p = projectOf(sine(5000, 3, 0.25), [newEffect('gain', { mode: 1, factor: 1 }, 'g')])
    p.project = [
      addModulator('t', 'lfo', { id: 'l', params: { rate: 440 } }),
      addLink(
        'l',
        { owner: 'g', param: 'factor' },
        place(p.project, 'g', 'factor', 0.5),
        place(p.project, 'g', 'factor', 1.5),
        {
          mode: 'fixed',
        },
      ),
    ].reduce((q, e) => apply(q, e as Edit).next, p.project)
    const { left } = play(p, 2)
    const s = left.slice(4800, 4800 + 65_536)
    const span = left.slice(4800, 4800 + 48_000)
    expect(db(toneAt(span, 5000).amplitude / 0.25)).toBeCloseTo(0, 1)
    for (const side of [4560, 5440]) expect(db(toneAt(span, side).amplitude / 0.25)).toBeCloseTo(db(0.25), 1)
    const spectrum = spectrumDb(s)
    let other = -300
    spectrum.forEach((v, i) => {
      if ([4560, 5000, 5440].every((f) => Math.abs(i - (f * 65_536) / RATE) > 8)) other = Math.max(other, v)
    })
    expect(other - db(0.25)).toBeLessThan(-90)
  })
  it('floating ranges travel with the base, fixed ones stay', () => {
    const build = (mode: 'floating' | 'fixed'): Project => {
      const { project } = projectOf(noise(0.1), [newEffect('filter', { cutoff: 1000 }, 'f')])
      const at = place(project, 'f', 'cutoff', 1000)
      return [
        addModulator('t', 'macro', { id: 'm', params: { value: 1 } }),
        addLink('m', { owner: 'f', param: 'cutoff' }, at - 0.1, at + 0.1, { id: 'k' }),
        setLinkMode('k', mode),
        setParam('f', 'cutoff', 4000),
      ].reduce((q, e) => apply(q, e as Edit).next, project)
    }
    const liveEnd = (project: Project): number => {
      const engine = new Engine({ sampleRate: RATE, audio: () => null })
      engine.load(project)
      engine.play(0)
      const a = new Float32Array(BLOCK)
      engine.process(a, new Float32Array(BLOCK))
      const slot = new Map(engine.slots.since(0)).get('live:f.cutoff')!
      return engine.telemetry.values[slot]!
    }
    const { project } = projectOf(noise(0.1), [newEffect('filter', {}, 'f')])
    expect(liveEnd(build('floating'))).toBeCloseTo(place(project, 'f', 'cutoff', 4000) + 0.1, 5)
    expect(liveEnd(build('fixed'))).toBeCloseTo(place(project, 'f', 'cutoff', 1000) + 0.1, 5)
  })
  it('a follower on another track ducks by the range that was typed, in time with the sound', () => {
    const burst = new Float32Array(RATE * 2)
    burst.fill(1, RATE / 2, RATE)
    const p = projectOf(new Float32Array(RATE * 2).fill(0.5), [newEffect('gain', {}, 'g')])
    const kit = newTrack('kit', newSource('loop', {}, 'k', 'ksrc'), 'kit')
    kit.params.mute = 1
    p.project.tracks.unshift(kit)
    p.project.audio.k = p.project.audio.x!
    const flat = p.audio().channels[0]!
    const audio = (hash?: string) => ({ sampleRate: RATE, channels: [hash === 'k' ? burst : flat] })
    p.project = [
      addModulator('t', 'follower', {
        id: 'f',
        params: { attack: 0.02, release: 0.1, sensitivity: 0 },
        listens: { track: 'kit', point: 'before' },
      }),
      addLink(
        'f',
        { owner: 'g', param: 'level' },
        place(p.project, 'g', 'level', 0),
        place(p.project, 'g', 'level', -12),
      ),
    ].reduce((q, e) => apply(q, e as Edit).next, p.project)
    const { left } = play({ project: p.project, audio: audio as never }, 2)
    expect(db(left[RATE - 10]! / 0.5)).toBeCloseTo(-12, 1)
    const time = (from: number, wanted: number): number => {
      let i = from
      const rising = db(left[from]! / 0.5) < wanted
      while (i < left.length && db(left[i]! / 0.5) < wanted === rising) i++
      return (i - from) / RATE
    }
    expect(Math.abs(time(RATE / 2, -12 * (1 - Math.exp(-1))) / 0.02 - 1)).toBeLessThan(0.05)
    expect(Math.abs(time(RATE, -12 * Math.exp(-1)) / 0.1 - 1)).toBeLessThan(0.05)
  })
  it('modulators may go round in a circle: one block late, and said so', () => {
    const { project } = projectOf(noise(0.1), [newEffect('gain', {}, 'g')])
    const p = [
      addModulator('t', 'lfo', { id: 'a' }),
      addModulator('t', 'lfo', { id: 'b' }),
      addLink('a', { owner: 'b', param: 'rate' }, 0.2, 0.6, { id: 'ab' }),
      addLink('b', { owner: 'a', param: 'rate' }, 0.2, 0.6, { id: 'ba' }),
    ].reduce((q, e) => apply(q, e as Edit).next, project)
    const engine = new Engine({ sampleRate: RATE, audio: () => null })
    engine.load(p)
    expect(engine.feedbackEdges).toHaveLength(1)
    engine.play(0)
    const left = new Float32Array(BLOCK)
    for (let i = 0; i < 500; i++) engine.process(left, new Float32Array(BLOCK))
    expect(left.every(Number.isFinite)).toBe(true)
  })
})

describe('edits while it plays', () => {
  const nodes = (): ChainNode[] => [
    newEffect('filter', { cutoff: 700, resonance: 1 }, 'f'),
    newEffect('gain', { level: -3 }, 'g'),
    newEffect('delay', { time: 0.05, wet: 0.3 }, 'dl'),
  ]
  const edits: [string, Edit][] = [
    ['add', addNode(newEffect('reverb', { wet: 0.5 }, 'new'), { after: 'g' })],
    ['add with latency', addNode(newEffect('drive', {}, 'new'), { after: 'f' })],
    ['remove', removeNode('f')],
    ['move', shiftNode('f', 1)],
    ['move away', moveNode('dl', { startOf: 't' })],
    ['switch off', setParam('f', 'on', 0)],
    ['change a choice', setParam('f', 'slope', 1)],
    ['change a value', setParam('g', 'level', -20)],
    ['mute', setParam('t', 'mute', 1)],
    [
      'the other state',
      (p) => {
        hear('t', 'b')(p)
        removeNode('g')(p)
      },
    ],
  ]
  const step = (x: Float32Array, from: number, to: number): number => {
    let most = 0
    for (let i = from + 1; i < to; i++) most = Math.max(most, Math.abs(x[i]! - x[i - 1]!))
    return most
  }
  it.each(edits)('%s and undo: no jump beyond what the signal has by more than −60 dBFS', (_name, edit) => {
    const p = projectOf(sine(220, 4, 0.25), nodes())
    const change = apply(p.project, edit)
    const calm = play(p, 1.6).left
    const after = play({ ...p, project: change.next }, 1.6).left
    const edited = play(p, 1.6, { 260: (e) => e.update(change.next), 400: (e) => e.update(p.project) }).left
    const own = Math.max(step(calm, 20_000, calm.length), step(after, 20_000, after.length))
    expect(step(edited, 20_000, edited.length) - own).toBeLessThan(0.001)
    // and it did change
    expect(peak(edited.slice(33_280, 50_000).map((v, i) => v - calm[33_280 + i]!))).toBeGreaterThan(0.0002)
  })
})

describe('guard', () => {
  it('cuts and restarts an effect that gives no numbers; the rest plays on', () => {
    const p = projectOf(sine(220, 4, 0.25), [
      newEffect('gain', {}, 'bad'),
      newEffect('gain', { level: 0 }, 'good'),
    ])
    const engine = new Engine({ sampleRate: RATE, audio: p.audio })
    engine.load(p.project)
    engine.play(0)
    const step = (
      engine as unknown as {
        plan: { steps: Map<string, { processor: { process(io: { out: { left: Float32Array } }): void } }> }
      }
    ).plan.steps.get('node:bad')!
    const honest = step.processor.process.bind(step.processor)
    let broken = false
    step.processor.process = (...a: never[]) => {
      ;(honest as (...x: never[]) => void)(...a)
      if (broken) (a[0] as unknown as { out: { left: Float32Array } }).out.left[5] = NaN
    }
    const left = new Float32Array(BLOCK)
    const right = new Float32Array(BLOCK)
    for (let b = 0; b < 200; b++) {
      broken = b === 100
      engine.process(left, right)
      expect(left.every(Number.isFinite)).toBe(true)
      if (b > 10) expect(peak(left)).toBeGreaterThan(0.05)
    }
    expect(engine.telemetry.values[new Map(engine.slots.since(0)).get('trips:node:bad')!]).toBe(1)
  })
})

describe('transport and monitor', () => {
  it('loops to the sample, and playing from P is the same each time', () => {
    const x = noise(1)
    const p = projectOf(x, [])
    p.project.loop = { on: true, start: 0, end: 0.5 }
    const engine = new Engine({ sampleRate: RATE, audio: p.audio })
    engine.load(p.project)
    engine.play(0)
    const left = new Float32Array(BLOCK)
    const out: number[] = []
    for (let b = 0; b < 200; b++) {
      engine.process(left, new Float32Array(BLOCK))
      out.push(...engine.mix.left)
    }
    expect(out.slice(12_000 + 200, 23_000)).toEqual(out.slice(200, 11_000))
  })
  it('solo, dry and the safety limiter are heard and not rendered', () => {
    const p = projectOf(sine(220, 2, 0.9), [newEffect('gain', { level: 12 }, 'g')])
    const engine = new Engine({ sampleRate: RATE, audio: p.audio })
    engine.load(p.project)
    engine.play(0)
    const left = new Float32Array(BLOCK)
    for (let b = 0; b < 100; b++) engine.process(left, new Float32Array(BLOCK))
    expect(peak(left)).toBeLessThanOrEqual(0.967)
    expect(peak(engine.mix.left)).toBeGreaterThan(2)
    engine.setMonitor({ ...openMonitor, dryTrack: 't' })
    for (let b = 0; b < 100; b++) engine.process(left, new Float32Array(BLOCK))
    expect(peak(engine.mix.left)).toBeCloseTo(0.9, 1)
    engine.setMonitor({ ...openMonitor, soloTracks: ['mix'] })
    for (let b = 0; b < 100; b++) engine.process(left, new Float32Array(BLOCK))
    expect(peak(engine.mix.left)).toBe(0)
  })
})

describe('splits', () => {
  const branches = (n: number): ReturnType<typeof newBranch>[] =>
    Array.from({ length: n }, (_, i) => newBranch(`b${i}`, 0, `b${i}`))
  it.each([2, 3, 5])('%i bands add up flat within 0.05 dB', (n) => {
    const impulse = new Float32Array(RATE)
    impulse[0] = 1
    const split = { ...newSplit(branches(n), 's'), mode: 'bands' as const }
    const { left } = play(projectOf(impulse, [split]), 0.6)
    for (const hz of [40, 120, 180, 400, 1000, 2100, 3000, 6000, 10_000, 16_000])
      expect(Math.abs(db(toneAt(left.slice(0, 16_384), hz).amplitude * 8192))).toBeLessThan(0.05)
  })
  it.each([2, 3, 5])('%i bands in linear phase are together a pure delay, which is compensated', (n) => {
    const x = noise(0.7)
    const split = { ...newSplit(branches(n), 's'), mode: 'bands' as const, params: { phase: 1 } }
    const { left, engine } = play(projectOf(x, [split]), 0.6)
    expect(engine.latency).toBe(1023)
    expect(db(peak(left.slice(1023).map((v, i) => v - x[i]!)))).toBeLessThan(-110)
  })
  it('a band in linear phase holds what lies between its crossovers, symmetric in time, and stays whole while they move', () => {
    const split = { ...newSplit(branches(3), 's'), mode: 'bands' as const, params: { phase: 1 } }
    for (const b of split.branches) b.params.mute = b.id === 'b1' ? 0 : 1
    const impulse = new Float32Array(RATE)
    impulse[0] = 1
    const h = play(projectOf(impulse, [split]), 0.1).left.slice(0, 2047)
    expect(Math.abs(db(toneAt(h, 700).amplitude * 1023.5))).toBeLessThan(0.05)
    expect(db(toneAt(h, 180).amplitude * 1023.5)).toBeCloseTo(-6, 0)
    expect(db(toneAt(h, 60).amplitude * 1023.5)).toBeLessThan(-50)
    expect(peak(h.map((v, i) => v - h[2046 - i]!))).toBeLessThan(1e-6)
    const p = projectOf(noise(0.7), [{ ...split, branches: branches(3) }])
    const moving = edited(
      p.project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 3 } }),
      addLink('m', { owner: 's', param: 'cross1' }, -0.2, 0.2),
    )
    const { left } = play({ ...p, project: moving }, 0.6)
    expect(
      db(peak(left.slice(4096).map((v, i) => v - p.audio().channels[0]![i + 4096 - 1023]!))),
    ).toBeLessThan(-60)
  })
  it('a band holds what lies between its crossovers', () => {
    const at = (hz: number, heard: string): number => {
      const split = { ...newSplit(branches(3), 's'), mode: 'bands' as const }
      for (const b of split.branches) b.params.mute = b.id === heard ? 0 : 1
      return db(rms(play(projectOf(sine(hz, 1), [split]), 0.6).left.slice(RATE / 4)) * Math.SQRT2)
    }
    expect([at(60, 'b0'), at(700, 'b1'), at(9000, 'b2')].every((v) => v > -0.5)).toBe(true)
    expect([at(60, 'b2'), at(1500, 'b0'), at(9000, 'b0'), at(40, 'b1')].every((v) => v < -45)).toBe(true)
    // both sides of a crossover are 6 dB down there
    expect(at(180, 'b0')).toBeCloseTo(-6, 0)
  })
  it('select glides from branch to branch with equal power, and holds each in its place', () => {
    const split = { ...newSplit(branches(3), 's'), mode: 'select' as const }
    split.branches[1]!.params.polarity = -1
    const p = (position: number): number => {
      const { left } = play(
        projectOf(sine(300, 1), [{ ...split, params: { ...split.params, position } }]),
        0.4,
      )
      return (
        toneAt(left.slice(4800, 14_400), 300).amplitude *
        Math.sign(left[4800 + 40]! * Math.sin((2 * Math.PI * 300 * 4840) / RATE))
      )
    }
    expect(p(0)).toBeCloseTo(1, 3)
    expect(p(0.5)).toBeCloseTo(-1, 3)
    expect(p(1)).toBeCloseTo(1, 3)
    // between the first and the second, which are opposite, both sound at −3 dB and cancel
    expect(Math.abs(p(0.25))).toBeLessThan(0.01)
  })
})

describe('parts heard alone', () => {
  const x = noise(0.6)
  /** What is heard and what would be rendered, after a tenth of a second. */
  const heard = (
    nodes: ChainNode[],
    monitor: Partial<typeof openMonitor>,
  ): { mix: Float32Array; x: Float32Array } => {
    const { project, audio } = projectOf(x, nodes)
    const engine = new Engine({ sampleRate: RATE, audio })
    engine.load(project)
    engine.setMonitor({ ...openMonitor, ...monitor })
    engine.play(0)
    const mix = new Float32Array(150 * BLOCK)
    for (let b = 0; b < 150; b++) {
      engine.process(new Float32Array(BLOCK), new Float32Array(BLOCK))
      mix.set(engine.mix.left, b * BLOCK)
    }
    return { mix, x: x.slice(0, mix.length) }
  }
  const near = (a: Float32Array, b: (i: number) => number): number =>
    peak(a.slice(4800).map((v, i) => v - b(i + 4800)))
  it('the wet part is what the effect makes before it is mixed, and what comes after is left out', () => {
    const nodes = [
      newEffect('gain', { level: -6, wet: 0.25 }, 'g'),
      newEffect('gain', { level: -20 }, 'after'),
    ]
    expect(
      near(heard(nodes, { part: { node: 'g', what: 'wet' } }).mix, (i) => x[i]! * 10 ** (-6 / 20)),
    ).toBeLessThan(1e-6)
  })
  it('the difference is what it adds, nothing where it is off', () => {
    const nodes = (on: number): ChainNode[] => [newEffect('gain', { level: 6, wet: 0.5, on }, 'g')]
    expect(
      near(
        heard(nodes(1), { part: { node: 'g', what: 'difference' } }).mix,
        (i) => x[i]! * 0.5 * (10 ** (6 / 20) - 1),
      ),
    ).toBeLessThan(1e-6)
    expect(peak(heard(nodes(0), { part: { node: 'g', what: 'difference' } }).mix.slice(4800))).toBe(0)
  })
  it('live values are written every so many blocks, and the song position with each', () => {
    const { project, audio } = projectOf(noise(1), [newEffect('gain', {}, 'g')])
    const engine = new Engine({ sampleRate: RATE, audio, reportEvery: 4 })
    engine.load(project)
    engine.play(0)
    const a = new Float32Array(BLOCK)
    const seen = Array.from({ length: 12 }, () => {
      engine.process(a, new Float32Array(BLOCK))
      return [live(engine, 'peak:node:g'), engine.telemetry.values[0]!]
    })
    expect(new Set(seen.map(([peak]) => peak)).size).toBe(3)
    expect(new Set(seen.map(([, beat]) => beat)).size).toBe(12)
  })
  it('a band of an EQ is heard alone as it is with the saved choice, and nothing of it is kept', () => {
    const bands = [
      { frequency: 300, gain: 6, q: 1 },
      { frequency: 2000, gain: -9, q: 3 },
    ]
    const eq = (params: Record<string, number>, chosen: number): ChainNode[] => [
      {
        ...newEffect('eq', params, 'e'),
        lanes: { bands: bands.map((b, i) => ({ ...b, chosen: i === chosen ? 1 : 0 })) },
      },
    ]
    const saved = heard(eq({ output: 1 }, 1), {}).mix
    expect(near(heard(eq({}, 0), { items: { node: 'e', chosen: [1] } }).mix, (i) => saved[i]!)).toBeLessThan(
      1e-6,
    )
    expect(
      near(heard(eq({}, 0), { items: { node: 'other', chosen: [1] } }).mix, (i) => saved[i]!),
    ).toBeGreaterThan(0.05)
  })
  it('goes in and out without a click', () => {
    const tone = sine(100, 1, 0.4)
    const { project, audio } = projectOf(tone, [newEffect('gain', { level: -6 }, 'g')])
    const part =
      (what: 'wet' | 'difference' | null) =>
      (e: Engine): void =>
        e.setMonitor({ ...openMonitor, part: what && { node: 'g', what } })
    const { left } = play({ project, audio }, 0.8, {
      60: part('difference'),
      120: part('wet'),
      180: part(null),
    })
    const slope = ((2 * Math.PI * 100) / RATE) * 0.4
    expect(peak(left.slice(1, 38_000).map((v, i) => v - left[i]!)) - slope).toBeLessThan(0.01)
  })
})
