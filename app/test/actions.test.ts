import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { momentOf } from '@oleaje/core/project/history'
import {
  newBranch,
  newEffect,
  newGroup,
  newProject,
  newSource,
  newSplit,
  newTrack,
} from '@oleaje/core/project/new'
import { actions } from '../commands/actions'
import { useStores } from '../stores/index'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})
vi.stubGlobal('document', { activeElement: null, querySelector: () => null })

/**
 * A track of an EQ, a split (a drive and a gain above, a filter below, nothing at the bottom) and a group
 * with a delay.
 */
async function session() {
  setActivePinia(createPinia())
  const project = newProject('Night Ferry')
  const kit = newTrack('Kit', newSource('tone', {}, null, 'src'), 'kit')
  kit.a.nodes = [
    newEffect('eq', {}, 'e'),
    newSplit(
      [
        { ...newBranch('dirty', 0, 'b1'), nodes: [newEffect('drive', {}, 'd'), newEffect('gain', {}, 'g')] },
        { ...newBranch('clean', 0, 'b2'), nodes: [newEffect('filter', {}, 'f')] },
        newBranch('dry', 0, 'b3'),
      ],
      's',
    ),
    newGroup('Room', [newEffect('delay', {}, 'y')], 'r'),
  ]
  project.tracks.unshift(kit)
  const doc = useDocument()
  await doc.open(momentOf(project))
  const stores = useStores()
  stores.selection.selectTrack('kit')
  const calls: string[] = []
  const s = {
    ...stores,
    automation: { toggle: (gauge: string | null) => calls.push(`ride ${String(gauge)}`) },
    transport: { toggle: () => Promise.resolve(calls.push('play')) },
    views: { go: (to: string) => Promise.resolve(calls.push(`go ${to}`)) },
    library: {
      newProject: () => Promise.resolve(calls.push('new')),
      addSource: (id: string) => calls.push(id),
    },
    addModulator: (type: string) => calls.push(`add ${type}`),
  }
  const list = actions(s as never)
  const act = (name: string): void => {
    const found = list.find((a) => a.name === name)
    if (!found) throw new Error(`There is no action “${name}”.`)
    found.run()
  }
  const ids = (): string[] => [...nodesIn(heardChain(doc.project!.tracks[0]!).nodes)].map((n) => n.id)
  return { ...stores, calls, list, act, ids }
}
let s: Awaited<ReturnType<typeof session>>
beforeEach(async () => {
  s = await session()
})

