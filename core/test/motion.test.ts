import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import type { Engine } from '@oleaje/core/engine/engine'
import { apply } from '@oleaje/core/project/edit'
import {
  addLink,
  addModulator,
  duplicateModulator,
  removeModulator,
  setAmounts,
  setInput,
  setLinkMode,
  setLinkTarget,
  updateLink,
  updateLinks,
} from '@oleaje/core/project/motion-edits'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import { removeLaneItem, setData, setLaneLength, setParam } from '@oleaje/core/project/value-edits'
import { newEffect } from '@oleaje/core/project/new'
import type { ChainNode, Link, Project } from '@oleaje/core/project/schema'
import { fromNormalized } from '@oleaje/core/units/scale'
import { findTarget, linkValues, noteNormalized } from '@oleaje/core/project/targets'
import { hertz } from '@oleaje/core/units/parameter'
import { noteOf } from '@oleaje/core/units/tuning'
import { edited, live, place, play, projectOf } from './project-rig'
import { RATE, modulatorRig, noise, peak, rms, sine } from './rig'

const silence = new Float32Array(RATE)
const f = (id = 'f', params: Record<string, number> = {}): ChainNode => newEffect('filter', params, id)
const linkOf = (p: Project, id: string): Link => p.links.find((l) => l.id === id)!

/** A parameter's live value in its own unit at the end of each block. */
function trace(
  p: Project,
  audio: () => { sampleRate: number; channels: Float32Array[] },
  seconds: number,
  owner: string,
  param: string,
  at: Record<number, (e: Engine) => void> = {},
): number[] {
  const out: number[] = []
  const { spec } = findTarget(p, { owner, param })!
  play(
    { project: p, audio },
    seconds,
    at,
    (e) => out.push(fromNormalized(spec, live(e, `live:${owner}.${param}`))),
    true,
  )
  return out
}

/**
 * Highest autocorrelation (mean removed, normalised) at any lag from `from` on, in the units of the series.
 */
function likeness(x: number[], from: number): number {
  const mean = x.reduce((a, b) => a + b, 0) / x.length
  const y = x.map((v) => v - mean)
  let best = -1
  for (let lag = from; lag < x.length / 2; lag++) {
    let xy = 0
    let xx = 0
    let yy = 0
    for (let i = 0; i + lag < y.length; i++) {
      xy += y[i]! * y[i + lag]!
      xx += y[i]! ** 2
      yy += y[i + lag]! ** 2
    }
    best = Math.max(best, xy / Math.sqrt(xx * yy + 1e-30))
  }
  return best
}

describe('warped record', () => {
  const chain = (): ReturnType<typeof projectOf> =>
    projectOf(silence, [newEffect('delay', { time: 0.01, feedback: 0 }, 'd')])
  const wow = (p: Project): Project =>
    edited(
      p,
      addModulator('t', 'lfo', { id: 'wow', params: { rate: 0.55 } }),
      addLink(
        'wow',
        { owner: 'd', param: 'time' },
        place(p, 'd', 'time', 0.008),
        place(p, 'd', 'time', 0.012),
        { id: 'k1' },
      ),
    )
  /** Pitch in cents that a delay time in seconds, sampled at a hundred a second, bends to. */
  function pitchCurve(p: Project, audio: () => { sampleRate: number; channels: Float32Array[] }): number[] {
    const times = trace(p, audio, 62, 'd', 'time')
    const every = RATE / BLOCK / 25
    const thin = Array.from({ length: 1500 }, (_, i) => times[Math.round(i * every)]!)
    return thin.slice(1).map((t, i) => 1200 * Math.log2(1 - (t - thin[i]!) * 25))
  }
  it('a sine alone repeats; with its rate moved and rare jumps on top, no likeness above 0.5 is left beyond 2 s', () => {
    const { project, audio } = chain()
    const plain = wow(project)
    expect(likeness(pitchCurve(plain, audio), 50)).toBeGreaterThan(0.97)
    const worn = edited(
      plain,
      addModulator('t', 'drift', { id: 'uneven', params: { kind: 0, speed: 0.35, roam: 0.5 } }),
      addLink(
        'uneven',
        { owner: 'wow', param: 'rate' },
        place(plain, 'wow', 'rate', 0.2),
        place(plain, 'wow', 'rate', 1.6),
      ),
      addModulator('t', 'drift', { id: 'slips', params: { kind: 2, speed: 0.4, density: 0.3, back: 0.4 } }),
      addLink(
        'slips',
        { owner: 'd', param: 'time' },
        place(plain, 'd', 'time', 0.0088),
        place(plain, 'd', 'time', 0.0114),
      ),
    )
    expect(likeness(pitchCurve(worn, audio), 50)).toBeLessThan(0.5)
  })
  it('jumps come back to rest', () => {
    const y = modulatorRig('drift', { kind: 2, speed: 1, density: 0.5, back: 0.2 }).run(30)
    expect(peak(y.map((v) => v - 0.5))).toBeGreaterThan(0.1)
    const resting = y.filter((v) => Math.abs(v - 0.5) < 0.02).length / y.length
    expect(resting).toBeGreaterThan(0.5)
  })
})

