import { exp2Block, log2, poleFor } from './math'

/** Level in dBFS from which it ducks, and from which it ducks as far as is set. */
const FROM = -48
const FULL = -18
const ATTACK = 0.004

/**
 * Gain that steps back while something else sounds: in proportion to its level in dB between −48 and −18
 * dBFS.
 */
export class Ducker {
  private readonly envelope = new Float64Array(1)
  private readonly attack: number

  constructor(private readonly sampleRate: number) {
    this.attack = 1 - poleFor(ATTACK, sampleRate)
  }

  reset(): void {
    this.envelope.fill(0)
  }

  /** Works out the gains of a block. @param depths in dB @param release in seconds */
  process(
    left: Float32Array,
    right: Float32Array,
    depths: Float64Array,
    release: number,
    gains: Float64Array,
  ): void {
    const { attack, envelope } = this
    const fall = poleFor(release, this.sampleRate)
    let e = envelope[0]
    let level = 0
    for (let i = 0; i < gains.length; i++) {
      const x = Math.max(Math.abs(left[i]), Math.abs(right[i]))
      e = x > e ? e + attack * (x - e) : e * fall
      // its logarithm moves slowly: every eighth sample is enough, straight between
      if ((i & 7) === 0)
        level = Math.min(1, Math.max(0, (6.020599913279624 * log2(e + 1e-9) - FROM) / (FULL - FROM)))
      gains[i] = -depths[i] * level * 0.16609640474436813
    }
    for (let i = 0; i < gains.length; i += 8) {
      const to = i + 8 < gains.length ? gains[i + 8] : gains[i]
      for (let k = 1; k < 8; k++) gains[i + k] = gains[i] + ((to - gains[i]) * k) / 8
    }
    exp2Block(gains)
    envelope[0] = e > 1e-20 ? e : 0
  }
}