describe('actions', () => {
  it('have a name each, and no key twice', () => {
    const names = s.list.map((a) => a.name)
    expect(new Set(names).size).toBe(names.length)
    // the same key may mean something else where something else has the focus
    const keys = s.list.flatMap((a) =>
      a.binding ? (a.at ?? ['all']).map((region) => `${a.binding} at ${region}`) : [],
    )
    expect(new Set(keys).size).toBe(keys.length)
    for (const a of s.list) if (a.binding) expect(a.keys, a.name).not.toBe('')
  })

  it('walk along the water, into containers and out of them, and stay at its ends', () => {
    const way: (string | null)[] = [s.selection.selectedId]
    for (let i = 0; i < 8; i++) {
      s.act('Go to the next effect')
      way.push(s.selection.selectedId)
    }
    expect(way).toEqual(['e', 's', 'd', 'g', 'r', 'y', 'y', 'y', 'y'])
    for (let i = 0; i < 9; i++) s.act('Go to the previous effect')
    expect(s.selection.selectedId).toBe('e')
  })

  it('go from branch to branch, those with nothing in them too, where the next effect goes then', () => {
    s.selection.select('g')
    s.act('Go to the branch below')
    expect(s.selection.selectedId).toBe('f')
    s.act('Go to the branch below')
    expect(s.selection.selectedId).toBe('b3')
    s.act('Go to the branch below')
    expect(s.selection.selectedId).toBe('b3')
    s.act('Go to the next effect')
    expect(s.selection.selectedId).toBe('r')
    s.selection.select('f')
    s.act('Go to the branch above')
    expect(s.selection.selectedId).toBe('d')
    s.selection.select('s')
    s.act('Go to the branch below')
    expect(s.selection.selectedId).toBe('d')
    s.selection.select('e')
    s.act('Go to the branch below')
    expect(s.selection.selectedId).toBe('e')
  })

  it('remove what is selected and go on with its neighbour', () => {
    s.selection.select('d')
    s.act('Remove the effect')
    expect(s.ids()).not.toContain('d')
    expect(s.selection.selectedId).toBe('g')
    s.act('Remove the effect')
    expect(s.selection.selectedId).toBeNull()
    s.act('Remove the effect')
    expect(s.ids()).toEqual(['e', 's', 'f', 'r', 'y'])
    s.act('Undo')
    s.act('Undo')
    expect(s.ids()).toEqual(['e', 's', 'd', 'g', 'f', 'r', 'y'])
    s.act('Redo')
    expect(s.ids()).not.toContain('d')
  })

  it('duplicate, move and switch the selected effect', () => {
    s.act('Duplicate the effect')
    expect(s.ids()).toHaveLength(8)
    s.act('Undo')
    s.act('Move the effect right')
    expect(heardChain(s.doc.project!.tracks[0]!).nodes.map((n) => n.id)).toEqual(['s', 'e', 'r'])
    s.act('Move the effect left')
    s.act('Turn the effect on or off')
    expect(heardChain(s.doc.project!.tracks[0]!).nodes[0]?.params.on).toBe(0)
    s.act('Turn the effect on or off')
    expect(heardChain(s.doc.project!.tracks[0]!).nodes[0]?.params.on).toBe(1)
  })

  it('hear parts for a while, and all again', () => {
    s.selection.select('g')
    s.act('Solo the branch')
    expect(s.monitoring.monitor.soloBranches).toEqual(['b1'])
    s.act('Monitor up to the effect')
    expect(s.monitoring.monitor.upTo).toBe('g')
    s.act('Monitor the difference of the effect')
    expect(s.monitoring.monitor.part).toEqual({ node: 'g', what: 'difference' })
    s.act('Monitor dry')
    s.act('Monitor everything')
    expect(s.monitoring.monitor).toMatchObject({ soloBranches: [], upTo: null, part: null, dryTrack: null })
    // a container has no wet signal of its own
    s.selection.select('s')
    s.act('Monitor the wet signal of the effect')
    expect(s.monitoring.monitor.part).toBeNull()
  })

  it('let go of all that waits at once', () => {
    Object.assign(s.selection, {
      inHand: 'm',
      handOutput: 'wave',
      marked: ['f.cutoff'],
      learning: { macro: 'm', end: 'to' },
      repointing: 'm',
    })
    s.devices.controlFor = 'f.cutoff'
    s.act('Stop linking')
    expect(s.selection).toMatchObject({
      inHand: null,
      handOutput: null,
      marked: [],
      learning: null,
      repointing: null,
    })
    expect(s.devices.controlFor).toBeNull()
  })

  it('change between A and B, by day and night, and hear one modulator alone', () => {
    s.doc.edit('Add', addModulator('kit', 'lfo', { id: 'm' }))
    s.selection.selectTrack('kit')
    s.act('Switch A/B')
    expect(s.doc.project?.tracks[0]?.heard).toBe('b')
    s.act('Switch A/B')
    expect(s.doc.project?.tracks[0]?.heard).toBe('a')
    s.act('Switch between day and night colours')
    expect(s.preferences.night).toBe(true)
    s.act('Solo the selected modulator')
    expect(s.monitoring.monitor.alone).toBe('m')
    s.act('Turn the loop on or off')
    expect(s.doc.project?.loop.on).toBe(false)
  })

  it('pass on what is not theirs', () => {
    for (const name of [
      'Play or stop',
      'Go to Timeline',
      'New project',
      'Add a track: test signals',
      'Add an LFO',
      'Add a follower',
      'Record a ride of the focused gauge, or stop',
    ])
      s.act(name)
    expect(s.calls).toEqual(['play', 'go /timeline', 'new', 'tone', 'add lfo', 'add follower', 'ride null'])
    s.act('Go to Render')
    expect(s.calls.at(-1)).toBe('go /render')
  })
})