describe('all together', () => {
  const ids = Array.from({ length: 8 }, (_, i) => `f${i}`)
  const start = (
    mode: 'floating' | 'fixed',
  ): { p: Project; audio: () => { sampleRate: number; channels: Float32Array[] } } => {
    const { project, audio } = projectOf(
      silence,
      ids.map((id, i) => f(id, { cutoff: 200 * 1.5 ** i })),
    )
    let p = edited(project, addModulator('t', 'lfo', { id: 'm', params: { rate: 4, shape: 4 } }))
    for (const id of ids)
      p = edited(p, addLink('m', { owner: id, param: 'cutoff' }, 0.3, 0.5, { id: `k-${id}`, mode }))
    return { p, audio }
  }
  it.each(['floating', 'fixed'] as const)(
    'eight filters moved by one modulator, %s: bases are edited during the motion',
    (mode) => {
      const { p, audio } = start(mode)
      const before = ids.map((id) =>
        linkValues(
          linkOf(p, `k-${id}`),
          findTarget(p, { owner: id, param: 'cutoff' })!.spec,
          findTarget(p, { owner: id, param: 'cutoff' })!.base,
        ),
      )
      const next = edited(p, ...ids.map((id, i) => setParam(id, 'cutoff', 400 * 1.4 ** i)))
      for (const [i, id] of ids.entries()) {
        const y = trace(p, audio, 2, id, 'cutoff', { 375: (e) => e.update(next) })
        const late = y.slice(-330)
        const shift = mode === 'floating' ? (400 * 1.4 ** i) / (200 * 1.5 ** i) : 1
        expect(Math.abs(Math.min(...late) / (before[i]!.from * shift) - 1)).toBeLessThan(0.005)
        expect(Math.abs(Math.max(...late) / (before[i]!.to * shift) - 1)).toBeLessThan(0.005)
      }
    },
  )
})

