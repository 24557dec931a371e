import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import type { SourceDefinition } from '@oleaje/core/contract/source'
import { octavesOf } from '@oleaje/core/dsp/octaves'
import { plainWaves } from '@oleaje/core/dsp/plain-wave'
import { playedSource } from '@oleaje/core/sources/played'
import { RATE, db, noise, peak, rms, sine, sourceRig, spectrumDb, toneAt } from './rig'

const plain = { attack: 0, release: 0, toLevel: 0, level: 0 }
const rigOf = (values: Record<string, number>, channels: Float32Array[] | null = null) =>
  sourceRig(playedSource as unknown as SourceDefinition, { ...plain, ...values }, { channels })
/**
 * Frequency of what crosses zero upwards between its first and its last crossing, and the middle of these in
 * samples.
 */
function pitchIn(x: Float32Array): { hz: number; middle: number } {
  const ups: number[] = []
  for (let i = 1; i < x.length; i++)
    if (x[i - 1]! < 0 && x[i]! >= 0) ups.push(i - x[i]! / (x[i]! - x[i - 1]!))
  const [first, last] = [ups[0]!, ups[ups.length - 1]!]
  return { hz: ((ups.length - 1) / (last - first)) * RATE, middle: (first + last) / 2 }
}
const pitchOf = (x: Float32Array): number => pitchIn(x).hz
const cents = (a: number, b: number): number => 1200 * Math.log2(a / b)
const hz = (note: number): number => 440 * 2 ** ((note - 69) / 12)

/** A loop of whole periods of a tone. */
const tone = (f: number, periods: number): Float32Array =>
  Float32Array.from(
    { length: Math.round((periods * RATE) / f) },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * periods * i) / Math.round((periods * RATE) / f)),
  )

