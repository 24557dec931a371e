import type { Spot } from '@oleaje/core/project/chain-edits'
import { ownerName } from '@oleaje/core/project/targets'
import { branchesOf, kindOf } from '@oleaje/core/project/nodes/index'
import type { ChainNode, Track } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'

/** An effect or container on the chart. */
export interface ChartNode {
  readonly node: ChainNode
  readonly name: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}
/** A stretch of water and the live value that says how wide it flows. */
export interface Channel {
  readonly key: string
  readonly x0: number
  readonly y0: number
  readonly x1: number
  readonly y1: number
  readonly dry: boolean
}
/** A place where something can be added. */
export interface Plus {
  readonly x: number
  readonly y: number
  readonly spot: Spot
  readonly label: string
}
/** Water that runs back under the channel, from `x1` to `x0`, as far beneath as `y1`. */
export interface ReturnFlow {
  readonly key: string
  readonly node: ChainNode
  readonly x0: number
  readonly x1: number
  readonly y0: number
  readonly y1: number
}
/** Thin water that leaves for a bus, or comes to one: from a place on the chart to its name. */
export interface Tributary {
  readonly key: string
  readonly name: string
  readonly track: string
  readonly x0: number
  readonly y0: number
  readonly x1: number
  readonly y1: number
  readonly arrives: boolean
}
/** Sends of a track or a branch, and inputs of a bus. */
export interface ChartWays {
  readonly leaves: readonly {
    readonly key: string
    readonly from: string
    readonly name: string
    readonly track: string
  }[]
  readonly arrives: readonly { readonly key: string; readonly name: string; readonly track: string }[]
}
export interface BranchLabel {
  readonly id: string
  readonly name: string
  readonly x: number
  readonly y: number
}

export interface ChartLayout {
  readonly nodes: readonly ChartNode[]
  readonly channels: readonly Channel[]
  readonly pluses: readonly Plus[]
  readonly labels: readonly BranchLabel[]
  readonly returns: readonly ReturnFlow[]
  readonly tributaries: readonly Tributary[]
  readonly width: number
  readonly height: number
  /** How much of its usual size the water has, where many branches lie above each other. */
  readonly scale: number
}

interface Sizes {
  readonly effect: number
  readonly gap: number
  readonly fork: number
  readonly row: number
  readonly ends: number
  readonly isRing: (node: ChainNode) => boolean
}

/**
 * Height of a branch at the least; where more of them lie above each other than fit, the chart grows taller
 * than the view.
 */
const LEAST_ROW = 24

const wide = { effect: 88, gap: 30, fork: 54, row: 62, ends: 70 }
const narrow = { effect: 54, gap: 22, fork: 40, row: 58, ends: 48 }

/**
 * Lays a chain out as a channel of water from left to right: splits part it into branches one above the
 * other, each as long as the longest. Where it does not fit the width, effects narrow; where it still does
 * not, it grows wider than the view. All in CSS pixels.
 * @param ways of sound beside the chain
 * @param isRing whether a container is drawn as a ring, which needs room beneath it
 */
export function layoutChart(
  track: Track,
  width: number,
  height: number,
  isRing: Sizes['isRing'] = () => false,
  ways: ChartWays = noWays,
): ChartLayout {
  const { nodes } = heardChain(track)
  const base = { ...fitting(nodes, width, isRing), isRing }
  const rows = measure(nodes, base).rows
  const sizes = { ...base, row: Math.max(LEAST_ROW, Math.min(base.row, (height - 24) / rows)) }
  const tall = Math.max(height, rows * sizes.row + 24)
  const needed = measure(nodes, sizes).width + 2 * sizes.ends
  const total = Math.max(width, needed)
  const found: {
    nodes: ChartNode[]
    channels: Channel[]
    pluses: Plus[]
    labels: BranchLabel[]
    returns: ReturnFlow[]
    ends: Map<string, { x: number; y: number }>
  } = { nodes: [], channels: [], pluses: [], labels: [], returns: [], ends: new Map() }
  const middle = tall / 2
  const stretch = Math.min(26, Math.max(0, (total - needed) / Math.max(1, nodes.length + 1)))
  const source = track.kind === 'mix' ? 'peak:sum' : `peak:source:${track.id}`
  const end = place(
    nodes,
    { ...sizes, gap: sizes.gap + stretch },
    sizes.ends,
    middle,
    source,
    { startOf: track.id },
    track.source || track.kind !== 'track' ? 'the source' : 'the start',
    found,
  )
  found.channels.unshift({ key: source, x0: 0, y0: middle, x1: sizes.ends, y1: middle, dry: false })
  found.channels.push({ key: end.key, x0: end.x, y0: middle, x1: total, y1: middle, dry: false })
  found.ends.set(track.id, { x: end.x, y: middle })
  return {
    ...found,
    tributaries: tributariesOf(ways, found.ends, sizes, middle, tall),
    width: total,
    height: tall,
    scale: Math.min(1, sizes.row / base.row),
  }
}

