import { describe, expect, it } from 'vitest'
import { analogueBand, bandKinds } from '@oleaje/core/dsp/matched-band'
import { TruePeakMeter } from '@oleaje/core/dsp/true-peak'
import { fold, folder } from '@oleaje/core/effects/folder'
import { formantsAt } from '@oleaje/core/effects/vowel'
import { BLOCK } from '@oleaje/core/contract/block'
import { newBranch, newEffect, newSplit } from '@oleaje/core/project/new'
import { aliasBin, aliasSum, ALIAS_SIZE } from '../../bench/src/aliases'
import { play, projectOf } from './project-rig'
import { RATE, db, effectRig, noise, peak, rms, sine, spectrumDb, toneAt } from './rig'

/** Complex response at a frequency from an impulse response. */
const at = (h: Float32Array, hz: number): { db: number; phase: number } => {
  const t = toneAt(h, hz)
  return { db: db((t.amplitude * h.length) / 2), phase: t.phase }
}
function impulse(n = 32_768): Float32Array {
  const x = new Float32Array(n)
  x[0] = 1
  return x
}

describe('EQ', () => {
  const band = (b: Record<string, number>) => ({
    lanes: {
      bands: [{ on: 1, kind: 0, frequency: 1000, gain: 0, q: 1, slope: 0, place: 0, chosen: 0, ...b }],
    },
  })
  it.each(
    bandKinds
      .map((name, kind) => ({ name, kind }))
      .filter((b) => b.name !== 'all-pass' && b.name !== 'notch'),
  )('$name within 0.5 dB of the analogue curve up to 18 kHz', ({ kind }) => {
    for (const frequency of [60, 700, 4000, 11_000]) {
      for (const gain of kind < 3 ? [-12, 12] : [0]) {
        for (const q of kind === 1 || kind === 2
          ? [0.7071]
          : kind === 3 || kind === 4
            ? [0.7071]
            : [0.7, 4]) {
          const { left } = effectRig('eq', {}, band({ kind, frequency, gain, q })).run(impulse())
          for (const hz of [30, 100, 400, 900, 2500, 5000, 8000, 12_000, 15_000, 18_000]) {
            const theory = analogueBand(kind, frequency, q, gain, hz)
            if (theory < -40) continue
            expect(
              Math.abs(at(left, hz).db - theory),
              `${frequency} Hz, ${gain} dB, Q ${q}, at ${hz}`,
            ).toBeLessThan(0.5)
          }
        }
      }
    }
  })
  it('the notch is within 0.5 dB of the analogue curve up to 18 kHz, narrow or wide, and deep at its centre', () => {
    for (const frequency of [60, 700, 4000, 9000, 11_000, 15_000]) {
      for (const q of [0.5, 0.7, 4]) {
        const { left } = effectRig('eq', {}, band({ kind: 5, frequency, q })).run(impulse())
        for (const hz of [30, 400, 900, 2500, 5000, 8000, 15_000, 18_000].filter(
          (x) => Math.abs(x / frequency - 1) > 0.01,
        ))
          expect(
            Math.abs(at(left, hz).db - analogueBand(5, frequency, q, 0, hz)),
            `${frequency}, Q ${q}, at ${hz}`,
          ).toBeLessThan(0.5)
      }
    }
    expect(
      at(effectRig('eq', {}, band({ kind: 5, frequency: 1500, q: 0.7 })).run(impulse()).left, 1500).db,
    ).toBeLessThan(-60)
  })
  it('flat, it nulls against its input below −140 dB', () => {
    const x = noise(1)
    const { left } = effectRig('eq').run(x)
    expect(db(peak(left.slice(0, RATE).map((v, i) => v - x[i]!)))).toBeLessThan(-140)
  })
  it('amount goes from mirrored through flat to exaggerated', () => {
    const height = (amount: number): number =>
      at(effectRig('eq', { amount }, band({ gain: 8, q: 2 })).run(impulse()).left, 1000).db
    expect([-1, 0, 0.5, 1, 1.5].map((a) => Math.round(height(a) * 10) / 10)).toEqual([-8, 0, 4, 8, 12])
  })
  it('cuts reach 48 dB an octave; bands work on middle, sides, left or right; shift and gather move them', () => {
    const cut = effectRig('eq', {}, band({ kind: 3, frequency: 1000, slope: 3, q: 0.7071 })).run(
      impulse(),
    ).left
    expect(at(cut, 250).db - at(cut, 500).db).toBeLessThan(-46)
    const side = effectRig('eq', {}, band({ kind: 0, frequency: 1000, gain: 12, place: 2 })).run(
      sine(1000, 0.5, 0.1),
      sine(1000, 0.5, 0.1),
    )
    expect(db(rms(side.left.slice(9600)) / rms(sine(1000, 0.5, 0.1)))).toBeCloseTo(0, 1)
    const right = effectRig('eq', {}, band({ kind: 0, frequency: 1000, gain: 12, place: 4 })).run(
      sine(1000, 0.5, 0.1),
    )
    expect(db(rms(right.right.slice(9600)) / rms(right.left.slice(9600)))).toBeCloseTo(12, 0)
    const shifted = effectRig('eq', { shift: 1 }, band({ gain: 12, q: 4 })).run(impulse()).left
    expect(at(shifted, 2000).db).toBeCloseTo(12, 1)
    const gathered = effectRig('eq', { gather: 0, centre: 400 }, band({ gain: 12, q: 4 })).run(impulse()).left
    expect(at(gathered, 400).db).toBeCloseTo(12, 1)
  })
  it('travels from pose to pose along its strip, eased, and the poses are what is heard', () => {
    const poses = [
      [0, 200, 12],
      [0.5, 800, -6],
      [1, 3200, 10],
    ].map(([a, frequency, gain]) => ({ at: a, ease: 0, bands: [{ frequency, gain, q: 3 }] }))
    const height = (travel: number, hz: number): number =>
      at(effectRig('eq', { travel }, { ...band({}), data: { poses } }).run(impulse()).left, hz).db
    expect(height(0, 200)).toBeCloseTo(12, 1)
    expect(height(0.5, 800)).toBeCloseTo(-6, 1)
    expect(height(0.75, 1600)).toBeCloseTo(2, 1)
    expect(height(1, 3200)).toBeCloseTo(10, 1)
    expect(() =>
      effectRig('eq', {}, { ...band({}), data: { poses: ['no', { at: NaN, bands: [{}] }, null] } }).run(
        impulse(256),
      ),
    ).not.toThrow()
  })
})

