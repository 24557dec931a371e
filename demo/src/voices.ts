import { cosCycles, exp, exp2, fromDb, poleFor, sinCycles, tanPi, tanh } from '@oleaje/core/dsp/math'
import { Random } from '@oleaje/core/dsp/random'

export const RATE = 48_000
export const TEMPO = 96
export const BEAT = 60 / TEMPO

/** Frequency of a note number, with 69 = A4 = 440 Hz. */
export const pitch = (note: number): number => 440 * exp2((note - 69) / 12)

/** A loop being written: sounds that pass its end ring on from its start, so it repeats without a declick. */
export class Tape {
  readonly left: Float64Array
  readonly right: Float64Array
  constructor(readonly beats: number) {
    const frames = Math.round(beats * BEAT * RATE)
    this.left = new Float64Array(frames)
    this.right = new Float64Array(frames)
  }

  /** Adds a mono sound at a beat, with level in dB and pan −1…1. */
  add(sound: Float64Array, beat: number, db = 0, pan = 0): void {
    const g = fromDb(db)
    const l = g * cosCycles((pan + 1) / 8)
    const r = g * sinCycles((pan + 1) / 8)
    const from = Math.round(beat * BEAT * RATE)
    const n = this.left.length
    for (let i = 0; i < sound.length; i++) {
      const at = (from + i) % n
      this.left[at] = (this.left[at] ?? 0) + (sound[i] ?? 0) * l
      this.right[at] = (this.right[at] ?? 0) + (sound[i] ?? 0) * r
    }
  }
}

const make = (seconds: number, f: (i: number, t: number) => number): Float64Array =>
  Float64Array.from({ length: Math.round(seconds * RATE) }, (_, i) => f(i, i / RATE))

/** State-variable filter for the synthesis: returns low, band and high of each sample. */
export function svf(): (x: number, hz: number, q: number) => { low: number; band: number; high: number } {
  let s1 = 0
  let s2 = 0
  return (x, hz, q) => {
    const g = tanPi(Math.min(0.45, hz / RATE))
    const k = 1 / q
    const v1 = (s1 + g * (x - s2)) / (1 + g * (g + k))
    const v2 = s2 + g * v1
    s1 = 2 * v1 - s1
    s2 = 2 * v2 - s2
    return { low: v2, band: k * v1, high: x - k * v1 - v2 }
  }
}

/** Bass drum: a sine that falls from 170 to 47 Hz, a click, and a little saturation. */
export function kick(): Float64Array {
  let phase = 0
  const noise = new Random(11)
  return make(0.55, (_, t) => {
    phase += (47 + 125 * exp(-t * 34)) / RATE
    const body = sinCycles(phase) * exp(-t * 7.5)
    const click = noise.bipolar() * exp(-t * 600) * 0.35
    return tanh(1.6 * (body + click)) * 0.8 * Math.min(1, t * 3000)
  })
}

/** Snare: two modes of the skin and the rattle of the wires. */
export function snare(seed: number, bright = 1): Float64Array {
  const noise = new Random(seed)
  const f = svf()
  return make(0.34, (_, t) => {
    const skin =
      sinCycles(186 * t + 0.6 * (1 - exp(-t * 40))) * exp(-t * 22) * 0.6 +
      sinCycles(331 * t) * exp(-t * 30) * 0.3
    const wires = f(noise.bipolar(), 3600 * bright, 0.8).band * exp(-t * 15) * 0.95
    return tanh(1.4 * (skin + wires)) * 0.7 * Math.min(1, t * 4000)
  })
}

/** Metal: six inharmonic square waves and noise above a high-pass (hats, crash). */
export function metal(seed: number, decay: number, low: number, length: number): Float64Array {
  const noise = new Random(seed)
  const f = svf()
  const g = svf()
  const partials = [263, 400, 421, 474, 587, 845]
  return make(length, (_, t) => {
    let x = 0
    for (const p of partials) x += sinCycles(p * 4.1 * t) > 0 ? 1 : -1
    const y = g(f(x * 0.09 + noise.bipolar() * 0.5, low, 0.9).high, low, 0.7).high
    return y * exp(-t / decay) * 0.5 * Math.min(1, t * 2500)
  })
}

/**
 * A plucked string (Karplus & Strong 1983) with pick position, fractional tuning, and the resonances of a
 * body.
 */
export function pluck(note: number, seconds: number, seed: number, brightness = 0.5): Float64Array {
  const noise = new Random(seed)
  const period = RATE / pitch(note)
  const whole = Math.floor(period - 0.5)
  const tune = period - 0.5 - whole
  const c = (1 - tune) / (1 + tune)
  const line = new Float64Array(whole)
  const pick = Math.max(1, Math.floor(whole * 0.17))
  let smooth = 0
  for (let i = 0; i < whole; i++) {
    smooth += (0.25 + 0.7 * brightness) * (noise.bipolar() - smooth)
    line[i] = smooth
  }
  const excited = line.map((x, i) => x - (line[(i - pick + whole) % whole] ?? 0))
  line.set(excited)
  let at = 0
  let last = 0
  let allX = 0
  let allY = 0
  const loss = exp2((-10 * period) / RATE / (1.1 + (2.4 * 60) / note))
  const body = [
    [104, 4, 0.5],
    [212, 5, 0.55],
    [396, 4, 0.3],
    [2300, 1.5, 0.25],
  ].map(([hz, q, g]) => ({ f: svf(), hz: hz as number, q: q as number, g: g as number }))
  return make(seconds, (_, t) => {
    const x = line[at] ?? 0
    const y = loss * (0.5 + 0.08 * brightness) * x + loss * (0.5 - 0.08 * brightness) * last
    last = x
    const tuned = c * y + allX - c * allY
    allX = y
    allY = tuned
    line[at] = tuned
    at = at + 1 === whole ? 0 : at + 1
    let out = 0.6 * x
    for (const b of body) out += b.g * b.f(x, b.hz, b.q).band
    return out * Math.min(1, (seconds - t) * 60) * Math.min(1, t * 2000)
  })
}

