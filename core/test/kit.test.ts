import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { apply } from '@oleaje/core/project/edit'
import { newBranch, newEffect, newProject, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import { checkProject } from '@oleaje/core/project/read'
import type { ChainNode, NoteLine, Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { RATE, db, noise, peak } from './rig'

/** Three pads that are told apart by what they play: a tone, noise, and a short noise of the other side. */
const sounds: Record<string, Float32Array[]> = {
  low: [Float32Array.from({ length: 9000 }, (_, i) => 0.7 * Math.sin(i * 0.011) * Math.exp(-i / 2500))],
  snare: [noise(0.19, 5).map((v, i) => v * Math.exp(-i / 1900))],
  hat: [noise(0.05, 9), noise(0.05, 11)],
}
const pattern: NoteLine = {
  length: 4,
  bend: [],
  pressure: [],
  notes: [
    [0, 36],
    [1, 37],
    [1.75, 37],
    [2.5, 36],
    [3, 37],
    ...Array.from({ length: 7 }, (_, i) => [i * 0.57, 38]),
  ].map(([start, pitch], i) => ({
    start: start!,
    length: 0.25,
    pitch: pitch!,
    velocity: 0.4 + 0.05 * (i % 9),
  })),
}

function kitOf(
  nodes: ChainNode[] = [],
  pads: Record<string, number>[] = [{ note: 36 }, { note: 37 }, { note: 38 }],
  line: NoteLine | null = pattern,
): Project {
  const track = newTrack('Deck kit', newSource('kit', {}, null, 'src'), 'kit')
  track.source!.lanes = { pads }
  track.source!.data = {
    pads: [
      { name: 'low drum', audio: 'low' },
      { name: 'snare', audio: 'snare' },
      { name: 'hat', audio: 'hat' },
    ],
  }
  track.line = line
  track.a.nodes = nodes
  const project: Project = {
    ...newProject('kit'),
    tempo: 107,
    loop: { on: false, start: 0, end: 16 },
    audio: Object.fromEntries(
      Object.entries(sounds).map(([hash, c]) => [
        hash,
        { name: hash, frames: c[0]!.length, channels: c.length, sampleRate: RATE },
      ]),
    ),
  }
  project.tracks.unshift(track)
  return project
}

function engineOf(project: Project): Engine {
  const engine = new Engine({
    sampleRate: RATE,
    audio: (hash) => (sounds[hash] ? { sampleRate: RATE, channels: sounds[hash] } : null),
    looping: true,
  })
  engine.load(checkProject(JSON.parse(JSON.stringify(project))))
  return engine
}

function render(project: Project, blocks = 900, each?: (e: Engine, b: number) => void): Float32Array {
  const engine = engineOf(project)
  engine.play(0)
  // what its chains come later is not of its sound
  return run(engine, blocks, each).subarray(engine.latency)
}

function run(engine: Engine, blocks: number, each?: (e: Engine, b: number) => void): Float32Array {
  const left = new Float32Array(blocks * BLOCK)
  const heard = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    each?.(engine, b)
    engine.process(heard, heard)
    left.set(engine.mix.left, b * BLOCK)
  }
  return left
}

const minus = (a: Float32Array, b: Float32Array): Float32Array =>
  a.subarray(0, Math.min(a.length, b.length)).map((v, i) => v - b[i]!)

/** The snare through compressor, drive and comb, all others as they were. */
function drummed(
  inner: ChainNode[] = [
    newEffect('compressor', { threshold: -30, ratio: 6 }),
    newEffect('drive', { drive: 18 }),
    newEffect('comb', {}),
  ],
): ChainNode[] {
  const own = { ...newBranch('snare'), pads: [1] }
  own.nodes = inner
  return [{ ...newSplit([own, newBranch('all others')], 'split'), mode: 'pads' }]
}

describe('Kit', () => {
  it('a pad has a tune of its own', () => {
    const struck = (tune: number): Float32Array =>
      render(
        kitOf([], [{ note: 36 }, { note: 37, tune }, { note: 38 }], {
          ...pattern,
          notes: [{ start: 0, length: 1, pitch: 36, velocity: 1 }],
        }),
        40,
      )
    expect(struck(7)).toEqual(struck(0))
    const snare = (tune: number): Float32Array =>
      render(
        kitOf([], [{ note: 36 }, { note: 37, tune }, { note: 38 }], {
          ...pattern,
          notes: [{ start: 0, length: 1, pitch: 37, velocity: 1 }],
        }),
        90,
      )
    // an octave up, its sound is over in half the time
    const end = (x: Float32Array): number => x.reduce((last, v, i) => (v !== 0 ? i : last), 0)
    expect(Math.abs(end(snare(12)) / end(snare(0)) - 0.5)).toBeLessThan(0.02)
  })
  it('stops with the song, softly; what is struck while that stands sounds to its end', () => {
    const engine = engineOf(kitOf())
    engine.play(0)
    run(engine, 20)
    engine.stop()
    const after = run(engine, 40)
    expect(peak(after.subarray(0, 256))).toBeGreaterThan(0.01)
    expect(peak(after.subarray(2400))).toBe(0)
    engine.note('kit', 36, 1)
    expect(peak(run(engine, 40).subarray(2400))).toBeGreaterThan(0.05)
  })
  it('each note strikes its pad at its sample, at the level of its velocity', () => {
    const y = render(kitOf())
    // the first snare alone: its beginning is that of its sound
    const at = Math.round(((1 * 60) / 107) * RATE)
    const others = render(kitOf([], [{ note: 36 }, { note: 1 }, { note: 38 }]))
    const snare = minus(y, others)
    expect(peak(snare.subarray(0, at))).toBe(0)
    const g = 1 - 0.8 * (1 - 0.45 ** 2)
    // within the rounding of sums of 32 bits
    for (let i = 0; i < 500; i++)
      expect(Math.abs(snare[at + i]! - g * sounds.snare![0]![i]!)).toBeLessThan(3e-7)
  })
  it('one drum through a chain of its own leaves all others as they were, below −120 dB', () => {
    const dry = render(kitOf())
    const wet = render(kitOf(drummed()))
    const without: Record<string, number>[] = [{ note: 36 }, { note: 37, level: -72 }, { note: 38 }]
    const others = render(kitOf([], without))
    const own = render(kitOf(drummed(), [{ note: 1 }, { note: 37 }, { note: 1 }]))
    expect(peak(minus(wet, dry))).toBeGreaterThan(0.1)
    // what is left of the wet kit without the snare's chain are the other pads
    expect(db(peak(minus(minus(wet, own), others)))).toBeLessThan(-120)
    // and the chain hears the snare alone: with an empty branch nothing changes at all
    expect(db(peak(minus(render(kitOf(drummed([]))), dry)))).toBeLessThan(-120)
  })
  it('a latent chain on one pad keeps all pads in time', () => {
    const late = render(kitOf(drummed([newEffect('limiter', { ceiling: 0, on: 0 })])))
    expect(late.length).toBeLessThan(900 * BLOCK)
    expect(db(peak(minus(late, render(kitOf()))))).toBeLessThan(-120)
  })
  it('is struck while the song stands, by whoever plays; pads of a choke group end each other', () => {
    const engine = engineOf(kitOf([], [{ note: 36 }, { note: 37, choke: 1 }, { note: 38, choke: 1 }], null))
    expect(peak(run(engine, 10))).toBe(0)
    engine.note('kit', 37, 1)
    const struck = run(engine, 20)
    for (let i = 0; i < 1000; i++) expect(struck[i]).toBe(sounds.snare![0]![i])
    engine.note('kit', 38, 1)
    const choked = run(engine, 3).subarray(0.006 * RATE)
    for (let i = 0; i < 60; i++) expect(choked[i]).toBe(sounds.hat![0]![Math.round(0.006 * RATE) + i])
    // the same pad again: the old strike fades, nothing adds up without end
    for (let k = 0; k < 50; k++) {
      engine.note('kit', 36, 1)
      expect(peak(run(engine, 1))).toBeLessThan(1.5)
    }
  })
  it('pads lie along a split as told while playing, and behind another source all goes along the last branch', () => {
    const project = kitOf(drummed([newEffect('gain', { level: -72 })]))
    const y = render(project, 900, (e, b) => {
      if (b !== 400) return
      const { next } = apply(project, (p) => {
        const node = p.tracks[0]!.a.nodes[0]!
        if (node.kind === 'split') node.branches[0]!.pads = [0, 2]
      })
      e.update(next)
    })
    const snareless = render(kitOf([], [{ note: 36 }, { note: 1 }, { note: 38 }]))
    const snare = render(kitOf([], [{ note: 1 }, { note: 37 }, { note: 1 }]))
    expect(db(peak(minus(y.subarray(0, 390 * BLOCK), snareless.subarray(0, 390 * BLOCK))))).toBeLessThan(-70)
    expect(db(peak(minus(y.subarray(460 * BLOCK), snare.subarray(460 * BLOCK))))).toBeLessThan(-70)
    const loop = kitOf(drummed([newEffect('gain', { level: -72 })]))
    loop.tracks[0]!.source = newSource('loop', {}, 'snare', 'src')
    const plain = kitOf()
    plain.tracks[0]!.source = newSource('loop', {}, 'snare', 'src')
    expect(peak(minus(render(loop, 60), render(plain, 60)))).toBe(0)
  })
  it('tune, length, pan and level of a pad are its own, and move while it sounds', () => {
    const y = render(kitOf([], [{ note: 36, tune: 12, length: 0.05 }, { note: 1 }, { note: 1 }]), 60)
    // twice as fast: crosses zero twice as often
    const ups = (x: Float32Array): number => x.filter((v, i) => i > 0 && x[i - 1]! < 0 && v >= 0).length
    expect(Math.abs(ups(y.subarray(0, 2300)) - (2300 * 0.022) / (2 * Math.PI))).toBeLessThan(1)
    expect(peak(y.subarray(Math.round(0.056 * RATE)))).toBe(0)
    const project = kitOf([], [{ note: 36 }, { note: 1 }, { note: 1 }])
    const z = render(project, 60, (e, b) => {
      if (b === 20) e.update(apply(project, setParam('src', 'pads[0].level', -72)).next)
    })
    expect(peak(z.subarray(45 * BLOCK))).toBeLessThan(1e-4)
  })
})
