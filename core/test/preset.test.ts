import { describe, expect, it } from 'vitest'
import { addNode, addTrack, rename } from '@oleaje/core/project/chain-edits'
import { apply } from '@oleaje/core/project/edit'
import { addLink, addModulator, setInput, updateLink } from '@oleaje/core/project/motion-edits'
import {
  newBranch,
  newEffect,
  newGroup,
  newLoopBack,
  newProject,
  newSource,
  newSplit,
  newTrack,
} from '@oleaje/core/project/new'
import {
  type PresetPlacing,
  type Preset,
  checkPreset,
  duplicateTrack,
  looksLikePreset,
  presetOfBranch,
  presetOfModulators,
  presetOfNodes,
  presetOfTrack,
  readPreset,
  takePresetInto,
  unknownEffects,
} from '@oleaje/core/project/preset'
import { checkProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { findOwner, heardChain, nodesIn } from '@oleaje/core/project/walk'
import { edited, play, projectOf } from './project-rig'
import { noise } from './rig'

/**
 * A chain with a split, a loop-back and a group in it, moved by an LFO over which a drift goes, by a
 * combination and by a macro.
 */
function start(): Project {
  const { project } = projectOf(noise(2, 5, 0.4), [
    newEffect('filter', { cutoff: 1311, mix: 1 }, 'f'),
    newSplit(
      [
        { ...newBranch('dirty', -6, 'b1'), nodes: [newEffect('drive', { drive: 9 }, 'd')] },
        {
          ...newBranch('clean', -6, 'b2'),
          nodes: [newLoopBack([newEffect('pitch', { pitch: 7 }, 'p')], 'l')],
        },
      ],
      's',
    ),
    newGroup('Room', [newEffect('reverb', { wet: 0.3 }, 'r')], 'g'),
  ])
  const ear = newTrack('Ear', newSource('tone', {}, null, 'tone'), 'ear')
  return edited(
    project,
    addTrack(ear),
    addModulator('t', 'lfo', { id: 'm', params: { rate: 0.37 } }),
    addModulator('t', 'drift', { id: 'slow' }),
    addModulator('t', 'combine', { id: 'both' }),
    addModulator('t', 'macro', { id: 'haze', name: 'Haze' }),
    addModulator('t', 'follower', { id: 'duck', listens: { track: 'ear', point: 'after' } }),
    addModulator('t', 'lfo', { id: 'idle' }),
    setInput('both', 0, { source: 'm', output: 'wave' }),
    setInput('both', 1, { source: 'slow', output: 'drift' }),
    addLink('both', { owner: 'f', param: 'cutoff' }, 0.2, 0.7, { id: 'k1' }),
    addLink('slow', { owner: 'm', param: 'rate' }, 0.3, 0.5, { id: 'k2' }),
    addLink('haze', { owner: 'b1', param: 'level' }, 0.5, 0.8, { id: 'k3' }),
    addLink('duck', { owner: 'g', param: 'wet' }, 0.9, 0.1, { id: 'k4' }),
    addLink('haze', { owner: 'k1', param: 'amount' }, 0.1, 0.9, { id: 'k5' }),
    addLink('haze', { owner: 't', param: 'level' }, 0.5, 0.6, { id: 'k6' }),
  )
}
const target = (): Project =>
  edited(start(), addTrack(newTrack('Other', newSource('loop', {}, 'x', 'src2'), 'o')))
const take = (p: Project, track: string, preset: Preset, placing: PresetPlacing): Project =>
  checkProject(JSON.parse(JSON.stringify(apply(p, takePresetInto(track, preset, placing)).next)))
const chain = (p: Project, track: string) => heardChain(p.tracks.find((t) => t.id === track)!).nodes
const kinds = (p: Project, track: string): string[] =>
  [...nodesIn(chain(p, track))].map((n) => (n.kind === 'effect' ? n.type : n.kind))

describe('what is kept', () => {
  it('is a chain with all that moves it, and what moves that; nothing else of the project', () => {
    const preset = presetOfNodes(start(), ['f', 's', 'g'], 'Room with a drift')!
    expect(preset.modulators.map((m) => m.id)).toEqual(['m', 'slow', 'both', 'haze', 'duck'])
    expect(preset.links.map((l) => l.id).sort()).toEqual(['k1', 'k2', 'k3', 'k4', 'k5'])
    expect(preset.tags).toEqual(
      expect.arrayContaining(['filter', 'split', 'drive', 'loop-back', 'lfo', 'macro']),
    )
  })
  it('is one effect with what moves it', () => {
    const preset = presetOfNodes(start(), ['d'], 'Drive')!
    expect([preset.chain.nodes.length, preset.modulators.length, preset.links.length]).toEqual([1, 0, 0])
  })
  it('comes back from text as it was, and from the text of the first version', () => {
    const preset = presetOfTrack(start(), 't')!
    const text = JSON.stringify(preset)
    expect(looksLikePreset(text)).toBe(true)
    expect(readPreset(text)).toEqual(preset)
    const { format, name, tags, chain: kept, modulators, links } = preset
    expect(
      readPreset(JSON.stringify({ format, version: 1, name, tags, chain: kept, modulators, links })).kind,
    ).toBe('chain')
  })
  it.each([
    ['not JSON', 'hello', /not valid JSON/],
    ['of something else', '{"format":"x"}', /not an Oleaje preset/],
    ['from the future', '{"format":"oleaje-preset","version":9}', /newer Oleaje \(version 9\)/],
    ['without its parts', '{"format":"oleaje-preset","version":2,"name":"x"}', /cannot be read: at kind/],
    ['with a forbidden name', '{"format":"oleaje-preset","__proto__":{}}', /forbidden name/],
  ])('text that is %s is refused with a sentence', (_, text, sentence) =>
    expect(() => readPreset(text)).toThrow(sentence),
  )
  it('keeps effects that this program does not know, and says which', () => {
    const preset = presetOfNodes(start(), ['d'], 'x')!
    const strange = checkPreset({
      ...preset,
      chain: { nodes: [{ ...preset.chain.nodes[0], type: 'undertow' }] },
    })
    expect(unknownEffects(strange)).toEqual(['undertow'])
    expect(kinds(take(target(), 'o', strange, { at: { startOf: 'o' } }), 'o')).toEqual(['undertow'])
  })
})

describe('a preset is taken', () => {
  it('as a branch where there is room for one more, and nowhere else', () => {
    const branches = (n: number) => Array.from({ length: n }, (_, i) => newBranch(`${i}`, 0, `full${i}`))
    const taken = (n: number): number => {
      const full = edited(target(), addNode(newSplit(branches(n), 'sp'), { startOf: 'o' }))
      const found = findOwner(take(full, 'o', presetOfBranch(start(), 'b2')!, { intoSplit: 'sp' }), 'sp')
      return found?.kind === 'node' && found.node.kind === 'split' ? found.node.branches.length : 0
    }
    expect([taken(7), taken(8)]).toEqual([8, 8])
  })
  const preset = presetOfNodes(start(), ['f', 's', 'g'], 'Room')!
  const inner = ['filter', 'split', 'drive', 'loop-back', 'pitch', 'group', 'reverb']
  it('to a spot, around effects, in place of them, as a branch, and as a whole chain', () => {
    const p = edited(
      target(),
      addNode(newEffect('gain', {}, 'g1'), { startOf: 'o' }),
      addNode(newEffect('crush', {}, 'c1'), { after: 'g1' }),
    )
    expect(kinds(take(p, 'o', preset, { at: { after: 'g1' } }), 'o')).toEqual(['gain', ...inner, 'crush'])
    expect(kinds(take(p, 'o', preset, { around: ['c1'] }), 'o')).toEqual(['gain', 'split', 'crush', ...inner])
    expect(kinds(take(p, 'o', preset, { instead: ['g1'] }), 'o')).toEqual([...inner, 'crush'])
    expect(kinds(take(p, 'o', preset, { chainOf: 'o' }), 'o')).toEqual(inner)
    const split = edited(p, addNode(newSplit([newBranch('a', 0, 'ba')], 'sp'), { startOf: 'o' }))
    expect(
      kinds(take(split, 'o', presetOfBranch(start(), 'b2')!, { intoSplit: 'sp' }), 'o').slice(0, 3),
    ).toEqual(['split', 'loop-back', 'pitch'])
  })
  it('with new ids and free letters, links and inputs between the new ones, listening where it can', () => {
    const p = take(target(), 'o', preset, { at: { startOf: 'o' } })
    const letters = p.tracks.flatMap((t) => t.modulators.map((m) => m.letter))
    expect(new Set(letters).size).toBe(letters.length)
    const own = new Set(p.tracks.find((t) => t.id === 'o')!.modulators.map((m) => m.id))
    expect(p.links.filter((l) => own.has(l.source))).toHaveLength(5)
    const both = p.tracks.find((t) => t.id === 'o')!.modulators.find((m) => m.type === 'combine')!
    expect(both.inputs.every((i) => i && own.has(i.source))).toBe(true)
    const ears = (q: Project): unknown =>
      q.tracks.find((t) => t.id === 'o')!.modulators.find((m) => m.type === 'follower')!.listens
    expect(ears(p)).toEqual({ track: 'ear', point: 'after' })
    const alone = edited(newProject('Elsewhere'), addTrack(newTrack('Other', newSource('tone'), 'o')))
    expect(ears(take(alone, 'o', preset, { at: { startOf: 'o' } }))).toEqual({ track: 'o', point: 'after' })
  })
  it('again and again, without anything of one reaching another', () => {
    let p = take(target(), 'o', preset, { at: { startOf: 'o' } })
    p = take(p, 'o', preset, { at: { startOf: 'o' } })
    const filters = [...nodesIn(chain(p, 'o'))].filter((n) => n.kind === 'effect' && n.type === 'filter')
    const changed = edited(p, setParam(filters[0]!.id, 'cutoff', 300))
    expect(
      [...nodesIn(chain(changed, 'o'))]
        .filter((n) => n.kind === 'effect' && n.type === 'filter')
        .map((n) => n.params.cutoff),
    ).toEqual([300, 1311])
  })
  it('modulators by themselves go on moving what is still here', () => {
    const kept = presetOfModulators(start(), ['haze'], 'Haze')!
    const p = take(start(), 'ear', kept, { at: { startOf: 'ear' } })
    const copy = p.tracks.find((t) => t.id === 'ear')!.modulators[0]!
    expect(
      p.links
        .filter((l) => l.source === copy.id)
        .map((l) => l.target.owner)
        .sort(),
    ).toEqual(['b1', 'k1', 't'])
    const elsewhere = edited(newProject('Elsewhere'), addTrack(newTrack('Other', newSource('tone'), 'o')))
    expect(take(elsewhere, 'o', kept, { at: { startOf: 'o' } }).links).toEqual([])
  })
  it('sounds equal to the bit on another track of the same sound', () => {
    const whole = presetOfTrack(start(), 't')!
    const made = projectOf(noise(2, 5, 0.4), [])
    const other = {
      ...made,
      project: take(
        {
          ...made.project,
          tracks: [
            ...made.project.tracks.slice(0, 1),
            newTrack('Ear', newSource('tone', {}, null, 'tone'), 'ear'),
            ...made.project.tracks.slice(1),
          ],
        },
        't',
        whole,
        { chainOf: 't' },
      ),
    }
    const a = play({ ...made, project: start() }, 1.9)
    const b = play(other, 1.9)
    expect(Math.max(...a.left.map(Math.abs))).toBeGreaterThan(0.05)
    expect(b.left).toEqual(a.left)
  })
})

describe('a track duplicated', () => {
  it('has its source, chain, modulators and the links to all of them, its level too', () => {
    const p = checkProject(
      JSON.parse(
        JSON.stringify(apply(edited(start(), rename('t', 'Kit')), duplicateTrack('t', 'copy')).next),
      ),
    )
    const copy = p.tracks.find((t) => t.id === 'copy')!
    expect(copy.source!.audio).toBe('x')
    expect(copy.modulators.map((m) => m.type)).toEqual([
      'lfo',
      'drift',
      'combine',
      'macro',
      'follower',
      'lfo',
    ])
    expect(p.links.filter((l) => copy.modulators.some((m) => m.id === l.source))).toHaveLength(6)
    expect(p.links.some((l) => l.target.owner === 'copy' && l.target.param === 'level')).toBe(true)
  })
  it('pasted onto its own track links to the modulators there are; elsewhere it brings its own', () => {
    const p = start()
    const preset = presetOfNodes(p, ['f'], 'Filter')!
    const here = p.tracks.find((t) => t.modulators.length > 0)!
    const count = (q: Project, id: string): number => q.tracks.find((t) => t.id === id)!.modulators.length
    const shared = apply(
      p,
      takePresetInto(here.id, preset, { at: { after: 'f' } }, () => {}, true),
    ).next
    expect(count(shared, here.id)).toBe(here.modulators.length)
    // all of its links come along, but for those to the modulators themselves
    const brought = preset.links.filter((l) => !here.modulators.some((m) => m.id === l.target.owner))
    expect(shared.links.length).toBe(p.links.length + brought.length)
    const copied = apply(p, takePresetInto(here.id, preset, { at: { after: 'f' } })).next
    expect(count(copied, here.id)).toBe(here.modulators.length + preset.modulators.length)
    const other = apply(
      p,
      takePresetInto('ear', preset, { at: { startOf: 'ear' } }, () => {}, true),
    ).next
    expect(count(other, 'ear')).toBe(preset.modulators.length)
    checkProject(shared)
  })
})

describe('random places of a fan', () => {
  it('are the same wherever a preset is taken', () => {
    const { project, audio } = projectOf(noise(2, 5, 0.4), [newEffect('taps', {}, 'taps')])
    const heard = (p: Project): Float32Array => play({ project: p, audio }, 0.5).left
    const fanned = edited(
      project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 0.37 } }),
      addLink('m', { owner: 'taps', param: 'pan', lane: 'taps' }, 0.1, 0.9, { id: 'l' }),
      updateLink('l', { fan: { phase: 0, rate: 0, random: 1 } }),
    )
    const preset = presetOfTrack(fanned, 't') as Preset
    const takenOnce = edited(project, takePresetInto('t', preset, { chainOf: 't' }))
    const takenTwice = edited(
      project,
      takePresetInto('t', readPreset(JSON.stringify(preset)), { chainOf: 't' }),
    )
    const original = heard(fanned)
    expect(heard(takenOnce)).toEqual(original)
    expect(heard(takenTwice)).toEqual(original)
  })
})
