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
    {
      ...newSplit([newBranch('low'), newBranch('high')]),
      mode: 'bands',
      params: { ...newSplit([]).params, phase: 1 },
    },
  ],
  'a branch with Pitch fine': () => [
    {
      ...newSplit([newBranch('dry'), { ...newBranch('late'), nodes: [newEffect('pitch', { quality: 1 })] }]),
      mode: 'select',
    },
  ],
}

const FRAMES = 2.4 * RATE

/** The mix of a project as a render has it: what it is late by is taken off. Loops where the project does. */
function rendered(project: Project, sound: Float32Array, frames = FRAMES): Float32Array {
  const engine = new Engine({
    sampleRate: RATE,
    audio: () => ({ sampleRate: RATE, channels: [sound] }),
    looping: true,
  })
  engine.load(project)
  engine.play(project.loop.start)
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  const blocks = Math.ceil((frames + engine.latency) / BLOCK)
  const out = new Float32Array(blocks * BLOCK)
  for (let b = 0; b < blocks; b++) {
    engine.process(left, right)
    out.set(engine.mix.left, b * BLOCK)
  }
  return out.slice(engine.latency, engine.latency + frames)
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
        const floor = apart(
          rendered(projectWith(late(), sound), sound),
          rendered(projectWith([], sound), sound),
        )
        expect(apart(rendered(projectWith([...late(), node], sound), sound), without)).toBeLessThan(
          Math.max(-120, floor + 12),
        )
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
            ...newLink(
              'm',
              'lfo',
              targetAt('g', 'level'),
              place(project, 'g', 'level', -20),
              place(project, 'g', 'level', 0),
            ),
            mode: 'fixed',
            slewUp: 0.05,
            slewDown: 0.03,
          },
          { ...newLink('n', 'gate', targetAt('g', 'level'), 0, -0.1) },
        ]
        return project
      }
      const floor = apart(
        rendered(projectWith(late(), sound), sound),
        rendered(projectWith([], sound), sound),
      )
      expect(apart(rendered(projectFor(late()), sound), rendered(projectFor([]), sound))).toBeLessThan(
        Math.max(-120, floor + 12),
      )
    })
})

/** Effects with latency, a parameter that is heard at once, and the ends of the jump that a link makes. */
const jumps: [string, Record<string, number>, string, number, number][] = [
  ['gain', {}, 'level', -20, 0],
  ['drive', { drive: 0.1 }, 'output', -20, 0],
  ['drive', {}, 'drive', 0, 20],
  ['drive', {}, 'bias', 0, 0.5],
  ['drive', {}, 'asymmetry', 0, 0.8],
  ['drive', { curve: 2 }, 'asymmetry', 0, 0.8],
  ['drive', { curve: 5, quality: 0 }, 'asymmetry', 0.1, 0.8],
  ['folder', {}, 'makeup', -20, 0],
  ['folder', {}, 'gain', 0, 20],
  ['folder', {}, 'upper', 0.9, 0.2],
  ['folder', {}, 'offset', 0, 0.5],
  ['shaper', {}, 'output', -20, 0],
  ['shaper', {}, 'gain', 0, 20],
  ['shaper', {}, 'offset', 0, 0.5],
  ['crush', { rate: 48_000 }, 'bits', 12, 2],
  ['crush', { rate: 17_311 }, 'bits', 12, 2],
  ['compressor', { ahead: 3, ratio: 1 }, 'makeup', -20, 0],
  ['limiter', {}, 'gain', -12, -2],
  ['flanger', { through: 1, depth: 0 }, 'mix', 0, 1],
  ['pitch', {}, 'level', 0.1, 1],
  ['pitch', { quality: 1 }, 'level', 0.1, 1],
  ['wow', {}, 'wet', 0.1, 1],
  ['varispeed', { speed: 0.5 }, 'wet', 0.1, 1],
  ['compressor', { ahead: 3 }, 'wet', 0, 1],
  ['pitch', { pitch: 12 }, 'wet', 0, 1],
]

/** Frame at which a step of a curve is due; no block begins with it. */
const AT = Math.floor(0.3037 * RATE) + 0.5

/**
 * A parameter of one effect at one value, at another, and made to jump from one to the other by a link to a
 * curve.
 */
