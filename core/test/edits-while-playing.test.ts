import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { effectDefinition } from '@oleaje/core/effects/index'
import { Engine } from '@oleaje/core/engine/engine'
import {
  addBranch,
  addNode,
  copyToOther,
  duplicateNode,
  hear,
  moveNode,
  removeBranch,
  removeNode,
  setSidechain,
  setSplitMode,
  putAround,
  unwrap,
} from '@oleaje/core/project/chain-edits'
import { type Edit, together } from '@oleaje/core/project/edit'
import {
  addLink,
  addModulator,
  removeLink,
  removeModulator,
  setLinkMode,
  setLinkSource,
  updateLink,
} from '@oleaje/core/project/motion-edits'
import { loopBackKind } from '@oleaje/core/project/nodes/loop-back'
import { newBranch, newEffect, newGroup, newSplit } from '@oleaje/core/project/new'
import { defaultsOf } from '@oleaje/core/units/parameter'
import {
  addLaneItem,
  removeLaneItem,
  setData,
  setLaneLength,
  setParam,
  takePreset,
} from '@oleaje/core/project/value-edits'
import type { LoopBack, Project } from '@oleaje/core/project/schema'
import { edited, place, projectOf } from './project-rig'
import { RATE, noise, sine } from './rig'

/** The edit comes early; equality with a fresh load is looked at from {@link SETTLED} on. */
const SECONDS = 1.6
const SETTLED = 1.3
const saw = Float32Array.from(
  { length: Math.round(4 * RATE) },
  (_, i) => 0.25 * (2 * (((i * 147.3) / RATE) % 1) - 1),
)
const sounds = { sine: sine(311, 4, 0.3), noise: noise(4, 9, 0.25), saw }

/** Of an EQ that is heard. */
const bands: Record<string, number>[] = [
  { kind: 1, frequency: 120, gain: 3 },
  { frequency: 340, gain: 8, q: 2 },
  { frequency: 1600, gain: -5 },
  { kind: 2, frequency: 6000, gain: 2 },
]

/**
 * A chain with every kind of node, moved by a macro that is held and by a slow LFO. The shaper is kept below
 * its corner: a tone that crosses it is rough by itself.
 */
function chain(sound: Float32Array) {
  const a = newBranch('a', -6, 'ba')
  a.nodes = [newEffect('gain', { level: -2 }, 'ga')]
  const b = newBranch('b', -6, 'bb')
  b.nodes = [newEffect('delay', { time: 0.013, feedback: 0.2, wet: 0.4 }, 'dl')]
  const loopBack: LoopBack = {
    kind: 'loop-back',
    id: 'lb',
    params: {
      ...defaultsOf(loopBackKind.params({} as LoopBack) ?? {}),
      sync: 0,
      time: 0.0531,
      feedback: 0.05,
    },
    nodes: [{ ...newEffect('eq', {}, 'e'), lanes: { bands } }],
  }
  const made = projectOf(sound, [
    newEffect('filter', { cutoff: 2400 }, 'f'),
    newSplit([a, b], 's'),
    newGroup('g', [newEffect('drive', { drive: 3, output: -3 }, 'dr')], 'g'),
    loopBack,
    newEffect('shaper', { gain: -12, output: 11 }, 'sh'),
    newEffect('gain', { level: -1 }, 'h'),
  ])
  const project = edited(
    made.project,
    addModulator('t', 'macro', { id: 'm', params: { value: 0.8 } }),
    addModulator('t', 'macro', { id: 'n', params: { value: 0.1 } }),
    addModulator('t', 'lfo', { id: 'l', params: { rate: 0.9 } }),
    addLink(
      'm',
      { owner: 'ga', param: 'level' },
      place(made.project, 'ga', 'level', -20),
      place(made.project, 'ga', 'level', 0),
      {
        id: 'km',
      },
    ),
    addLink(
      'l',
      { owner: 'f', param: 'cutoff' },
      place(made.project, 'f', 'cutoff', 1500),
      place(made.project, 'f', 'cutoff', 4000),
      {
        id: 'kl',
      },
    ),
    addLink(
      'm',
      { owner: 'h', param: 'level' },
      place(made.project, 'h', 'level', -8),
      place(made.project, 'h', 'level', -2),
      {
        id: 'kh',
      },
    ),
  )
  return { project, audio: made.audio }
}