/** Saw by adding up harmonics below `top` Hz: no aliases at all, at the speed of an offline script. */
function saw(phase: number, hz: number, top: number): number {
  let x = 0
  const n = Math.min(40, Math.floor(top / hz))
  // Chebyshev recurrence for sin(2πk·phase)
  const s = sinCycles(phase)
  const c2 = 2 * cosCycles(phase)
  let a = 0
  let b = s
  for (let k = 1; k <= n; k++) {
    x += b / k
    const next = c2 * b - a
    a = b
    b = next
  }
  return x * 0.6
}

/**
 * Pad voice: three detuned saws a note, a slow filter, and a breath of noise; `spread` gives the two sides.
 */
export function padNote(note: number, seconds: number, seed: number, side: number): Float64Array {
  const random = new Random(seed * 7 + side)
  const voices = [-0.09, 0.02, 0.08].map((d) => ({
    hz: pitch(note + d * (side ? 1.2 : 0.9)),
    phase: random.next(),
  }))
  const f = svf()
  const air = svf()
  return make(seconds, (_, t) => {
    let x = 0
    for (const v of voices) {
      v.phase += v.hz / RATE
      v.phase -= Math.floor(v.phase)
      x += saw(v.phase, v.hz, 9000)
    }
    const swell = Math.min(1, t / 0.7) * Math.min(1, (seconds - t) / 0.9)
    const breath = 0.5 + 0.5 * sinCycles(0.2 * t + seed * 0.13 + side * 0.1)
    const noise = air(random.bipolar(), 2600, 1.2).band * 0.05 * breath
    return (f(x * 0.22, 900 + 2600 * breath * swell, 0.8).low + noise) * swell * swell
  })
}

/** Bass: a sine an octave under a filtered saw, with a fast filter envelope. */
export function bassNote(note: number, seconds: number): Float64Array {
  const hz = pitch(note)
  const f = svf()
  let phase = 0
  return make(seconds, (_, t) => {
    phase += hz / RATE
    phase -= Math.floor(phase)
    const bright = 140 + 1500 * exp(-t * 7)
    const x = 0.75 * sinCycles(phase) + f(saw(phase, hz, 6000), bright, 1.6).low * 0.75
    return tanh(1.3 * x) * 0.7 * Math.min(1, t * 400) * Math.min(1, (seconds - t) * 40) * exp(-t * 0.7)
  })
}

/** Electric keys: a sine whose phase is moved by another, with a struck overtone. */
export function keysNote(note: number, seconds: number, velocity: number): Float64Array {
  const hz = pitch(note)
  return make(seconds, (_, t) => {
    const depth = 0.28 * velocity * exp(-t * 3.2) + 0.03
    const tine = sinCycles(hz * 14 * t) * exp(-t * 24) * 0.02 * velocity
    const x = sinCycles(hz * t + depth * sinCycles(hz * t)) * exp(-t * 1.5)
    return (x + tine) * velocity * Math.min(1, t * 900) * Math.min(1, (seconds - t) * 30)
  })
}

/** Foghorn: a deep reed through three moving resonances, swelling and bending down at its end. */
export function foghorn(note: number, seconds: number): Float64Array {
  const formants = [svf(), svf(), svf()]
  const noise = new Random(77)
  let phase = 0
  const vibrato = poleFor(0.3, RATE)
  return make(seconds, (_, t) => {
    const x = t / seconds
    const fall = x > 0.8 ? (x - 0.8) * 5 : 0
    phase +=
      pitch(note - 1.2 * fall + 0.12 * (1 - vibrato) * sinCycles(4.6 * t) + 0.06 * sinCycles(4.9 * t)) / RATE
    phase -= Math.floor(phase)
    const reed = saw(phase, pitch(note), 5000) + noise.bipolar() * 0.04
    const open = sinCycles(Math.min(0.5, x * 0.5)) // mouth opens and closes
    const [a, b, c] = formants as [ReturnType<typeof svf>, ReturnType<typeof svf>, ReturnType<typeof svf>]
    const y =
      a(reed, 280 + 330 * open, 6).band +
      0.7 * b(reed, 820 + 300 * open, 8).band +
      0.25 * c(reed, 2500, 9).band +
      0.2 * reed
    return tanh(1.2 * y) * Math.min(1, t * 5) * Math.min(1, (seconds - t) * 3.5)
  })
}

/** Gentle ceiling for a finished tape, and the level that puts its highest peak at `peakDb`. */
export function master(tape: Tape, peakDb: number): Float32Array[] {
  let peak = 0
  for (const c of [tape.left, tape.right]) for (const x of c) peak = Math.max(peak, Math.abs(x))
  const g = fromDb(peakDb) / peak
  return [tape.left, tape.right].map((c) => Float32Array.from(c, (x) => x * g))
}