function jumped(
  sound: Float32Array,
  [type, params, path, from, to]: (typeof jumps)[number],
  at = AT,
  frames = AT + 1000.5,
): Record<'from' | 'to' | 'jump', Float32Array> {
  const make = (before: number, after: number): Float32Array => {
    const project = projectWith([newEffect(type, params, 'fx')], sound)
    project.loop.on = false
    project.loop.start = 0
    const beat = (at / RATE) * (107 / 60)
    project.tracks[0]!.modulators = [
      {
        ...newModulator('curve', 'Curve', 'C', 0, { length: 64, follows: 1 }, 'c'),
        data: {
          points: [
            { x: 0, y: before, bend: 0 },
            { x: beat, y: before, bend: 0 },
            { x: beat, y: after, bend: 0 },
            { x: 64, y: after, bend: 0 },
          ],
        },
      },
    ]
    project.links = [
      {
        ...newLink(
          'c',
          'curve',
          targetAt('fx', path),
          place(project, 'fx', path, from),
          place(project, 'fx', path, to),
        ),
        mode: 'fixed',
      },
    ]
    return rendered(project, sound, frames)
  }
  return { from: make(0, 0), to: make(1, 1), jump: make(0, 1) }
}

describe('a link into an effect with latency is heard when it should be', () => {
  it.each(jumps)('%s %j %s', (...jump) => {
    // what the jump brings, of what it can bring, weighed by its energy: kernels spread it evenly before and
    // after
    const first = AT - 400.5
    const energy = new Float64Array(800)
    let brought = 0
    for (const seed of [9, 10, 11, 12, 13, 14, 15, 16]) {
      const heard = jumped(noise(AT / RATE + 0.03, seed, 0.5), jump)
      // the slope of what is heard, so that a level at rest that a curve shifts does not count
      const slope = (x: Float32Array, i: number): number => x[i + 1]! - x[i - 1]!
      for (let k = 0; k < energy.length; k++) {
        const i = first + k
        const whole = slope(heard.to, i) - slope(heard.from, i)
        brought += whole * (slope(heard.jump, i) - slope(heard.from, i))
        energy[k]! += whole * whole
      }
    }
    // so much lies before the jump, and at this frame the sum has come so far
    let before = energy.reduce((a, b) => a + b) - brought
    expect(brought).toBeGreaterThan(0.01)
    let k = 0
    while (before > energy[k]!) before -= energy[k++]!
    const away = first + k + before / energy[k]! - AT
    // a slower clock of its own answers when it ticks next
    const rate = jump[1]['rate'] ?? RATE
    const tick = rate < RATE ? RATE / rate : 0
    expect(away, `heard ${away.toFixed(2)} samples later`).toBeGreaterThan(-1)
    expect(away, `heard ${away.toFixed(2)} samples later`).toBeLessThan(1 + tick)
  })

  it.each([0.2171, 0.3037, 0.4533])('Pitch fine, at %d s: a tone turns faster from then on', (seconds) => {
    const at = Math.floor(seconds * RATE) + 0.5
    const sound = sine(1531, 1.2, 0.5)
    const heard = jumped(sound, ['pitch', { quality: 1 }, 'pitch', 0, 0.73], at, RATE)
    // by the phase of the higher tone, over many of its periods: once it turns faster, that stays as it is
    const higher = 1531 * 2 ** (0.73 / 12)
    let [re, im] = [0, 0]
    for (let k = 0; k < 4800; k++) {
      const i = at + 3600.5 + k
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / 4800)
      re += w * heard.jump[i]! * Math.cos((2 * Math.PI * higher * i) / RATE)
      im += w * heard.jump[i]! * Math.sin((2 * Math.PI * higher * i) / RATE)
    }
    const turns = -0.25 - Math.atan2(-im, re) / (2 * Math.PI)
    const expected = (higher - 1531) * (at / RATE)
    const off = turns - expected - Math.round(turns - expected)
    const away = (off / (higher - 1531)) * RATE
    // its frames know a tone's frequency, and with it its phase, only so exactly
    expect(Math.abs(away), `heard ${away.toFixed(2)} samples away`).toBeLessThan(2)
  })
})
