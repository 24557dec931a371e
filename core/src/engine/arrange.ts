import type { Draft } from './draft'
import { inPieces } from './in-pieces'
import type { Step } from './step'

/**
 * Puts steps in one order in which each comes after all that it reads from, as far as that goes (depth-first
 * search; Cormen, Leiserson, Rivest, Stein, *Introduction to Algorithms*, topological sort). Where things go
 * round in a circle, the edge that closes it is marked `isFeedback`. In pieces.
 * @returns the order, and the ids of the feedback edges
 */
export function* inOrder(drafts: Iterable<Draft>): Generator<void, { order: Draft[]; feedback: string[] }> {
  const order: Draft[] = []
  const feedback: string[] = []
  const state = new Map<Draft, 'open' | 'done'>()
  const visit = (draft: Draft): void => {
    state.set(draft, 'open')
    for (const edge of draft.edges) {
      const from = edge.from()
      if (!from) continue
      const seen = state.get(from)
      if (seen === 'open') {
        edge.isFeedback = true
        feedback.push(edge.id)
      } else if (!seen) visit(from)
    }
    state.set(draft, 'done')
    order.push(draft)
  }
  yield* inPieces(drafts, (draft) => {
    if (!state.has(draft)) visit(draft)
  })
  return { order, feedback }
}

/**
 * Works out when the song arrives at each step, in samples, and attaches every edge with the delay that makes
 * all that meets there meet in time. What comes a block late anyhow does not count, nor does what comes from
 * another track where tracks are not lined up (`compensate`). In pieces.
 * @returns what each step reads from
 */
export function* lineUp(
  order: readonly Draft[],
  compensate: boolean,
): Generator<void, ReadonlyMap<Step, readonly Step[]>> {
  const needs = new Map<Step, readonly Step[]>()
  yield* inPieces(order, (draft) => {
    const counted = draft.edges.filter((e) => !e.isFeedback && (compensate || !e.crossing))
    draft.arrival = counted.reduce((most, e) => {
      const from = e.from()
      return from ? Math.max(most, from.arrival + from.latency) : most
    }, 0)
    const sources: Step[] = []
    for (const edge of draft.edges) {
      const from = edge.from()
      if (!from) continue
      sources.push(from.step)
      edge.attach(from, counted.includes(edge) ? draft.arrival - from.arrival - from.latency : 0)
    }
    needs.set(draft.step, sources)
  })
  return needs
}
