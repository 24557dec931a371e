import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import type { SourceDefinition } from '@oleaje/core/contract/source'
import { loopSource } from '@oleaje/core/sources/loop'
import { RATE, db, noise, peak, sine, sourceRig, spectrumDb, toneAt } from './rig'

const TEMPO = 96

/**
 * A loop that plays block by block against a song at 96 bpm, the recording's own tempo where nothing else is
 * said.
 */
function loop(channels: Float32Array[] | null, values: Record<string, number> = {}, tempo = TEMPO) {
  const rig = sourceRig(loopSource as unknown as SourceDefinition, values, { channels, tempo })
  return {
    ...rig,
    run: (blocks: number, jump?: { to: number; after: number }) => rig.run(blocks, undefined, jump),
  }
}

/** Strongest tone of a steady stretch, in Hz, by the highest line and its neighbours. */
function pitch(x: Float32Array): number {
  const s = spectrumDb(x.subarray(0, 32_768))
  let top = 1
  for (let k = 1; k < s.length; k++) if (s[k]! > s[top]!) top = k
  const [a, b, c] = [s[top - 1]!, s[top]!, s[top + 1]!]
  return ((top + (a - c) / (2 * (a - 2 * b + c))) * RATE) / 32_768
}

describe('an audio loop', () => {
  it('as it is, gives every sample as it is, round and round', () => {
    const sound = noise(1000 / RATE)
    const { left, right } = loop([sound, sound.map((v) => -v)]).run(20)
    for (let i = 0; i < left.length; i++) expect(left[i]).toBe(sound[i % 1000])
    expect(right).toEqual(left.map((v) => -v))
  })
  it('plays mono to both sides', () => {
    const { left, right } = loop([noise(0.01)]).run(4)
    expect(right).toEqual(left)
    expect(peak(left)).toBeGreaterThan(0.1)
  })
  it('keeps to its start and end', () => {
    const sound = Float32Array.from({ length: 1000 }, (_, i) => i / 1000)
    const { left } = loop([sound], { start: 0.25, end: 0.75 }).run(16)
    for (let i = 0; i < left.length; i++) expect(left[i]).toBeCloseTo(0.25 + (i % 500) / 1000, 6)
  })
  it('still has a stretch to play where its end lies before its start, and is silent past the end of the sound', () => {
    const sound = noise(0.02)
    const { left } = loop([sound], { start: 0.8, end: 0.2 }).run(4)
    expect(left.every(Number.isFinite)).toBe(true)
    expect(peak(left)).toBeGreaterThan(0.01)
    expect(
      peak(
        loop([sound.subarray(0, 8)], { start: 0.999 })
          .run(4)
          .left.subarray(8, 60),
      ),
    ).toBe(0)
  })
  it.each([
    ['from a fraction of a frame', {}, 0.3],
    ['of a part that ends behind the sound', { start: 0.97, end: 1 }, 0],
    ['of a part', { start: 0.1, end: 0.35 }, 4000.75],
  ])('sample for sample is the same with a level that moves by nothing: %s', (_, values, from) => {
    const sound = [noise(0.05), noise(0.05, 5)]
    const plain = loop(sound, values),
      moved = loop(sound, values)
    plain.seek(from)
    moved.seek(from)
    const state = moved.params.byName.level!
    for (let b = 0; b < 60; b++) {
      state.block.buffer.fill(1)
      state.block.move()
      const jump = b % 20 === 19 ? { to: 100.5 * b, after: 64 } : undefined
      expect(plain.run(1, jump)).toEqual(moved.run(1, jump))
    }
  })
  it.each([
    [48, 0.5],
    [96, 1],
    [144, 1.5],
    [192, 2],
  ])(
    'varispeed at %f bpm of a sound of 96 plays it %f times as fast, a tone as much higher',
    (tempo, speed) => {
      const { left } = loop([sine(500, 4, 0.5)], { play: 1, tempo: TEMPO }, tempo).run(300)
      expect(pitch(left) / 500).toBeCloseTo(speed, 4)
      expect(db(toneAt(left.subarray(0, 9600), 500 * speed).amplitude)).toBeCloseTo(db(0.5), 1)
    },
  )
  it('one loop at the song’s tempo is as long as its beats, to the sample', () => {
    const sound = new Float32Array(RATE)
    sound[0] = 1
    // a second of sound at 60 bpm is one beat; at 90 bpm that takes two thirds of a second
    const { left } = loop([sound], { play: 1, tempo: 60 }, 90).run(600)
    const clicks = [...left.keys()].filter(
      (i) => i > 8 && left[i]! > 0.3 && left[i]! >= left[i - 1]! && left[i]! > (left[i + 1] ?? 0),
    )
    expect(clicks).toEqual([32_000, 64_000])
  })
  it.each([
    [12, 2],
    [-12, 0.5],
    [7, 2 ** (7 / 12)],
  ])('tuned by %f semitones plays %f times as high, without other lines above −70 dB', (tune, speed) => {
    const { left } = loop([sine(750, 8, 0.5)], { tune }).run(300)
    expect(pitch(left) / 750).toBeCloseTo(speed, 4)
    const s = spectrumDb(left.subarray(0, 32_768))
    const line = (750 * speed * 32_768) / RATE
    const rest = [...s.keys()].filter((k) => Math.abs(k - line) > 8)
    expect(Math.max(...rest.map((k) => s[k]!))).toBeLessThan(-70)
  })
  it('glides with a moving tune, without a step', () => {
    const l = loop([sine(400, 8, 0.5)])
    const state = l.params.byName.tune!
    let most = 0
    let last = 0
    for (let b = 0; b < 200; b++) {
      for (let i = 0; i < BLOCK; i++) state.block.buffer[i] = 12 * Math.sin((b * BLOCK + i) / 4000)
      state.block.move()
      for (const v of l.run(1).left) {
        if (b > 0) most = Math.max(most, Math.abs(v - last))
        last = v
      }
    }
    expect(most).toBeLessThan(((0.5 * 2 * Math.PI * 800) / RATE) * 1.05)
  })
  it('a jump of the song leaves no step, and is where the song is a hundred samples later', () => {
    const sound = sine(100, 2, 0.5)
    const l = loop([sound])
    const before = l.run(40).left
    const { left } = l.run(4, { to: 20_123, after: 37 })
    const all = Float32Array.from([...before, ...left])
    let most = 0
    for (let i = 1; i < all.length; i++) most = Math.max(most, Math.abs(all[i]! - all[i - 1]!))
    expect(most).toBeLessThan(0.03)
    for (let i = 37 + 100; i < left.length; i++) expect(left[i]).toBe(sound[20_123 + i - 37])
  })
  it('stops softly, and starts from where the song is', () => {
    const l = loop([sine(100, 2, 0.5)])
    const playing = l.run(10).left
    l.song.playing = false
    const { left } = l.run(10)
    expect(Math.abs(left[0]! - playing[playing.length - 1]!)).toBeLessThan(0.02)
    expect(peak(left.subarray(600))).toBeLessThan(1e-7)
    l.song.playing = true
    l.seek(1234)
    expect(l.run(1).left[0]).toBe(sine(100, 2, 0.5)[1234])
  })
  it('is silent without a sound, or with an empty one', () => {
    expect(peak(loop(null).run(3).left)).toBe(0)
    expect(peak(loop([new Float32Array(0)]).run(3).left)).toBe(0)
  })
  it('begins again from nothing after a reset', () => {
    const l = loop([noise(0.5)])
    const first = l.run(10).left
    l.processor.reset()
    l.seek(0)
    expect(l.run(10).left).toEqual(first)
  })
})
