import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { newEffect } from '@oleaje/core/project/new'
import { play, projectOf } from '../project-rig'
import { RATE, db, noise, peak, rms, sine, spectrumDb } from '../rig'
import { centsOff, line, through } from './time-rig'

describe('Pitch', () => {
  it.each([
    [0, 82.41, 12],
    [0, 82.41, -12],
    [0, 311, 7.37],
    [0, 1046.5, -5],
    [0, 110, -24],
    [1, 82.41, 12],
    [1, 82.41, -12],
    [1, 311, 7.37],
    [1, 1046.5, 12],
    [1, 196, -24],
  ])('quality %i: %d Hz by %d st is right within a cent by phase over a second', (quality, hz, st) => {
    const { left } = through(sine(hz, 2.2, 0.4), [newEffect('pitch', { quality, pitch: st }, 'p')], 2.1)
    expect(Math.abs(centsOff(left, hz * 2 ** (st / 12), RATE / 2, 1))).toBeLessThan(1)
  })
  it('quick: mean latency is at most 25 ms, and an onset keeps its rise and comes once', () => {
    for (const st of [12, -12, 7]) {
      const ratio = 2 ** (st / 12)
      // a drum: noise that rises within 3 ms and falls
      const hit = noise(0.5, 5, 0.8).map((v, i) => v * Math.min(1, i / 144) * Math.exp(-i / 2400))
      const x = new Float32Array(RATE)
      const at = Math.round(0.31 * RATE)
      x.set(hit.subarray(0, RATE - at), at)
      const { left } = through(x, [newEffect('pitch', { pitch: st }, 'p')], 1)
      const rise = (y: Float32Array): { from: number; rise: number } => {
        const envelope = y.map((_, i) => rms(y.subarray(Math.max(0, i - 48), i + 48)))
        const most = peak(envelope)
        const low = envelope.findIndex((v) => v > 0.1 * most)
        return { from: low, rise: envelope.findIndex((v) => v > 0.9 * most) - low }
      }
      const inEnd = rise(x.subarray(at - 2000, at + 6000)),
        outEnd = rise(left.subarray(at - 2000, at + 6000))
      expect(outEnd.from - inEnd.from, `latency at ${st}`).toBeLessThan(0.041 * RATE)
      expect(outEnd.rise, `rise at ${st}`).toBeLessThan(1.2 * Math.max(inEnd.rise / ratio, inEnd.rise) + 48)
      // nothing of it is heard before
      expect(db(peak(left.subarray(0, at - 48)))).toBeLessThan(-60)
    }
  })
  it.each([-24, -12, -5, -1, -0.3, 0, 0.3, 1, 5, 7, 12, 24])(
    'quick: drums shifted by %d st are heard within 6 ms of the latency that is declared',
    (st) => {
      const seconds = 3.1
      const x = new Float32Array(Math.round((seconds + 0.2) * RATE))
      const grit = noise(0.5, 5, 0.5)
      const ats = Array.from({ length: 11 }, (_, k) =>
        Math.round((0.31 + 0.237 * k + 0.011 * (k % 3)) * RATE),
      )
      for (const [k, at] of ats.entries())
        for (let i = 0; i < 9000 && at + i < x.length; i++)
          x[at + i]! +=
            (grit[i + 977 * k]! * Math.exp(-i / 400) +
              0.6 * Math.sin((2 * Math.PI * 183 * i) / RATE) * Math.exp(-i / 2800)) *
            Math.min(1, i / 48)
      const { left } = through(x, [newEffect('pitch', { pitch: st }, 'p')], seconds)
      const rises = (y: Float32Array): number[] =>
        ats.map((at) => {
          const part = y.subarray(at - 480, at + 3800)
          const envelope = part.map((_, i) => peak(part.subarray(Math.max(0, i - 24), i + 24)))
          return envelope.findIndex((v) => v > 0.3 * peak(envelope))
        })
      const inAt = rises(x)
      const late = rises(left).map((v, k) => (1000 * (v - inAt[k]!)) / RATE)
      for (const ms of late)
        expect(Math.abs(ms - 20), late.map((v) => v.toFixed(1)).join(' ')).toBeLessThan(6)
    },
  )
  it.each([
    [12, 0],
    [-12, 0],
    [7, 0],
    [-5, 0],
  ])('quick: a drum shifted by %i st has no second onset above −20 dB', (st) => {
    const x = new Float32Array(RATE)
    const at = Math.round(0.31 * RATE)
    const hit = noise(0.6, 5, 0.5).map(
      (v, i) =>
        (v * Math.exp(-i / 400) + 0.6 * Math.sin((2 * Math.PI * 183 * i) / RATE) * Math.exp(-i / 3800)) *
        Math.min(1, i / 48),
    )
    x.set(hit.subarray(0, RATE - at), at)
    const { left } = through(x, [newEffect('pitch', { pitch: st }, 'p')], 1)
    // level over windows of a period of the drum's tone, a millisecond apart
    const window = Math.round(RATE / 183 / 2 ** (st / 12))
    const levels: number[] = []
    for (let i = at; i + window < RATE; i += 48) levels.push(rms(left.subarray(i, i + window)))
    const most = levels.reduce((best, v, i) => (v > levels[best]! ? i : best), 0)
    let least = levels[most]!
    let rise = 0
    for (const v of levels.slice(most + 12)) {
      least = Math.min(least, v)
      rise = Math.max(rise, v - least)
    }
    expect(db(rise / levels[most]!)).toBeLessThan(-20)
  })
  it('fine: formants stay within 5 % while a source of 100 Hz is shifted, and go with the pitch where they should', () => {
    /** A source of `hz`, swept by 20 % either way, through resonances at 700 and 1800 Hz. */
    const voice = (hz: number): Float32Array => {
      const x = new Float32Array(3 * RATE)
      let turns = 0
      for (let i = 0; i < x.length; i++) {
        const f0 = hz * (1 + 0.2 * Math.sin((2 * Math.PI * 0.7 * i) / RATE))
        turns += f0 / RATE
        for (let h = 1; h * f0 < 5000; h++) {
          const f = h * f0
          x[i]! +=
            0.06 *
            (1 / (1 + ((f - 700) / 90) ** 2) + 0.5 / (1 + ((f - 1800) / 120) ** 2) + 0.004) *
            Math.sin(2 * Math.PI * h * turns + h * h)
        }
      }
      return x
    }
    const formant = (y: Float32Array, from: number, to: number): number => {
      const n = 65_536
      const s = spectrumDb(y.subarray(RATE, RATE + n))
      let sum = 0
      let weight = 0
      for (let k = Math.round((from * n) / RATE); k < (to * n) / RATE; k++) {
        const e = 10 ** (s[k]! / 10)
        sum += (e * k * RATE) / n
        weight += e
      }
      return sum / weight
    }
    for (const st of [-12, -5, 7]) {
      const kept = through(
        voice(100),
        [newEffect('pitch', { quality: 1, pitch: st, formants: 1 }, 'p')],
        3,
      ).left
      expect(
        Math.abs(formant(kept, 450, 1000) / formant(voice(100), 450, 1000) - 1),
        `${st} kept`,
      ).toBeLessThan(0.05)
    }
    const along = through(
      voice(100),
      [newEffect('pitch', { quality: 1, pitch: 7, formants: 0 }, 'p')],
      3,
    ).left
    expect(formant(along, 800, 1400) / 1049).toBeCloseTo(1, 1)
  })
})

