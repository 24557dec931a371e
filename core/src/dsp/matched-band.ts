import { cosCycles, exp, exp2, sinCycles, tanPi, toDb } from './math'

export const bandKinds = [
  'bell',
  'low shelf',
  'high shelf',
  'low cut',
  'high cut',
  'notch',
  'band-pass',
  'all-pass',
] as const

/**
 * Numbers of one design: g and 1/Q of a state-variable filter and the weights of its input, band and low
 * outputs.
 */
export const BAND_NUMBERS = 5

/** Squared sines of half the two places high up that are matched. */
const FAR_SINE = sinCycles(0.18) * sinCycles(0.18)
const FARTHER_SINE = sinCycles(0.225) * sinCycles(0.225)

/**
 * Numbers of a prototype; what it was worked out for: kind, Q and gain; and what follows from it whatever its
 * frequency: pole frequency and damping, squared magnitude on the band, magnitude at 0 Hz, and how far the
 * poles turn.
 */
export const PROTOTYPE_NUMBERS = 14

const scratch = new Float64Array(PROTOTYPE_NUMBERS).fill(NaN)

/**
 * The analogue prototype at ω₀ = 1: numerator n2, n1, n0 and denominator d2, d1, d0. Gain in dB for those
 * that have one.
 */
function prototype(kind: number, q: number, gainDb: number, out: Float64Array): void {
  const a = exp2(gainDb * 0.08304820237218406)
  const w = 1 / q
  const r = Math.sqrt(a) * w
  out[0] = out[1] = out[2] = 0
  out[6] = kind
  out[7] = q
  out[8] = gainDb
  out[3] = 1
  out[4] = w
  out[5] = 1
  switch (kind) {
    case 0:
      out[0] = out[2] = 1
      out[1] = a * w
      out[4] = w / a
      break
    case 1:
      out[0] = a
      out[1] = a * r
      out[2] = a * a
      out[3] = a
      out[4] = r
      break
    case 2:
      out[0] = a * a
      out[1] = a * r
      out[2] = a
      out[4] = r
      out[5] = a
      break
    case 3:
      out[0] = 1
      break
    case 4:
      out[2] = 1
      break
    case 5:
      out[0] = out[2] = 1
      break
    case 6:
      out[1] = w
      break
    default:
      out[0] = out[2] = 1
      out[1] = -w
  }
  out[9] = Math.sqrt(out[5] / out[3])
  out[10] = out[4] / out[3] / (2 * out[9])
  // s = j at the band's own frequency, and s = 0 at 0 Hz
  out[11] =
    ((out[2] - out[0]) * (out[2] - out[0]) + out[1] * out[1]) /
    ((out[5] - out[3]) * (out[5] - out[3]) + out[4] * out[4])
  out[12] = out[2] / out[5]
  const rest = 1 - out[10] * out[10]
  out[13] = Math.sqrt(rest > 0 ? rest : -rest)
}

/** Squared magnitude of an analogue prototype whose ω₀ is at `share`, at `place`. */
function power(p: Float64Array, place: number, share: number): number {
  const a = share * share,
    b = place * place,
    c = place * share
  const nr = p[2] * a - p[0] * b,
    ni = p[1] * c
  const dr = p[5] * a - p[3] * b,
    di = p[4] * c
  return (nr * nr + ni * ni) / (dr * dr + di * di)
}

/** Magnitude in dB that the analogue band has at `hz`: what the digital one is held to. */
export function analogueBand(kind: number, frequency: number, q: number, gainDb: number, hz: number): number {
  prototype(kind, q, gainDb, scratch)
  return toDb(power(scratch, hz, frequency) + 1e-30) / 2
}

/**
 * One EQ band matched to its analogue prototype up to Nyquist: poles by impulse invariance, zeros so that the
 * magnitude is that of the prototype at 0 Hz, at the band's frequency and high up (Vicanek, "Matched second
 * order digital filters", 2016, with the three points taken from the prototype for every kind). The biquad is
 * written as a trapezoidal state-variable filter with output weights, which stays stable while its numbers
 * move. All-pass: bilinear.
 * @param f frequency as a share of the sample rate @param out {@link BAND_NUMBERS} numbers from `at` on
 * @param p prototype of this band, kept from one design to the next: while only its frequency moves it stays
 *   the same
 */
