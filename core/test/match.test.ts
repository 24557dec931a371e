import { describe, expect, it } from 'vitest'
import { traitsOf } from '@oleaje/core/analysis/distance'
import { apply } from '@oleaje/core/project/edit'
import { newEffect } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { soundOf } from '@oleaje/core/render/replay'
import { findOwner } from '@oleaje/core/project/walk'
import { valueAt, writeValue } from '@oleaje/core/project/targets'
import { draftOf, excerptOf, excerptPlan, referencePart } from '@oleaje/core/search/excerpt'
import {
  MatchJudge,
  type Moving,
  type Place,
  atBorder,
  goTo,
  movable,
  movingName,
  placeOf,
} from '@oleaje/core/search/match'
import { MatchSearch } from '@oleaje/core/search/match-search'
import { outOfReach } from '@oleaje/core/search/out-of-reach'
import { edited, projectOf } from './project-rig'
import { RATE, noise } from './rig'

/** A beat of noise at 107 bpm through two effects, one of them moved. */
function rig(...edits: Parameters<typeof edited>[1][]) {
  const sound = noise(1.2, 3, 0.3).map((x, i) => x * Math.exp(-9 * ((i / RATE) % 0.31)))
  const made = projectOf(sound, [
    newEffect('filter', { cutoff: 1800 }, 'f'),
    newEffect('delay', { time: 0.13, feedback: 0.3, wet: 0.4 }, 'd'),
  ])
  const project = edited({ ...made.project, tempo: 107, loop: { on: true, start: 0, end: 2 } }, ...edits)
  return { ...made, project }
}
const range = (owner: string, path: string): Moving => ({ owner, path, steps: 0 })

function judgeOf(
  project: Project,
  audio: ReturnType<typeof rig>['audio'],
  wanted: Project,
  moving: Moving[],
) {
  const excerpt = excerptOf(project, 't', audio, 0.9)
  const reference = traitsOf(soundOf(excerptPlan(wanted, 't', excerpt), audio), RATE)
  return new MatchJudge(project, 't', excerpt, reference, moving, 'aligned', audio)
}

