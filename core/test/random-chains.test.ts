import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import { Random } from '@oleaje/core/dsp/random'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newLoopBack, newSplit } from '@oleaje/core/project/new'
import type { ChainNode, Project, Split } from '@oleaje/core/project/schema'
import { findTarget, pathsOf, specAt } from '@oleaje/core/project/targets'
import { targetAt } from '@oleaje/core/project/param-path'
import { findOwner, nodesIn } from '@oleaje/core/project/walk'
import { isStepped } from '@oleaje/core/units/parameter'
import { toNormalized } from '@oleaje/core/units/scale'
import { edited, play, projectOf } from './project-rig'
import { noise } from './rig'

/**
 * OLEAJE_LONG=10000 runs the long mode: as many chains, each a little shorter; OLEAJE_FROM says which comes
 * first.
 */
const RUNS = Number(process.env.OLEAJE_LONG ?? 24)
const FIRST = Number(process.env.OLEAJE_FROM ?? 1)
/** Seeds of long runs whose chains once went wrong. */
const KNOWN = process.env.OLEAJE_LONG ? [] : [4531, 5541, 9105, 9170]
const SECONDS = process.env.OLEAJE_LONG ? 0.25 : 0.6
const modes: readonly Split['mode'][] = ['copies', 'bands', 'mid-side', 'left-right', 'select']

function chain(random: Random, depth: number): ChainNode[] {
  return Array.from({ length: 1 + Math.floor(random.next() * 3) }, () => {
    if (depth > 0 && random.next() < 0.25) {
      const count = 2 + Math.floor(random.next() * 2)
      return {
        ...newSplit(
          Array.from({ length: count }, (_, i) => ({
            ...newBranch(`b${i}`, -9),
            nodes: chain(random, depth - 1),
          })),
        ),
        mode: modes[Math.floor(random.next() * modes.length)] ?? 'copies',
      }
    }
    if (depth > 0 && random.next() < 0.15) {
      const made = newLoopBack(chain(random, depth - 1))
      return { ...made, params: { ...made.params, sync: 0, time: 0.01 + 0.3 * random.next(), feedback: 0.9 } }
    }
    const definition = effects[Math.floor(random.next() * effects.length)]!
    return newEffect(definition.id)
  })
}

/**
 * Every number of every effect moved over its staff; levels no higher than unity, so that loudness is
 * nobody's wish.
 */
function shaken(p: Project, random: Random): { project: Project; runaway: boolean } {
  let next = edited(
    p,
    ...[0.3, 3, 37].map((rate, i) =>
      addModulator('t', 'lfo', { id: `m${i}`, params: { rate, shape: i, phase: random.next() } }),
    ),
  )
  let runaway = false
  for (const node of nodesIn(next.tracks[0]!.a.nodes)) {
    const owner = findOwner(next, node.id)!
    for (const path of pathsOf(owner)) {
      const spec = specAt(owner, path)!
      if (isStepped(spec) || path === 'on' || path === 'wet' || random.next() < 0.4) continue
      const top = spec.unit === 'decibel' && spec.max > 0 ? toNormalized(spec, Math.max(spec.min, 0)) : 1
      if (path === 'feedback' && spec.max >= 1) runaway = true
      if (!findTarget(next, targetAt(node.id, path))) continue
      next = edited(
        next,
        addLink(
          `m${Math.floor(random.next() * 3)}`,
          targetAt(node.id, path),
          random.next() * top,
          random.next() * top,
          { mode: 'fixed' },
        ),
      )
    }
  }
  return { project: next, runaway }
}

describe('random chains, everything moving', () => {
  it(
    `${RUNS} of them stay finite and below +24 dBFS; where feedback of one was asked for, the guard holds them`,
    () => {
      const x = noise(1, 5, 0.5)
      const wrong: string[] = []
      for (const seed of [...KNOWN, ...Array.from({ length: RUNS }, (_, i) => FIRST + i)]) {
        const random = new Random(seed)
        const { project, audio } = projectOf(x, chain(random, 2))
        const { project: moving, runaway } = shaken(project, random)
        const { left, right } = play({ project: moving, audio }, SECONDS)
        let most = 0
        for (const side of [left, right])
          for (const v of side) most = Number.isFinite(v) ? Math.max(most, Math.abs(v)) : Infinity
        if (most > (runaway ? 64 : 15.9))
          wrong.push(
            `seed ${seed} reaches ${most.toFixed(1)}: ${[...nodesIn(moving.tracks[0]!.a.nodes)].map((n) => (n.kind === 'effect' ? n.type : n.kind)).join(' ')}`,
          )
      }
      expect(wrong).toEqual([])
    },
    4 * 3_600_000,
  )
})