/** The widest sizes with which a chain fits a width; the narrow ones where none does. */
function fitting(nodes: readonly ChainNode[], width: number, isRing: Sizes['isRing']): typeof wide {
  const between = (t: number): typeof wide => ({
    effect: Math.floor(narrow.effect + t * (wide.effect - narrow.effect)),
    gap: Math.floor(narrow.gap + t * (wide.gap - narrow.gap)),
    fork: Math.floor(narrow.fork + t * (wide.fork - narrow.fork)),
    row: Math.floor(narrow.row + t * (wide.row - narrow.row)),
    ends: Math.floor(narrow.ends + t * (wide.ends - narrow.ends)),
  })
  const fits = (t: number): boolean => {
    const sizes = between(t)
    return measure(nodes, { ...sizes, isRing }).width + 2 * sizes.ends <= width
  }
  if (fits(1)) return wide
  let [low, high] = [0, 1]
  for (let k = 0; k < 8; k++) {
    const middle = (low + high) / 2
    if (fits(middle)) low = middle
    else high = middle
  }
  return between(low)
}

/** The least height in px at which a chain is drawn at its full size. */
export function chartHeight(
  track: Track,
  isRing: Sizes['isRing'] = () => false,
  ways: ChartWays = noWays,
): number {
  const { rows } = measure(heardChain(track).nodes, { ...wide, isRing })
  const mostLeaving = Math.max(
    0,
    ...ways.leaves.map((way) => ways.leaves.filter((other) => other.from === way.from).length),
  )
  return Math.max(
    56 + 62 * rows,
    ways.arrives.length && 2 * (52 + APART * ways.arrives.length),
    mostLeaving && 2 * (30 + 31 * (rows - 1) + 34 + APART * (mostLeaving - 1)),
  )
}

const noWays: ChartWays = { leaves: [], arrives: [] }
/** How far apart names of buses stand, and how far from the water, in pixels. */
const APART = 17

/**
 * Arrivals come down to the head of the chain, one beside the other; what leaves runs down from where it
 * leaves.
 */
function tributariesOf(
  ways: ChartWays,
  ends: ReadonlyMap<string, { x: number; y: number }>,
  s: Sizes,
  middle: number,
  tall: number,
): Tributary[] {
  const bank = Math.min(46, middle - 14)
  const arrives = ways.arrives.map((way, i): Tributary => ({
    ...way,
    x0: 8 + i * 11,
    y0: Math.max(6, middle - bank - APART * (ways.arrives.length - i)),
    x1: s.ends * 0.72 + i * 7,
    y1: middle,
    arrives: true,
  }))
  const counts = new Map<string, number>()
  const leaves = ways.leaves.flatMap((way): Tributary[] => {
    const at = ends.get(way.from)
    if (!at) return []
    const n = counts.get(way.from) ?? 0
    counts.set(way.from, n + 1)
    return [
      {
        ...way,
        x0: at.x + n * 7,
        y0: at.y,
        x1: at.x + 22,
        y1: Math.min(tall - 8, at.y + 34 + APART * n),
        arrives: false,
      },
    ]
  })
  return [...arrives, ...leaves]
}

function measure(list: readonly ChainNode[], s: Sizes): { width: number; rows: number } {
  let width = s.gap
  let rows = 1
  for (const node of list) {
    const parts = branchesOf(node)
    const inside = kindOf(node).inside?.(node)
    if (parts.length) {
      const branches = parts.map((b) => measure(b.nodes, s))
      width += Math.max(...branches.map((b) => b.width)) + 2 * s.fork + s.gap
      rows = Math.max(
        rows,
        branches.reduce((n, b) => n + b.rows, 0),
      )
    } else if (inside) {
      const inner = measure(inside, s)
      width += Math.max(inner.width, s.effect) + 20 + s.gap
      rows = Math.max(rows, inner.rows + (s.isRing(node) ? 1 : 0))
    } else width += s.effect + s.gap
  }
  return { width, rows }
}