describe('played filter', () => {
  const line = (notes: [number, number, number, number][]) => ({
    length: 0,
    notes: notes.map(([start, length, pitch, velocity]) => ({ start, length, pitch, velocity })),
    bend: [],
    pressure: [],
  })
  function played(edit: (p: Project) => Project = (p) => p): {
    p: Project
    audio: () => { sampleRate: number; channels: Float32Array[] }
  } {
    const { project, audio } = projectOf(noise(4), [f('f', { resonance: 30, shape: 1, wet: 0 })])
    return {
      audio,
      p: edit(
        edited(
          project,
          addModulator('t', 'notes', { id: 'n' }),
          addLink('n', { owner: 'f', param: 'cutoff' }, 0, 1, { output: 'pitch', id: 'k' }),
          addLink('n', { owner: 'f', param: 'wet' }, 0, 1, { output: 'velocity', mode: 'fixed', id: 'v' }),
          setNoteLine(
            't',
            line([
              [0, 1, 62, 1],
              [1, 1, 69, 0.5],
              [2, 1, 57, 0],
              [3, 1, 74, 1],
            ]),
          ),
        ),
      ),
    }
  }
  it('follows pitch one-to-one, velocity sets depth, and at zero velocity nothing happens to the sound', () => {
    const { p, audio } = played()
    expect(linkOf(p, 'k').mode).toBe('pitch')
    const cutoffs = trace(p, audio, 2, 'f', 'cutoff')
    for (const [beat, note] of [
      [0, 62],
      [1, 69],
      [3, 74],
    ] as const) {
      const at = cutoffs[Math.round(((beat + 0.5) * 0.5 * RATE) / BLOCK)]!
      expect(Math.abs(1200 * Math.log2(at / (440 * 2 ** ((note - 69) / 12))))).toBeLessThan(3)
    }
    const { left } = play({ project: p, audio }, 2)
    const dry = noise(4)
    // from beat 2 to 3 the velocity is 0: the input passes bit for bit
    expect(left.slice(1.05 * RATE, 1.45 * RATE)).toEqual(dry.slice(1.05 * RATE, 1.45 * RATE))
    expect(rms(left.slice(0.2 * RATE, 0.45 * RATE))).toBeLessThan(
      0.5 * rms(dry.slice(0.2 * RATE, 0.45 * RATE)),
    )
  })
  it('bend has a set range, transposition adds to it, and the frequency heard is right', () => {
    const { p, audio } = played((q) =>
      edited(
        q,
        setParam('n', 'bendRange', 5),
        updateLink('k', { transpose: 12 }),
        setNoteLine('t', { ...line([[0, 8, 57, 1]]), bend: [{ x: 0, y: 1, bend: 0 }] }),
      ),
    )
    const wanted = 440 * 2 ** ((57 + 5 + 12 - 69) / 12)
    const cutoffs = trace(p, audio, 1, 'f', 'cutoff')
    expect(Math.abs(1200 * Math.log2(cutoffs[300]! / wanted))).toBeLessThan(3)
    // the band-pass answers loudest at its note: a sine a quarter-tone off on either side comes out softer
    const level = (hz: number): number =>
      rms(
        play({ project: p, audio: () => ({ sampleRate: RATE, channels: [sine(hz, 4)] }) }, 1).left.slice(
          RATE / 2,
        ),
      )
    expect(level(wanted)).toBeGreaterThan(level(wanted * 1.03))
    expect(level(wanted)).toBeGreaterThan(level(wanted / 1.03))
  })
  it('a note lasts as long as it says, however many listen and whatever is edited meanwhile', () => {
    const { p, audio } = played((q) =>
      edited(
        q,
        addModulator('t', 'envelope', { id: 'e', params: { trigger: 0 } }),
        addModulator('t', 'notes', { id: 'n2' }),
        setNoteLine('t', line([[0, 1, 60, 1]])),
      ),
    )
    const more = edited(p, addModulator('t', 'lfo', { id: 'x' }))
    const gates: number[] = []
    play(
      { project: p, audio },
      1,
      { 20: (e) => e.update(more), 60: (e) => e.update(p) },
      (e) => gates.push(live(e, 'mod:n2.gate')),
      true,
    )
    expect((gates.filter((g) => g === 1).length * BLOCK) / RATE).toBeCloseTo(0.5, 1)
  })
  it('the lowest or the highest of a chord leads', () => {
    for (const [leads, note] of [
      [0, 64],
      [1, 60],
      [2, 67],
    ] as const) {
      const { p, audio } = played((q) =>
        edited(
          q,
          setParam('n', 'leads', leads),
          setNoteLine(
            't',
            line([
              [0, 4, 60, 1],
              [0.1, 4, 67, 1],
              [0.2, 4, 64, 1],
            ]),
          ),
        ),
      )
      expect(noteOf(trace(p, audio, 1, 'f', 'cutoff')[300]!)).toBeCloseTo(note, 2)
    }
  })
})

