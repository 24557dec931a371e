import { describe, expect, it } from 'vitest'
import { apply } from '@oleaje/core/project/edit'
import { addTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newTrack } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { soundOf } from '@oleaje/core/render/replay'
import { excerptOf, excerptPlan } from '@oleaje/core/search/excerpt'
import { costsOf } from '@oleaje/core/search/costs'
import { Comparison, type Contribution, partsOf, withoutParts } from '@oleaje/core/search/what-matters'
import { edited, projectOf } from './project-rig'
import { RATE, noise, peak } from './rig'

type Rig = ReturnType<typeof projectOf>

/** A loop of 6 s at 107 bpm whose middle is loud and broken up. */
function rig(nodes: ChainNode[], ...edits: Parameters<typeof edited>[1][]): Rig {
  const sound = noise(6, 3, 0.02).map((x, i) => {
    const t = i / RATE
    return t > 2.3 && t < 4.7 ? x * 9 * (t % 0.31 < 0.12 ? 1 : 0.1) : x
  })
  const made = projectOf(sound, nodes)
  const project = edited({ ...made.project, tempo: 107, loop: { on: true, start: 0, end: 10.7 } }, ...edits)
  return { ...made, project }
}

function contributions({ project, audio }: Rig): Map<string, Contribution> {
  const excerpt = excerptOf(project, 't', audio, 1.9)
  const comparison = new Comparison(project, 't', excerpt, audio)
  return new Map(partsOf(project, 't').map((part) => [part.id, comparison.of(part)]))
}

describe('the excerpt', () => {
  it('is where the source is loud and moves, and begins as the song does there', () => {
    const { project, audio } = rig([newEffect('delay', { time: 0.37, feedback: 0.5 }, 'd')])
    const excerpt = excerptOf(project, 't', audio, 1.9)
    expect(excerpt.from).toBeGreaterThan(1.9)
    expect(excerpt.from + excerpt.seconds).toBeLessThan(5.1)
    expect(excerpt.warm).toBeGreaterThan(0.3)
    const [left] = soundOf(excerptPlan(project, 't', excerpt), audio)
    const [cold] = soundOf(excerptPlan(project, 't', { ...excerpt, warm: 0 }), audio)
    expect(left).toHaveLength(Math.round(1.9 * RATE))
    expect(peak(left.map((x, i) => x - cold[i]!))).toBeGreaterThan(1e-3)
  })
})

describe('what matters', () => {
  it('tells a link of amount zero, one that what follows hides, and one that is heard', () => {
    const found = contributions(
      rig(
        [
          newEffect('filter', { cutoff: 900 }, 'f'),
          newEffect('gain', { level: 30 }, 'g'),
          newEffect('gain', { level: -60 }, 'g2'),
        ],
        addModulator('t', 'lfo', { id: 'l' }),
        addLink('l', { owner: 'f', param: 'cutoff' }, 0.3, 0.8, { id: 'plain' }),
        addLink('l', { owner: 'f', param: 'resonance' }, 0.3, 0.8, { id: 'zero' }),
        (p) => {
          for (const link of p.links) if (link.id === 'zero') link.amount = 0
        },
      ),
    )
    expect(found.get('plain')?.isIdle).toBe(false)
    expect(found.get('plain')?.distance.total).toBeGreaterThan(1)
    expect(found.get('zero')).toMatchObject({ isIdle: true, reason: 'Its amount is 0.', residue: -Infinity })
  })

  it('a link that a limiter hides says so', () => {
    const found = contributions(
      rig(
        [newEffect('gain', { level: 36 }, 'g'), newEffect('limiter', { drive: 36 }, 'c')],
        addModulator('t', 'lfo', { id: 'l' }),
        addLink('l', { owner: 'g', param: 'level' }, 0.97, 0.99, { id: 'push' }),
      ),
    )
    expect(found.get('push')).toMatchObject({ isIdle: true, reason: 'Masked by an effect after it.' })
    expect(found.get('c')?.isIdle).toBe(false)
  })

  it('says of an effect that is off or has no wet sound, and of a follower of silence, what the reason is', () => {
    const found = contributions(
      rig(
        [
          newEffect('drive', { wet: 0 }, 'dry'),
          newEffect('drive', { on: 0 }, 'off'),
          newEffect('filter', { cutoff: 900 }, 'f'),
        ],
        addTrack(newTrack('quiet', null, 'quiet')),
        addModulator('t', 'follower', { id: 'fo', listens: { track: 'quiet', point: 'after' } }),
        addLink('fo', { owner: 'f', param: 'cutoff' }, 0.5, 0.5001, { id: 'deaf' }),
        addModulator('t', 'lfo', { id: 'l' }),
        addLink('l', { owner: 'dry', param: 'drive' }, 0.1, 0.9, { id: 'inside' }),
      ),
    )
    expect(found.get('dry')?.reason).toBe('Wet is at 0 %.')
    expect(found.get('off')?.reason).toBe('It is off.')
    expect(found.get('inside')?.reason).toBe('Drive: Wet is at 0 %.')
    expect(found.get('l')?.reason).toBe('All of its links are idle.')
  })

  it('an all-pass alone is idle in tone and not in phase; with dry beside it, it is heard', () => {
    const alone = contributions(rig([newEffect('all-pass', {}, 'a')]))
    expect(alone.get('a')).toMatchObject({ isIdle: true })
    expect(alone.get('a')?.reason).toContain('phase')
    const summed = contributions(rig([newEffect('all-pass', { wet: 0.5 }, 'a')]))
    expect(summed.get('a')?.isIdle).toBe(false)
  })

  it('what is idle can be left out, and the sound changes by less than it says', () => {
    const { project, audio } = rig(
      [
        newEffect('drive', { wet: 0 }, 'd'),
        newEffect('filter', { cutoff: 900 }, 'f'),
        newEffect('delay', { wet: 0 }, 'e'),
      ],
      addModulator('t', 'lfo', { id: 'l' }),
    )
    const comparison = new Comparison(project, 't', excerptOf(project, 't', audio, 1.9), audio)
    const idle = partsOf(project, 't')
      .map((part) => comparison.of(part))
      .filter((c) => c.isIdle)
    expect(idle.map((c) => c.id).sort()).toEqual(['d', 'e', 'l'])
    expect(comparison.without(idle).total).toBeLessThan(0.1)
    expect(apply(project, withoutParts(idle)).next.tracks[0]?.a.nodes.map((n) => n.id)).toEqual(['f'])
  })

  it('tells the processor time of effects and modulators, with all that is in a container', () => {
    const { project, audio } = rig(
      [newEffect('reverb', {}, 'r'), newEffect('gain', {}, 'g')],
      addModulator('t', 'lfo', { id: 'l' }),
    )
    let now = 0
    const costs = costsOf(project, 't', excerptOf(project, 't', audio, 1.9), audio, () => (now += 0.01))
    // the clock goes on by as much for each step
    expect(costs.get('r')).toBeGreaterThan(0)
    expect(costs.get('l')).toBeCloseTo(costs.get('g') ?? 0, 6)
  })
})
