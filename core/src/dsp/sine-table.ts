import { sinCycles } from './math'

const SIZE = 4096
const table = Float64Array.from({ length: SIZE + 1 }, (_, i) => sinCycles(i / SIZE))

/**
 * sin(2πx), x in cycles, read from a table with straight lines between its 4096 points: error below 3e-7 (−130 dB).
 * For moving waves that are worked out at audio rate; where more digits count, `sinCycles`.
 */
export function sineOf(x: number): number {
  const at = (x - Math.floor(x)) * SIZE
  const i = at | 0
  return table[i] + (at - i) * (table[i + 1] - table[i])
}