describe('odd lengths', () => {
  it('a curve of 3.5 bars against a loop of 4 comes round after 28 bars and not before, to the sample', () => {
    const { project, audio } = projectOf(silence, [newEffect('gain', {}, 'g')])
    const points = Array.from({ length: 29 }, (_, i) => ({
      x: i / 2,
      y: ((i * 37) % 29) / 29,
      bend: ((i * 11) % 7) / 7 - 0.5,
    }))
    const p = {
      ...edited(
        project,
        addModulator('t', 'curve', { id: 'c', params: { length: 14 } }),
        setData('c', 'points', points),
      ),
      tempo: 240,
      loop: { on: true, start: 0, end: 16 },
    }
    const bar = RATE
    const bars = 30
    const y = new Float64Array(bars * bar)
    // the song jumps back every four bars; the state is curve and song together
    const beats = new Float64Array(bars * bar)
    const out = { left: new Float32Array(BLOCK), right: new Float32Array(BLOCK) }
    const { engine } = play({ project: p, audio }, 0.001, {}, undefined, true)
    engine.play(0)
    const step = (
      engine as unknown as { plan: { steps: Map<string, { outputs: { values(): Float64Array }[] }> } }
    ).plan.steps.get('mod:c')!
    for (let at = 0; at < y.length; at += BLOCK) {
      engine.process(out.left, out.right)
      y.set(step.outputs[0]!.values(), at)
      beats.set(engine.transport.song.beats, at)
    }
    const same = (shift: number): boolean => {
      for (let i = 0; i < 2 * bar; i += 7)
        if (Math.abs(y[i]! - y[i + shift]!) > 1e-9 || beats[i] !== beats[i + shift]) return false
      return true
    }
    for (let b = 1; b < 28; b++) expect(same(b * bar)).toBe(false)
    expect(same(28 * bar - 1)).toBe(false)
    expect(same(28 * bar)).toBe(true)
  })
  it('a row of seven sixteenths shifts against the bar, and can be tied to it', () => {
    const row = modulatorRig(
      'steps',
      { length: 0.25 },
      { lanes: { steps: [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6].map((level) => ({ level })) } },
    )
    const y = row.run(4)
    for (let n = 0; n < 28; n++) expect(y[Math.round(((n + 0.5) * RATE) / 8)]).toBeCloseTo((n % 7) / 10, 9)
  })
})

