import { describe, expect, it } from 'vitest'
import { filterResponse } from '@oleaje/core/analysis/response'
import { compressorCurve } from '@oleaje/core/effects/compressor'
import { reverbDecayAt } from '@oleaje/core/effects/reverb'
import { BLOCK } from '@oleaje/core/contract/block'
import { insideAt } from '@oleaje/core/units/scale'
import { aliasBin, aliasSum, ALIAS_SIZE } from '../../bench/src/aliases'
import { RATE, db, effectRig, noise, peak, rms, sine, spectrumDb, toneAt } from './rig'

describe('Filter', () => {
  const settings = [0, 1, 2, 3, 0.5, 1.5, 2.5].flatMap((shape) => [0, 1].map((slope) => ({ shape, slope })))
  it.each(settings)(
    'magnitude within 0.05 dB of the closed form to 20 kHz: shape $shape, slope $slope',
    ({ shape, slope }) => {
      const values = { cutoff: 1300, resonance: 2, shape, slope, spread: 0, output: 0 }
      const impulse = new Float32Array(32_768)
      impulse[0] = 1
      const { left } = effectRig('filter', values).run(impulse)
      for (const hz of [30, 100, 400, 900, 1300, 1800, 4000, 9000, 15_000, 20_000]) {
        const theory = filterResponse(values, hz, RATE)
        if (theory.magnitude < 0.001) continue
        const measured = (toneAt(left, hz).amplitude * left.length) / 2
        expect(Math.abs(db(measured) - db(theory.magnitude))).toBeLessThan(0.05)
      }
    },
  )

  it('stays finite and bounded for a minute of full-range audio-rate modulation of cutoff and resonance', () => {
    const r = effectRig('filter', { slope: 1 })
    const { cutoff, resonance, shape } = r.params.byName as never as Record<
      string,
      { block: { buffer: Float64Array; move(): void }; spec: never }
    >
    const x = noise(1)
    let most = 0
    for (let second = 0; second < 60; second++) {
      const { left } = r.run(x, x, (at) => {
        for (let i = 0; i < BLOCK; i++) {
          const t = second * RATE + at + i
          cutoff!.block.buffer[i] = insideAt(cutoff!.spec, 0.5 + 0.5 * Math.sin(t * 0.9))
          resonance!.block.buffer[i] = insideAt(resonance!.spec, 0.5 + 0.5 * Math.sin(t * 0.37))
          shape!.block.buffer[i] = 1.5 + 1.5 * Math.sin(t * 0.011)
        }
        cutoff!.block.move()
        resonance!.block.move()
        shape!.block.move()
      })
      most = Math.max(most, peak(left))
    }
    expect(most).toBeGreaterThan(0.05)
    expect(most).toBeLessThan(40)
  }, 120_000)

  it('still and moving ways give the same sound', () => {
    const x = noise(0.2)
    const still = effectRig('filter', { cutoff: 700, resonance: 3, slope: 1 }).run(x).left
    const r = effectRig('filter', { cutoff: 700, resonance: 3, slope: 1 })
    const moving = r.run(x, x, () => {
      const block = r.params.byName.cutoff!.block
      block.buffer.fill(700)
      block.move()
    }).left
    expect(peak(still.map((v, i) => v - moving[i]!))).toBeLessThan(1e-6)
  })
})

describe('Drive', () => {
  const aliases = (hz: number, quality: number): number => {
    const bin = aliasBin(hz, RATE)
    const x = Float32Array.from({ length: ALIAS_SIZE * 3 }, (_, i) =>
      Math.sin((2 * Math.PI * i * bin) / ALIAS_SIZE),
    )
    const { left } = effectRig('drive', { drive: 18, output: 0, quality }).run(x)
    return aliasSum(left.slice(ALIAS_SIZE, 2 * ALIAS_SIZE), bin, RATE)
  }
  it.each([1200, 5000])(
    'aliases of a full-scale sine at %i Hz, 18 dB: below −100 dB at the default, which is the best',
    (hz) => {
      expect(aliases(hz, 3)).toBeLessThan(-100)
      expect(aliases(hz, 0)).toBeGreaterThan(-60)
    },
  )
  it('adds no level far below the knee and blocks DC of the bias', () => {
    const { left } = effectRig('drive', { drive: 0, output: 0, bias: 0.5 }).run(sine(500, 1.5, 0.001))
    const tail = left.slice(48_000, 48_000 + 9600)
    const slope = (1 + 0.25) ** -1.5
    expect(db(toneAt(tail, 500).amplitude / 0.001)).toBeCloseTo(db(slope), 1)
    expect(Math.abs(tail.reduce((a, b) => a + b, 0) / tail.length)).toBeLessThan(1e-4)
  })
})