describe('a search towards a reference', () => {
  const moving = [range('f', 'cutoff'), range('d', 'wet')]

  it('finds values that were displaced, the same ones with the same seed', () => {
    const { project, audio } = rig()
    const wanted = apply(project, goTo(moving, [0.41, 0.71])).next
    const judge = judgeOf(project, audio, wanted, moving)
    const run = (seed: number): MatchSearch => {
      const search = new MatchSearch(moving, placeOf(project, moving), seed)
      while (search.state.evaluations < 90) search.take(search.next().map((p) => judge.loss(p)))
      return search
    }
    const { state } = run(5)
    const { best } = state
    const first = judge.loss(placeOf(project, moving))
    expect(first).toBeGreaterThan(3)
    expect(best[0]!.loss).toBeLessThan(1)
    expect(best[0]!.place[0]).toBeCloseTo(0.41, 1)
    expect(best.length).toBeGreaterThan(1)
    expect([...best].sort((a, b) => a.loss - b.loss)).toEqual(best)
    expect(run(5).state).toEqual(state)
  }, 60_000)

  it('the first place that is judged is where it begins, and that is zero away from itself', () => {
    const { project, audio } = rig()
    const judge = judgeOf(project, audio, project, moving)
    const [first] = new MatchSearch(moving, placeOf(project, moving), 1).next()
    expect(first).toEqual(placeOf(project, moving))
    expect(judge.loss(first as Place)).toBeLessThan(1e-3)
  })

  it('learns choices', () => {
    const choice: Moving[] = [
      { owner: 'x', path: 'a', steps: 5 },
      range('x', 'b'),
      { owner: 'x', path: 'c', steps: 3 },
    ]
    const search = new MatchSearch(choice, [0, 0.5, 0], 3)
    const loss = ([a, b, c]: Place): number => (a === 3 ? 0 : 4) + (c === 2 ? 0 : 2) + 5 * Math.abs(b! - 0.23)
    while (search.state.evaluations < 400) search.take(search.next().map(loss))
    expect(search.state.best[0]!.place.map((x) => Math.round(x * 100) / 100)).toEqual([3, 0.23, 2])
  })

  it('what is silent is far away, and does not end the search', () => {
    const { project, audio } = rig()
    const reference = traitsOf([noise(1, 3, 0.2), noise(1, 3, 0.2)], RATE)
    const excerpt = excerptOf(project, 't', audio, 0.9)
    const judge = new MatchJudge(
      project,
      't',
      excerpt,
      reference,
      [range('f', 'cutoff')],
      'texture',
      () => null,
    )
    expect(judge.loss([0.5])).toBe(100)
  })

  it('a sound at the loudness of the reference may come at another level, but not at one that is hardly heard', () => {
    const { project, audio } = rig((p) => {
      p.tracks.find((t) => t.id === 't')?.a.nodes.push(newEffect('gain', { level: 0 }, 'g'))
    })
    const level = range('g', 'level')
    const judge = judgeOf(project, audio, project, [level])
    const at = (db: number): number => {
      const moved = apply(project, (p) => {
        writeValue(findOwner(p, 'g')!, 'level', db)
      }).next
      return judge.loss(placeOf(moved, [level]))
    }
    expect(at(-17.3)).toBeLessThan(0.05)
    expect(at(-31)).toBeCloseTo(13, 1)
    expect(at(-23.7)).toBeCloseTo(5.7, 1)
  })

  it('moves effects, modulators and ranges of links, and nothing that is locked', () => {
    const { project } = rig(
      addModulator('t', 'lfo', { id: 'l' }),
      addLink('l', { owner: 'f', param: 'cutoff' }, 0.3, 0.8, { id: 'k' }),
      (p) => {
        p.locks = ['d']
      },
    )
    const found = movable(project, 't').map((m) => `${m.owner}.${m.path}`)
    expect(found).toEqual(expect.arrayContaining(['f.cutoff', 'l.rate', 'k.from', 'k.to']))
    const times = movable(project, 't').filter((m) => m.isTime)
    expect(times.map((m) => `${m.owner}.${m.path}`)).toEqual(expect.arrayContaining(['l.length']))
    const names = movable(project, 't').map((m) => movingName(project, m))
    expect(names).toContain('LFO on Filter cutoff, minimum')
    expect(found.some((k) => k.startsWith('d.') || k.startsWith('t.') || k.endsWith('.on'))).toBe(false)
    const place = placeOf(project, movable(project, 't'))
    const same = apply(project, goTo(movable(project, 't'), place)).next
    for (const m of movable(project, 't'))
      expect(valueAt(findOwner(same, m.owner)!, m.path)).toBeCloseTo(
        valueAt(findOwner(project, m.owner)!, m.path)!,
        6,
      )
  })

  describe('where more may be moved than it moves at once', () => {
    const all = [range('a', 'x'), range('a', 'y'), { owner: 'a', path: 'z', steps: 4 }, range('b', 'x')]
    const wanted = [0.61, 0.9, 2, 0.31]
    const heard = [9, 0, 5, 0.7]
    const loss = (place: Place, weights = heard): number =>
      place.reduce((sum, x, i) => sum + (weights[i] ?? 0) * Math.abs(x - (wanted[i] ?? 0)), 0)

    const places = (search: MatchSearch): number[][] => search.next().map((place) => [...place])

    it('moves one after the other first, each from where the others are best', () => {
      const search = new MatchSearch(all, [0.2, 0.9, 3, 0.7], 1, 2)
      const begin = places(search)
      expect(begin).toEqual([0.2, 0, 0.12, 0.28, 0.5].map((x) => [expect.closeTo(x), 0.9, 3, 0.7]))
      search.take(begin.map((p) => loss(p)))
      expect(search.state.moving).toEqual([])
      expect(search.state.best[0]?.place).toEqual([0.5, 0.9, 3, 0.7])
      // the second changes nothing, so it stays
      const second = places(search)
      expect(second).toEqual([0.6, 0.82, 0.98, 1].map((y) => [0.5, expect.closeTo(y), 3, 0.7]))
      search.take(second.map((p) => loss(p)))
      const choices = places(search)
      expect(choices).toEqual([0, 1, 2].map((z) => [0.5, 0.9, z, 0.7]))
      search.take(choices.map((p) => loss(p)))
      const last = places(search)
      expect(last.map((p) => p[3])).toEqual([0.4, 0.62, 0.78, 1].map((x) => expect.closeTo(x)))
      for (const place of last) expect(place.slice(0, 3)).toEqual([0.5, 0.9, 2])
    })

    it('then moves those together that brought it nearest', () => {
      const search = new MatchSearch(all, [0.2, 0.9, 3, 0.7], 1, 2)
      while (search.state.moving.length === 0) search.take(search.next().map((p) => loss(p)))
      expect(search.state.moving.map((m) => m.path)).toEqual(['x', 'z'])
      for (const place of search.next()) {
        expect(place[1]).toBe(0.9)
        expect(place[3]).toBeCloseTo(0.4)
      }
    })

    it('comes to the place that is wanted, and leaves alone what is not heard', () => {
      const search = new MatchSearch(all, [0.2, 0.9, 3, 0.7], 1, 2)
      while (search.state.evaluations < 700) search.take(search.next().map((p) => loss(p)))
      const [best] = search.state.best
      expect(search.state.restarts).toBeGreaterThan(1)
      expect(best?.place.map((x) => Math.round(x * 100) / 100)).toEqual([0.61, 0.9, 2, 0.31])
      expect(best?.place[1]).toBe(0.9)
      // the second is not heard, so no other place differs in it alone
      const others = search.state.best.map((b) => b.loss.toFixed(3))
      expect(new Set(others).size).toBe(others.length)
    })

    it('tries a choice of many values near the one that stands, in whole values', () => {
      const many = [{ owner: 'a', path: 'interval', steps: 49 }, range('a', 'x')]
      const search = new MatchSearch(many, [24, 0.5], 1, 1)
      expect(search.next().map(([interval]) => interval)).toEqual([24, 10, 20, 28, 38])
    })

    it('tries a time that is heard over its whole range, then close by', () => {
      const time: Moving = { ...range('a', 'time'), isTime: true }
      const search = new MatchSearch([time, range('a', 'x')], [0.3, 0.5], 1, 1)
      // as of echoes: a narrow valley far away, and no slope towards it
      const valley = ([t = 0, x = 0]: Place): number =>
        4 + 0.5 * Math.sin(90 * t) - (Math.abs(t - 0.777) < 0.012 ? 3 - 200 * Math.abs(t - 0.777) : 0) + x
      const sizes = Array.from({ length: 4 }, () => {
        const asked = search.next()
        search.take(asked.map(valley))
        return asked.length
      })
      expect(sizes).toEqual([5, 64, 4, 4])
      expect(search.state.best[0]?.place[0]).toBeCloseTo(0.777, 2)
      const deaf = new MatchSearch([time, range('a', 'x')], [0.3, 0.5], 1, 1)
      deaf.take(deaf.next().map(([, x = 0]) => x))
      expect(deaf.next()).toHaveLength(4)
    })

    it('says so where none is heard', () => {
      const search = new MatchSearch(all, [0.2, 0.9, 3, 0.7], 1, 2)
      expect(() => {
        for (let n = 0; n < 4; n++) search.take(search.next().map(() => 37))
      }).toThrow('No parameter changes this sound.')
    })

    it('goes on where it has come to a place at which nothing is heard', () => {
      const search = new MatchSearch(all, [0.2, 0.9, 3, 0.7], 1, 2)
      // from the first place on, all sounds are alike
      const flat = (place: Place): number => (place[0] === 0.2 ? 9 : 4)
      while (search.state.evaluations < 700) search.take(search.next().map(flat))
      expect(search.state.restarts).toBeGreaterThan(1)
      expect(search.state.best[0]?.loss).toBe(4)
    })
  })

  it('names the ranges that it has moved to a border', () => {
    const all = [range('a', 'x'), range('a', 'y'), { owner: 'a', path: 'z', steps: 4 }, range('b', 'x')]
    expect(atBorder(all, [1, 0.5, 0, 0], [0.3, 0.5, 2, 0]).map((m) => m.path)).toEqual(['x'])
  })

  it('says what no effect of the chain creates', () => {
    const bright = traitsOf([noise(1, 3, 0.2), noise(1, 4, 0.2)], RATE)
    let [y, z] = [0, 0]
    const dull = noise(1, 3, 0.9).map((x) => (z += 0.05 * ((y += 0.05 * (x - y)) - z)))
    expect(outOfReach(bright, traitsOf([dull, dull], RATE))[0]).toMatch(
      /^The reference has energy above \d+(\.\d)? kHz/,
    )
    expect(outOfReach(bright, bright)).toEqual([])
  })
})