describe('links', () => {
  const one = (): ReturnType<typeof projectOf> => projectOf(silence, [f('f', { cutoff: 500 })])
  it('a link’s amount is moved by another link, down to nothing', () => {
    const { project, audio } = one()
    let p = edited(
      project,
      addModulator('t', 'macro', { id: 'm', params: { value: 1 } }),
      addLink(
        'm',
        { owner: 'f', param: 'cutoff' },
        place(project, 'f', 'cutoff', 500),
        place(project, 'f', 'cutoff', 4000),
        { id: 'k' },
      ),
    )
    p = edited(
      p,
      addModulator('t', 'lfo', { id: 'w', params: { shape: 4, rate: 2 } }),
      addLink('w', { owner: 'k', param: 'amount' }, 0, 1, { mode: 'fixed', id: 'ka' }),
    )
    const y = trace(p, audio, 2, 'f', 'cutoff').slice(20)
    expect(Math.min(...y)).toBeCloseTo(500, 0)
    expect(Math.max(...y)).toBeCloseTo(4000, -1)
    // taking the first link away takes the one that moves it along
    expect(edited(p, removeModulator('m')).links).toEqual([])
  })
  it('a link is switched off and on by a macro without a step in the sound', () => {
    const { project, audio } = projectOf(sine(200, 4, 0.5), [newEffect('gain', { level: -6 }, 'g')])
    let p = edited(
      project,
      addModulator('t', 'macro', { id: 'm', params: { value: 1 } }),
      addLink(
        'm',
        { owner: 'g', param: 'level' },
        place(project, 'g', 'level', -40),
        place(project, 'g', 'level', 0),
        {
          id: 'k',
          mode: 'fixed',
        },
      ),
    )
    p = edited(
      p,
      addModulator('t', 'macro', { id: 'switch', params: { value: 1, mode: 1, glide: 0 } }),
      addLink('switch', { owner: 'k', param: 'on' }, 0, 1),
    )
    const off = edited(p, setParam('switch', 'value', 0))
    const { left } = play({ project: p, audio }, 2, { 300: (e) => e.update(off), 500: (e) => e.update(p) })
    let worst = 0
    for (let i = RATE / 4; i < left.length; i++) worst = Math.max(worst, Math.abs(left[i]! - left[i - 1]!))
    expect(worst).toBeLessThan(((0.5 * 2 * Math.PI * 200) / RATE) * 1.06)
    expect(peak(left.slice(400 * BLOCK, 490 * BLOCK))).toBeCloseTo(0.25, 2)
  })
  it('quantises to steps and to a scale, before slew', () => {
    const { project, audio } = one()
    const p = edited(
      project,
      addModulator('t', 'lfo', { id: 'm', params: { shape: 2, rate: 0.5 } }),
      addLink(
        'm',
        { owner: 'f', param: 'cutoff' },
        place(project, 'f', 'cutoff', 220),
        place(project, 'f', 'cutoff', 1760),
        {
          id: 'k',
          mode: 'fixed',
        },
      ),
    )
    const minor = trace(
      edited(p, updateLink('k', { quantise: { to: 'scale', scale: 2, root: 2 } })),
      audio,
      2,
      'f',
      'cutoff',
    ).map(noteOf)
    for (const n of minor) {
      expect(Math.abs(n - Math.round(n))).toBeLessThan(0.001)
      expect([0, 2, 3, 5, 7, 8, 10]).toContain((Math.round(n) - 2 + 120) % 12)
    }
    expect(new Set(minor.map(Math.round)).size).toBeGreaterThan(18)
    const steps = trace(
      edited(p, updateLink('k', { quantise: { to: 'steps', steps: 10 } })),
      audio,
      2,
      'f',
      'cutoff',
    ).map((v) => 10 * noteNormalized(hertz('x', { min: 20, max: 20_000, default: 1 }), noteOf(v)))
    for (const s of steps) expect(Math.abs(s - Math.round(s))).toBeLessThan(1e-4)
    const slewed = trace(
      edited(p, updateLink('k', { quantise: { to: 'steps', steps: 4 }, slewUp: 4 })),
      audio,
      2,
      'f',
      'cutoff',
    )
    const jumps = slewed.slice(1).map((v, i) => Math.abs(Math.log2(v / slewed[i]!)))
    expect(Math.max(...jumps.filter((_, i) => slewed[i + 1]! > slewed[i]!))).toBeLessThan(0.01)
  })
  it('slew takes the time it says for the whole way', () => {
    const { project, audio } = one()
    const p = edited(
      project,
      addModulator('t', 'lfo', { id: 'm', params: { shape: 4, rate: 0.25, phase: 0 } }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.8, { id: 'k', mode: 'fixed' }),
      updateLink('k', { slewDown: 0.5 }),
    )
    const y = trace(p, audio, 4, 'f', 'cutoff')
    const start = y.findIndex((v, i) => i > 100 && v < y[50]! * 0.999)
    const end = y.findIndex((v, i) => i > start && v < 20 * 1000 ** 0.2 * 1.001)
    expect(((end - start) * BLOCK) / RATE).toBeCloseTo(0.5, 1)
  })
  it('fans over a lane: each item has its own phase, or its own speed', () => {
    const { project, audio } = projectOf(silence, [])
    const p = edited(
      project,
      addModulator('t', 'steps', { id: 's' }),
      setLaneLength('s', 'steps', 4),
      addModulator('t', 'lfo', { id: 'm', params: { rate: 1, shape: 2 } }),
      addLink('m', { owner: 's', lane: 'steps', param: 'level' }, 0, 1, { id: 'k', mode: 'fixed' }),
    )
    const at = (q: Project): number[][] => {
      const out: number[][] = []
      play(
        { project: q, audio },
        1.7,
        {},
        (e) => out.push([0, 1, 2, 3].map((i) => live(e, `live:s.steps[${i}].level`))),
        true,
      )
      return out
    }
    const together = at(p)
    for (const row of together.slice(5)) for (const v of row) expect(v).toBeCloseTo(row[0]!, 9)
    const phased = at(edited(p, updateLink('k', { fan: { phase: 1, rate: 0, random: 0 } })))
    for (const row of phased.slice(5))
      for (const [i, v] of row.entries())
        expect(Math.abs(((((v - row[0]! - i / 4) % 1) + 1.5) % 1) - 0.5)).toBeLessThan(0.001)
    const paced = at(edited(p, updateLink('k', { fan: { phase: 0, rate: 1, random: 0 } })))
    const slope = (i: number): number => (((paced[150]![i]! - paced[100]![i]!) % 1) + 1) % 1
    expect(slope(3) / slope(0)).toBeCloseTo(2, 1)
    const random = at(edited(p, updateLink('k', { fan: { phase: 0, rate: 0, random: 0.5 } })))
    expect(new Set(random[180]!.map((v) => v.toFixed(3))).size).toBe(4)
    // an item that goes takes its links along, and those behind it keep theirs
    const single = edited(
      p,
      addLink('m', { owner: 's', lane: 'steps', index: 2, param: 'glide' }, 0, 1, { id: 'k2' }),
      removeLaneItem('s', 'steps', 1),
    )
    expect(linkOf(single, 'k2').target.index).toBe(1)
  })
  it('many are edited at once, pointed elsewhere, and copied with their modulator', () => {
    const { project } = projectOf(silence, [f('f'), f('f2', { cutoff: 4000 })])
    const p = edited(
      project,
      addModulator('t', 'lfo', { id: 'm' }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'a' }),
      addLink('m', { owner: 'f', param: 'resonance' }, 0.2, 0.6, { id: 'b' }),
    )
    const change = apply(
      p,
      setAmounts(
        new Map([
          ['a', 0.5],
          ['b', 0.31],
        ]),
      ),
    )
    expect(change.next.links.map((l) => l.amount)).toEqual([0.5, 0.31])
    expect(
      edited(p, updateLinks(['a', 'b'], { slewUp: 0.2, on: false })).links.every(
        (l) => !l.on && l.slewUp === 0.2,
      ),
    ).toBe(true)
    const copied = edited(p, duplicateModulator('m', true, 'm2'))
    expect(copied.links).toHaveLength(4)
    const copy = copied.links.find((l) => l.source === 'm2' && l.target.param === 'cutoff')!
    const moved = edited(copied, setLinkTarget(copy.id, { owner: 'f2', param: 'cutoff' }))
    // a floating range lies about the new base as it did about the old one, a fixed one stays at its places
    const before = findTarget(copied, copy.target)!,
      after = findTarget(moved, { owner: 'f2', param: 'cutoff' })!
    const octaves = (value: number, base: number): number => Math.log2(value / base)
    const old = linkValues(copy, before.spec, before.base),
      ends = linkValues(linkOf(moved, copy.id), after.spec, after.base)
    expect(octaves(ends.from, 4000)).toBeCloseTo(octaves(old.from, before.base), 6)
    const held = edited(
      copied,
      setLinkMode(copy.id, 'fixed'),
      setLinkTarget(copy.id, { owner: 'f2', param: 'cutoff' }),
    )
    expect(linkValues(linkOf(held, copy.id), after.spec, after.base).from).toBeCloseTo(old.from, 0)
    const fixed = edited(p, setLinkMode('a', 'fixed'), setParam('f', 'cutoff', 3000))
    expect(
      linkValues(linkOf(fixed, 'a'), findTarget(fixed, { owner: 'f', param: 'cutoff' })!.spec, 3000).from,
    ).toBeCloseTo(fromNormalized(findTarget(p, { owner: 'f', param: 'cutoff' })!.spec, 0.2), 0)
  })
})

