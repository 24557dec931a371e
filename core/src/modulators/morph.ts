import { BLOCK } from '../contract/block'
import { defineModulator } from '../contract/modulator'
import { cosCycles, sinCycles } from '../dsp/math'
import { choice, percent } from '../units/parameter'

/** Snapshots that a plane has room for. */
export const MOST_PLACED = 8

/** A snapshot of the track on the plane, and where it lies, 0…1. */
export interface PlacedSnapshot {
  readonly snapshot: string
  readonly x: number
  readonly y: number
}

/** Where the n-th of so many points lies until it is moved: on a circle, from the top on. */
export function placeOnCircle(n: number, count: number): { x: number; y: number } {
  const cycles = n / Math.max(1, count)
  const round = (v: number): number => Math.round(v * 1000) / 1000
  return { x: round(0.5 + 0.4 * sinCycles(cycles)), y: round(0.5 + 0.4 * cosCycles(cycles)) }
}

/** The points of a morph as stored; what cannot be read is left out. */
export function placedSnapshots(data: Readonly<Record<string, unknown>> | undefined): PlacedSnapshot[] {
  const list = Array.isArray(data?.points) ? (data.points as unknown[]) : []
  return list
    .flatMap((item): PlacedSnapshot[] => {
      const { snapshot, x, y } = (item ?? {}) as Record<string, unknown>
      return typeof snapshot === 'string' && typeof x === 'number' && typeof y === 'number'
        ? [{ snapshot, x: Math.min(1, Math.max(0, x)), y: Math.min(1, Math.max(0, y)) }]
        : []
    })
    .slice(0, MOST_PLACED)
}

/** Seconds over which weights glide where a snapshot is moved. */
const DRAG = 0.03
/** Squared distance at which the pointer stands on a point. */
const ON = 1e-9

/** Names of outputs: the weight of each point, and 1 for the point whose weight is the largest. */
export const weightOutput = (n: number): string => `weight ${n + 1}`
export const nearestOutput = (n: number): string => `nearest ${n + 1}`
const numbers = Array.from({ length: MOST_PLACED }, (_, n) => n)

/**
 * Moves between snapshots of its track. On the plane each has the weight 1/d², d being its distance, and all
 * weights together are 1 (Shepard, “A two-dimensional interpolation function for irregularly-spaced data”,
 * 1968). On the line the two neighbours share the weight by their distance along x. A switch or a choice
 * takes the value of the snapshot with the largest weight.
 */
export const morph = defineModulator({
  id: 'morph',
  name: 'Morph',
  load: { kB: 30, ns: 60 },
  tip: 'Moves between up to eight snapshots on a plane or a line',
  outputs: [...numbers.map(weightOutput), ...numbers.map(nearestOutput)],
  byHand: true,
  movesSnapshots: true,
  params: {
    x: percent('X', { default: 0.5, glide: 0.03, tip: 'Position from left to right' }),
    y: percent('Y', { default: 0.5, glide: 0.03, tip: 'Position from bottom to top' }),
    over: choice('Over', ['plane', 'line'], 0, 'Weights by distance on the plane, or between two on a line'),
  },
  applies: (param, value) => param !== 'y' || value('over') === 0,
  learns: 'x',
  summary: (is) =>
    `${is.text('over')}, X ${is.text('x')}${is.text('over') === 'plane' ? `, Y ${is.text('y')}` : ''}`,
  create: ({ sampleRate }) => {
    const glide = Math.ceil(DRAG * sampleRate)
    let count = 0
    /** Weights as they were given last, and by how much they were off when the points moved. */
    const given = new Float64Array(MOST_PLACED)
    const off = new Float64Array(MOST_PLACED)
    /** Frames of the glide that are left; negative where it begins with the next frame. */
    let left = 0
    let hasRun = false
    const px = new Float64Array(MOST_PLACED)
    const py = new Float64Array(MOST_PLACED)
    /** Points by their place along x. */
    const order = new Uint8Array(MOST_PLACED)
    const weights = new Float64Array(MOST_PLACED)

    const onPlane = (x: number, y: number): void => {
      let sum = 0
      for (let i = 0; i < count; i++) {
        const dx = x - px[i]
        const dy = y - py[i]
        const d = dx * dx + dy * dy
        weights[i] = 1 / (d > ON ? d : ON)
        sum += weights[i]
      }
      for (let i = 0; i < count; i++) weights[i] /= sum
    }
    const onLine = (x: number): void => {
      for (let i = 0; i < count; i++) weights[i] = 0
      let k = 0
      while (k < count && px[order[k]] <= x) k++
      if (k === 0) weights[order[0]] = 1
      else if (k === count) weights[order[count - 1]] = 1
      else {
        const from = order[k - 1]
        const to = order[k]
        const way = (x - px[from]) / (px[to] - px[from])
        weights[from] = 1 - way
        weights[to] = way
      }
    }
    return {
      take(data) {
        const points = placedSnapshots(data)
        // another number of points is another morph
        left = hasRun && points.length === count ? -1 : 0
        count = points.length
        points.forEach((p, i) => {
          px[i] = p.x
          py[i] = p.y
        })
        points
          .map((p, i) => [p.x, i] as const)
          .sort((a, b) => a[0] - b[0] || a[1] - b[1])
          .forEach(([, i], k) => {
            order[k] = i
          })
      },
      reset() {
        left = 0
        hasRun = false
      },
      process({ outputs }, p) {
        const isLine = p.over.value === 1
        const still = left === 0 && p.x.constant && (isLine || p.y.constant)
        const xs = p.x.values()
        const ys = p.y.values()
        for (let i = still ? BLOCK - 1 : 0; i < BLOCK && count > 0; i++) {
          if (isLine) onLine(xs[i])
          else onPlane(xs[i], ys[i])
          if (left < 0) {
            left = glide
            for (let k = 0; k < count; k++) off[k] = given[k] - weights[k]
          }
          if (left > 0) left--
          const part = left / glide
          for (let k = 0; k < count; k++) given[k] = left > 0 ? weights[k] + off[k] * part : weights[k]
          if (!still) for (let k = 0; k < count; k++) outputs[k].buffer[i] = given[k]
        }
        hasRun = true
        let nearest = 0
        for (let k = 1; k < count; k++) if (weights[k] > weights[nearest]) nearest = k
        for (let k = 0; k < MOST_PLACED; k++) {
          if (k >= count) outputs[k].hold(0)
          else if (still) outputs[k].hold(weights[k])
          else outputs[k].move()
          outputs[MOST_PLACED + k].hold(k < count && k === nearest ? 1 : 0)
        }
      },
    }
  },
})
