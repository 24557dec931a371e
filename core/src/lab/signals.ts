import type { Stereo } from '../contract/audio'
import { exp, fromDb, log, sinCycles } from '../dsp/math'
import { Random } from '../dsp/random'

/** The same signal on both sides. */
export function both(frames: number, at: (i: number) => number): Stereo {
  const signal = Float32Array.from({ length: frames }, (_, i) => at(i))
  return [signal, signal.slice()]
}

/** One sample of a height at the start. */
export const impulse = (frames: number, height: number): Stereo => both(frames, (i) => (i === 0 ? height : 0))

export const step = (frames: number, height: number): Stereo => both(frames, () => height)

/** Frequency of the first sine of a sweep in Hz: below what is heard. */
const LOWEST = 5

/**
 * A sine whose frequency rises evenly in octaves from 5 Hz to the highest that the rate has, then silence of
 * the same length (Farina, Simultaneous Measurement of Impulse Response and Distortion with a Swept-Sine
 * Technique, 2000).
 * @param frames of the sweep, half of what is given
 * @param level peak in dBFS
 */
export function sweep(frames: number, sampleRate: number, level: number, from = LOWEST): Stereo {
  const ratio = log((sampleRate * 0.499) / from)
  const scale = (from * frames) / sampleRate / ratio
  const height = fromDb(level)
  const fade = Math.round(sampleRate * 0.02)
  const out = Math.round(sampleRate * 0.001)
  return both(2 * frames, (i) => {
    if (i >= frames) return 0
    const ends = Math.min(1, i / fade, (frames - i) / out)
    const turns = scale * (exp((i / frames) * ratio) - 1)
    return height * ends * sinCycles(turns - Math.floor(turns))
  })
}

/** Frames over which a tone is measured: a whole number of its cycles. */
export const TONE_FRAMES = 16_384

/**
 * The nearest frequency in cycles over {@link TONE_FRAMES}. The number is odd, so that harmonics that are
 * folded at half the sample rate do not fall on others.
 */
export function cyclesNear(hz: number, sampleRate: number): number {
  const cycles = (hz * TONE_FRAMES) / sampleRate
  return Math.max(1, 2 * Math.round((cycles - 1) / 2) + 1)
}

/** Frequency in Hz of so many cycles. */
export const hertzOf = (cycles: number, sampleRate: number): number => (cycles * sampleRate) / TONE_FRAMES

/** Sines to be played together: cycles over {@link TONE_FRAMES}, and peak. */
export interface Tone {
  readonly cycles: number
  readonly height: number
}

/**
 * Tones one after the other, each for so many frames, with a fade of 5 ms at the start of the first. Phases
 * go on from the start of the signal, so that a step in level is a step in level only.
 */
export function tones(list: readonly (readonly Tone[])[], frames: number, sampleRate: number): Stereo {
  const fade = Math.round(sampleRate * 0.005)
  return both(list.length * frames, (i) => {
    let sum = 0
    for (const { cycles, height } of list[Math.floor(i / frames)] as readonly Tone[])
      sum += height * sinCycles(((i % TONE_FRAMES) * cycles) / TONE_FRAMES)
    return sum * Math.min(1, i / fade)
  })
}

/** Pink noise (−3 dB an octave, Kellet’s filter, 1999), the same on both sides, at an RMS level in dBFS. */
export function pinkNoise(frames: number, level: number, seed = 11): Stereo {
  const random = new Random(seed)
  const b = new Float64Array(7)
  const raw = new Float64Array(frames)
  let power = 0
  for (let i = 0; i < frames; i++) {
    const white = random.next() * 2 - 1
    b[0] = 0.99886 * b[0] + white * 0.0555179
    b[1] = 0.99332 * b[1] + white * 0.0750759
    b[2] = 0.969 * b[2] + white * 0.153852
    b[3] = 0.8665 * b[3] + white * 0.3104856
    b[4] = 0.55 * b[4] + white * 0.5329522
    b[5] = -0.7616 * b[5] - white * 0.016898
    raw[i] = b[0] + b[1] + b[2] + b[3] + b[4] + b[5] + b[6] + white * 0.5362
    b[6] = white * 0.115926
    power += raw[i] ** 2
  }
  const gain = fromDb(level) / Math.sqrt(power / Math.max(1, frames))
  return both(frames, (i) => raw[i] * gain)
}
