import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { findTarget } from '@oleaje/core/project/targets'
import { toNormalized } from '@oleaje/core/units/scale'
import { noteLengths } from '@oleaje/core/units/text'
import { type Stores, useStores } from '../stores/index'
import { useDocument } from '../stores/document'

const live = new Map<string, number>()
vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.mock('../composables/useSession', () => ({
  useSession: () => ({
    ...useStores(),
    host: { telemetry: { get: (key: string, missing: number) => live.get(key) ?? missing } },
  }),
}))
vi.stubGlobal('navigator', {})
const { useParam } = await import('../composables/useParam')

let doc: ReturnType<typeof useDocument>
let stores: Stores
const base = (owner: string, param: string): number => findTarget(doc.project!, { owner, param })!.base

beforeEach(async () => {
  setActivePinia(createPinia())
  doc = useDocument()
  stores = useStores()
  live.clear()
  const project = newProject('Night Ferry')
  const pad = newTrack('Fog pad', newSource('tone', {}, null, 'src'), 'pad')
  pad.a.nodes = [
    newEffect('filter', { cutoff: 800 }, 'f'),
    newEffect('delay', { sync: 1, length: 1 }, 'd'),
    newEffect('eq', {}, 'e'),
  ]
  project.tracks.unshift(pad)
  await doc.open(momentOf(project))
  doc.edit('Add', addModulator('pad', 'lfo', { id: 'tide', name: 'Slow tide' }))
  doc.edit('Add', addModulator('pad', 'macro', { id: 'haze' }))
})

describe('a gauge', () => {
  it('says what it is, where it belongs and where it stands', () => {
    const cutoff = useParam('f', 'cutoff')
    expect([cutoff.label.value, cutoff.where.value, cutoff.text.value, cutoff.key.value]).toEqual([
      'Cutoff',
      'Filter',
      '800 Hz',
      'f.cutoff',
    ])
    expect(cutoff.place.value).toBeCloseTo(toNormalized(cutoff.spec.value!, 800), 9)
  })
  it('follows what it is asked to show, and is empty where that is gone', async () => {
    const owner = ref('f')
    const p = useParam(owner, 'cutoff')
    owner.value = 'nobody'
    await nextTick()
    expect([p.spec.value, p.label.value, p.text.value, p.place.value, p.links.value]).toEqual([
      undefined,
      '',
      '',
      0,
      [],
    ])
    p.step(1)
    p.reset()
    expect(p.type('200')).toBeNull()
  })
  it('sets a value, a place and the default, each to be undone', () => {
    const p = useParam('f', 'cutoff')
    p.set(1234)
    expect(base('f', 'cutoff')).toBe(1234)
    p.setAt(2)
    expect(base('f', 'cutoff')).toBe(p.spec.value!.max)
    p.reset()
    expect(base('f', 'cutoff')).toBe(p.spec.value!.default)
    for (let i = 0; i < 3; i++) doc.undo()
    expect(base('f', 'cutoff')).toBe(800)
  })
  it('takes what a person types, and says in a sentence what makes no sense', () => {
    const p = useParam('f', 'cutoff')
    expect(p.type('1.2k')).toBeNull()
    expect(base('f', 'cutoff')).toBeCloseTo(1200, 6)
    expect(p.type('+12st')).toBeNull()
    expect(base('f', 'cutoff')).toBeCloseTo(2400, 6)
    expect(p.type('windy')).toMatch(/^“windy” is not a value for Cutoff/)
    expect(base('f', 'cutoff')).toBeCloseTo(2400, 6)
  })
  it('steps by a hundredth of its staff, strides by a tenth, and stays on it', () => {
    const p = useParam('f', 'cutoff')
    const at = p.place.value
    p.step(1)
    expect(p.place.value).toBeCloseTo(at + 0.01, 9)
    p.step(-1, true)
    expect(p.place.value).toBeCloseTo(at - 0.09, 9)
    for (let i = 0; i < 20; i++) p.step(1, true)
    expect(p.place.value).toBe(1)
  })
  it('steps from one note length, and from one choice, to the next', () => {
    const length = useParam('d', 'length')
    length.step(1)
    const above = noteLengths.filter((n) => n.beats > 1)[0]!.beats
    expect(base('d', 'length')).toBe(above)
    length.step(-1)
    length.step(-1, true)
    expect(base('d', 'length')).toBe(noteLengths.filter((n) => n.beats < 1).at(-1)!.beats)
    const path = useParam('d', 'change')
    const before = path.value.value
    path.step(5)
    expect(path.value.value).toBe(before + 1)
  })
  it('tells the live value where the engine gives it, else the base', () => {
    const p = useParam('f', 'cutoff')
    expect(p.liveValue()).toBeCloseTo(800, 6)
    live.set('live:f.cutoff', 1)
    expect(p.liveNormalized()).toBe(1)
    expect(p.liveValue()).toBe(p.spec.value!.max)
  })
})

