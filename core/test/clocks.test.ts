import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newBranch, newEffect, newLink, newModulator, newSplit } from '@oleaje/core/project/new'
import { targetAt } from '@oleaje/core/project/param-path'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { RATE, db, noise, peak, sine } from './rig'
import { place, projectOf } from './project-rig'

/** What stands before an effect and lets everything through, only later. */
const latencies: Record<string, () => ChainNode[]> = {
  'look-ahead': () => [newEffect('compressor', { ratio: 1, ahead: 3 })],
  'linear-phase bands': () => [
    { ...newSplit([newBranch('low'), newBranch('high')]), mode: 'bands', params: { ...newSplit([]).params, phase: 1 } },
  ],
  'a branch with Pitch fine': () => [
    { ...newSplit([newBranch('dry'), { ...newBranch('late'), nodes: [newEffect('pitch', { quality: 1 })] }]), mode: 'select' },
  ],
}

const FRAMES = 2.4 * RATE

/** The mix of a project as a render has it: what it is late by is taken off. Loops where the project does. */
function rendered(project: Project, sound: Float32Array): Float32Array {
  const engine = new Engine({ sampleRate: RATE, audio: () => ({ sampleRate: RATE, channels: [sound] }), looping: true })
  engine.load(project)
  engine.play(project.loop.start)
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  const blocks = Math.ceil((FRAMES + engine.latency) / BLOCK)
  const out = new Float32Array(blocks * BLOCK)
  for (let b = 0; b < blocks; b++) {
    engine.process(left, right)
    out.set(engine.mix.left, b * BLOCK)
  }
  return out.slice(engine.latency, engine.latency + FRAMES)
}

function projectWith(nodes: ChainNode[], sound: Float32Array): Project {
  const { project } = projectOf(sound, nodes)
  project.tempo = 107
  project.loop = { on: true, start: 0.37, end: 3.91 }
  project.tracks[0]!.line = {
    length: 0,
    notes: [0.5, 1.13, 2.29, 3.1].map((start, k) => ({ start, length: 0.41, pitch: 57 + k, velocity: 0.8 })),
    bend: [],
    pressure: [],
  }
  return project
}

/** Largest difference in dBFS. */
const apart = (a: Float32Array, b: Float32Array): number => db(peak(a.map((x, i) => x - b[i]!)))

describe('an effect that follows the song or notes, behind latency, is the same as without it', () => {
  const clocked: Record<string, () => ChainNode> = {
    'Tremolo': () => newEffect('tremolo', { sync: 1, length: 0.37, depth: 0.9, shape: 2 }),
    'Chorus': () => newEffect('chorus', { sync: 1, length: 1.37, wet: 1 }),
    'Flanger': () => newEffect('flanger', { sync: 1, length: 2.3, through: 0 }),
    'Flanger through zero': () => newEffect('flanger', { sync: 1, length: 2.3, through: 1 }),
    'Tremolo by itself': () => newEffect('tremolo', { sync: 0, rate: 3.7, depth: 0.9, shape: 3 }),
    'Ring by itself': () => newEffect('ring', { frequency: 313 }),
    'Stutter by steps': () => newEffect('stutter', { by: 0 }),
    'Stutter by notes': () => newEffect('stutter', { by: 1 }),
  }
  for (const [name, effect] of Object.entries(clocked))
    for (const [kind, late] of Object.entries(latencies))
      it(`${name} behind ${kind}`, () => {
        const sound = noise(3.3, 5, 0.4)
        const node = effect()
        const without = rendered(projectWith([structuredClone(node)], sound), sound)
        expect(peak(without)).toBeGreaterThan(0.05)
        // pure latency alone, to know what it leaves of the sound itself
        const floor = apart(rendered(projectWith(late(), sound), sound), rendered(projectWith([], sound), sound))
        expect(apart(rendered(projectWith([...late(), node], sound), sound), without)).toBeLessThan(Math.max(-120, floor + 12))
      })
})

