import { describe, expect, it } from 'vitest'
import { BLOCK, ParamBlock } from '@oleaje/core/contract/block'
import { LinkState } from '@oleaje/core/engine/link-state'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { newLink } from '@oleaje/core/project/new'
import { linkParams, linkSettings } from '@oleaje/core/project/targets'
import { choice, gain, hertz, percent } from '@oleaje/core/units/parameter'
import { insideOf, toNormalized } from '@oleaje/core/units/scale'
import { RATE } from './rig'

const specs = {
  cutoff: hertz('Cutoff', { min: 20, max: 20_000, default: 1000, tip: '' }),
  level: gain('Level', { min: -72, max: 12, default: 0, tip: '' }),
  mode: choice('Mode', ['one', 'other', 'third'], 0, ''),
}
const lanes = {
  bands: {
    name: 'Bands',
    item: 'band',
    least: 0,
    most: 8,
    initial: [],
    params: {
      gain: gain('Gain', { min: -24, max: 24, default: 0, tip: '' }),
      width: percent('Width', { default: 0.5, tip: '' }),
    },
  },
}
type Values = Record<string, number>

/** A set, and how often each of its parameters has been worked out since this was last asked. */
function watched(values: Values = {}) {
  const set = new ParamSet(specs, values, RATE)
  set.reset()
  const counts: Values = {}
  for (const name in set.byName) {
    const state = set.byName[name]!
    const update = state.update.bind(state)
    state.update = () => {
      counts[name] = (counts[name] ?? 0) + 1
      return update()
    }
  }
  function worked(blocks: number): Values {
    for (const name in counts) Reflect.deleteProperty(counts, name)
    for (let b = 0; b < blocks; b++) set.update()
    return { ...counts }
  }
  return { set, worked }
}

const moving = (rate: number): ParamBlock => {
  const block = new ParamBlock(0)
  for (let i = 0; i < BLOCK; i++) block.buffer[i] = 0.5 + 0.5 * Math.sin(i * rate)
  block.move()
  return block
}

function linkTo(param: keyof typeof specs, source: ParamBlock): LinkState {
  const link = newLink('m', 'wave', { owner: 'o', param }, -0.1, 0.2, param)
  const amounts = new ParamSet(linkParams, linkSettings(link), RATE)
  amounts.reset()
  return new LinkState(link, source, specs[param], amounts, RATE)
}