describe('Vowel', () => {
  it.each([0, 3, 4, 7])('peaks lie within 1 %% of the formants: vowel %i', (k) => {
    const place = Float64Array.of(k / 9, 0, 0, 1)
    const wanted = new Float64Array(5)
    formantsAt(0, place, wanted)
    const { left } = effectRig('vowel', { position: k / 9, width: 0.5, lowCut: 20, highCut: 20_000 }).run(
      impulse(65_536),
    )
    for (const f of wanted.subarray(0, 3)) {
      let best = 0
      let height = -Infinity
      for (let hz = f * 0.97; hz < f * 1.03; hz *= 1.001) {
        const v = at(left, hz).db
        if (v > height) {
          height = v
          best = hz
        }
      }
      expect(Math.abs(best / f - 1)).toBeLessThan(0.01)
    }
  })
  it('is flat at no amount, but for its cuts', () => {
    const h = effectRig('vowel', { amount: 0, lowCut: 20, highCut: 20_000 }).run(impulse()).left
    for (const hz of [200, 1000, 4000]) expect(Math.abs(at(h, hz).db)).toBeLessThan(0.1)
  })
})

describe('All-pass sums', () => {
  const sum = (order: number, stages: number, polarity: number, level = 0): Float32Array => {
    const through = newBranch('through', level, 'a')
    through.nodes = [newEffect('all-pass', { order, stages, frequency: 1000, resonance: 2 }, 'ap')]
    through.params.polarity = polarity
    return play(
      projectOf(impulse(RATE), [newSplit([through, newBranch('dry', 0, 'b')], 's')]),
      0.7,
    ).left.slice(0, 32_768)
  }
  const w = (hz: number): number => Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * 1000) / RATE)
  it.each([100, 500, 1000, 3000, 9000])(
    'first order plus dry is a low-pass, minus dry a high-pass, within 0.01 dB at %i Hz',
    (hz) => {
      expect(Math.abs(at(sum(0, 1, 1), hz).db - db(2 / Math.hypot(1, w(hz))))).toBeLessThan(0.01)
      expect(Math.abs(at(sum(0, 1, -1), hz).db - db((2 * w(hz)) / Math.hypot(1, w(hz))))).toBeLessThan(0.01)
    },
  )
  it.each([200, 600, 1400, 4000])(
    'two first-order ones, or one of second order, give a notch and a bell at %i Hz',
    (hz) => {
      // second order: (1 ∓ allpass) → notch and band-pass of the same Q
      const x = w(hz)
      const bandPass = x / 2 / Math.hypot(1 - x * x, x / 2)
      expect(Math.abs(at(sum(1, 1, -1), hz).db - db(2 * bandPass))).toBeLessThan(0.01)
      expect(
        Math.abs(at(sum(1, 1, 1), hz).db - db((2 * Math.abs(1 - x * x)) / Math.hypot(1 - x * x, x / 2))),
      ).toBeLessThan(0.01)
      // two of first order are one of second order with a Q of one half
      expect(Math.abs(at(sum(0, 2, 1), hz).db - db((2 * Math.abs(1 - x * x)) / (1 + x * x)))).toBeLessThan(
        0.01,
      )
    },
  )
  it('a gain on it through zero makes a shelf up and down', () => {
    const shelf = (polarity: number): number => at(sum(0, 1, polarity), 30).db
    expect(shelf(0.5)).toBeCloseTo(db(1.5), 1)
    expect(shelf(0)).toBeCloseTo(0, 2)
    expect(shelf(-0.5)).toBeCloseTo(db(0.5), 1)
  })
})