describe('links and modulators behind latency', () => {
  for (const [kind, late] of Object.entries(latencies))
    it(`an LFO by notes and a slewed link to Gain, behind ${kind}`, () => {
      const sound = noise(3.3, 6, 0.4)
      const projectFor = (before: ChainNode[]): Project => {
        const project = projectWith([...before, newEffect('gain', {}, 'g')], sound)
        project.tracks[0]!.modulators = [
          newModulator('lfo', 'LFO', 'L', 0, { trigger: 1, sync: 1, length: 0.7 }, 'm'),
          newModulator('notes', 'Notes', 'N', 1, {}, 'n'),
        ]
        project.links = [
          {
            ...newLink('m', 'lfo', targetAt('g', 'level'), place(project, 'g', 'level', -20), place(project, 'g', 'level', 0)),
            mode: 'fixed',
            slewUp: 0.05,
            slewDown: 0.03,
          },
          { ...newLink('n', 'gate', targetAt('g', 'level'), 0, -0.1) },
        ]
        return project
      }
      const floor = apart(rendered(projectWith(late(), sound), sound), rendered(projectWith([], sound), sound))
      expect(apart(rendered(projectFor(late()), sound), rendered(projectFor([]), sound))).toBeLessThan(Math.max(-120, floor + 12))
    })
})

/** Effects with latency, a parameter that is heard at once, and the ends of the jump that a link makes. */
const jumps: [string, Record<string, number>, string, number, number][] = [
  ['gain', {}, 'level', -20, 0],
  ['drive', { drive: 0.1 }, 'output', -20, 0],
  ['drive', {}, 'drive', 0, 20],
  ['folder', {}, 'makeup', -20, 0],
  ['folder', {}, 'gain', 0, 20],
  ['folder', {}, 'upper', 0.9, 0.2],
  ['shaper', {}, 'output', -20, 0],
  ['shaper', {}, 'gain', 0, 20],
  ['crush', { rate: 48_000 }, 'bits', 12, 2],
  ['compressor', { ahead: 3, ratio: 1 }, 'makeup', -20, 0],
  ['limiter', {}, 'gain', -12, -2],
  ['flanger', { through: 1, depth: 0 }, 'mix', 0, 1],
  ['pitch', {}, 'level', 0.1, 1],
  ['pitch', { quality: 1 }, 'level', 0.1, 1],
  ['wow', {}, 'wet', 0.1, 1],
  ['pitch', { pitch: 12 }, 'wet', 0, 1],
]

describe('a link into an effect with latency is heard when it should be', () => {
  it.each(jumps)('%s %j %s', (type, params, path, from, to) => {
    const sound = sine(1733, 4, 0.5)
    const at = 1.0037
    const make = (moved: boolean): Float32Array => {
      const project = projectWith([newEffect(type, params, 'fx')], sound)
      project.loop.on = false
      project.loop.start = 0
      // a step of the curve at a time that no block begins with
      const beat = (at * 107) / 60
      project.tracks[0]!.modulators = [
        {
          ...newModulator('curve', 'Curve', 'C', 0, { length: 64, follows: 1 }, 'c'),
          data: {
            points: [
              { x: 0, y: 0, bend: 0 },
              { x: beat, y: 0, bend: 0 },
              { x: beat, y: moved ? 1 : 0, bend: 0 },
              { x: 64, y: moved ? 1 : 0, bend: 0 },
            ],
          },
        },
      ]
      project.links = [
        { ...newLink('c', 'curve', targetAt('fx', path), place(project, 'fx', path, from), place(project, 'fx', path, to)), mode: 'fixed' },
      ]
      return rendered(project, sound)
    }
    const still = make(false)
    const moved = make(true)
    // the middle of what the jump changes within the first 200 ms: half of its energy lies before and after within a cycle of a tone
    const away = moved.map((x, i) => Math.abs(x - still[i]!))
    const settled = peak(away.subarray(Math.round((at + 0.2) * RATE), Math.round((at + 0.25) * RATE)))
    expect(settled).toBeGreaterThan(0.01)
    const first = away.findIndex((x) => x > 0.3 * settled) / RATE
    // a tone of 1733 Hz passes 0.3 of its peak every 14 samples; kernels of oversamplers spread a jump over as many
    expect(Math.abs(first - at) * RATE, `heard ${((first - at) * 1000).toFixed(2)} ms away`).toBeLessThan(24)
  })
})
