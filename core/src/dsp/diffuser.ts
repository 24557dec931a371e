/** Lengths of the four delays in seconds: none a multiple of another. */
const SECONDS = [0.00213, 0.00347, 0.00561, 0.00908]

/** Four all-passes, one within the delay of the next, as a lattice (Gardner, "A realtime multichannel room simulator", 1992). One channel. */
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

  /** One sample on. @param g amount, −1…1 */
  next(x: number, g: number): number {
    const [a, b, c, d] = this.rings
    const { heads } = this
    // down the lattice with what each delay holds, and up again with what goes into it
    const pastD = d[heads[3]], pastC = c[heads[2]], pastB = b[heads[1]], pastA = a[heads[0]]
    const f3 = x - g * pastD
    const f2 = f3 - g * pastC
    const f1 = f2 - g * pastB
    const f0 = f1 - g * pastA
    d[heads[3]] = pastC + g * f2
    c[heads[2]] = pastB + g * f1
    b[heads[1]] = pastA + g * f0
    a[heads[0]] = f0 > 1e-20 || f0 < -1e-20 ? f0 : 0
    for (let k = 0; k < 4; k++) if (++heads[k] === this.rings[k].length) heads[k] = 0
    return pastD + g * f3
  }
}