/** Pitch of a ringing sound in Hz by the phase that its fundamental gains over a second. */
function pitch(x: Float32Array, near: number, from: number): number {
  const n = Math.round((Math.round(near * 0.1) / near) * RATE)
  const a = toneAt(x.slice(from, from + n), near)
  const gap = Math.round(RATE * 0.05)
  const b = toneAt(x.slice(from + gap, from + gap + n), near)
  let turn = (b.phase - a.phase) / (2 * Math.PI) - (near * gap) / RATE
  turn -= Math.round(turn)
  return near + turn / (gap / RATE)
}

describe('Comb and Resonators', () => {
  it.each([24, 36, 48, 60, 72, 84, 96])('is in tune within a cent: note %i', (note) => {
    const hz = 440 * 2 ** ((note - 69) / 12)
    for (const damping of note < 80 ? [20_000, 6000] : [20_000]) {
      const { left } = effectRig('comb', { frequency: hz, feedback: 0.9995, damping }).run(impulse(RATE))
      expect(Math.abs(1200 * Math.log2(pitch(left, hz, 960) / hz)), `damping ${damping}`).toBeLessThan(1)
    }
  })
  it('stays bounded at full feedback, whatever comes in', () => {
    for (const feedback of [1, -1])
      expect(
        peak(effectRig('comb', { feedback, frequency: 110, damping: 20_000 }).run(noise(4, 1, 1)).left),
      ).toBeLessThan(2)
  })
  it('strings decay in the time that is set', () => {
    const { left } = effectRig(
      'resonators',
      { decay: 1, damping: 20_000, spread: 0 },
      { lanes: { voices: [{ note: 57, gain: 1 }] } },
    ).run(impulse(2 * RATE))
    const level = (t: number): number =>
      db(toneAt(left.slice(Math.round(t * RATE), Math.round((t + 0.1) * RATE)), 220).amplitude)
    expect(level(0.2) - level(0.7)).toBeCloseTo(30, -0.5)
  })
})

describe('Vowel of an own list', () => {
  it('between two places a peak stands between their frequencies by octaves and between their heights by decibels', () => {
    const peaks = (frequency: number, height: number) => [{ frequency, level: height, width: 120 }]
    const data = {
      vowels: [
        { name: 'low', peaks: peaks(500, 4) },
        { name: 'high', peaks: peaks(2000, 20) },
      ],
    }
    const heightAt = (position: number, hz: number): number =>
      db(
        toneAt(
          effectRig('vowel', { mode: 2, position, lowCut: 20, highCut: 20_000 }, { data })
            .run(sine(hz, 0.5, 0.1))
            .left.slice(12_000, 24_000),
          hz,
        ).amplitude / 0.1,
      )
    const low = heightAt(0, 500)
    expect(heightAt(0.5, 1000) - low).toBeCloseTo(8, 0)
    expect(heightAt(0.75, 1414) - low).toBeCloseTo(12, 0)
    expect(heightAt(1, 2000) - low).toBeCloseTo(16, 0)
    expect(heightAt(0.5, 1000)).toBeGreaterThan(Math.max(heightAt(0.5, 900), heightAt(0.5, 1110)) + 1)
  })
})

