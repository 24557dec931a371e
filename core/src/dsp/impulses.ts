import { exp, exp2, sinCycles } from './math'
import { Random } from './random'

export interface Impulse {
  readonly left: Float32Array<ArrayBuffer>
  readonly right: Float32Array<ArrayBuffer>
}

/**
 * The responses that ship, in the order in which they are listed: places and things aboard, all of them made
 * up.
 */
export const impulseNames = [
  'cabin',
  'hold',
  'stairs',
  'plate',
  'spring',
  'speaker',
  'bottle',
  'swell',
] as const
export type ImpulseName = (typeof impulseNames)[number]

const made = new Map<string, Impulse>()

/**
 * Long work done a piece at a time: each `next` does about {@link PIECE} samples of it, and the last gives
 * what came of it.
 */
export type Pieces<T> = Generator<undefined, T>
export const PIECE = 2048

/** Does all that is left at once. */
export function finish<T>(pieces: Pieces<T>): T {
  for (;;) {
    const { done, value } = pieces.next()
    if (done) return value
  }
}

/**
 * One of the shipped responses at a sample rate, in Hz, a piece at a time. Worked out once, from fixed seeds.
 */
export function* impulsePieces(name: ImpulseName, sampleRate: number): Pieces<Impulse> {
  const key = `${name}/${sampleRate}`
  const known = made.get(key)
  if (known) return known
  const fresh = yield* makers[name](sampleRate)
  made.set(key, fresh)
  return fresh
}

/** The same at once. */
export const impulseNamed = (name: ImpulseName, sampleRate: number): Impulse =>
  finish(impulsePieces(name, sampleRate))

function* pair(
  sampleRate: number,
  seconds: number,
  side: (at: number, t: number, c: 0 | 1) => number,
): Pieces<Impulse> {
  const n = Math.round(seconds * sampleRate)
  const sides = [new Float32Array(n), new Float32Array(n)] as const
  for (const c of [0, 1] as const) {
    for (let i = 0; i < n; i++) {
      sides[c][i] = side(i, i / sampleRate, c)
      if (i % PIECE === PIECE - 1) yield
    }
  }
  return { left: sides[0], right: sides[1] }
}

/**
 * Noise that dies away in `decay` seconds (60 dB) and darkens from `bright` Hz on its way, behind its first
 * echoes.
 */
function room(
  sampleRate: number,
  decay: number,
  bright: number,
  echoes: readonly number[],
  seed: number,
): Pieces<Impulse> {
  const noises = [new Random(seed), new Random(seed + 1)]
  const low = [0, 0]
  return pair(sampleRate, decay * 1.1, (i, t, c) => {
    const corner = bright * exp2((-3 * t) / decay) + 200
    low[c] += (1 - exp((-6.283 * corner) / sampleRate)) * (noises[c].bipolar() - low[c])
    let y = low[c] * exp((-6.9 * t) / decay) * (t < 0.004 ? 0 : 1 - exp(-(t - 0.004) / 0.012))
    echoes.forEach((e, k) => {
      if (i === Math.round((e + 0.0007 * k * c) * sampleRate)) y += (k % 2 ? -0.6 : 0.8) / (1 + 0.5 * k)
    })
    return i === 0 ? 1 : y
  })
}

const makers: Readonly<Record<ImpulseName, (sampleRate: number) => Pieces<Impulse>>> = {
  cabin: (r) => room(r, 0.32, 6500, [0.0031, 0.0052, 0.0083, 0.0117], 11),
  hold: (r) => room(r, 2.6, 4200, [0.019, 0.031, 0.047, 0.062, 0.083], 23),
  // two walls that face each other: an echo that comes back evenly
  stairs: (r) => {
    const noises = [new Random(31), new Random(32)]
    return pair(r, 1.3, (i, t, c) => {
      const lap = (t / 0.0173) % 1
      return i === 0 ? 1 : noises[c].bipolar() * exp((-6.9 * t) / 1.1) * exp(-lap * 9) * 0.7
    })
  },
  // bending waves: high ones run ahead, and all is dense at once
  plate: (r) => {
    const noises = [new Random(41), new Random(42)]
    const high = [0, 0]
    return pair(r, 1.9, (_, t, c) => {
      const x = noises[c].bipolar()
      high[c] += 0.12 * (x - high[c])
      return (x - high[c] * exp(-t * 3)) * exp((-6.9 * t) / 1.7)
    })
  },
  // a row of falling chirps, each behind the last
  spring: (r) => {
    const lap = 0.041
    const noises = [new Random(51), new Random(52)]
    return pair(r, 1.6, (_, t, c) => {
      let y = 0
      for (let k = 0; k < 24; k++) {
        const s = t - (k + 0.5) * (lap + 0.0013 * c)
        if (s < 0 || s > 0.09) continue
        y +=
          (k % 2 ? -1 : 1) *
          exp(-0.16 * k) *
          sinCycles(3600 * (1 - exp(-s / 0.03)) * 0.03 + 420 * s) *
          (1 - exp(-s / 0.001)) *
          exp(-s / 0.018)
      }
      return y + noises[c].bipolar() * 0.02 * exp((-6.9 * t) / 1.2)
    })
  },
  // a small paper cone in a wooden box
  speaker: (r) =>
    pair(r, 0.03, (i, t, c) => {
      const ring = (hz: number, level: number, ms: number): number =>
        level * sinCycles(hz * t + 0.02 * c) * exp((-t * 1000) / ms)
      return (
        (i === 0 ? 0.5 : 0) +
        ring(115, 0.05, 6) +
        ring(420, 0.1, 2.2) +
        ring(1450, 0.22, 0.7) +
        ring(3100, 0.3, 0.35) -
        ring(5200, 0.15, 0.14)
      )
    }),
  bottle: (r) =>
    pair(
      r,
      0.5,
      (i, t, c) =>
        (i === 0 ? 0.4 : 0) +
        0.05 * sinCycles(187 * t) * exp(-t / 0.09) +
        0.025 * sinCycles(812 * t + 0.13 * c) * exp(-t / 0.03) +
        0.012 * sinCycles(2140 * t + 0.21 * c) * exp(-t / 0.012),
    ),
  // rises to its end
  swell: (r) => {
    const noises = [new Random(71), new Random(72)]
    const low = [0, 0]
    return pair(r, 1.4, (_, t, c) => {
      low[c] += 0.25 * (noises[c].bipolar() - low[c])
      const rise = t / 1.4
      return low[c] * rise * rise * rise * (rise > 0.98 ? (1 - rise) / 0.02 : 1)
    })
  },
}
