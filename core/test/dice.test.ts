import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { soundFigures } from '@oleaje/core/analysis/sound-figures'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav } from '@oleaje/core/formats/wav'
import { apply } from '@oleaje/core/project/edit'
import { History } from '@oleaje/core/project/history'
import { gaugeKey } from '@oleaje/core/project/param-path'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { pathsOf, valueAt } from '@oleaje/core/project/targets'
import { heardChain, nodesIn, ownerId } from '@oleaje/core/project/walk'
import { planRender, render } from '@oleaje/core/render/render'
import {
  type DiceScope,
  diceKinds,
  diceOwners,
  diceState,
  restoreDice,
  throwDice,
  toggleLock,
} from '@oleaje/core/variation/dice'
import { type Heard, carryOut, levelledThrow } from '@oleaje/core/variation/levelled-throw'
import { edited } from './project-rig'

const assets = join(import.meta.dirname, '../../demo/assets')
const demo = readProject(readFileSync(join(assets, 'night-ferry.json'), 'utf8'))
const audio = new Map(
  await Promise.all(
    readdirSync(assets)
      .filter((file) => file.endsWith('.wav'))
      .map(async (file) => {
        const sound = readWav(new Uint8Array(readFileSync(join(assets, file))))
        return [await audioHash(sound), sound] as const
      }),
  ),
)
/** Loudness and peak of a second and a half of one track. */
const heardOf =
  (track: string) =>
  (p: Project): Heard => {
    const plan = planRender(p, { track, from: 0.37, to: 1.87, tail: 0 })
    const out = [new Float32Array(plan.frames), new Float32Array(plan.frames)] as const
    let at = 0
    for (const { channels, done } of render(plan, (hash) => audio.get(hash) ?? null)) {
      channels.forEach((c, k) => out[k as 0].set(c.subarray(0, done - at), at))
      at = done
    }
    return soundFigures(out, 48_000)
  }
const valuesOf = (p: Project, scope: DiceScope): Map<string, number | undefined> =>
  new Map(
    diceOwners(p, scope).flatMap((o) =>
      pathsOf(o).map((path) => [gaugeKey(ownerId(o), path), valueAt(o, path)] as const),
    ),
  )
const THROWS = process.env.OLEAJE_LONG ? 200 : 25

