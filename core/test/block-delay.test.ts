import { describe, expect, it } from 'vitest'
import { BlockDelay } from '@oleaje/core/dsp/block-delay'

const BLOCK = 128

describe('a delay of whole blocks', () => {
  it.each([1, 37, 127, 128, 129, 311])('of %i samples gives what went in so many later', (delay) => {
    const line = new BlockDelay(delay)
    const out = new Float32Array(BLOCK)
    const heard: number[] = []
    for (let b = 0; b < 5; b++) {
      line.process(
        Float32Array.from({ length: BLOCK }, (_, i) => b * BLOCK + i + 1),
        out,
        BLOCK,
      )
      heard.push(...out)
    }
    expect(heard).toEqual(Array.from({ length: 5 * BLOCK }, (_, i) => Math.max(0, i + 1 - delay)))
  })
  it.each([1, 37, 128, 311])('of %i samples gives the block that it was primed with, last', (delay) => {
    const past = Float32Array.from({ length: BLOCK }, (_, i) => Math.sin(0.37 * i) + 2)
    const line = new BlockDelay(delay)
    line.primeFrom(past)
    const out = new Float32Array(BLOCK)
    const heard: number[] = []
    for (let b = 0; b < 4; b++) {
      line.process(new Float32Array(BLOCK), out, BLOCK)
      heard.push(...out)
    }
    const known = Math.min(delay, BLOCK)
    expect(heard.slice(delay - known, delay)).toEqual([...past.slice(BLOCK - known)])
  })
})
