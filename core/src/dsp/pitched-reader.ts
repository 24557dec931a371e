import { exp2 } from './math'
import { OCTAVE_GUARD, type Octaves } from './octaves'
import { kaiser, sinc } from './sinc-table'

/** Zero crossings of the kernel on each side, at its widest bandwidth. */
const CROSSINGS = 12
/** Places between two samples that are tabulated; in between, rows are mixed straight. */
const PHASES = 256
/** Kernels for speeds between one octave and the next. */
const BANDWIDTHS = 8
/** Cut-off in cycles a sample, and the shape of the window: 74 dB from 0.52 on, level to 0.34. */
const CUTOFF = 0.43
const BETA = 7.3

interface Kernel {
  readonly taps: number
  readonly rows: Float64Array
}
const kernels: (Kernel | undefined)[] = []

/**
 * One kernel of a bandwidth: 2^(−index/8) of the full one. Row p holds the weights that read p/256 of a sample after the middle tap
 * (windowed sinc; Smith, Digital Audio Resampling, 1984), each of unit gain at rest.
 */
function kernelOf(index: number): Kernel {
  const known = kernels[index]
  if (known) return known
  const narrow = exp2(-index / BANDWIDTHS)
  const half = Math.ceil(CROSSINGS / narrow)
  const taps = 2 * half
  const rows = new Float64Array((PHASES + 1) * taps)
  for (let p = 0; p <= PHASES; p++) {
    let sum = 0
    for (let k = 0; k < taps; k++) {
      const x = k - (half - 1) - p / PHASES
      sum += rows[p * taps + k] = sinc(2 * CUTOFF * narrow * x) * kaiser(x / half, BETA)
    }
    for (let k = 0; k < taps; k++) rows[p * taps + k] /= sum
  }
  return (kernels[index] = { taps, rows })
}

/** Has all kernels ready: made where there is time, never in a block. */
export function prepareReader(): void {
  for (let i = 0; i <= BANDWIDTHS; i++) kernelOf(i)
}

/**
 * Reads a sound between its samples at any speed without what would alias: from the copy of the octave below that speed, by a kernel
 * of the bandwidth that is left. Exact where speed is 1 and the place a whole one.
 * @param place in frames of the sound, from 0 to its length
 * @param into left and right
 */
export function readPitched(sound: Octaves, place: number, speed: number, into: Float64Array): void {
  let octave = 0
  let rest = speed
  while (rest >= 2 && octave + 1 < sound.copies.length) {
    rest *= 0.5
    octave++
  }
  const copy = sound.copies[octave]
  const at = place / (1 << octave)
  const n = Math.floor(at)
  const fraction = at - n
  const left = copy[0]
  const right = copy.length > 1 ? copy[1] : left
  if (speed === 1 && fraction === 0) {
    const i = n >= sound.frames ? n - sound.frames : n < 0 ? n + sound.frames : n
    into[0] = left[i]
    into[1] = right[i]
    return
  }
  let index = 0
  while (index < BANDWIDTHS && rest > steps[index]) index++
  const { taps, rows } = kernelOf(index)
  const phase = fraction * PHASES
  const p = Math.floor(phase)
  const t = phase - p
  const row = p * taps
  const next = row + taps
  let first = n - (taps >> 1) + 1
  let l = 0
  let r = 0
  if (octave > 0) first += OCTAVE_GUARD
  if (first >= 0 && first + taps <= left.length) {
    if (left === right) {
      for (let k = 0; k < taps; k++) l += (rows[row + k] + t * (rows[next + k] - rows[row + k])) * left[first + k]
      r = l
    } else {
      for (let k = 0; k < taps; k++) {
        const w = rows[row + k] + t * (rows[next + k] - rows[row + k])
        l += w * left[first + k]
        r += w * right[first + k]
      }
    }
  } else {
    const { length } = left
    for (let k = 0; k < taps; k++) {
      const w = rows[row + k] + t * (rows[next + k] - rows[row + k])
      const j = (first + k) % length
      const i = j < 0 ? j + length : j
      l += w * left[i]
      r += w * right[i]
    }
  }
  into[0] = l
  into[1] = r
}

/** The highest speed within an octave for which each kernel is narrow enough. */
const steps = Float64Array.from({ length: BANDWIDTHS }, (_, i) => exp2(i / BANDWIDTHS))
