import { Fft } from '@oleaje/core/dsp/fft'

/**
 * Sum of all aliases of a distorted sine, in dB below its fundamental. `signal` is steady, its fundamental on
 * a whole bin; what is no multiple of it is alias, or of `grid`, where more than harmonics is wanted. Counted
 * up to 20 kHz, which is what can be heard.
 */
export function aliasSum(signal: Float32Array, bin: number, sampleRate: number, grid = bin): number {
  const size = signal.length
  const re = Float64Array.from(signal)
  const im = new Float64Array(size)
  new Fft(size).forward(re, im)
  const power = (i: number): number => (re[i] ?? 0) ** 2 + (im[i] ?? 0) ** 2
  let sum = 0
  for (let i = 1; i < Math.min(size / 2, (20_000 / sampleRate) * size); i++)
    if (i % grid !== 0) sum += power(i)
  return 10 * Math.log10(sum / power(bin) + 1e-30)
}

export const ALIAS_SIZE = 16_384

/**
 * A bin whose multiples, folded at Nyquist, never fall on multiples again below 20 kHz: odd, so coprime with
 * the size.
 */
export const aliasBin = (hz: number, sampleRate: number): number => {
  const bin = Math.round((hz / sampleRate) * ALIAS_SIZE)
  return bin % 2 ? bin : bin + 1
}