describe('what a search compares', () => {
  it('takes the same performance at the same moment, and another one where it is liveliest', () => {
    const { project } = rig()
    const at = { ...project, loop: { ...project.loop, start: 1 } }
    // a beat at 107 bpm lasts 0.5607 s; silence, then sound from 2 s on
    const side = Float32Array.from({ length: 3 * RATE }, (_, i) => (i < 2 * RATE ? 0 : ((i % 37) - 18) / 40))
    const excerpt = { from: 1.37, seconds: 0.5, warm: 0 }
    const aligned = referencePart([side, side], RATE, at, excerpt, true)
    expect(aligned[0]).toEqual(
      side.slice(Math.round((1.37 - 60 / 107) * RATE), Math.round((1.37 - 60 / 107) * RATE) + RATE / 2),
    )
    expect(referencePart([side, side], RATE, at, excerpt, false)[1].some((x) => x !== 0)).toBe(true)
    const short = side.slice(0, 0.5 * RATE)
    expect(() => referencePart([short, short], RATE, at, excerpt, true)).toThrow('shorter than the loop')
  })

  it('lowers only the parameters that have a draft value', () => {
    const { project } = rig((p) => {
      const [track] = p.tracks
      track?.a.nodes.push(
        newEffect('drive', { drive: 20 }, 'high'),
        newEffect('drive', { quality: 0 }, 'low'),
      )
    })
    const quality = (p: Project, id: string): number | undefined => {
      const owner = findOwner(p, id)
      return owner ? valueAt(owner, 'quality') : undefined
    }
    const draft = draftOf(project)
    expect([quality(project, 'high'), quality(draft, 'high'), quality(draft, 'low')]).toEqual([3, 1, 0])
    expect(valueAt(findOwner(draft, 'high')!, 'drive')).toBe(20)
    expect(valueAt(findOwner(draft, 'f')!, 'cutoff')).toBe(1800)
  })
})
