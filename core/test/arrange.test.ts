import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOrder, lineUp } from '@oleaje/core/engine/arrange'
import type { Draft } from '@oleaje/core/engine/draft'

/** Connections as they were attached: what reads from what, with which delay. */
interface Attached {
  readonly to: string
  readonly from: string
  readonly delay: number
}

/** Steps by name with what they read from; `~` before a name for what comes from another track. */
function drawn(of: Record<string, { latency?: number; reads?: string[] }>) {
  const drafts = new Map<string, Draft>()
  const attached: Attached[] = []
  for (const [key, { latency = 0, reads = [] }] of Object.entries(of)) {
    const draft: Draft = {
      key,
      step: { run() {}, reset() {}, cut() {} },
      fresh: true,
      latency,
      arrival: 0,
      edges: [],
    }
    for (const read of reads) {
      const from = read.replace('~', '')
      draft.edges.push({
        from: () => drafts.get(from),
        id: `${key}<${from}`,
        crossing: read.startsWith('~'),
        isFeedback: false,
        attach: (_, delay) => {
          attached.push({ to: key, from, delay })
        },
      })
    }
    drafts.set(key, draft)
  }
  return { drafts, attached }
}

function whole<T>(work: Generator<void, T>): T {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value as T
  }
}

function arranged(of: Parameters<typeof drawn>[0], compensate = true) {
  const { drafts, attached } = drawn(of)
  const { order, feedback: late } = whole(inOrder(drafts.values()))
  const needs = whole(lineUp(order, compensate))
  return {
    drafts,
    attached,
    order,
    late,
    needs,
    names: order.map((d) => d.key),
    delay: (edge: string) => attached.find((a) => `${a.to}<${a.from}` === edge)?.delay,
  }
}

describe('the order of steps', () => {
  it('has each after all that it reads from', () => {
    const { names, late } = arranged({
      out: { reads: ['delay', 'filter'] },
      delay: { reads: ['filter'] },
      filter: { reads: ['lfo', 'in'] },
      in: {},
      lfo: {},
    })
    expect(names).toEqual(['lfo', 'in', 'filter', 'delay', 'out'])
    expect(late).toEqual([])
  })
  it('opens a circle where it closes, and says by whose edge', () => {
    const { names, late, delay, drafts } = arranged({
      a: { latency: 10, reads: ['b'] },
      b: { latency: 7, reads: ['c'] },
      c: { reads: ['a'] },
    })
    expect(names).toEqual(['c', 'b', 'a'])
    expect(late).toEqual(['c<a'])
    // the block before is as late as it is, whatever the latencies
    expect(delay('c<a')).toBe(0)
    expect(['c', 'b', 'a'].map((k) => drafts.get(k)?.arrival)).toEqual([0, 0, 7])
  })
  it('takes a step that reads itself as the smallest circle', () => {
    expect(arranged({ a: { reads: ['a'] } }).late).toEqual(['a<a'])
  })
  it('leaves out what is not there', () => {
    const { needs, drafts, attached } = arranged({ a: { reads: ['nobody'] } })
    expect(needs.get(drafts.get('a')!.step)).toEqual([])
    expect(attached).toEqual([])
  })
})

describe('lining up', () => {
  it('delays the shorter way to where two meet', () => {
    const { drafts, delay } = arranged({
      in: {},
      long: { latency: 48, reads: ['in'] },
      short: { latency: 3, reads: ['in'] },
      sum: { reads: ['long', 'short', 'in'] },
    })
    expect(drafts.get('sum')?.arrival).toBe(48)
    expect([delay('sum<long'), delay('sum<short'), delay('sum<in')]).toEqual([0, 45, 48])
  })
  it('leaves other tracks as they come where tracks are not lined up', () => {
    const of = { kit: { latency: 100 }, pad: {}, duck: { reads: ['pad', '~kit'] } }
    expect(arranged(of).delay('duck<pad')).toBe(100)
    expect(arranged(of, false).delay('duck<pad')).toBe(0)
    expect(arranged(of, false).delay('duck<kit')).toBe(0)
  })
  it('makes every two ways to a step as long as each other, in any net', () => {
    // each step reads from some that come before it, under names that are in no order
    const net = fc.array(
      fc.record({ latency: fc.nat(500), reads: fc.uniqueArray(fc.nat(), { maxLength: 4 }) }),
      {
        minLength: 1,
        maxLength: 14,
      },
    )
    fc.assert(
      fc.property(net, fc.infiniteStream(fc.nat()), (steps, shuffle) => {
        const entries = steps.map(
          (s, i) =>
            [
              `s${i}`,
              { latency: s.latency, reads: i === 0 ? [] : [...new Set(s.reads.map((r) => `s${r % i}`))] },
            ] as const,
        )
        const mixed = entries
          .map((e) => [shuffle.next().value as number, e] as const)
          .sort((a, b) => a[0] - b[0])
          .map(([, e]) => e)
        const { drafts, attached, names, late, needs } = arranged(Object.fromEntries(mixed))
        expect(late).toEqual([])
        expect([...names].sort()).toEqual(entries.map(([k]) => k).sort())
        for (const { to, from, delay } of attached) {
          const [a, b] = [drafts.get(from)!, drafts.get(to)!]
          expect(names.indexOf(from)).toBeLessThan(names.indexOf(to))
          expect(delay).toBeGreaterThanOrEqual(0)
          expect(a.arrival + a.latency + delay).toBe(b.arrival)
          expect(needs.get(b.step)).toContain(a.step)
        }
        // and no longer than the longest of them has to be
        for (const draft of drafts.values())
          if (draft.edges.length)
            expect(attached.filter((a) => a.to === draft.key).some((a) => a.delay === 0)).toBe(true)
      }),
      { numRuns: 200 },
    )
  })
})