describe('Folder', () => {
  it('a folded sine has the harmonics of theory within 0.5 dB up to the 15th', () => {
    const bin = aliasBin(300, RATE)
    const x = Float32Array.from({ length: ALIAS_SIZE * 3 }, (_, i) =>
      Math.sin((2 * Math.PI * i * bin) / ALIAS_SIZE),
    )
    const gainDb = 14
    const { left } = effectRig('folder', {
      gain: gainDb,
      upper: 0.6,
      lower: -0.6,
      folds: 4,
      makeup: 0,
      quality: 3,
    }).run(x)
    const n = 65_536
    const theory = Float32Array.from(
      { length: n },
      (_, i) => -0.6 + 1.2 * fold((Math.sin((2 * Math.PI * i) / n) * 10 ** (gainDb / 20) + 0.6) / 1.2, 4),
    )
    for (let h = 1; h <= 15; h += 2) {
      const wanted = toneAt(theory, h, n).amplitude
      if (db(wanted) < -50) continue
      const got = toneAt(left.slice(ALIAS_SIZE, 2 * ALIAS_SIZE), (h * bin * RATE) / ALIAS_SIZE).amplitude
      expect(Math.abs(db(got) - db(wanted)), `harmonic ${h}`).toBeLessThan(0.5)
    }
  })
  it.each([1200, 5000])(
    'a full-scale sine of %i Hz, folded at 18 dB, keeps aliases below −80 dB as it comes and below −100 dB at its best',
    (hz) => {
      const aliases = (quality: number): number => {
        const bin = aliasBin(hz, RATE)
        const x = Float32Array.from({ length: ALIAS_SIZE * 3 }, (_, i) =>
          Math.sin((2 * Math.PI * i * bin) / ALIAS_SIZE),
        )
        return aliasSum(
          effectRig('folder', { gain: 18, quality })
            .run(x)
            .left.slice(2 * ALIAS_SIZE),
          bin,
          RATE,
        )
      }
      expect(folder.params.quality.default).toBe(3)
      expect(aliases(3)).toBeLessThan(-80)
      expect(aliases(4)).toBeLessThan(-100)
      expect(aliases(0)).toBeGreaterThan(-30)
    },
  )
})

describe('dynamics', () => {
  it('the limiter never lets a true peak over its ceiling by more than 0.1 dB', () => {
    for (const [x, name] of [
      [noise(1, 1, 1), 'noise'],
      [
        sine(11_025, 1, 1).map((v, i) => (i % 5000 < 2500 ? v : v * 0.2)),
        'bursts near a quarter of the rate',
      ],
      [sine(60, 1, 1), 'low'],
    ] as const) {
      const { left } = effectRig('limiter', { gain: 12, ceiling: -1 }).run(x)
      const meter = new TruePeakMeter()
      for (let i = 0; i < left.length; i += BLOCK) meter.process(left.subarray(i, i + BLOCK))
      const worst = meter.peak
      expect(db(worst), name).toBeLessThan(-1 + 0.1)
      expect(db(worst), name).toBeGreaterThan(-3)
    }
  })
  it('the gate opens above its threshold and closes below it, in its times, as a level or as a low-pass', () => {
    const x = sine(500, 2, 0.2)
    for (let i = RATE; i < x.length; i++) x[i]! *= 0.005
    const { left } = effectRig('gate', {
      threshold: -24,
      range: -60,
      hold: 0,
      release: 0.1,
      attack: 0.001,
    }).run(x)
    expect(rms(left.slice(RATE / 2, RATE * 0.9)) / rms(x.slice(RATE / 2, RATE * 0.9))).toBeGreaterThan(0.99)
    expect(db(rms(left.slice(RATE * 1.8)) / rms(x.slice(RATE * 1.8)))).toBeLessThan(-55)
    const bright = sine(6000, 2, 0.2)
    for (let i = RATE; i < bright.length; i++) bright[i]! *= 0.005
    const dull = effectRig('gate', { how: 1, threshold: -24, release: 0.05 }).run(bright).left
    expect(db(rms(dull.slice(RATE * 1.8)) / rms(bright.slice(RATE * 1.8)))).toBeLessThan(-40)
    expect(rms(dull.slice(RATE / 2, RATE * 0.9)) / rms(bright.slice(RATE / 2, RATE * 0.9))).toBeGreaterThan(
      0.99,
    )
  })
  it('transient lifts beginnings and leaves what follows', () => {
    const x = new Float32Array(RATE).map((_, i) => 0.3 * Math.sin(i * 0.2) * (i > RATE / 2 ? 1 : 0.0))
    const { left } = effectRig('transient', { attack: 12, sustain: 0, length: 0.03 }).run(x)
    expect(
      rms(left.slice(RATE / 2 + 100, RATE / 2 + 600)) / rms(x.slice(RATE / 2 + 100, RATE / 2 + 600)),
    ).toBeGreaterThan(1.8)
    expect(rms(left.slice(RATE * 0.9)) / rms(x.slice(RATE * 0.9))).toBeCloseTo(1, 1)
  })
})