describe('modulators', () => {
  it('an LFO restarts at notes and gates, plays once, waits and fades in', () => {
    const gated = modulatorRig('lfo', { shape: 2, rate: 1, goes: 1, trigger: 2 })
    const y = gated.run(2, (at) => gated.io.inputs[0]!.hold(at > RATE / 2 && at < RATE ? 1 : 0))
    expect(peak(y.slice(0, RATE / 2))).toBe(0)
    expect(y[RATE]).toBeCloseTo(0.5, 1)
    const once = modulatorRig('lfo', { shape: 2, rate: 2, goes: 2, trigger: 0 }).run(2)
    expect(once[RATE / 4]).toBeCloseTo(0.5, 2)
    for (const v of once.slice(RATE)) expect(v).toBeCloseTo(1, 5)
    const faded = modulatorRig('lfo', { shape: 0, rate: 20, delay: 0.5, fade: 0.5 }).run(2)
    expect(Math.max(...faded.slice(0, RATE * 0.49)) - Math.min(...faded.slice(0, RATE * 0.49))).toBeLessThan(
      1e-6,
    )
    expect(Math.max(...faded.slice(RATE * 1.1))).toBeGreaterThan(0.99)
    const slewed = modulatorRig('lfo', { shape: 4, rate: 1, slew: 0.2 }).run(1)
    expect(Math.max(...slewed.slice(1).map((v, i) => Math.abs(v - slewed[i]!)))).toBeLessThan(
      1.01 / (0.2 * RATE),
    )
  })
  it('a drawn LFO goes through its points', () => {
    const y = modulatorRig(
      'lfo',
      { shape: 7, rate: 1 },
      {
        data: {
          shape: [
            { x: 0, y: 0.2, bend: 0 },
            { x: 0.5, y: 0.8, bend: 0 },
            { x: 1, y: 0.2, bend: 0 },
          ],
        },
      },
    ).run(1)
    expect(y[RATE / 4]).toBeCloseTo(0.5, 3)
    expect(y[RATE / 2]).toBeCloseTo(0.8, 3)
    // whatever a file says a shape is, it stays a shape
    expect(() =>
      modulatorRig('lfo', { shape: 7 }, { data: { shape: [{ x: NaN }, 'no', { y: 9 }] } }).run(0.1),
    ).not.toThrow()
  })
  it('an envelope takes its times and levels from its gauges', () => {
    const e = modulatorRig('envelope', {
      trigger: 1,
      attack: 0.1,
      hold: 0.1,
      decay: 0.2,
      sustain: 0.5,
      release: 0.25,
      fall: 0,
      level: 0.5,
    })
    const y = e.run(2, (at) => e.io.inputs[0]!.hold(at < RATE ? 1 : 0))
    expect(y[RATE * 0.05]).toBeCloseTo(0.5, 2)
    expect(y[RATE * 0.15]).toBeCloseTo(1, 3)
    expect(y[RATE * 0.3]).toBeCloseTo(0.75, 2)
    expect(y[RATE * 0.8]).toBeCloseTo(0.5, 3)
    expect(y[Math.round(RATE * 1.125)]).toBeCloseTo(0.25, 1)
    expect(y[RATE * 1.5]).toBe(0)
  })
  it('hits are found where they are struck, and not where they ring', () => {
    const struck = [0.3, 0.8, 1.05, 1.6]
    const x = new Float32Array(2 * RATE)
    for (const s of struck)
      for (let i = 0; i < RATE / 3; i++)
        x[Math.round(s * RATE) + i]! += 0.6 * Math.exp(-i / 3000) * Math.sin(i * 0.11)
    const e = modulatorRig('envelope', {
      trigger: 3,
      attack: 0,
      decay: 0.03,
      sustain: 0,
      release: 0,
      level: 0.3,
    })
    const y = e.run(2, (at) => {
      e.io.side.left.set(x.subarray(at, at + BLOCK))
      e.io.side.right.set(x.subarray(at, at + BLOCK))
    })
    const found = Array.from(y).flatMap((v, i) => (i && y[i - 1]! < 0.5 && v >= 0.5 ? [i / RATE] : []))
    expect(found).toHaveLength(struck.length)
    found.forEach((t, i) => expect(Math.abs(t - struck[i]!)).toBeLessThan(0.004))
  })
  it('steps glide, skip by chance, walk to and fro, and stand on a scale', () => {
    const lanes = {
      steps: [
        { level: 0, glide: 0 },
        { level: 1, glide: 0.5 },
        { level: 0.4, glide: 0 },
      ],
    }
    const y = modulatorRig('steps', { length: 1 }, { lanes }).run(2)
    expect(y[Math.round(RATE * 0.625)]).toBeCloseTo(0.5, 2)
    const fro = modulatorRig(
      'steps',
      { length: 1, direction: 2 },
      { lanes: { steps: [0, 0.5, 1].map((level) => ({ level })) } },
    ).run(4)
    expect([0, 1, 2, 3, 4].map((n) => fro[Math.round(((n + 0.5) * RATE) / 2)])).toEqual([0, 0.5, 1, 0.5, 0])
    const kept = modulatorRig(
      'steps',
      { length: 1 },
      {
        lanes: {
          steps: [
            { level: 0.2, chance: 1 },
            { level: 0.9, chance: 0 },
          ],
        },
      },
    ).run(4)
    expect(new Set(Array.from(kept, (v) => v.toFixed(3)))).toEqual(new Set(['0.200']))
    const tuned = modulatorRig(
      'steps',
      { length: 0.25, scale: 6, span: 12, root: 0 },
      { lanes: { steps: Array.from({ length: 16 }, (_, i) => ({ level: i / 15 })) } },
    ).run(2)
    for (const v of tuned) expect([0, 2, 4, 6, 8, 10, 12].some((d) => Math.abs(v * 12 - d) < 1e-6)).toBe(true)
  })
  it('the pitch tracker is within 5 cents on plucked strings from E2 to E5, and stays where it is when unsure', () => {
    for (const note of [40, 45, 50, 57, 62, 69, 76]) {
      const hz = 440 * 2 ** ((note - 69) / 12)
      const t = modulatorRig('pitch-tracker', { glide: 0 })
      const pluck = (at: number): number =>
        [1, 0.6, 0.45, 0.3, 0.2, 0.12].reduce(
          (s, a, k) =>
            s +
            a * Math.sin((2 * Math.PI * hz * (k + 1) * at) / RATE + k) * Math.exp((-at / RATE) * (1.5 + k)),
          0,
        ) * 0.3
      const y = t.run(1.5, (at) => {
        for (let i = 0; i < BLOCK; i++)
          t.io.side.left[i] = t.io.side.right[i] = at + i < RATE ? pluck(at + i) : 0
      })
      const cents = (at: number): number => 100 * (y[Math.round(at * RATE)]! * 128 - note)
      for (const at of [0.15, 0.3, 0.6, 0.9, 1.4]) expect(Math.abs(cents(at))).toBeLessThan(5)
    }
  })
  it('combines two as it says', () => {
    const how = (n: number, a: number, b: number, more: Record<string, number> = {}): number => {
      const c = modulatorRig('combine', { how: n, ...more })
      return c.run(0.1, () => {
        c.io.inputs[0]!.hold(a)
        c.io.inputs[1]!.hold(b)
      })[2000]!
    }
    expect(
      [
        how(0, 0.3, 0.4),
        how(1, 0.5, 0.4),
        how(2, 0.3, 0.4),
        how(3, 0.3, 0.4),
        how(4, 0.3, 0.5),
        how(5, 0.3, 0.2),
        how(5, 0.3, 0.8),
        how(7, 0.4, 0, { steps: 3 }),
      ].map((v) => Math.round(v * 1000) / 1000),
    ).toEqual([0.7, 0.2, 0.4, 0.3, 0.2, 0, 0.3, 0.5])
    const late = modulatorRig('combine', { how: 8, time: 0.25 })
    const y = late.run(1, (at) => late.io.inputs[0]!.hold(at >= RATE / 4 ? 1 : 0))
    expect(y[RATE * 0.49]).toBe(0)
    expect(y[RATE * 0.51]).toBe(1)
    const held = modulatorRig('combine', { how: 6 })
    const z = held.run(1, (at) => {
      held.io.inputs[0]!.hold(at / RATE)
      held.io.inputs[1]!.hold(at % 24_000 < 12_000 ? 0 : 1)
    })
    expect(z[RATE * 0.4]).toBeCloseTo(0.25, 2)
    expect(z[RATE * 0.7]).toBeCloseTo(0.25, 2)
    expect(z[RATE * 0.9]).toBeCloseTo(0.75, 2)
  })
  it('a macro as a switch glides between its two states in its time', () => {
    const m = modulatorRig('macro', { mode: 1, value: 1, glide: 0.2 })
    m.block()
    m.params.set({ mode: 1, value: 0, glide: 0.2 })
    m.params.update()
    m.params.blocks.value!.hold(0)
    const y = m.run(0.4)
    expect(y[Math.round(0.1 * RATE)]).toBeCloseTo(0.5, 1)
    expect(y[Math.round(0.3 * RATE)]).toBe(0)
  })
  it('works on others by its inputs, and never on itself', () => {
    const { project, audio } = projectOf(silence, [])
    const p = edited(
      project,
      addModulator('t', 'lfo', { id: 'a', params: { shape: 4, rate: 1 } }),
      addModulator('t', 'macro', { id: 'b', params: { value: 0.5 } }),
      addModulator('t', 'combine', { id: 'c' }),
      setInput('c', 0, { source: 'a', output: 'wave' }),
      setInput('c', 1, { source: 'b', output: 'value' }),
    )
    const out: number[] = []
    play({ project: p, audio }, 0.3, {}, (e) => out.push(live(e, 'mod:c')), true)
    expect(out[50]).toBeCloseTo(0.5, 6)
    expect(apply(p, setInput('c', 0, { source: 'c', output: 'result' })).patches).toEqual([])
    expect(
      edited(p, removeModulator('a')).tracks[0]!.modulators.find((m) => m.id === 'c')!.inputs[0],
    ).toBeNull()
  })
  it('what a modulator gives is the same again from its seed, and differs from another’s', () => {
    for (const kind of [0, 1, 2]) {
      const a = modulatorRig('drift', { kind, speed: 3 }, { seed: 5 }).run(3)
      expect(modulatorRig('drift', { kind, speed: 3 }, { seed: 5 }).run(3)).toEqual(a)
      expect(modulatorRig('drift', { kind, speed: 3 }, { seed: 6 }).run(3)).not.toEqual(a)
    }
  })
})
