import { describe, expect, it } from 'vitest'
import { FeedbackNetwork, LINES } from '@oleaje/core/dsp/feedback-network'
import { noise } from './rig'

const FRAMES = 128
const lengths = Array.from({ length: LINES }, (_, k) => 300 + 37 * k)

/** A network of whole lengths with filters that let all pass by a factor. */
function made(gain: number): FeedbackNetwork {
  const n = new FeedbackNetwork(1000)
  for (let k = 0; k < LINES; k++) n.setFilters(k, [gain, 0, 0, 1, 0, 0])
  return n
}

/** Plays blocks; `input` fills what goes in. */
function run(
  n: FeedbackNetwork,
  blocks: number,
  input: (block: number) => void,
  still = true,
): Float64Array[] {
  const span = new Float64Array(2)
  return Array.from({ length: blocks }, (_, b) => {
    input(b)
    for (let k = 0; k < LINES; k += 2) {
      if (still) n.readStill(k >> 1, lengths[k] ?? 0, lengths[k + 1] ?? 0)
      else {
        for (const m of [k, k + 1]) {
          span.fill(lengths[m] ?? 0)
          n.readMoving(m, span)
        }
      }
    }
    n.run()
    return n.out.slice()
  })
}
const impulse =
  (n: FeedbackNetwork) =>
  (b: number): void => {
    n.left.fill(0)
    n.right.fill(0)
    if (b === 0) n.left[0] = 1
  }

describe('FeedbackNetwork', () => {
  it('gives an impulse back once from each even line, to the left, at its length', () => {
    const n = made(0)
    const out = run(n, 9, impulse(n))
    const left = out.flatMap((b) => [...b].filter((_, i) => i % 2 === 0))
    const right = out.flatMap((b) => [...b].filter((_, i) => i % 2 === 1))
    const heard = left.flatMap((v, i) => (v !== 0 ? [i] : []))
    expect(heard).toEqual(lengths.filter((_, k) => k % 2 === 0))
    expect(heard.map((i) => left[i])).toEqual([1, -1, 1, -1, 1, -1, 1, -1])
    expect(right.every((v) => v === 0)).toBe(true)
  })

  it('loses nothing where its filters lose nothing', () => {
    const n = made(1)
    const x = noise(1, 9)
    run(n, 4, (b) => {
      n.left.set(x.subarray(b * FRAMES, (b + 1) * FRAMES))
      n.right.fill(0)
    })
    const energy = (blocks: number): number => {
      let sum = 0
      for (const block of run(n, blocks, () => {
        n.left.fill(0)
        n.right.fill(0)
      }))
        for (const v of block) sum += v * v
      return sum / blocks
    }
    const early = energy(200)
    const late = energy(200)
    expect(late / early).toBeGreaterThan(0.9)
    expect(late / early).toBeLessThan(1.1)
  })

  it('dies away as its filters say', () => {
    const n = made(0.5)
    const out = run(n, 80, impulse(n))
    const power = (block: Float64Array): number => block.reduce((s, v) => s + v * v, 0)
    const part = (from: number): number => out.slice(from, from + 10).reduce((s, b) => s + power(b), 0)
    // some 570 samples a round: 6 dB less each time
    expect(part(50) / part(10)).toBeLessThan(1e-4)
    expect(part(50)).toBeGreaterThan(0)
  })

  it('reads a moving place that stands on a whole sample as it reads a still one', () => {
    const a = made(0.7),
      b = made(0.7)
    const still = run(a, 40, impulse(a))
    const moving = run(b, 40, impulse(b), false)
    still.forEach((block, i) => {
      block.forEach((v, k) => {
        expect(moving[i]?.[k]).toBeCloseTo(v, 6)
      })
    })
  })

  it('forgets all at a reset', () => {
    const n = made(0.9)
    const first = run(n, 20, impulse(n))
    n.reset()
    expect(run(n, 20, impulse(n))).toEqual(first)
  })
})
