import { describe, expect, it } from 'vitest'
import { addLink, addModulator, removeModulator } from '@oleaje/core/project/motion-edits'
import { apply, type Edit } from '@oleaje/core/project/edit'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { readLinks } from '../composables/useLink'

const edited = (p: Project, ...edits: Edit[]): Project => edits.reduce((q, e) => apply(q, e).next, p)

function moved(): Project {
  const project = newProject('Night Ferry')
  const track = newTrack('Fog pad', newSource('tone', {}, null, 'src'), 't')
  track.a.nodes = [newEffect('filter', { cutoff: 1000 }, 'f'), newEffect('eq', {}, 'q')]
  project.tracks.unshift(track)
  return edited(
    project,
    addModulator('t', 'lfo', { id: 'm', name: 'tide' }),
    addModulator('t', 'lfo', { id: 'n', name: 'drift' }),
    addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'l1', mode: 'fixed' }),
    addLink('n', { owner: 'l1', param: 'amount' }, 0, 1, { id: 'l2', mode: 'fixed' }),
    addLink('n', { owner: 't', param: 'level' }, -0.1, 0.1, { id: 'l3' }),
    addLink('m', { owner: 'q', param: 'gain', lane: 'bands' }, -0.2, 0.2, { id: 'l4' }),
  )
}

describe('links as people read them', () => {
  const rows = readLinks(moved())
  const row = (id: string) => rows.find((r) => r.link.id === id)!

  it('name what moves and what is moved, with its track where it has one', () => {
    expect(rows.map((r) => r.link.id)).toEqual(['l1', 'l2', 'l3', 'l4'])
    expect(row('l1')).toMatchObject({ source: 'tide', param: 'Cutoff', owner: 'Filter', track: 'Fog pad' })
    expect(row('l3')).toMatchObject({ source: 'drift', param: 'Level', track: '' })
    expect(row('l3').owner).toContain('Fog pad')
    expect(row('l4').owner).toBe('EQ')
    expect(row('l1').letter).not.toBe(row('l2').letter)
  })

  it('say of a link that moves a link which one', () => {
    expect(row('l2').owner).toBe(`link ${row('l1').letter} → cutoff`)
  })

  it('write both ends in the unit of what is moved', () => {
    expect(row('l1').from).toMatch(/Hz$/)
    expect(row('l1').to).toMatch(/Hz$/)
    expect(parseFloat(row('l1').from)).toBeLessThan(parseFloat(row('l1').to.replace('k', '')) * 1000)
    expect(row('l3').from).toMatch(/dB$/)
  })

  it('leave out links of what is not there', () => {
    const p = moved()
    expect(readLinks(edited(p, removeModulator('n'))).map((r) => r.link.id)).toEqual(['l1', 'l4'])
    expect(readLinks({ ...p, tracks: p.tracks.filter((t) => t.id !== 't') })).toEqual([])
  })
})