describe('Delay', () => {
  it('comes after exactly its time, at any fraction', () => {
    for (const time of [0.01, 0.0101234]) {
      const { left } = effectRig('delay', { time, feedback: 0 }).run(sine(1000, 0.5, 0.5))
      const { phase, amplitude } = toneAt(left.slice(9600, 9600 + 4800), 1000)
      const reference = toneAt(sine(1000, 0.5, 0.5).slice(9600, 9600 + 4800), 1000).phase
      const turned = ((reference - phase) / (2 * Math.PI) - 1000 * time) % 1
      expect(Math.abs(((turned + 1.5) % 1) - 0.5)).toBeLessThan(2e-3)
      expect(amplitude).toBeCloseTo(0.5, 3)
    }
  })
  const swept = [
    ['delay', 0.02, { feedback: 0 }],
    ['chorus', 0.02, { by: 1, reach: 0, voices: 2, spread: 0, stereo: 0, feedback: 0 }],
    ['flanger', 0.003, { depth: 0, feedback: 0, stereo: 0, mix: 1, through: 0 }],
    ['taps', 0.05, { sync: 0, feedback: 0, law: 0 }],
  ] as const
  it.each(
    swept.flatMap(([type, time, values]) =>
      [
        [1000, -80],
        [10_000, -60],
      ].map(([hz, limit]) => ({ type, time, values, hz: hz ?? 0, limit: limit ?? 0 })),
    ),
  )(
    'no zipper under a swept time: a tone at $hz Hz through $type shows no line above $limit dB that theory does not predict',
    ({ type, time, values, hz, limit }) => {
      // a time that moves evenly shifts the pitch: one line, at hz · (1 − slope)
      const r = effectRig(
        type,
        values,
        type === 'taps' ? { lanes: { taps: [{ level: 0, pan: 0, time: 1 }] } } : {},
      )
      const slope = 0.002
      const x = sine(hz, 1.6, 10 ** (-12 / 20))
      const { left } = r.run(x, x, (at) => {
        const block = r.params.byName.time!.block
        for (let i = 0; i < BLOCK; i++) block.buffer[i] = time + (slope * (at + i)) / RATE
        block.move()
      })
      const spectrum = spectrumDb(left.slice(6000, 6000 + 65_536))
      const shifted = (hz * (1 - slope) * 65_536) / RATE
      let other = -300
      spectrum.forEach((v, i) => {
        if (Math.abs(i - shifted) > 8 && i > 20) other = Math.max(other, v)
      })
      expect(spectrum[Math.round(shifted)]).toBeGreaterThan(-22)
      expect(other).toBeLessThan(limit)
    },
  )
  it('ping-pong crosses sides, and feedback above 100 % stays bounded', () => {
    const impulse = new Float32Array(48_000)
    impulse[0] = 1
    const { left, right } = effectRig('delay', {
      time: 0.1,
      feedback: 0.5,
      path: 1,
      lowCut: 20,
      highCut: 20_000,
    }).run(impulse)
    expect(peak(left.slice(4700, 4900))).toBeGreaterThan(0.4)
    expect(peak(right.slice(4700, 4900))).toBeLessThan(1e-6)
    expect(peak(right.slice(9500, 9700))).toBeGreaterThan(0.1)
    const howl = effectRig('delay', { time: 0.02, feedback: 1.2 }).run(noise(8)).left
    expect(peak(howl)).toBeLessThan(8)
  })
  it('cross-fade makes no step', () => {
    const r = effectRig('delay', { change: 1, feedback: 0 })
    const x = sine(200, 1, 0.5)
    const { left } = r.run(x, x, (at) => r.params.byName.time!.block.hold(at < 24_000 ? 0.1 : 0.25))
    let jump = 0
    for (let i = 20_000; i < left.length; i++) jump = Math.max(jump, Math.abs(left[i]! - left[i - 1]!))
    expect(jump).toBeLessThan((0.5 * 2 * Math.PI * 200) / RATE + 0.002)
  })
})

describe('Compressor', () => {
  it.each([-40, -24, -18, -15, -9, 0])('static curve within 0.1 dB at %i dB', (level) => {
    const { left } = effectRig('compressor', {
      threshold: -18,
      ratio: 4,
      knee: 6,
      attack: 0.001,
      release: 2.5,
    }).run(sine(1000, 3, 10 ** (level / 20)))
    const out = db(toneAt(left.slice(120_000, 124_800), 1000).amplitude)
    expect(Math.abs(out - level - compressorCurve(level, -18, 4, 6))).toBeLessThan(0.1)
  })
  it.each([
    [0.02, 0.2],
    [0.05, 0.4],
  ])('attack %f s and release %f s within 5 percent, on the gain', (attack, release) => {
    const r = effectRig('compressor', { threshold: -30, ratio: 10, knee: 0, attack, release })
    // a rectified-flat signal: steps of DC have a level without ripple
    const x = Float32Array.from({ length: RATE * 4 }, (_, i) => (i < RATE ? 0.001 : i < 2 * RATE ? 1 : 0.001))
    const { left } = r.run(x)
    const gain = Float32Array.from(left, (v, i) => db(v / x[i]!))
    const reach = (from: number, to: number, at: number): number => {
      const target = from + (to - from) * (1 - Math.exp(-1))
      for (let i = at; i < gain.length; i++)
        if ((to < from && gain[i]! <= target) || (to > from && gain[i]! >= target)) return (i - at) / RATE
      return NaN
    }
    const low = gain[2 * RATE - 2]!
    expect(reach(0, low, RATE) / attack).toBeCloseTo(1, 1)
    expect(Math.abs(reach(0, low, RATE) / attack - 1)).toBeLessThan(0.05)
    expect(Math.abs(reach(low, 0, 2 * RATE) / release - 1)).toBeLessThan(0.05)
  })
})