describe('a sound across the keyboard', () => {
  it('plays as recorded on its root, bit for bit', () => {
    const x = noise(0.37)
    const rig = rigOf({ root: 53, loop: 0 }, [x])
    const { left } = rig.run(100, (b) => {
      if (b === 0) rig.note(53, 1)
    })
    // full level comes with the first frame of a note without attack
    for (let i = 0; i < 100 * BLOCK && i < x.length - 64; i++) expect(left[i]).toBe(x[i])
  })
  it.each([48, 61, 67.5, 79, 96, 108])('is in tune at note %d from root 60', (note) => {
    const x = tone(311, 41)
    const rig = rigOf({ root: 60 }, [x])
    const { left } = rig.run(400, (b) => {
      if (b === 0) rig.note(note, 1)
    })
    expect(
      Math.abs(cents(pitchOf(left.subarray(2000)), ((RATE * 41) / x.length) * 2 ** ((note - 60) / 12))),
    ).toBeLessThan(0.1)
  })
  it('the note that has been held longest gives its place to a new one', () => {
    const rig = rigOf({ plays: 1, voices: 2, level: -12 })
    const { left } = rig.run(300, (b) => {
      for (const [k, note] of [60, 67, 75].entries()) if (b === 40 * k) rig.note(note, 1)
    })
    const end = left.subarray(150 * BLOCK, 150 * BLOCK + 16_384)
    expect(toneAt(end, hz(60)).amplitude).toBeLessThan(0.005)
    for (const note of [67, 75]) expect(toneAt(end, hz(note)).amplitude).toBeGreaterThan(0.05)
  })
  it('has no alias above −60 dB at any speed up to five octaves, and keeps what can be heard', () => {
    // a rich sound: 40 harmonics of equal height, looped
    const length = 4800
    const x = Float32Array.from({ length }, (_, i) => {
      let y = 0
      for (let k = 1; k <= 40; k++) y += Math.sin((2 * Math.PI * 11 * k * i) / length + k * k)
      return y / 40
    })
    for (const note of [55, 61, 66, 71, 72, 78, 83, 84.3, 96, 107, 120]) {
      const rig = rigOf({ root: 60 }, [x])
      const { left } = rig.run(640, (b) => {
        if (b === 0) rig.note(note, 1)
      })
      const size = 65_536
      const spectrum = spectrumDb(left.subarray(8000, 8000 + size))
      const f = 110 * 2 ** ((note - 60) / 12)
      let worst = -200
      spectrum.forEach((v, bin) => {
        const at = (bin * RATE) / size
        const k = at / f
        // lines of the tone, as wide as the window makes them, and what lies above them
        if (at > 40 && at < 20_000 && Math.abs(k - Math.round(k)) * f > 8 && v > worst) worst = v
      })
      const level = db(toneAt(left.subarray(8000, 8000 + size), f).amplitude) - db(1 / 40)
      expect(Math.abs(level), `fundamental at ${note}`).toBeLessThan(0.3)
      expect(worst - db(1 / 40), `aliases at ${note}`).toBeLessThan(-60)
    }
  })
  it('a glide of three seconds over five octaves is straight in pitch within 2 cents', () => {
    for (const values of [{ plays: 1 }, { plays: 0, root: 36 }] as Record<string, number>[]) {
      const x = tone(hz(36), 64)
      const root = (RATE * 64) / x.length
      const rig = rigOf({ ...values, voices: 1, glide: 3, glides: 1 }, values.plays === 0 ? [x] : null)
      const { left } = rig.run(1300, (b) => {
        if (b === 0) rig.note(36, 1)
        if (b === 75) rig.note(96, 1)
      })
      for (const t of [0.31, 0.9, 1.57, 2.2, 2.83]) {
        const at = Math.round(75 * BLOCK + t * RATE)
        const found = pitchIn(left.subarray(at - 1200, at + 1200))
        const expected =
          (values.plays === 0 ? root : hz(36)) *
          2 ** (((at - 1200 + found.middle - 75 * BLOCK) / RATE / 3) * 5)
        expect(Math.abs(cents(found.hz, expected)), `at ${t} s`).toBeLessThan(2)
      }
      expect(
        Math.abs(
          cents(pitchOf(left.subarray(left.length - 9600)), (values.plays === 0 ? root : hz(36)) * 32),
        ),
      ).toBeLessThan(0.2)
    }
  })
  it('a loop goes round without a seam, and a cross-fade makes one where there is none', () => {
    const x = tone(311, 41)
    const whole = rigOf({ root: 60 }, [x])
    const { left } = whole.run(600, (b) => {
      if (b === 0) whole.note(63, 1)
    })
    const jumps = (y: Float32Array): number =>
      y.reduce(
        (m, v, i) =>
          i < 200 || i > y.length - 200 ? m : Math.max(m, Math.abs(v - 2 * y[i - 1]! + y[i - 2]!)),
        0,
      )
    const smooth = 0.5 * ((2 * Math.PI * 311 * 2 ** 0.25) / RATE) ** 2
    expect(jumps(left)).toBeLessThan(smooth * 1.05)
    const rough = rigOf({ root: 60, end: 0.731, loopFrom: 0.2 }, [x])
    expect(
      jumps(
        rough.run(600, (b) => {
          if (b === 0) rough.note(63, 1)
        }).left,
      ),
    ).toBeGreaterThan(smooth * 5)
    const faded = rigOf({ root: 60, end: 0.731, loopFrom: 0.2, crossFade: 0.02 }, [x])
    expect(
      jumps(
        faded.run(600, (b) => {
          if (b === 0) faded.note(63, 1)
        }).left,
      ),
    ).toBeLessThan(smooth * 2)
  })
  it('copies of a sound for each octave are made once, and keep its level', () => {
    const audio = { sampleRate: RATE, channels: [sine(200, 1, 0.5)] }
    const { copies } = octavesOf(audio)
    expect(octavesOf(audio).copies).toBe(copies)
    expect(copies.length).toBe(8)
    for (const copy of copies.slice(0, 6))
      expect(
        Math.abs(db(rms(copy[0]!.subarray(600, copy[0]!.length - 600))) - db(0.5 / Math.SQRT2)),
      ).toBeLessThan(0.15)
  })
})

describe('waves', () => {
  it.each(plainWaves.map((name, i) => [name, i + 1] as const))(
    '%s is in tune and has no alias above −60 dB',
    (_name, plays) => {
      for (const note of [45, 69, 83, 97.3]) {
        const rig = rigOf({ plays })
        const { left } = rig.run(640, (b) => {
          if (b === 0) rig.note(note, 1)
        })
        const size = 65_536
        const part = left.subarray(4000, 4000 + size)
        const spectrum = spectrumDb(part)
        const f = hz(note)
        let worst = -200
        let top = -200
        spectrum.forEach((v, bin) => {
          const at = (bin * RATE) / size
          if (v > top) top = v
          const k = at / f
          if (at > 40 && at < 20_000 && Math.abs(k - Math.round(k)) * f > 8 && v > worst) worst = v
        })
        expect(worst - top, `at ${note}`).toBeLessThan(-60)
        expect(
          Math.abs(
            db(toneAt(part, f).amplitude) - db([1, 8 / Math.PI ** 2, 2 / Math.PI, 4 / Math.PI][plays - 1]!),
          ),
          `level at ${note}`,
        ).toBeLessThan(0.1)
      }
    },
  )
})

