import { describe, expect, it } from 'vitest'
import { apply, changeTo } from '@oleaje/core/project/edit'
import { addLink, addModulator, setInput } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import { patched } from '@oleaje/core/project/patch'
import { type Preset, presetOfTrack } from '@oleaje/core/project/preset'
import { AUDITION_LEVEL, auditioned, replaceChain } from '@oleaje/core/project/replace-chain'
import type { Project } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { edited, engineOf, play, projectOf, run } from './project-rig'
import { RATE, noise, sine } from './rig'

/** A filter moved by an LFO that a drift moves; beside it an unused macro, and one that moves the level. */
function bench(sound: Float32Array): ReturnType<typeof projectOf> {
  const { project, audio } = projectOf(sound, [newEffect('filter', { cutoff: 1311 }, 'f')])
  return {
    audio,
    project: edited(
      project,
      addModulator('t', 'drift', { id: 'slow' }),
      addModulator('t', 'lfo', { id: 'wave', params: { rate: 0.37 } }),
      addLink('slow', { owner: 'wave', param: 'rate' }, 0.4, 0.6),
      addLink('wave', { owner: 'f', param: 'cutoff' }, 0.3, 0.7),
      addModulator('t', 'macro', { id: 'idle' }),
      addModulator('t', 'macro', { id: 'level' }),
      addLink('level', { owner: 't', param: 'level' }, 0.8, 0.9),
    ),
  }
}
const other = (): Preset => {
  const { project } = projectOf(noise(1, 3, 0.4), [
    newEffect('delay', { time: 0.113, wet: 0.5 }, 'd'),
    newEffect('reverb', { wet: 0.3 }, 'r'),
  ])
  return presetOfTrack(
    edited(
      project,
      addModulator('t', 'macro', { id: 'far' }),
      addLink('far', { owner: 'r', param: 'wet' }, 0, 0.4),
    ),
    't',
    'Quay',
  ) as Preset
}
const names = (p: Project): string[] => p.tracks[0]?.modulators.map((m) => m.id).sort() ?? []

describe('a chain in place of another', () => {
  it('takes away what moved nothing but the old one, and leaves the rest', () => {
    const { project } = bench(noise(1, 3, 0.4))
    const next = apply(project, replaceChain('t', other())).next
    expect(names(next)).toEqual(expect.arrayContaining(['idle', 'level']))
    expect(names(next)).not.toEqual(expect.arrayContaining(['wave']))
    expect(names(next)).not.toEqual(expect.arrayContaining(['slow']))
    expect(next.tracks[0]?.modulators).toHaveLength(3)
    expect(next.links).toHaveLength(2)
    expect(heardChain(next.tracks[0] as Project['tracks'][number]).nodes).toHaveLength(2)
  })

  it('keeps a modulator that feeds another one that stays', () => {
    const { project } = bench(noise(1, 3, 0.4))
    const fed = edited(
      project,
      addModulator('t', 'combine', { id: 'both' }),
      setInput('both', 0, { source: 'wave', output: 'wave' }),
      addLink('both', { owner: 't', param: 'pan' }, 0.4, 0.6),
    )
    expect(names(apply(fed, replaceChain('t', other())).next)).toEqual(
      expect.arrayContaining(['both', 'wave', 'slow']),
    )
  })
})

describe('an audition', () => {
  it('is a change of what the engine plays, and going back restores the document bit for bit', () => {
    const { project } = bench(noise(1, 3, 0.4))
    const before = JSON.stringify(project)
    const played = apply(project, auditioned('t', other(), -3.7)).next
    expect(heardChain(played.tracks[0] as Project['tracks'][number]).nodes.at(-1)).toMatchObject({
      id: AUDITION_LEVEL,
      params: { level: -3.7 },
    })
    expect(JSON.stringify(project)).toBe(before)
    expect(patched(played, changeTo(played, project).patches)).toEqual(project)
  })

  it('begins and ends without a click, and leaves nothing behind in the engine', () => {
    const rig = bench(sine(311, 2, 0.4))
    const played = apply(rig.project, auditioned('t', other(), 2.3)).next
    const largest = (x: Float32Array): number => {
      let most = 0
      for (let i = 1; i < x.length; i++) most = Math.max(most, Math.abs((x[i] ?? 0) - (x[i - 1] ?? 0)))
      return most
    }
    const steady = Math.max(
      largest(play(rig, 1).left.subarray(RATE / 4)),
      largest(play({ ...rig, project: played }, 1).left.subarray(RATE / 4)),
    )
    const through = play(rig, 1.9, {
      101: (e) => e.update(played),
      331: (e) => e.update(rig.project),
    }).left
    expect(largest(through.subarray(RATE / 4))).toBeLessThan(1.3 * steady)
    // from the start again, it is as it always was
    const engine = engineOf(rig)
    run(engine, 101)
    engine.update(played)
    run(engine, 230)
    engine.update(rig.project)
    run(engine, 101)
    engine.play(0, false)
    const fresh = engineOf(rig)
    expect(run(engine, 301)).toEqual(run(fresh, 301))
  })
})
