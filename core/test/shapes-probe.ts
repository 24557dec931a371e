/**
 * Plays a project and then does to it what a designer does while it plays. Writes a mark where that begins.
 * Run with V8's list of changed shapes; see shapes.test.ts.
 */
import { writeSync } from 'node:fs'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { effects } from '@oleaje/core/effects/index'
import { modulators } from '@oleaje/core/modulators/index'
import { addNode, duplicateNode, moveNode, putAround, removeNode } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator, removeLink, updateLink } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Project } from '@oleaje/core/project/schema'
import { newEffect } from '@oleaje/core/project/new'
import { edited, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const p = projectOf(
  noise(4, 3, 0.3),
  effects.map((d) => newEffect(d.id, {}, d.id)),
)
const first = edited(
  p.project,
  putAround('split', ['filter']),
  ...modulators.map((m) => addModulator('t', m.id, { id: `m-${m.id}` })),
  addLink('m-lfo', { owner: 'filter', param: 'cutoff' }, 0.21, 0.63, { id: 'a' }),
  addLink('m-follower', { owner: 'delay', param: 'feedback' }, 0.13, 0.4, { id: 'b' }),
)
// made before, as the interface makes them on a thread of its own
const later: Project[] = []
for (const edit of [
  duplicateNode('drive'),
  removeNode('chorus'),
  moveNode('gain', { after: 'delay' }),
  setParam('filter', 'on', 0),
  setParam('delay', 'wet', 0.37),
  setParam('t', 'level', 20),
  addLink('m-lfo', { owner: 'gain', param: 'level' }, 0.2, 0.61, { id: 'c' }),
  updateLink('c', { on: false }),
  updateLink('a', { amount: 0.31 }),
  updateLink('b', { slewUp: 0.2 }),
  removeLink('c'),
  addNode(newEffect('reverb'), { after: 'gain' }),
  setParam('t', 'mute', 1),
  setParam('t', 'mute', 0),
])
  later.push(edited(later.at(-1) ?? first, edit))

const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping: true })
const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
const play = (blocks: number): void => {
  for (let i = 0; i < blocks; i++) engine.process(left, right)
}

engine.load(first)
engine.play(0)
play(600)
writeSync(1, '\nFROM HERE\n')
for (const next of later) {
  engine.update(next)
  play(120)
}
for (const monitor of [
  { match: { track: 't', gain: 0.63 } },
  { dryTrack: 't' },
  { upTo: 'drive' },
  { part: { node: 'filter', what: 'wet' as const } },
  { part: { node: 'filter', what: 'difference' as const } },
  { items: { node: 'eq', chosen: [1] } },
  { alone: 'm-lfo' },
  { soloTracks: ['none'] },
  { probe: { track: 't', modulator: 'm-lfo' } },
]) {
  engine.setMonitor({ ...openMonitor, ...monitor })
  play(40)
  engine.setMonitor(openMonitor)
  play(40)
}
writeSync(1, '\nTO HERE\n')