describe('dice', () => {
  const scope = (id: string): DiceScope => ({ kind: 'chain', id })

  it(`${THROWS} throws on five chains: nothing locked changes, as loud as before, none silent or over, each undone and redone`, () => {
    const tracks = ['kit', 'guitar', 'pad', 'bass', 'horn']
    const locks: Record<string, string[]> = {
      kit: ['kit-drive', 'kit-comp.ratio'],
      guitar: ['guitar-filter.cutoff'],
      pad: ['pad-reverb', 'tide', 'pad-delay.feedback'],
      bass: ['bass-filter.resonance'],
      horn: ['horn-delay.wet'],
    }
    let refused = 0
    for (const track of tracks) {
      const start = edited(demo, ...(locks[track] ?? []).map(toggleLock))
      const history = new History({ project: start, undo: [], redo: [] })
      const measure = heardOf(track)
      const states: Project[] = [start]
      for (let n = 0; n < THROWS / tracks.length; n++) {
        const before = history.project
        const was = measure(before)
        const found = levelledThrow(
          before,
          { scope: scope(track), amount: 0.35, kinds: diceKinds, seed: 311 * n + track.length },
          measure,
        )
        if (!found) {
          refused++
          continue
        }
        history.edit('Throw dice', carryOut(found))
        const now = history.project
        const is = measure(now)
        expect(Math.abs(is.loudness - was.loudness), `${track} ${n}`).toBeLessThan(2)
        expect(is.loudness).toBeGreaterThan(-60)
        expect(is.truePeak).toBeLessThanOrEqual(Math.max(0, was.truePeak) + 1e-9)
        const [old, young] = [valuesOf(start, scope(track)), valuesOf(now, scope(track))]
        for (const lock of locks[track] ?? [])
          for (const [key, value] of old)
            if (key === lock || key.startsWith(`${lock}.`)) expect(young.get(key), key).toBe(value)
        states.push(now)
      }
      for (let n = states.length - 1; n > 0; n--) {
        history.stepBack()
        expect(history.project).toEqual(states[n - 1])
      }
      for (let n = 1; n < states.length; n++) {
        history.stepForward()
        expect(history.project).toEqual(states[n])
      }
    }
    expect(refused).toBeLessThan(THROWS / 5)
  }, 900_000)

  it('change only what they may: each kind alone', () => {
    const at = { scope: scope('pad'), amount: 0.6, seed: 107 }
    const changed = (kinds: (typeof diceKinds)[number][]): string[] => {
      const next = apply(demo, throwDice({ ...at, kinds })).next
      const [old, young] = [valuesOf(demo, scope('pad')), valuesOf(next, scope('pad'))]
      return [...old].filter(([key, value]) => young.get(key) !== value).map(([key]) => key)
    }
    expect(changed([])).toEqual([])
    expect(changed(['levels'])).toEqual(expect.arrayContaining(['pad-filter.output', 'pad-drive.wet']))
    expect(changed(['levels']).some((k) => /cutoff|time|rate/.test(k))).toBe(false)
    expect(changed(['times'])).toContain('pad-delay.time')
    expect(changed(['tone'])).toContain('pad-filter.cutoff')
    expect(changed(['modulators'])).toContain('tide.rate')
    expect(changed(['ranges']).every((k) => /from|to|amount/.test(k))).toBe(true)
    const orders = [1, 2, 3, 4, 5].map((seed) =>
      heardChain(
        apply(demo, throwDice({ ...at, seed, kinds: ['order'] })).next.tracks.find(
          (t) => t.id === 'pad',
        ) as Project['tracks'][number],
      ).nodes.map((n) => n.id),
    )
    expect(new Set(orders.map((o) => o.join())).size).toBeGreaterThan(2)
    for (const o of orders) expect([...o].sort()).toEqual([...(orders[0] ?? [])].sort())
  })

  it('never turn anything off, freeze it, or let feedback ring on', () => {
    for (let seed = 0; seed < 60; seed++) {
      const next = apply(
        demo,
        throwDice({ scope: { kind: 'project', id: '' }, amount: 1, kinds: diceKinds, seed }),
      ).next
      for (const t of next.tracks)
        for (const n of nodesIn(heardChain(t).nodes)) {
          expect(n.params.on ?? 1).toBe(1)
          expect(n.params.freeze ?? 0).toBe(0)
          expect(Math.abs(n.params.feedback ?? 0)).toBeLessThanOrEqual(0.9)
        }
      expect(readProject(JSON.stringify(next))).toEqual(next)
    }
  })

  it('on an effect, a branch or a modulator leave the rest alone', () => {
    for (const [kind, id, mine] of [
      ['node', 'pad-filter', /^pad-filter\.|^to-pad-filter/],
      ['branch', 'kit-dirty', /^kit-(dirty|drive|band)\.|^to-kit-(dirty|drive)/],
      ['modulator', 'tide', /^tide\.|^to-pad-filter-(cutoff|shape)/],
    ] as const) {
      const next = apply(
        demo,
        throwDice({ scope: { kind, id }, amount: 0.8, kinds: diceKinds, seed: 5 }),
      ).next
      const all: DiceScope = { kind: 'project', id: '' }
      const young = valuesOf(next, all)
      const changed = [...valuesOf(demo, all)]
        .filter(([key, value]) => young.get(key) !== value)
        .map(([key]) => key)
      expect(changed.length).toBeGreaterThan(1)
      expect(changed.filter((key) => !mine.test(key))).toEqual([])
    }
  })

  it('states are walked back and forth, order included', () => {
    const s = scope('pad')
    const first = diceState(demo, s)
    const next = apply(demo, throwDice({ scope: s, amount: 0.9, kinds: diceKinds, seed: 2 })).next
    const second = diceState(next, s)
    expect(diceState(edited(next, restoreDice(s, first)), s)).toEqual(first)
    expect(diceState(edited(demo, restoreDice(s, second)), s)).toEqual(second)
  })
})
