import { exp2 } from './math'
import { kaiser, sinc } from './sinc-table'

/** Zero crossings of the kernel on each side, at its widest bandwidth. */
const CROSSINGS = 16
/** Places between two samples that are tabulated at full bandwidth; in between, rows are mixed straight. */
const PHASES = 256
/** Kernels between one octave of speed and the next, and octaves. */
const BANDWIDTHS = 8
const OCTAVES = 5
/** Cut-off in cycles a sample, and the shape of the window: 86 dB from 0.515 on, level to 0.345. */
const CUTOFF = 0.43
const BETA = 8.6

/**
 * Weights that read between samples without what would alias at a speed. Row p reads p/phases of a sample
 * after the middle tap.
 */
export interface BandLimitedKernel {
  readonly taps: number
  readonly phases: number
  /** Rows 0 to `phases`, each of unit gain at rest. */
  readonly rows: Float64Array
}
const kernels: (BandLimitedKernel | undefined)[] = []
/** The kernels of the first octave as they are, tabulated finely, by bandwidth. */
const shapes: (Float64Array | undefined)[] = []

/** Samples that the widest kernel for a speed reaches to each side. */
export const reachFor = (speed: number): number => Math.ceil(CROSSINGS * exp2(indexFor(speed) / BANDWIDTHS))

/** Which kernel is narrow enough in bandwidth for a speed: each serves up to 2^(index/8). */
function indexFor(speed: number): number {
  let index = 0
  while (index < kernelSpeeds.length && speed > kernelSpeeds[index]) index++
  return index
}

/**
 * The kernel for reading up to {@link kernelSpeeds}[index] samples a sample, the last for all that is faster;
 * found by its index, as a number with a fraction that goes into a function may be boxed. One of a bandwidth
 * of 2^(−index/8) of the full one: a windowed sinc (Smith, Digital Audio Resampling, 1984). Those of one
 * octave and the next are the same shape, read at every second place.
 */
export function kernelAt(index: number): BandLimitedKernel {
  const known = kernels[index]
  if (known) return known
  const octave = Math.max(0, Math.ceil(index / BANDWIDTHS) - 1)
  const base = index - octave * BANDWIDTHS
  const half = Math.ceil(CROSSINGS * exp2(base / BANDWIDTHS))
  const shape = shapeOf(base, half)
  const taps = (2 * half) << octave
  const phases = PHASES >> octave
  const rows = new Float64Array((phases + 1) * taps)
  for (let p = 0; p <= phases; p++) {
    let sum = 0
    for (let k = 0; k < taps; k++) sum += rows[p * taps + k] = shape[(k + 1) * phases - p]
    for (let k = 0; k < taps; k++) rows[p * taps + k] /= sum
  }
  return (kernels[index] = { taps, phases, rows })
}

function shapeOf(base: number, half: number): Float64Array {
  const known = shapes[base]
  if (known) return known
  const narrow = exp2(-base / BANDWIDTHS)
  return (shapes[base] = Float64Array.from({ length: 2 * half * PHASES + 1 }, (_, j) => {
    const x = j / PHASES - half
    return sinc(2 * CUTOFF * narrow * x) * kaiser(x / half, BETA)
  }))
}

/** Has the kernels up to a speed ready: made where there is time, never in a block. */
export function prepareBandLimited(fastest: number): void {
  for (let i = 0; i <= indexFor(fastest); i++) kernelAt(i)
}

/** The highest speed for which each kernel is narrow enough. */
export const kernelSpeeds = Float64Array.from({ length: BANDWIDTHS * OCTAVES }, (_, i) =>
  exp2(i / BANDWIDTHS),
)