describe('parameters that stand still', () => {
  it('are not worked out', () => {
    const { set, worked } = watched({ cutoff: 440, mode: 2 })
    expect(worked(1)).toEqual({ cutoff: 1, level: 1, mode: 1 })
    expect(worked(50)).toEqual({})
    expect(set.blocks.cutoff?.value).toBe(440)
    expect(set.blocks.mode?.value).toBe(2)
  })

  it('are worked out again when one is set, which is until it has come to its base', () => {
    const { set, worked } = watched()
    worked(2)
    set.set({ cutoff: 4000 })
    const gliding = worked(2000).cutoff ?? 0
    expect(gliding).toBeGreaterThan(3)
    expect(gliding).toBeLessThan(200)
    expect(set.blocks.cutoff).toMatchObject({ constant: true, value: 4000 })
    expect(set.byName.cutoff?.live).toBe(toNormalized(specs.cutoff, 4000))
    expect(worked(20)).toEqual({})
    set.set({ cutoff: 4000, mode: 1 })
    expect(worked(5)).toEqual({ cutoff: 1, level: 1, mode: 2 })
    expect(set.blocks.mode?.value).toBe(1)
  })

  it('are worked out in each block as long as links act on them, and until what these leave behind is gone', () => {
    const { set, worked } = watched()
    worked(2)
    set.link(new Map([['level', [linkTo('level', moving(0.1))]]]))
    worked(1)
    expect(worked(300)).toEqual({ level: 300 })
    expect(set.blocks.level?.constant).toBe(false)
    set.link(new Map())
    const left = worked(2000).level ?? 0
    expect(left).toBeGreaterThan(3)
    expect(left).toBeLessThan(400)
    expect(set.blocks.level).toMatchObject({ constant: true, value: insideOf(specs.level, 0) })
    expect(worked(20)).toEqual({})
  })

  it('are at their base at once after a reset, wherever they were on their way', () => {
    const { set, worked } = watched()
    worked(2)
    set.set({ cutoff: 9000, level: -20 })
    worked(3)
    expect(set.blocks.cutoff?.value).not.toBe(9000)
    set.reset()
    expect(worked(1)).toEqual({ cutoff: 1, level: 1, mode: 1 })
    expect(set.blocks.cutoff).toMatchObject({ constant: true, value: 9000 })
    expect(worked(5)).toEqual({})
  })

  it('say once that they have moved, to whoever reports live values', () => {
    const { set, worked } = watched()
    worked(3)
    expect(set.moved).toBe(true)
    set.moved = false
    worked(10)
    expect(set.moved).toBe(false)
    set.set({ level: -6 })
    worked(1)
    expect(set.moved).toBe(true)
    worked(2000)
    set.moved = false
    set.reset()
    expect(set.moved).toBe(true)
  })

  it('include the items of lanes as they come and go', () => {
    const set = new ParamSet(specs, {}, RATE, lanes, { bands: [{ gain: 3 }] })
    set.reset()
    for (let b = 0; b < 5; b++) set.update()
    set.shape({ bands: [{ gain: 3 }, { gain: -12 }] })
    set.set({}, { bands: [{ gain: 3 }, { gain: -12, width: 0.9 }] })
    for (let b = 0; b < 2000; b++) set.update()
    expect(set.lanes.bands?.map((b) => b.gain?.value)).toEqual([
      insideOf(lanes.bands.params.gain, 3),
      insideOf(lanes.bands.params.gain, -12),
    ])
    expect(set.lanes.bands?.[1]?.width?.value).toBeCloseTo(0.9, 9)
    const gone = set.byName['bands[1].gain']!
    set.set({}, { bands: [{ gain: 3 }, { gain: 5 }] })
    set.update()
    set.shape({ bands: [] })
    gone.update = () => {
      throw new Error('An item that is gone is worked out.')
    }
    set.update()
    expect(set.all).toHaveLength(3)
  })
})

it('what rests gives the same, to the bit, as what is worked out in each block', () => {
  // a second set is told its values again before each block, which wakes all of it and changes nothing
  const source = moving(0.07)
  const sets = [new ParamSet(specs, {}, RATE), new ParamSet(specs, {}, RATE)] as const
  for (const set of sets) set.reset()
  let values: Values = {}
  let linked = false
  let seed = 7
  const random = (): number => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647
  for (let b = 0; b < 3000; b++) {
    const what = random()
    if (what < 0.01) values = { ...values, cutoff: 20 + 19_000 * random() }
    else if (what < 0.02) values = { ...values, level: -60 + 70 * random() }
    else if (what < 0.03) values = { ...values, mode: Math.floor(3 * random()) }
    if (what < 0.03) sets[0].set(values)
    sets[1].set(values)
    if (what > 0.995) {
      linked = !linked
      for (const set of sets) set.link(new Map(linked ? [['cutoff', [linkTo('cutoff', source)]]] : []))
    } else if (what > 0.99) for (const set of sets) set.soften()
    else if (what > 0.989) for (const set of sets) set.reset()
    for (const set of sets) set.update()
    for (const name in specs) {
      const [one, other] = sets.map((set) => set.byName[name]!)
      expect([one!.live, one!.block.constant, one!.block.value]).toEqual([
        other!.live,
        other!.block.constant,
        other!.block.value,
      ])
      expect(one!.block.values()).toEqual(other!.block.values())
    }
  }
})
