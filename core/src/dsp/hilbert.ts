import { cosCycles, exp2, log2, sinCycles, tanPi } from './math'

/** All-passes in both branches together. */
const COUNT = 12
/** Lower edge of the band in which the two outputs stand at a right angle, as a share of the sample rate. */
const EDGE = 38 / 48_000

/**
 * Coefficients of a half-band filter of two all-pass branches, elliptic (Valenzuela & Constantinides,
 * "Digital signal processing schemes for efficient interpolation and decimation", IEE Proc. 130, 1983).
 */
function design(): Float64Array {
  const k = tanPi(0.25 - EDGE / 2) ** 2
  const root = Math.sqrt(Math.sqrt(1 - k * k))
  const e = (0.5 * (1 - root)) / (1 + root)
  const e4 = e * e * e * e
  const q = e * (1 + e4 * (2 + e4 * (15 + 150 * e4)))
  const order = 2 * COUNT + 1
  const power = (n: number): number => exp2(n * log2(q))
  return Float64Array.from({ length: COUNT }, (_, index) => {
    const c = index + 1
    let top = 0
    let bottom = 0.5
    for (let i = 0, sign = 1; i < 12; i++, sign = -sign) {
      top += sign * power(i * (i + 1)) * sinCycles(((2 * i + 1) * c) / order / 2)
      if (i > 0) bottom += sign * power(i * i) * cosCycles((i * c) / order)
    }
    const w = ((top * power(0.25)) / bottom) ** 2
    const x = Math.sqrt((1 - w * k) * (1 - w / k)) / (1 + w)
    return (1 - x) / (1 + x)
  })
}

const coefficients = design()

/**
 * Two copies of a signal, of equal size and at a right angle to each other from 38 Hz to as much below half
 * the sample rate (at 48 kHz): the half-band filter's branches, turned by a quarter of the sample rate.
 * Stereo: four all-passes go along together, none of which
 * waits for another.
 */
export class HilbertPair {
  /** Of each all-pass of both sides: the last two inputs and outputs. */
  private readonly memory = new Float64Array(8 * COUNT)
  private readonly held = new Float64Array(2)

  reset(): void {
    this.memory.fill(0)
    this.held.fill(0)
  }

  /**
   * Turns samples `start` to `end` of both sides, in place, into one copy, and gives the other in the two
   * further arrays.
   */
  process(
    realL: Float64Array,
    realR: Float64Array,
    imagL: Float64Array,
    imagR: Float64Array,
    start: number,
    end: number,
  ): void {
    const { memory: m, held } = this
    for (let i = start; i < end; i++) {
      imagL[i] = held[0]
      imagR[i] = held[1]
      held[0] = realL[i]
      held[1] = realR[i]
    }
    for (let k = 0; k < COUNT; k += 2) {
      const a = coefficients[k],
        b = coefficients[k + 1]
      const o = 8 * k
      let x1 = m[o],
        x2 = m[o + 1],
        y1 = m[o + 2],
        y2 = m[o + 3],
        u1 = m[o + 4],
        u2 = m[o + 5],
        v1 = m[o + 6],
        v2 = m[o + 7]
      let p1 = m[o + 8],
        p2 = m[o + 9],
        q1 = m[o + 10],
        q2 = m[o + 11],
        r1 = m[o + 12],
        r2 = m[o + 13],
        s1 = m[o + 14],
        s2 = m[o + 15]
      // (a − z⁻²) / (1 − a z⁻²)
      for (let i = start; i < end; i++) {
        const x = realL[i],
          u = realR[i],
          p = imagL[i],
          r = imagR[i]
        const y = a * (x + y2) - x2
        const v = a * (u + v2) - u2
        const q = b * (p + q2) - p2
        const s = b * (r + s2) - r2
        x2 = x1
        x1 = x
        y2 = y1
        y1 = y
        u2 = u1
        u1 = u
        v2 = v1
        v1 = v
        p2 = p1
        p1 = p
        q2 = q1
        q1 = q
        r2 = r1
        r1 = r
        s2 = s1
        s1 = s
        realL[i] = y
        realR[i] = v
        imagL[i] = q
        imagR[i] = s
      }
      m[o] = x1
      m[o + 1] = x2
      m[o + 2] = y1
      m[o + 3] = y2
      m[o + 4] = u1
      m[o + 5] = u2
      m[o + 6] = v1
      m[o + 7] = v2
      m[o + 8] = p1
      m[o + 9] = p2
      m[o + 10] = q1
      m[o + 11] = q2
      m[o + 12] = r1
      m[o + 13] = r2
      m[o + 14] = s1
      m[o + 15] = s2
    }
    for (let k = 0; k < m.length; k++) if (m[k] < 1e-20 && m[k] > -1e-20) m[k] = 0
  }
}