type Script = readonly (readonly [block: number, edit: Edit])[]
const AT = Math.round((0.37 * RATE) / BLOCK)

/** The mix of a project to which edits come while it plays. */
function played(
  project: Project,
  audio: () => { sampleRate: number; channels: Float32Array[] },
  script: Script,
  seconds = SECONDS,
): Float32Array {
  const engine = new Engine({ sampleRate: RATE, audio, looping: true })
  engine.load(project)
  engine.play(0)
  const out = new Float32Array(Math.round((seconds * RATE) / BLOCK) * BLOCK)
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  let now = project
  for (let b = 0; b * BLOCK < out.length; b++) {
    for (const [at, edit] of script) if (at === b) engine.update((now = edited(now, edit)))
    engine.process(l, r)
    out.set(engine.mix.left, b * BLOCK)
  }
  return out
}

/** Largest magnitude of the n-th difference from one sample to the next. */
function rough(x: Float32Array, n: 1 | 2): number {
  let most = 0
  for (let i = 2; i < x.length; i++)
    most = Math.max(most, Math.abs(n === 1 ? x[i]! - x[i - 1]! : x[i]! - 2 * x[i - 1]! + x[i - 2]!))
  return most
}
const loudest = (x: Float32Array): number => x.reduce((m, v) => Math.max(m, Math.abs(v)), 0)