export function designBand(
  kind: number,
  f: number,
  q: number,
  gainDb: number,
  out: Float64Array,
  at: number,
  p: Float64Array = scratch,
): void {
  const share = f > 0.46 ? 0.46 : f
  if (kind === 7) {
    out[at] = tanPi(share)
    out[at + 1] = 1 / q
    out[at + 2] = 1
    out[at + 3] = -2 / q
    out[at + 4] = 0
    return
  }
  // a cut is a boost upside down, so both are matched equally well
  const upside = kind < 3 && gainDb < 0
  const height = upside ? -gainDb : gainDb
  if (p[6] !== kind || p[7] !== q || p[8] !== height) prototype(kind, q, height, p)
  const damping = p[10]
  // the pole frequency in radians a sample; one above Nyquist stays below it
  let wp = 6.283185307179586 * share * p[9]
  if (wp > 3) wp = 3
  const decay = exp(-damping * wp)
  let a1: number
  if (damping < 1) a1 = -2 * decay * cosCycles(p[13] * wp * 0.15915494309189535)
  else {
    const h = exp(p[13] * wp)
    a1 = -decay * (h + 1 / h)
  }
  const a2 = decay * decay
  const sum = 1 + a1 + a2
  const turn = 1 - a1 + a2
  const s = sinCycles(0.5 * share)
  const phi1 = s * s
  const phi0 = 1 - phi1
  const phi2 = 4 * phi0 * phi1
  const onBand = p[11]
  const sum2 = sum * sum
  const turn2 = turn * turn
  const atBand = (sum2 * phi0 + turn2 * phi1 - 4 * a2 * phi2) * onBand
  let b0: number
  let b1: number
  let b2: number
  if (kind === 3) {
    // both zeros at 0 Hz, the height that of the prototype at the corner
    b0 = b2 = Math.sqrt(atBand) / (4 * phi1)
    b1 = -2 * b0
  } else if (kind === 5) {
    tf[A1] = a1
    tf[A2] = a2
    tf[SHARE] = share
    notch(p)
    toFilter(out, at, false)
    return
  } else {
    const r0 = sum * p[12]
    const b0power = r0 * r0
    // a second place high up, away from the first; where that asks for the impossible, Nyquist
    const far = share > 0.3 && share < 0.42 ? 0.45 : 0.36
    const psi1 = far === 0.36 ? FAR_SINE : FARTHER_SINE
    const psi0 = 1 - psi1
    const psi2 = 4 * psi0 * psi1
    const atFar = (sum2 * psi0 + turn2 * psi1 - 4 * a2 * psi2) * power(p, far, share)
    // one quotient for both unknowns
    const det = psi1 * phi2 - phi1 * psi2
    const quotient = 1 / (det * phi2)
    let b1power = ((atFar - b0power * psi0) * phi2 - (atBand - b0power * phi0) * psi2) * phi2 * quotient
    if (!(b1power > 0)) b1power = turn2 * power(p, 0.5, share)
    const b2power = (atBand - b0power * phi0 - b1power * phi1) * det * quotient
    const r1 = Math.sqrt(b1power)
    const w = 0.5 * (r0 + r1)
    const inner = w * w + b2power
    b0 = 0.5 * (w + Math.sqrt(inner > 0 ? inner : 0))
    b1 = 0.5 * (r0 - r1)
    b2 = b0 !== 0 ? -b2power / (4 * b0) : 0
  }
  tf[B0] = b0
  tf[B1] = b1
  tf[B2] = b2
  tf[A1] = a1
  tf[A2] = a2
  toFilter(out, at, upside)
}

/**
 * A transfer function on its way to a filter, and what share of the rate it is designed for: as arguments
 * they would be boxed.
 */
const tf = new Float64Array(6)
const B0 = 0,
  B1 = 1,
  B2 = 2,
  A1 = 3,
  A2 = 4,
  SHARE = 5

/**
 * Zeros on the notch itself; poles so that the magnitude is that of the prototype at 0 Hz, where it has lost
 * half its power on the lower side, and high up: two equations for two of the denominator's three numbers.
 */
function notch(p: Float64Array): void {
  const share = tf[SHARE]
  const q = p[7]
  const s = sinCycles(0.5 * share)
  const phi1 = s * s
  const c = cosCycles(share)
  const low = (Math.sqrt(1 + 4 * q * q) - 1) / (2 * q)
  const up = share > 0.3 && share < 0.38 ? 0.4 : 0.34
  const s1 = sinCycles(0.5 * share * low)
  const s2 = sinCycles(0.5 * up)
  const psi1 = s1 * s1
  const chi1 = s2 * s2
  const atZero = phi1 * phi1
  const e = ((psi1 - phi1) * (psi1 - phi1)) / power(p, low, 1) - atZero * (1 - psi1)
  const h = ((chi1 - phi1) * (chi1 - phi1)) / power(p, up, share) - atZero * (1 - chi1)
  const psi2 = 4 * psi1 * (1 - psi1)
  const chi2 = 4 * chi1 * (1 - chi1)
  const det = psi1 * chi2 - psi2 * chi1
  const atNyquist = (e * chi2 - psi2 * h) / det
  const r0 = Math.sqrt(atZero)
  const r1 = Math.sqrt(atNyquist > 0 ? atNyquist : 0)
  const w = 0.5 * (r0 + r1)
  const inner = w * w + (psi1 * h - e * chi1) / det
  if (inner > 0) {
    const a0 = 0.5 * (w + Math.sqrt(inner))
    tf[A1] = (0.5 * (r0 - r1)) / a0
    tf[A2] = (w - a0) / a0
    tf[B0] = tf[B2] = 0.25 / a0
  } else tf[B0] = tf[B2] = (1 + tf[A1] + tf[A2]) / (2 - 2 * c)
  tf[B1] = -2 * c * tf[B0]
}

/** The same transfer function, or its inverse, as a state-variable filter. */
function toFilter(out: Float64Array, at: number, upside: boolean): void {
  let b0 = tf[B0]
  let b1 = tf[B1]
  let b2 = tf[B2]
  let a1 = tf[A1]
  let a2 = tf[A2]
  if (upside) {
    const c = 1 / b0
    const z1 = b1 * c
    const z2 = b2 * c
    b0 = c
    b1 = a1 * c
    b2 = a2 * c
    a1 = z1
    a2 = z2
  }
  const total = 1 + a1 + a2
  const half = 1 / (1 - a1 + a2)
  const g = Math.sqrt(total * half)
  const twice = (2 * half) / g
  const m0 = (b0 - b1 + b2) * half
  out[at] = g
  out[at + 1] = (1 - a2) * twice
  out[at + 2] = m0
  out[at + 3] = (b0 - b2 - m0 * (1 - a2)) * twice
  out[at + 4] = (b0 + b1 + b2) / total - m0
}