describe('Reverb', () => {
  function decayAt(x: Float32Array, hz: number): number {
    // octave band by two band-passes, then a straight line through the backward-integrated energy from −5 to
    // −35 dB (Schroeder 1965)
    const band = effectRig('filter', { cutoff: hz, resonance: 1.4, shape: 1, slope: 1 }).run(x).left
    const energy = new Float64Array(band.length)
    let sum = 0
    for (let i = band.length - 1; i >= 0; i--) energy[i] = sum += band[i]! ** 2
    const level = (i: number): number => 10 * Math.log10(energy[i]! / energy[0]! + 1e-30)
    let a = 0
    while (level(a) > -5) a++
    let b = a
    while (level(b) > -35) b++
    let n = 0,
      sx = 0,
      sy = 0,
      sxx = 0,
      sxy = 0
    for (let i = a; i < b; i += 16) {
      const y = level(i)
      n++
      sx += i
      sy += y
      sxx += i * i
      sxy += i * y
    }
    return -60 / ((n * sxy - sx * sy) / (n * sxx - sx * sx)) / RATE
  }
  it.each([
    { decay: 2, size: 0.8, lows: 1, highs: 1 },
    { decay: 1.2, size: 0.5, lows: 1.5, highs: 0.5 },
  ])('RT60 within 5 percent of what is set in each octave: %o', (values) => {
    const x = new Float32Array(Math.round(RATE * values.decay * 2.2))
    x[0] = 1
    const { left } = effectRig('reverb', { ...values, motion: 0.2, lowCut: 20, predelay: 0 }).run(x)
    for (const hz of [125, 250, 500, 1000, 2000, 4000, 8000]) {
      // what is set, over the octave: mean decay rate of its parts
      const set = [0.75, 0.87, 1, 1.15, 1.33].map((k) => reverbDecayAt(values, hz * k, RATE))
      const wanted = set.reduce((a, b) => a + b) / set.length
      expect(
        Math.abs(decayAt(left, hz) / wanted - 1),
        `${hz} Hz: ${decayAt(left, hz)} of ${wanted}`,
      ).toBeLessThan(0.05)
    }
  })
  it('echo density is that of noise by 80 ms', () => {
    const x = new Float32Array(RATE)
    x[0] = 1
    const { left } = effectRig('reverb', { decay: 3, highs: 1, predelay: 0 }).run(x)
    // share of samples beyond one standard deviation against that of Gaussian noise (Abel & Huang 2006)
    const at = Math.round(0.08 * RATE)
    const window = left.slice(at, at + 960)
    const s = rms(window)
    const density = window.filter((v) => Math.abs(v) > s).length / window.length / 0.3173
    expect(density).toBeGreaterThan(0.85)
  })
  it('no metallic line over 6 dB in the late spectrum', () => {
    const x = new Float32Array(RATE * 3)
    x[0] = 1
    const { left } = effectRig('reverb', { decay: 4, highs: 1, predelay: 0, motion: 0.3 }).run(x)
    // late spectrum, averaged over overlapping stretches and brought level, smoothed to third octaves as
    // reference
    const size = 8192
    const mean = new Float64Array(size / 2)
    let n = 0
    for (let at = 40_000; at + size < left.length; at += size / 4, n++) {
      const stretch = left.slice(at, at + size)
      const power = rms(stretch) ** 2
      spectrumDb(stretch).forEach((v, i) => {
        mean[i]! += 10 ** (v / 10) / power
      })
    }
    let most = -99
    for (let i = 60; i < 3000; i++) {
      const width = Math.round(i * 0.12)
      let around = 0
      for (let k = i - width; k <= i + width; k++) around += mean[k]!
      most = Math.max(most, 10 * Math.log10(mean[i]! / (around / (2 * width + 1))))
    }
    expect(n).toBeGreaterThan(20)
    expect(most).toBeLessThan(6)
  })
})

describe('Gain', () => {
  it('goes through zero into opposite polarity', () => {
    const r = effectRig('gain', { mode: 1 })
    const x = new Float32Array(BLOCK).fill(0.5)
    const { left } = r.run(x, x, () => {
      const b = r.params.byName.factor!.block
      for (let i = 0; i < BLOCK; i++) b.buffer[i] = 1 - (2 * i) / (BLOCK - 1)
      b.move()
    })
    expect(left[0]).toBeCloseTo(0.5, 6)
    expect(left[BLOCK - 1]).toBeCloseTo(-0.5, 6)
    expect(Math.abs(left[64]!)).toBeLessThan(0.01)
  })
})