/** Edits that every kind of node knows. */
const onAnyNode = (id: string): [string, Edit][] => [
  [`switch ${id} off`, setParam(id, 'on', 0)],
  [`remove ${id}`, removeNode(id)],
  [`duplicate ${id}`, duplicateNode(id, new Map([[id, `${id}2`]]))],
  [`move ${id} to the start`, moveNode(id, { startOf: 't' })],
  [`group ${id}`, putAround('group', [id], 'x')],
  [`split around ${id}`, putAround('split', [id], 'x')],
  [`add after ${id}`, addNode(newEffect('filter', { cutoff: 5000 }, 'new'), { after: id })],
]
const point = (x: number, y: number) => ({ x, y, bend: 0 })
const edits: [string, Edit][] = [
  ...['f', 's', 'g', 'lb'].flatMap(onAnyNode),
  ['unwrap the split', unwrap('s')],
  ['unwrap the group', unwrap('g')],
  ['unwrap the loop-back', unwrap('lb')],
  ['turn a value', setParam('f', 'resonance', 4)],
  ['wet of an effect', setParam('dr', 'wet', 0.2)],
  ['wet of a group', setParam('g', 'wet', 0.3)],
  ['choose', setParam('dr', 'curve', 5)],
  ['a slope', setParam('f', 'slope', 1)],
  ['a preset', takePreset('dr', effectDefinition('drive')!.presets![0]!)],
  ['a preset with bands', takePreset('e', effectDefinition('eq')!.presets![1]!)],
  ['add a band', addLaneItem('e', 'bands', 3, { kind: 0, frequency: 480, gain: 11, on: 1 })],
  ['remove a band', removeLaneItem('e', 'bands', 0)],
  ['a band off', setParam('e', 'bands[1].on', 0)],
  ['a band’s kind', setParam('e', 'bands[1].kind', 5)],
  ['a band’s gain', setParam('e', 'bands[1].gain', 14)],
  ['a band’s place', setParam('e', 'bands[0].place', 1)],
  ['fewer bands', setLaneLength('e', 'bands', 2)],
  ['soft clip', setParam('e', 'clip', 1)],
  ['bands in parallel', setParam('e', 'row', 1)],
  ['a drawn curve', setData('sh', 'points', [point(0, 0.2), point(0.5, 0.5), point(1, 0.8)])],
  ['a delay’s path', setParam('dl', 'path', 1)],
  ['a delay’s time', setParam('dl', 'time', 0.021)],
  ['a delay’s sync', setParam('dl', 'sync', 1)],
  ['a sidechain', setSidechain('dr', { track: 't', point: 'before' })],
  ['add a branch', addBranch('s', newBranch('c', -6, 'bc'))],
  ['remove a branch', removeBranch('bb')],
  ...(['bands', 'mid-side', 'left-right', 'select'] as const).map((mode): [string, Edit] => [
    `split into ${mode}`,
    setSplitMode('s', mode),
  ]),
  ['bands in linear phase', together(setSplitMode('s', 'bands'), setParam('s', 'phase', 1))],
  ['a branch’s level', setParam('ba', 'level', -30)],
  ['a branch’s pan', setParam('ba', 'pan', 0.7)],
  ['a branch’s polarity', setParam('ba', 'polarity', -1)],
  ['mute a branch', setParam('ba', 'mute', 1)],
  ['add a link', addLink('n', { owner: 'dr', param: 'output' }, 0.2, 0.6, { id: 'kn' })],
  ['remove a link', removeLink('kh')],
  ['remove a modulator', removeModulator('m')],
  ['a link’s range', updateLink('kh', { from: -0.4, to: -0.2 })],
  ['a link’s amount', updateLink('kh', { amount: 0.2 })],
  ['a link off', updateLink('kh', { on: false })],
  ['another source', setLinkSource('kh', 'n')],
  ['a link’s mode', setLinkMode('kh', 'fixed')],
  ['a link’s bend', updateLink('kh', { curve: 0.8 })],
  ['a quantised link', updateLink('kh', { quantise: { to: 'steps', steps: 3 } })],
  ['a slew', updateLink('kh', { slewUp: 0.05, slewDown: 0.05 })],
  ['turn a macro', setParam('m', 'value', 0.1)],
  ['the track’s level', setParam('t', 'level', -9)],
  ['the track’s pan', setParam('t', 'pan', -0.8)],
  ['mute the track', setParam('t', 'mute', 1)],
  ['the mix’s level', setParam('mix', 'level', -9)],
  ['the loop’s end', setParam('src', 'end', 0.0613)],
  ['the loop’s start', setParam('src', 'start', 0.217)],
  ['the loop’s level', setParam('src', 'level', -8)],
  [
    'the tempo',
    (p) => {
      p.tempo = 97
    },
  ],
  ['a limiter before a gain that a macro holds', addNode(newEffect('limiter', {}, 'new'), { after: 'sh' })],
  ['drive before it', addNode(newEffect('drive', { drive: 0 }, 'new'), { after: 's' })],
]

/**
 * What has a memory of where it began: tuning, tempo and reading places of loops, and phases of oscillators.
 */
const keepsItsOwn = /tempo|loop’s|sync/
/** A delay whose time goes a long way bends pitch, and with it steepness, as far. */
const bendsPitch = /sync/