describe('the others', () => {
  it('ring gives sums and differences alone', () => {
    const s = spectrumDb(
      effectRig('ring', { frequency: 300, depth: 1 }).run(sine(1000, 1)).left.slice(0, 32_768),
    )
    const near = (hz: number): number =>
      Math.max(...[-1, 0, 1].map((d) => s[Math.round((hz / RATE) * 32_768) + d]!))
    expect(near(700)).toBeGreaterThan(-8)
    expect(near(1300)).toBeGreaterThan(-8)
    expect(near(1000)).toBeLessThan(-80)
  })
  it('stereo pans, widens, swaps and makes the lows mono', () => {
    const a = sine(1000, 0.2)
    const b = sine(1500, 0.2)
    const run = (v: Record<string, number>): { left: Float32Array; right: Float32Array } =>
      effectRig('stereo', v).run(a, b)
    expect(
      peak(
        run({})
          .left.slice(0, 9600)
          .map((v, i) => v - a[i]!),
      ),
    ).toBeLessThan(1e-6)
    expect(
      peak(
        run({ channels: 1 })
          .left.slice(0, 9600)
          .map((v, i) => v - b[i]!),
      ),
    ).toBeLessThan(1e-6)
    expect(peak(run({ pan: -1 }).right)).toBe(0)
    expect(peak(run({ width: 0 }).left.map((v, i) => v - run({ width: 0 }).right[i]!))).toBeLessThan(1e-7)
    const low = effectRig('stereo', { monoBelow: 300 }).run(sine(60, 1), new Float32Array(RATE))
    expect(rms(low.right.slice(RATE / 2)) / rms(low.left.slice(RATE / 2))).toBeGreaterThan(0.98)
  })
  it('tremolo swings as deep as it says, without a click from a square', () => {
    const { left } = effectRig('tremolo', { shape: 4, rate: 5, depth: 1, slew: 0.01 }).run(sine(400, 1))
    let worst = 0
    for (let i = 1; i < RATE; i++) worst = Math.max(worst, Math.abs(left[i]! - left[i - 1]!))
    expect(worst).toBeLessThan((2 * Math.PI * 400) / RATE + 1.1 / (0.01 * RATE))
    expect(peak(left.slice(Math.round(0.13 * RATE), Math.round(0.19 * RATE)))).toBeLessThan(0.001)
  })
  it('an EQ whose bands go straight through a block is designed once for it, and sounds as when designed more often', () => {
    const run = (unrest: number): Float32Array => {
      const r = effectRig(
        'eq',
        {},
        {
          lanes: {
            bands: [
              { frequency: 300, gain: 12, q: 4 },
              { kind: 4, slope: 2, frequency: 5000 },
            ],
          },
        },
      )
      return r.run(noise(1, 3, 0.3), undefined, (n) => {
        const [bell, cut] = r.params.lanes.bands!
        for (let i = 0; i < BLOCK; i++) {
          bell!.frequency!.buffer[i] = 300 * 2 ** Math.sin(((n + i) * 5 * 2 * Math.PI) / RATE)
          bell!.gain!.buffer[i] = 12 * Math.cos(((n + i) * 3 * 2 * Math.PI) / RATE)
          cut!.frequency!.buffer[i] = 5000 + 3000 * Math.sin(((n + i) * 4 * 2 * Math.PI) / RATE)
          // a Q that is moved to and fro asks for a design each stride
          bell!.q!.buffer[i] = 4 * (1 + (i & 16 ? unrest : -unrest))
          cut!.q!.buffer[i] = 0.707 * (1 + (i & 16 ? unrest : -unrest))
        }
        for (const b of [bell!.frequency!, bell!.gain!, bell!.q!, cut!.frequency!, cut!.q!]) b.move()
      }).left
    }
    const straight = run(0)
    const often = run(2.5e-4)
    expect(rms(straight.map((v, i) => v - often[i]!)) / rms(straight)).toBeLessThan(1e-3)
    expect(straight).not.toEqual(often)
  })
  it('an EQ of twelve moving bands costs no more memory than its lanes say, and stays bounded', () => {
    const r = effectRig(
      'eq',
      {},
      {
        lanes: {
          bands: Array.from({ length: 12 }, (_, i) => ({ frequency: 60 * 1.6 ** i, gain: 12, q: 6 })),
        },
      },
    )
    const out = r.run(noise(1), undefined, (n) => {
      for (const b of r.params.lanes.bands!) {
        for (let i = 0; i < BLOCK; i++)
          b.frequency!.buffer[i] = 60 * 200 ** (0.5 + 0.5 * Math.sin((n + i) * 0.02))
        b.frequency!.move()
      }
    })
    expect(peak(out.left)).toBeLessThan(16)
  })
})