function place(
  list: readonly ChainNode[],
  s: Sizes,
  x: number,
  y: number,
  key: string,
  spot: Spot,
  after: string,
  out: {
    nodes: ChartNode[]
    channels: Channel[]
    pluses: Plus[]
    labels: BranchLabel[]
    returns: ReturnFlow[]
    ends: Map<string, { x: number; y: number }>
  },
  dry = false,
): { x: number; key: string } {
  const gap = (at: Spot, name: string): void => {
    out.channels.push({ key, x0: x, y0: y, x1: x + s.gap, y1: y, dry })
    out.pluses.push({ x: x + s.gap / 2, y, spot: at, label: `Add an effect after ${name}` })
    x += s.gap
  }
  gap(spot, after)
  for (const node of list) {
    const name = ownerName({ kind: 'node', node } as never)
    const parts = branchesOf(node)
    const inside = kindOf(node).inside?.(node)
    if (parts.length) {
      const branches = parts.map((b) => ({ b, size: measure(b.nodes, s) }))
      const inner = Math.max(...branches.map((b) => b.size.width))
      const rows = branches.reduce((n, b) => n + b.size.rows, 0)
      let row = -rows / 2
      for (const { b, size } of branches) {
        const by = y + (row + size.rows / 2) * s.row
        row += size.rows
        const muted = dry || (b.params.mute ?? 0) >= 0.5
        out.channels.push({ key: `peak:head:${b.id}`, x0: x, y0: y, x1: x + s.fork, y1: by, dry: muted })
        out.labels.push({ id: b.id, name: b.name, x: x + s.fork - 8, y: by })
        const end = place(
          b.nodes,
          s,
          x + s.fork,
          by,
          `peak:head:${b.id}`,
          { startOf: b.id },
          `the start of ${b.name}`,
          out,
          muted,
        )
        out.ends.set(b.id, { x: end.x - s.gap / 2, y: by })
        out.channels.push({ key: end.key, x0: end.x, y0: by, x1: x + s.fork + inner, y1: by, dry: muted })
        out.channels.push({
          key: `peak:branch:${b.id}`,
          x0: x + s.fork + inner,
          y0: by,
          x1: x + 2 * s.fork + inner,
          y1: y,
          dry: muted,
        })
      }
      // the split is taken hold of where the water parts
      out.nodes.push({ node, name, x: x - 11, y, width: 22, height: 22 })
      key = `peak:node:${node.id}`
      x += 2 * s.fork + inner
    } else if (inside) {
      const size = measure(inside, s)
      const w = Math.max(size.width, s.effect) + 20
      const below = y + (size.rows * s.row) / 2 + 0.34 * s.row
      if (s.isRing(node)) {
        out.returns.push({ key: `peak:loop:${node.id}`, node, x0: x + 6, x1: x + w - 6, y0: y, y1: below })
        out.nodes.push({ node, name, x: x + w / 2 - 76, y: below, width: 152, height: 22 })
      } else out.nodes.push({ node, name, x, y, width: w, height: size.rows * s.row })
      out.channels.push({ key, x0: x, y0: y, x1: x + 10, y1: y, dry })
      const end = place(inside, s, x + 10, y, key, { startOf: node.id }, `the start of ${name}`, out, dry)
      out.channels.push({ key: end.key, x0: end.x, y0: y, x1: x + w, y1: y, dry })
      key = `peak:node:${node.id}`
      x += w
    } else {
      out.nodes.push({ node, name, x, y, width: s.effect, height: Math.min(46, s.row - 5) })
      out.channels.push({ key, x0: x, y0: y, x1: x + s.effect / 2, y1: y, dry })
      key = `peak:node:${node.id}`
      out.channels.push({ key, x0: x + s.effect / 2, y0: y, x1: x + s.effect, y1: y, dry })
      x += s.effect
    }
    gap({ after: node.id }, name)
  }
  return { x, key }
}