describe('Frequency shift', () => {
  it.each([
    [41, 100],
    [311, 41],
    [1000, -253],
    [5003, 1234],
    [12_011, 4999],
    [17_990, 3001],
    [61, -1000],
    [18_000, -5000],
  ])('%i Hz by %i Hz: image and folding below −60 dB', (hz, by) => {
    const { left } = through(sine(hz, 2, 0.5), [newEffect('frequency-shift', { shift: by }, 'f')], 2)
    const n = 65_536
    const s = spectrumDb(left.subarray(20_000, 20_000 + n))
    const wanted = line(s, hz + by, n)
    let rest = -300
    const k = Math.round((Math.abs(hz + by) * n) / RATE)
    for (let j = 2; j < n / 2; j++) if (Math.abs(j - k) > 8) rest = Math.max(rest, s[j]!)
    expect(rest - wanted).toBeLessThan(-60)
  })
  it('a spiral at 98 % of feedback stays bounded', () => {
    const { left } = through(
      noise(6, 3, 0.5),
      [newEffect('frequency-shift', { shift: 37, feedback: 0.98, time: 0.013 }, 'f')],
      6,
    )
    expect(peak(left)).toBeLessThan(20)
  })
})

describe('Wow', () => {
  /** Pitch of a tone over time in cents, by the times of every eighth rise through zero. */
  function pitchOf(x: Float32Array, hz: number): { at: number; cents: number; seconds: number }[] {
    const out: { at: number; cents: number; seconds: number }[] = []
    let last = NaN
    let count = 0
    for (let i = 1; i < x.length; i++) {
      if (!(x[i]! >= 0 && x[i - 1]! < 0) || count++ % 8 !== 0) continue
      const t = (i - x[i]! / (x[i]! - x[i - 1]!)) / RATE
      if (!Number.isNaN(last))
        out.push({ at: (t + last) / 2, cents: 1200 * Math.log2(8 / (t - last) / hz), seconds: t - last })
      last = t
    }
    return out
  }
  it.each([
    [0.43, 0.55, 1],
    [0.31, 1.3, 0],
    [0.5, 0.31, 2],
    [0.17, 3.1, 0],
  ])('a wave of %d st at %d Hz is so deep, within a cent', (depth, rate, reach) => {
    const { left } = through(
      sine(2003, 9, 0.4),
      [newEffect('wow', { reach, depth, rate, irregular: 0, flutter: 0 }, 'w')],
      9,
    )
    const pitch = pitchOf(left.subarray(RATE), 2003)
    let a = 0
    let b = 0
    // over whole turns, as sums over part of one would not be of a sine alone
    const whole = pitch.filter((p) => p.at < Math.floor(8 * rate) / rate)
    for (const { at, cents } of whole) {
      a += (2 * cents * Math.sin(2 * Math.PI * rate * at)) / whole.length
      b += (2 * cents * Math.cos(2 * Math.PI * rate * at)) / whole.length
    }
    expect(Math.abs(Math.hypot(a, b) - 100 * depth)).toBeLessThan(0.5)
    for (const { at, cents } of whole)
      expect(
        Math.abs(cents - a * Math.sin(2 * Math.PI * rate * at) - b * Math.cos(2 * Math.PI * rate * at)),
      ).toBeLessThan(1)
  })
  it('irregular, it does not repeat: no peak of the autocorrelation beyond 2 s', () => {
    const seconds = process.env.OLEAJE_LONG ? 600 : 90
    const cents = new Float64Array(Math.floor((seconds * RATE) / BLOCK))
    play(
      projectOf(noise(1), [newEffect('wow', { irregular: 0.6, flutter: 0, depth: 0.3, rate: 0.55 }, 'w')]),
      seconds,
      {},
      (e, b) => {
        const step = (
          e as unknown as { plan: { steps: Map<string, { processor: { readouts: Float64Array } }> } }
        ).plan.steps.get('node:w')
        if (b < cents.length) cents[b] = step!.processor.readouts[0]!
      },
    )
    const every = Float64Array.from({ length: Math.floor(cents.length / 16) }, (_, i) => cents[16 * i]!)
    const energy = every.reduce((s, v) => s + v * v, 0)
    const perSecond = RATE / BLOCK / 16
    let most = 0
    for (let lag = Math.ceil(2 * perSecond); lag < every.length / 2; lag++) {
      let sum = 0
      for (let i = lag; i < every.length; i++) sum += every[i]! * every[i - lag]!
      most = Math.max(most, sum / energy)
    }
    expect(energy).toBeGreaterThan(0)
    expect(most).toBeLessThan(0.6)
  })
  it('jumps come back to rest', () => {
    const { left } = through(
      sine(997, 20, 0.4),
      [newEffect('wow', { depth: 0, flutter: 0, jumps: 20, jump: 0.4, back: 0.4 }, 'w')],
      20,
    )
    const pitch = pitchOf(left.subarray(RATE), 997)
    expect(Math.max(...pitch.map((p) => p.cents))).toBeGreaterThan(25)
    // no jump has left the sound elsewhere: what pitch has moved adds up to less than a millisecond
    const away = pitch.reduce((s, p) => s + (1 - 2 ** (p.cents / 1200)) * p.seconds, 0)
    expect(Math.abs(away)).toBeLessThan(0.001)
  })
})