describe('a link from a gauge', () => {
  const links = () => doc.project!.links
  it('has the range that was drawn, and is one step of undo', () => {
    const p = useParam('f', 'cutoff')
    p.link('tide', { from: 0.25, to: 0.75 })
    expect(links()).toMatchObject([{ source: 'tide', target: { owner: 'f', param: 'cutoff' } }])
    expect(p.links.value[0]!.ends.from).toBeCloseTo(0.25, 9)
    expect(p.links.value[0]!.ends.to).toBeCloseTo(0.75, 9)
    expect(stores.selection.traced).toBe('tide')
    doc.undo()
    expect(links()).toEqual([])
  })
  it('reaches a fifth to each side where none was drawn, as far as the staff goes; choices are gone through whole', () => {
    const p = useParam('f', 'cutoff')
    p.setAt(0.9)
    p.link('tide')
    const { ends } = p.links.value[0]!
    expect([ends.from, ends.to].map((v) => Math.round(v * 1000) / 1000)).toEqual([0.7, 1])
    const path = useParam('d', 'change')
    path.link('tide')
    expect(path.links.value[0]!.ends).toEqual({ from: 0, to: 1 })
  })
  it('goes to all marked gauges at once, as one step, and unmarks them', () => {
    stores.selection.marked = ['f.resonance', 'd.feedback', 'gone.level']
    useParam('f', 'cutoff').link('tide', { from: 0, to: 1 })
    expect(
      links()
        .map((l) => l.target.param)
        .sort(),
    ).toEqual(['cutoff', 'feedback', 'resonance'])
    expect(stores.selection.marked).toEqual([])
    doc.undo()
    expect(links()).toEqual([])
  })
  it('never moves the modulator’s own gauge by itself', () => {
    useParam('tide', 'rate').link('tide')
    expect(links()).toEqual([])
  })
  it('of every item of a lane is shown at each of them', () => {
    doc.edit('Link', addLink('tide', { owner: 'e', lane: 'bands', param: 'gain' } as never, 0.4, 0.6))
    expect(useParam('e', 'bands[0].gain').links.value).toHaveLength(1)
    expect(useParam('e', 'bands[1].gain').links.value).toHaveLength(1)
    expect(useParam('e', 'bands[1].q').links.value).toHaveLength(0)
  })
  it('is pointed at the gauge pressed next, where it waits for one', () => {
    useParam('f', 'cutoff').link('tide', { from: 0.2, to: 0.4 })
    stores.selection.repointing = 'tide'
    useParam('d', 'feedback').repoint()
    expect(stores.selection.repointing).toBeNull()
    expect(links().map((l) => l.target)).toMatchObject([{ owner: 'd', param: 'feedback' }])
    useParam('f', 'cutoff').repoint()
    expect(links().map((l) => l.target)).toMatchObject([{ owner: 'd', param: 'feedback' }])
  })
})

describe('a macro that learns', () => {
  it('takes what gauges are set to as its ends, and leaves their bases', () => {
    const p = useParam('f', 'cutoff')
    stores.selection.learning = { macro: 'haze', end: 'to' }
    p.setAt(0.8)
    expect(base('f', 'cutoff')).toBe(800)
    expect(p.place.value).toBeCloseTo(0.8, 6)
    stores.selection.learning = { macro: 'haze', end: 'from' }
    p.setAt(0.3)
    expect(p.links.value[0]!.ends.from).toBeCloseTo(0.3, 6)
    expect(p.links.value[0]!.ends.to).toBeCloseTo(0.8, 6)
    stores.selection.learning = null
    expect(p.value.value).toBe(800)
  })
  it('is set itself as ever', () => {
    stores.selection.learning = { macro: 'haze', end: 'to' }
    useParam('haze', 'value').set(0.25)
    expect(base('haze', 'value')).toBe(0.25)
  })
})
