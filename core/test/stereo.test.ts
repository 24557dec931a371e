import { expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Crossover } from '@oleaje/core/dsp/crossover'
import { RATE, effectRig, noise } from './rig'

it('mono below a frequency is a fourth-order crossover whose low part both sides share', () => {
  const l = noise(0.3, 3),
    r = noise(0.3, 4)
  const y = effectRig('stereo', { monoBelow: 313 }).run(l, r)
  const low = new Crossover(),
    high = new Crossover()
  const corners = new Float64Array(BLOCK).fill(313)
  for (let at = 0; at + BLOCK <= l.length; at += BLOCK) {
    const piece = (x: Float32Array): Float32Array => x.slice(at, at + BLOCK)
    const lowL = piece(l),
      lowR = piece(r),
      highL = piece(l),
      highR = piece(r)
    low.process(lowL, lowR, 'low', corners, RATE)
    high.process(highL, highR, 'high', corners, RATE)
    for (let i = 0; i < BLOCK; i++) {
      const shared = 0.5 * (lowL[i]! + lowR[i]!)
      expect(Math.abs(y.left[at + i]! - highL[i]! - shared)).toBeLessThan(3e-6)
      expect(Math.abs(y.right[at + i]! - highR[i]! - shared)).toBeLessThan(3e-6)
    }
  }
})
