import { kaiser, sinc } from '../dsp/sinc-table'

/** Zero crossings of the kernel on each side, and its window: images and aliases below −100 dB. */
const CROSSINGS = 32
const BETA = 10

/**
 * Converts sound to another sample rate by windowed sinc with its corner at the lower Nyquist
 * (Smith, Digital Audio Resampling, 1984). Offline; deterministic on every machine.
 */
export function resample(input: Float32Array, from: number, to: number): Float32Array<ArrayBuffer> {
  if (from === to) return new Float32Array(input)
  const out = new Float32Array(Math.max(1, Math.round((input.length * to) / from)))
  const corner = Math.min(1, to / from) * 0.96
  const half = CROSSINGS / corner
  // the ratio repeats after `phases` outputs, so the kernels are few
  const divisor = gcd(from, to)
  const phases = to / divisor
  const kernels = new Map<number, { first: number; weights: Float64Array }>()
  for (let i = 0; i < out.length; i++) {
    const place = (i * from) / to
    const whole = Math.floor(place)
    const phase = (i * (from / divisor)) % phases
    let kernel = kernels.get(phase)
    if (!kernel) {
      const first = Math.ceil(place - half) - whole
      const last = Math.floor(place + half) - whole
      const weights = new Float64Array(last - first + 1)
      let sum = 0
      for (let k = 0; k < weights.length; k++) {
        const x = first + k - phase / phases
        weights[k] = sinc(x * corner) * kaiser(x / half, BETA)
        sum += weights[k] as number
      }
      for (let k = 0; k < weights.length; k++) weights[k] = (weights[k] as number) / sum
      kernel = { first, weights }
      kernels.set(phase, kernel)
    }
    let y = 0
    const base = whole + kernel.first
    for (let k = 0; k < kernel.weights.length; k++) {
      const j = base + k
      if (j >= 0 && j < input.length) y += (kernel.weights[k] as number) * (input[j] as number)
    }
    out[i] = y
  }
  return out
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))
