import { randomAt } from './random'
import { sineOf } from './sines'

/**
 * The wave at a phase in cycles (any real; whole cycles select the random values), 0…1.
 * `width` is the high part of the square and the rising part of the triangle. A drawn shape is not among
 * these.
 */
export function lfoWave(shape: number, phase: number, width: number, seed: number): number {
  const cycle = Math.floor(phase)
  const x = phase - cycle
  switch (shape) {
    case 0:
      return 0.5 + 0.5 * sineOf(x)
    case 1: {
      // starts at the middle going up, like the sine
      const y = x + 0.5 * width - (x + 0.5 * width >= 1 ? 1 : 0)
      return y < width ? y / width : (1 - y) / (1 - width)
    }
    case 2:
      return x
    case 3:
      return 1 - x
    case 4:
      return x < width ? 1 : 0
    case 5:
      return randomAt(seed, cycle)
    default: {
      const a = randomAt(seed, cycle)
      const b = randomAt(seed, cycle + 1)
      return a + (b - a) * x * x * (3 - 2 * x)
    }
  }
}

/**
 * {@link lfoWave} of a block of phases, in place. `known` holds the last cycle, its random value and that of
 * the next.
 */
export function lfoWaveBlock(
  shape: number,
  x: Float64Array,
  widths: Float64Array,
  seed: number,
  known: Float64Array,
): void {
  if (shape < 5) {
    for (let i = 0; i < x.length; i++) x[i] -= Math.floor(x[i])
    if (shape === 0) for (let i = 0; i < x.length; i++) x[i] = 0.5 + 0.5 * sineOf(x[i])
    else if (shape === 1) {
      for (let i = 0; i < x.length; i++) {
        const width = widths[i]
        const y = x[i] + 0.5 * width - (x[i] + 0.5 * width >= 1 ? 1 : 0)
        x[i] = y < width ? y / width : (1 - y) / (1 - width)
      }
    } else if (shape === 3) for (let i = 0; i < x.length; i++) x[i] = 1 - x[i]
    else if (shape === 4) for (let i = 0; i < x.length; i++) x[i] = x[i] < widths[i] ? 1 : 0
    return
  }
  // a stepped wave stays at the start of its way
  const smooth = shape === 5 ? 0 : 1
  let cycle = known[0],
    a = known[1],
    b = known[2]
  for (let i = 0; i < x.length; i++) {
    const at = Math.floor(x[i])
    if (at !== cycle) {
      cycle = at
      a = randomAt(seed, at)
      b = randomAt(seed, at + 1)
    }
    const t = smooth * (x[i] - at)
    x[i] = a + (b - a) * t * t * (3 - 2 * t)
  }
  known[0] = cycle
  known[1] = a
  known[2] = b
}
