import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { RATE, db, effectRig, noise, rms, sine, spectrumDb } from './rig'

/** The vocoder shaping `x` by `side`. */
function shaped(
  values: Record<string, number>,
  x: Float32Array,
  side: Float32Array,
  move?: (at: number, r: ReturnType<typeof effectRig>) => void,
): Float32Array {
  const r = effectRig('vocoder', values)
  const io = { ...r.io, side: { left: new Float32Array(BLOCK), right: new Float32Array(BLOCK) } }
  const out = new Float32Array(x.length)
  for (let at = 0; at + BLOCK <= x.length; at += BLOCK) {
    io.in.left.set(x.subarray(at, at + BLOCK))
    io.in.right.set(x.subarray(at, at + BLOCK))
    io.side.left.set(side.subarray(at, at + BLOCK))
    io.side.right.set(side.subarray(at, at + BLOCK))
    move?.(at, r)
    r.processor.process(io, r.params.blocks as never)
    out.set(io.out.left, at)
  }
  return out
}
/** Frequency of the strongest place of a spectrum, smoothed over a tenth of an octave. */
function middle(x: Float32Array): number {
  const bins = spectrumDb(x.slice(-32_768))
  let best = 0
  let most = -Infinity
  for (let hz = 60; hz < 15_000; hz *= 1.02) {
    let power = 0
    for (let k = Math.floor(((hz / 1.05) * 32_768) / RATE); k <= (hz * 1.05 * 32_768) / RATE; k++)
      power += 10 ** ((bins[k] ?? -200) / 10)
    // as loud in each part of an octave for white noise
    power /= hz
    if (power > most) {
      most = power
      best = hz
    }
  }
  return best
}

describe('Vocoder', () => {
  const white = noise(1.5, 3, 0.3)
  it('lets through what the shaping sound has, and nothing where that is silent', () => {
    for (const hz of [300, 1000, 3000])
      expect(
        Math.abs(Math.log2(middle(shaped({ bands: 30, unvoiced: 0 }, white, sine(hz, 1.5, 0.5))) / hz)),
      ).toBeLessThan(0.2)
    expect(rms(shaped({}, white, new Float32Array(white.length)))).toBe(0)
  })
  it('formant shift moves what is let through', () => {
    expect(
      Math.abs(
        Math.log2(middle(shaped({ bands: 30, unvoiced: 0, shift: 12 }, white, sine(700, 1.5, 0.5))) / 1400),
      ),
    ).toBeLessThan(0.2)
    expect(
      Math.abs(
        Math.log2(middle(shaped({ bands: 30, unvoiced: 0, shift: -12 }, white, sine(700, 1.5, 0.5))) / 350),
      ),
    ).toBeLessThan(0.2)
  })
  it('noise takes the place of the shaped sound where the shaping sound hisses, and not where it is voiced', () => {
    const tone = sine(220, 1.5, 0.3)
    const hiss = noise(1.5, 5, 0.3).map((v, i, a) => v - (a[i - 1] ?? 0))
    const high = (x: Float32Array): number => db(rms(x.slice(-24_000).map((v, i, a) => v - (a[i - 1] ?? 0))))
    expect(
      high(shaped({ unvoiced: 1 }, tone, hiss)) - high(shaped({ unvoiced: 0 }, tone, hiss)),
    ).toBeGreaterThan(20)
    const dark = sine(300, 1.5, 0.4)
    expect(
      Math.abs(high(shaped({ unvoiced: 1 }, tone, dark)) - high(shaped({ unvoiced: 0 }, tone, dark))),
    ).toBeLessThan(0.1)
  })
  it('hold keeps the bands as they were', () => {
    const side = sine(1000, 1.5, 0.5)
    side.fill(0, RATE / 2)
    const held = shaped({ unvoiced: 0 }, white, side, (at, r) => {
      if (at > RATE / 4) r.params.byName.hold!.block.hold(1)
    })
    const free = shaped({ unvoiced: 0 }, white, side)
    expect(rms(held.slice(-24_000))).toBeGreaterThan(0.5 * rms(held.slice(12_000, 20_000)))
    expect(rms(free.slice(-24_000))).toBeLessThan(0.001)
  })
  it('its sound is about as loud as what it shapes, with itself as the shaping sound', () => {
    const x = noise(1.5, 8, 0.3)
    expect(Math.abs(db(rms(shaped({}, x, x).slice(24_000)) / rms(x)))).toBeLessThan(4)
  })
})
