import { describe, expect, it } from 'vitest'
import { BLOCK, ParamBlock, type StereoBlock, stereoBlock } from '@oleaje/core/contract/block'
import { add, amplify, copy, mixDry } from '@oleaje/core/engine/mixing'

const block = (seed: number): StereoBlock => {
  const out = stereoBlock()
  for (let i = 0; i < BLOCK; i++) {
    out.left[i] = Math.sin(seed + i * 1.3)
    out.right[i] = Math.cos(seed * 2 + i * 0.7)
  }
  return out
}
/** Each frame of each side by a formula, in the numbers of a block. */
const by = (f: (side: 'left' | 'right', i: number) => number): StereoBlock => ({
  left: Float32Array.from({ length: BLOCK }, (_, i) => f('left', i)),
  right: Float32Array.from({ length: BLOCK }, (_, i) => f('right', i)),
})

describe('sums and mixes of whole blocks', () => {
  it('copy and add', () => {
    const sum = stereoBlock()
    copy(block(1), sum)
    add(block(2), sum)
    add(block(3), sum)
    const wanted = by((s, i) => Math.fround(block(1)[s][i]! + block(2)[s][i]!) + block(3)[s][i]!)
    expect(sum).toEqual(wanted)
  })
  it.each([
    [1, 1],
    [0.5, 1],
    [1, -0.25],
    [0, 2],
  ])('amplify by %f and %f', (left, right) => {
    const out = block(9)
    amplify(block(4), left, right, out)
    expect(out).toEqual(by((s, i) => block(4)[s][i]! * (s === 'left' ? left : right)))
    const same = block(4)
    amplify(same, left, right, same)
    expect(same).toEqual(out)
  })
  it.each([
    [0.3, 1, 1],
    [1, 0, 0],
    [0.7, 0.25, 0.25],
    [1, 0, 1],
    [0.6, 1, 0.2],
  ])('mix a wet share of %f on the way from %f to %f', (share, w0, w1) => {
    for (const moving of [false, true]) {
      const wet = new ParamBlock(share)
      if (moving) {
        for (let i = 0; i < BLOCK; i++) wet.buffer[i] = share * (1 - i / BLOCK)
        wet.move()
      }
      const out = block(5)
      mixDry(out, block(6), w0, w1, wet)
      const wanted = by(
        (s, i) =>
          block(6)[s][i]! +
          (block(5)[s][i]! - block(6)[s][i]!) *
            (w0 + ((w1 - w0) * (i + 1)) / BLOCK) *
            (moving ? share * (1 - i / BLOCK) : share),
      )
      for (const side of ['left', 'right'] as const)
        for (let i = 0; i < BLOCK; i++) expect(out[side][i]).toBeCloseTo(wanted[side][i]!, 6)
    }
  })
})
