import { describe, expect, it } from 'vitest'
import { newBranch, newEffect, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import { chartHeight, layoutChart } from '../components/bench/chart-layout'

function track(count: number) {
  const t = newTrack('t', newSource('tone'), 't')
  t.a.nodes = Array.from({ length: count }, (_, i) => newEffect('gain', {}, `g${i}`))
  return t
}

describe('layout of the chart', () => {
  it('effects lie in order and never on each other, for any length and width', () => {
    for (const count of [0, 1, 5, 12, 40]) {
      for (const width of [500, 800, 1600]) {
        const c = layoutChart(track(count), width, 200)
        expect(c.width).toBeGreaterThanOrEqual(width)
        c.nodes.forEach((n, i) => {
          if (i) expect(n.x).toBeGreaterThanOrEqual(c.nodes[i - 1]!.x + c.nodes[i - 1]!.width)
        })
        expect(c.pluses).toHaveLength(count + 1)
      }
    }
  })
  it('eight branches and five levels of nesting stay inside, none on another', () => {
    const t = track(0)
    let inner = newSplit([newBranch('a', 0), newBranch('b', 0)], 'deepest')
    for (let level = 0; level < 4; level++) {
      const [first, second] = [newBranch('x', 0), newBranch('y', 0)]
      first.nodes = [inner, newEffect('gain')]
      second.nodes = [newEffect('drive')]
      inner = newSplit([first, second], `split-${level}`)
    }
    const eight = newSplit(
      Array.from({ length: 8 }, (_, i) => ({
        ...newBranch(`b${i}`, 0),
        nodes: [newEffect('filter', {}, `f${i}`)],
      })),
      'eight',
    )
    for (const nodes of [[eight], [inner]]) {
      t.a.nodes = nodes
      for (const height of [150, 230, 600]) {
        const c = layoutChart(t, 800, height)
        for (const n of c.nodes) {
          expect(n.y - n.height / 2).toBeGreaterThanOrEqual(0)
          expect(n.y + n.height / 2).toBeLessThanOrEqual(c.height)
        }
        const plates = c.nodes.filter((n) => n.node.kind === 'effect')
        for (const p of plates)
          for (const q of plates)
            if (p !== q && Math.abs(p.x - q.x) < p.width)
              expect(Math.abs(p.y - q.y)).toBeGreaterThanOrEqual((p.height + q.height) / 2)
        for (const ch of c.channels) expect(Math.max(ch.y0, ch.y1)).toBeLessThanOrEqual(c.height)
      }
    }
  })
  it('a split parts the water: each branch has its own height and label, and the paths meet again', () => {
    const t = track(1)
    const a = newBranch('high', 0, 'a')
    a.nodes = [newEffect('drive', {}, 'd')]
    const b = newBranch('low', 0, 'b')
    b.params.mute = 1
    t.a.nodes.push(newSplit([a, b], 's'))
    const c = layoutChart(t, 900, 220)
    const [high, low] = c.labels
    expect(high!.y).toBeLessThan(low!.y)
    expect(c.channels.filter((ch) => ch.dry).map((ch) => ch.key)).toContain('peak:branch:b')
    expect(c.channels.filter((ch) => ch.y1 === 110 && ch.y0 !== 110)).toHaveLength(2)
    expect(c.pluses.map((p) => JSON.stringify(p.spot))).toContain('{"startOf":"b"}')
  })
  it('asks for as much height as its branches need', () => {
    const t = track(4)
    expect(chartHeight(t)).toBe(118)
    t.a.nodes.push(newSplit([newBranch('a'), newBranch('b'), newBranch('c')], 's'))
    expect(chartHeight(t)).toBe(56 + 3 * 62)
    // the water of a chain at that height has its full width
    expect(layoutChart(t, 1600, chartHeight(t)).scale).toBeGreaterThan(0.93)
    const arrives = Array.from({ length: 5 }, (_, k) => ({ key: `${k}`, name: 'a', track: 'a' }))
    expect(chartHeight(track(1), undefined, { leaves: [], arrives })).toBeGreaterThan(250)
  })
})