describe('voices', () => {
  it('never click when they are stolen, begun again or let go', () => {
    const rig = rigOf({ plays: 1, voices: 3, attack: 0.005, release: 0.01 })
    const { left } = rig.run(400, (b) => {
      if (b % 9 === 3) rig.note(40 + ((b * 7) % 20), 1, b % 120)
      if (b % 31 === 8) rig.note(40 + ((b * 3) % 20), 0, 7)
    })
    // at most four voices at once, and a step no steeper than their attack and cut allow
    let worst = 0
    for (let i = 1; i < left.length; i++) worst = Math.max(worst, Math.abs(left[i]! - left[i - 1]!))
    expect(worst).toBeLessThan(4 * ((2 * Math.PI * hz(60)) / RATE + 1 / (0.004 * RATE)))
  })
  it('one voice: the last key leads, goes back to the one still held, and goes on or begins anew', () => {
    const rig = rigOf({ plays: 1, voices: 1, overlap: 1 })
    const { left } = rig.run(300, (b) => {
      if (b === 0) rig.note(57, 1)
      if (b === 100) rig.note(64, 1)
      if (b === 200) rig.note(64, 0)
    })
    const part = (from: number): number => pitchOf(left.subarray(from * BLOCK, (from + 90) * BLOCK))
    expect(Math.abs(cents(part(5), hz(57)))).toBeLessThan(1)
    expect(Math.abs(cents(part(105), hz(64)))).toBeLessThan(1)
    expect(Math.abs(cents(part(205), hz(57)))).toBeLessThan(1)
    expect(rig.processor.readouts![0]).toBe(1)
  })
  it('sixteen notes sound at once, the seventeenth takes the oldest; 16 copies leave four', () => {
    const rig = rigOf({ plays: 3, voices: 16 })
    rig.run(60, (b) => {
      if (b < 20) rig.note(30 + b, 1)
    })
    expect(rig.processor.readouts![0]).toBe(16)
    const many = rigOf({ plays: 3, voices: 16, copies: 16 })
    many.run(60, (b) => {
      if (b < 20) many.note(30 + b, 1)
    })
    expect(many.processor.readouts![0]).toBe(4)
  })
  it('velocity moves level and start; bend moves the pitch; the envelope takes its times', () => {
    const levelAt = (velocity: number, toLevel: number): number => {
      const rig = rigOf({ plays: 1, toLevel })
      return peak(
        rig
          .run(40, (b) => {
            if (b === 0) rig.note(69, velocity)
          })
          .left.subarray(2000),
      )
    }
    expect(levelAt(0.5, 1)).toBeCloseTo(0.25, 2)
    expect(levelAt(0.5, 0)).toBeCloseTo(1, 2)
    const x = Float32Array.from({ length: 20_000 }, (_, i) => i / 20_000)
    const late = rigOf({ toStart: 0.5, loop: 0 }, [x])
    expect(late.run(1, () => late.note(60, 0.2)).left[5]).toBeCloseTo(0.4 + 5 / 20_000, 3)
    const bent = rigOf({ plays: 1, bendRange: 7 })
    const { left } = bent.run(200, (b) => {
      if (b === 0) bent.note(60, 1)
      bent.io.notes.bend.hold(1)
    })
    expect(Math.abs(cents(pitchOf(left), hz(67)))).toBeLessThan(1)
    const slow = rigOf({
      plays: 4,
      width: 0.5,
      attack: 0.1,
      decay: 0.2,
      sustain: 0.5,
      release: 0.3,
      curve: 0,
    })
    const y = slow.run(400, (b) => {
      if (b === 0) slow.note(40, 1)
      if (b === 200) slow.note(40, 0)
    }).left
    const level = (seconds: number): number =>
      peak(y.subarray(Math.round(seconds * RATE) - 300, Math.round(seconds * RATE) + 300))
    for (const [t, expected] of [
      [0.05, 0.5],
      [0.1, 1],
      [0.2, 0.75],
      [0.4, 0.5],
      [(200 * BLOCK) / RATE + 0.15, 0.25],
    ] as const)
      expect(Math.abs(level(t) / level(0.1) - expected), `${t} s`).toBeLessThan(0.06)
    expect(peak(y.subarray(Math.round(((200 * BLOCK) / RATE + 0.31) * RATE)))).toBe(0)
  })
})
