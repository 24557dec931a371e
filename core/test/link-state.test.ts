import { describe, expect, it } from 'vitest'
import { BLOCK, ParamBlock } from '@oleaje/core/contract/block'
import { LinkState } from '@oleaje/core/engine/link-state'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { ParamState } from '@oleaje/core/engine/param-state'
import { newLink } from '@oleaje/core/project/new'
import type { Link } from '@oleaje/core/project/schema'
import { linkParams, linkSettings } from '@oleaje/core/project/targets'
import { type ParamSpec, gain, hertz, percent } from '@oleaje/core/units/parameter'
import { fromNormalized, insideAt, toNormalized } from '@oleaje/core/units/scale'
import { RATE } from './rig'

const cutoff = hertz('Cutoff', { min: 20, max: 20_000, default: 1000, tip: '' })
const level = gain('Level', { min: -72, max: 12, default: 0, tip: '' })
const depth = percent('Depth', { default: 0.5, tip: '' })

const plain = newLink('m', 'wave', { owner: 'o', param: 'p' }, -0.1, 0.2, 'k')

/** A parameter with links whose sources hold waves of their own. */
function moved(spec: ParamSpec, base: number, changes: Partial<Link>[]) {
  const waves = changes.map((_, k) => {
    const block = new ParamBlock(0)
    for (let i = 0; i < BLOCK; i++) block.buffer[i] = 0.5 + 0.5 * Math.sin((i + 40 * k) * (0.05 + 0.03 * k))
    block.move()
    return block
  })
  const links = changes.map((c, k) => {
    const link = { ...plain, ...c }
    const amounts = new ParamSet(linkParams, linkSettings(link), RATE)
    amounts.reset()
    return { link, amounts, state: new LinkState(link, waves[k]!, spec, amounts, RATE) }
  })
  const state = new ParamState(spec, base, RATE)
  state.setLinks(links.map((l) => l.state))
  state.reset()
  return { state, links, waves }
}

/** What the parameter should be at each frame, from the words of the design alone. */
function expected(
  spec: ParamSpec,
  base: number,
  changes: Partial<Link>[],
  waves: readonly ParamBlock[],
): number[] {
  const at = toNormalized(spec, base)
  return Array.from({ length: BLOCK }, (_, i) => {
    let place = at
    for (const [k, c] of changes.entries()) {
      const link = { ...plain, ...c }
      const to = link.from + (link.to - link.from) * waves[k]!.buffer[i]!
      if (link.on) place += link.amount * (link.mode === 'floating' ? to : to - at)
    }
    return insideAt(spec, Math.min(1, Math.max(0, place)))
  })
}

