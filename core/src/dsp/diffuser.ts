/** Lengths of the four delays in seconds: none a multiple of another. */
const SECONDS = [0.00213, 0.00347, 0.00561, 0.00908]

/** Gain of the all-passes at their most. */
const MOST = 0.7

/**
 * Four all-passes, one within the delay of the next, as a lattice (Gardner, "A realtime multichannel room
 * simulator", 1992). One channel.
 */
export class Diffuser {
  private readonly rings: readonly Float64Array[]
  private readonly heads = new Int32Array(SECONDS.length)
  /** Its mean delay in samples, whatever the amount. */
  readonly delay: number

  /** @param stretch of its lengths, so that two sides differ */
  constructor(sampleRate: number, stretch = 1) {
    this.rings = SECONDS.map((s) => new Float64Array(Math.round(s * stretch * sampleRate)))
    this.delay = this.rings.reduce((sum, r) => sum + r.length, 0)
  }

  reset(): void {
    for (const r of this.rings) r.fill(0)
    this.heads.fill(0)
  }

  /** Spreads samples `start` to `end` of a block. @param amounts of each, 0…1 */
  process(x: Float64Array, y: Float64Array, amounts: Float64Array, start: number, end: number): void {
    const [a, b, c, d] = this.rings
    const { heads } = this
    let h0 = heads[0],
      h1 = heads[1],
      h2 = heads[2],
      h3 = heads[3]
    for (let i = start; i < end; i++) {
      const g = MOST * amounts[i]
      // down the lattice with what each delay holds, and up again with what goes into it
      const pastD = d[h3],
        pastC = c[h2],
        pastB = b[h1],
        pastA = a[h0]
      const f3 = x[i] - g * pastD
      const f2 = f3 - g * pastC
      const f1 = f2 - g * pastB
      const f0 = f1 - g * pastA
      d[h3] = pastC + g * f2
      c[h2] = pastB + g * f1
      b[h1] = pastA + g * f0
      a[h0] = f0 > 1e-20 || f0 < -1e-20 ? f0 : 0
      if (++h0 === a.length) h0 = 0
      if (++h1 === b.length) h1 = 0
      if (++h2 === c.length) h2 = 0
      if (++h3 === d.length) h3 = 0
      y[i] = pastD + g * f3
    }
    heads[0] = h0
    heads[1] = h1
    heads[2] = h2
    heads[3] = h3
  }
}