describe.each(Object.entries(sounds))('while a %s plays', (name, sound) => {
  const { project, audio } = chain(sound)
  const steady = played(project, audio, [])
  // long enough for a plan that is made in pieces, an effect that fades out first, and what heals after
  const around = (x: Float32Array): Float32Array =>
    x.subarray((AT - 2) * BLOCK, AT * BLOCK + Math.round(0.4 * RATE))

  // the short form plays each edit on the sine, and every fifth on each of the two others
  const some =
    process.env.OLEAJE_LONG || name === 'sine'
      ? edits
      : edits.filter((_, i) => i % 5 === (name === 'saw' ? 0 : 2))
  it.each(some)('%s: nothing clicks, and in the end it is as if loaded so', (label, edit) => {
    const seconds = name === 'sine' ? SECONDS : 0.8
    const after = played(edited(project, edit), audio, [], seconds)
    const heard = played(project, audio, [[AT, edit]], seconds)
    if (name === 'sine' && !bendsPitch.test(label))
      expect(rough(around(heard), 2), 'roughness').toBeLessThan(
        Math.max(rough(around(steady), 2), rough(around(after), 2)) + 0.001,
      )
    else {
      if (!bendsPitch.test(label))
        expect(rough(around(heard), 1), 'step').toBeLessThan(
          Math.max(rough(around(steady), 1), rough(around(after), 1)) + (name === 'saw' ? 0.02 : 0.1),
        )
      expect(loudest(around(heard)), 'level').toBeLessThan(
        1.1 * (loudest(around(steady)) + loudest(around(after))),
      )
    }
    if (name !== 'sine' || keepsItsOwn.test(label)) return
    const end = Math.round(SETTLED * RATE)
    let most = 0
    for (let i = end; i < heard.length; i++) most = Math.max(most, Math.abs(heard[i]! - after[i]!))
    expect(most, 'difference from a fresh load').toBeLessThan(Math.max(3.2e-5, 3.2e-5 * loudest(after)))
  })
})

describe('one edit right after another', () => {
  const { project, audio } = chain(sounds.sine)
  const around = (x: Float32Array): Float32Array =>
    x.subarray((AT - 2) * BLOCK, AT * BLOCK + Math.round(0.4 * RATE))
  it.each([1, 2, 3, 5, 9, 17, 30])(
    'an effect removed %i blocks after a link was added fades out all the same',
    (later) => {
      const quieter = place(project, 'dr', 'output', -6)
      const link = addLink('n', { owner: 'dr', param: 'output' }, quieter, quieter, { id: 'kn' })
      const heard = played(project, audio, [
        [AT, link],
        [AT + later, removeNode('h')],
      ])
      const after = played(edited(project, link, removeNode('h')), audio, [], 0.8)
      expect(rough(around(heard), 2)).toBeLessThan(
        Math.max(rough(around(played(project, audio, [])), 2), rough(around(after), 2)) + 0.001,
      )
    },
  )
  it('a slew that comes after its range was moved begins where the value is', () => {
    // moved by the LFO: what the link gave when its range was moved is long past when the slew is switched on
    const moving = edited(
      project,
      addLink('l', { owner: 'g', param: 'wet' }, 0.1, 0.2, { id: 'ks', mode: 'fixed' }),
      setParam('dr', 'output', -30),
    )
    const heard = played(moving, audio, [
      [AT - 100, updateLink('ks', { from: 0, to: 0.97 })],
      [AT + 20, updateLink('ks', { slewUp: 3, slewDown: 3 })],
    ])
    expect(rough(around(heard), 2)).toBeLessThan(
      rough(around(played(edited(moving, updateLink('ks', { from: 0, to: 0.97 })), audio, [])), 2) + 0.001,
    )
  })
  it('a band that was added while playing is switched without a click', () => {
    const add = addLaneItem('e', 'bands', 3, { kind: 0, frequency: 330, gain: 12, q: 1.5, on: 1 })
    const heard = played(project, audio, [
      [AT - 90, add],
      [AT + 10, setParam('e', 'bands[4].on', 0)],
      [AT + 60, setParam('e', 'bands[4].on', 1)],
    ])
    expect(rough(around(heard), 2)).toBeLessThan(
      rough(around(played(edited(project, add), audio, [])), 2) + 0.001,
    )
  })
  it('A and B change places without a click', () => {
    const both = edited(
      project,
      copyToOther('t'),
      hear('t', 'b'),
      setParam('f', 'cutoff', 300),
      setParam('s', 'on', 0),
      removeNode('dr'),
      hear('t', 'a'),
    )
    const heard = played(both, audio, [
      [AT, hear('t', 'b')],
      [AT + 40, hear('t', 'a')],
    ])
    expect(rough(around(heard), 2)).toBeLessThan(
      Math.max(
        rough(around(played(both, audio, [])), 2),
        rough(around(played(edited(both, hear('t', 'b')), audio, [])), 2),
      ) + 0.001,
    )
  })
})