describe('a parameter and its links', () => {
  const one: Partial<Link>[] = [{}]
  const two: Partial<Link>[] = [{}, { from: 0.3, to: -0.3, amount: 0.5 }]
  const fixed: Partial<Link>[] = [{ mode: 'fixed', from: 0.1, to: 0.8 }]
  const over: Partial<Link>[] = [{ from: -1, to: 1 }]
  const three: Partial<Link>[] = [{}, { amount: 0.7 }, { mode: 'fixed', from: 0.4, to: 0.6, amount: 0.2 }]
  const off: Partial<Link>[] = [{}, { on: false, from: 1, to: 1 }]
  for (const [name, changes] of Object.entries({ one, two, fixed, over, three, off })) {
    it.each([
      ['cutoff', cutoff, 440],
      ['level', level, -12],
      ['depth', depth, 0.4],
    ] as const)(`${name}: %s goes where base, range and amount put it, sample by sample`, (_, spec, base) => {
      const { state, waves } = moved(spec, base, changes)
      for (let block = 0; block < 3; block++) state.update()
      const wanted = expected(spec, base, changes, waves)
      expect(state.block.constant).toBe(false)
      for (let i = 0; i < BLOCK; i++)
        expect(Math.abs(state.block.buffer[i]! - wanted[i]!)).toBeLessThan(
          1e-9 * Math.max(1, Math.abs(wanted[i]!)),
        )
      expect(state.live).toBeCloseTo(spec === cutoff ? toNormalized(spec, wanted[BLOCK - 1]!) : state.live, 9)
    })
  }
  it('a base that is moved takes a floating range along, and leaves a fixed one where it is', () => {
    for (const [mode, follows] of [
      ['floating', true],
      ['fixed', false],
    ] as const) {
      const { state, waves } = moved(depth, 0.2, [
        { mode, from: mode === 'fixed' ? 0.3 : 0.1, to: mode === 'fixed' ? 0.5 : 0.3 },
      ])
      state.update()
      const before = state.block.buffer.slice()
      state.set(0.5)
      for (let block = 0; block < 400; block++) state.update()
      const shift = follows ? 0.3 : 0
      for (let i = 0; i < BLOCK; i++) expect(state.block.buffer[i]).toBeCloseTo(before[i]! + shift, 4)
      expect(waves).toHaveLength(1)
    }
  })
  it('edited ends, and a link that is switched off, glide', () => {
    const { state, links } = moved(depth, 0.5, [{ from: 0, to: 0.4 }])
    state.update()
    let last = state.block.buffer[BLOCK - 1]!
    links[0]!.state.set({ ...plain, from: 0, to: -0.4 })
    let worst = 0
    for (let block = 0; block < 60; block++) {
      state.update()
      for (let i = 0; i < BLOCK; i++) {
        worst = Math.max(worst, i === 0 && block === 0 ? 0 : Math.abs(state.block.buffer[i]! - last))
        last = state.block.buffer[i]!
      }
    }
    // the wave starts anew with each block here, which is a step of its own
    expect(worst).toBeLessThan(0.4)
    links[0]!.amounts.set({ ...linkSettings(links[0]!.link), amount: 1, on: 0 })
    for (let block = 0; block < 100; block++) {
      links[0]!.amounts.update()
      state.update()
    }
    expect(state.block.constant ? state.block.value : state.block.buffer[0]).toBeCloseTo(0.5, 5)
  })
  it('a bend keeps the ends and moves the middle; slew takes as long as it says', () => {
    const source = new ParamBlock(0.5)
    const amounts = new ParamSet(linkParams, { amount: 1, on: 1 }, RATE)
    amounts.reset()
    const bent = new LinkState({ ...plain, from: 0, to: 0.5, curve: 0.8 }, source, depth, amounts, RATE)
    const at = (x: number): number => {
      source.hold(x)
      return bent.distance(0.2)
    }
    expect(at(0)).toBeCloseTo(0, 12)
    expect(at(1)).toBeCloseTo(0.5, 12)
    expect(at(0.5)).toBeLessThan(0.15)
    const { state, waves } = moved(depth, 0, [{ from: 0, to: 1, slewUp: 0.1, slewDown: 0.1 }])
    waves[0]!.hold(0)
    for (let block = 0; block < 100; block++) state.update()
    waves[0]!.hold(1)
    let frames = 0
    while (frames < RATE && !(state.live > 0.999)) {
      state.update()
      frames += BLOCK
    }
    expect(frames / RATE).toBeCloseTo(0.1, 2)
  })
  it('quantised to steps, it stands on them; to notes, on the semitones of the scale', () => {
    const { state } = moved(depth, 0.5, [{ from: -0.5, to: 0.5, quantise: { to: 'steps', steps: 4 } }])
    state.update()
    for (let i = 0; i < BLOCK; i++) expect((state.block.buffer[i]! * 4) % 1).toBeCloseTo(0, 9)
    const notes = moved(cutoff, 440, [{ from: -0.1, to: 0.1, quantise: { to: 'scale', root: 0, scale: 0 } }])
    notes.state.update()
    for (let i = 0; i < BLOCK; i += 7) {
      const note = 69 + 12 * Math.log2(notes.state.block.buffer[i]! / 440)
      expect(Math.abs(note - Math.round(note))).toBeLessThan(1e-6)
    }
  })
  it('quantised, it stands on steps in the first block after it is switched on, and in the last', () => {
    const { state, links } = moved(depth, 0.5, [
      { from: -0.5, to: 0.5, quantise: { to: 'steps', steps: 4 }, on: false },
    ])
    const { amounts } = links[0]!
    const onSteps = (): boolean =>
      [...state.block.values()].every((v) => Math.abs(v * 4 - Math.round(v * 4)) < 1e-9)
    state.update()
    for (const on of [1, 0]) {
      amounts.set({ amount: 1, on })
      for (let b = 0; b < 40; b++) {
        amounts.update()
        state.update()
        expect(onSteps(), `switched to ${on}, block ${b}`).toBe(true)
      }
    }
  })
  it('whatever the links ask for, it stays on its staff', () => {
    const { state } = moved(cutoff, 15_000, [
      { from: 0.5, to: 3 },
      { from: -0.2, to: 0.9 },
    ])
    state.update()
    for (const v of state.block.buffer) expect(v).toBeLessThanOrEqual(fromNormalized(cutoff, 1) * (1 + 1e-9))
  })
})
