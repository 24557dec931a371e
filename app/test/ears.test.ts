import { newBranch, newEffect, newProject, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import { describe, expect, it } from 'vitest'
import { earOf, earText, earsFor } from '../composables/ears'

const project = newProject('Skerries')
const rope = newTrack('Rope guitar', newSource('tone'), 'rope')
const [low, high] = [newBranch('low', 0, 'low'), newBranch('high', 0, 'high')]
high.nodes = [newEffect('compressor', {}, 'c')]
rope.a.nodes = [newSplit([low, high], 's')]
project.tracks.unshift(newTrack('Deck kit', newSource('tone'), 'kit'), rope)

describe('what can be listened to', () => {
  it('by an effect: its own dry source, other tracks, and branches that do not contain it', () => {
    expect(earsFor(project, 'rope', 'c').map((e) => e.text)).toEqual([
      'Deck kit, before chain',
      'Deck kit, after chain',
      'Rope guitar, dry source',
      'Rope guitar, branch low',
    ])
  })
  it('by a modulator: all of them, also what its own track gives', () => {
    expect(earsFor(project, 'rope').map((e) => e.text)).toContain('Rope guitar, after chain')
  })
  it('each choice names its signal and is found again by it', () => {
    for (const { value } of earsFor(project, 'rope')) expect(earText(earOf(value))).toBe(value)
    expect(earOf('rope:after:low')).toEqual({ track: 'rope', point: 'after', branch: 'low' })
    expect(earOf('')).toBe(null)
  })
})
