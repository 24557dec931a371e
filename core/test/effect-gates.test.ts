import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { addLink, addModulator, setInput } from '@oleaje/core/project/motion-edits'
import { removeNode } from '@oleaje/core/project/chain-edits'
import { newEffect } from '@oleaje/core/project/new'
import { readProject } from '@oleaje/core/project/read'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, live, play, projectOf } from './project-rig'
import { RATE, sine } from './rig'

/** An envelope without slopes that a gate opens, on a track with one effect. */
function gated(type: string, params: Record<string, number>) {
  const made = projectOf(sine(311, 2), [newEffect(type, params, 'fx')])
  made.project = edited(
    made.project,
    addModulator('t', 'envelope', {
      id: 'env',
      params: { trigger: 1, attack: 0, hold: 0, decay: 0, sustain: 1, release: 0 },
    }),
    setInput('env', 0, { source: 'fx', output: 'gate' }),
    addLink('env', { owner: 't', param: 'pan' }, 0.5, 0.6),
  )
  return made
}

/** Value of the envelope at the end of each block. */
function traced(p: ReturnType<typeof gated>, seconds: number, at: Parameters<typeof play>[2] = {}): number[] {
  const values: number[] = []
  play(p, seconds, at, (e) => values.push(live(e, 'mod:env')), true)
  return values
}

describe('the gate of an effect as a trigger', () => {
  it('follows the row of steps of a Stutter: open in steps 4 and 7 of 8', () => {
    const values = traced(gated('stutter', { stepLength: 0.5 }), 1.99)
    const step = (0.25 * RATE) / BLOCK
    const open = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => values[Math.round((k + 0.5) * step)])
    expect(open).toEqual([0, 0, 0, 1, 0, 0, 1, 0])
  })

  it('follows a Gate that opens with the sound, and reads 0 while the effect is off', () => {
    const p = gated('gate', { threshold: -20 })
    expect(traced(p, 0.37).at(-1)).toBe(1)
    p.project = edited(p.project, setParam('fx', 'on', 0))
    expect(Math.max(...traced(p, 0.37))).toBe(0)
  })

  it('is kept in a file, and let go of with the effect', () => {
    const { project } = gated('stutter', {})
    const read = readProject(JSON.stringify(project))
    expect(read.tracks[0]?.modulators[0]?.inputs[0]).toEqual({ source: 'fx', output: 'gate' })
    const without = edited(project, removeNode('fx'))
    expect(without.tracks[0]?.modulators[0]?.inputs[0]).toBe(null)
  })
})

describe('the own gate of an envelope', () => {
  it('opens it without any other modulator', () => {
    const p = gated('gain', {})
    p.project = edited(p.project, setInput('env', 0, null))
    const down = edited(p.project, setParam('env', 'gate', 1))
    const values = traced(p, 0.3, {
      20: (e) => e.update(down),
      60: (e) => e.update(p.project),
    })
    expect([values[15], values[40], values[80]]).toEqual([0, 1, 0])
  })
})
