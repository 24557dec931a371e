import { describe, expect, it } from 'vitest'
import { BlockDelay } from '@oleaje/core/dsp/block-delay'
import { AlignedInput } from '@oleaje/core/engine/aligned-input'
import { BLOCK, ParamBlock, stereoBlock } from '@oleaje/core/engine/block'
import { Guard } from '@oleaje/core/engine/guard'
import { SafetyLimiter } from '@oleaje/core/engine/limiter'
import { OutputDelay } from '@oleaje/core/engine/output-delay'
import { Seam } from '@oleaje/core/engine/seam'
import { Switch } from '@oleaje/core/engine/soft-switch'
import { Transport } from '@oleaje/core/engine/transport'
import { RATE } from './rig'

const wave = (at: number, hz: number, level = 0.5): number => level * Math.sin(2 * Math.PI * hz * at / RATE)
function fill(block: { left: Float32Array, right: Float32Array }, from: number, f: (at: number) => number): void {
  for (let i = 0; i < BLOCK; i++) block.left[i] = block.right[i] = f(from + i)
}
const steps = (x: readonly number[]): number => Math.max(...x.slice(1).map((v, i) => Math.abs(v - x[i]!)))

describe('a seam', () => {
  /** A hundred blocks of one wave and a hundred of another, cut between. */
  function heal(a: (at: number) => number, b: (at: number) => number): number[] {
    const seam = new Seam()
    const block = stereoBlock()
    const all: number[] = []
    for (let k = 0; k < 200; k++) {
      if (k === 100) seam.cut()
      fill(block, k * BLOCK, k < 100 ? a : b)
      all.push(...seam.process(block).left)
    }
    return all
  }
  it('leaves alone what goes on as it was, and is not there at all before a cut', () => {
    const seam = new Seam()
    const block = stereoBlock()
    fill(block, 0, (at) => wave(at, 200))
    expect(seam.process(block)).toBe(block)
    const all = heal((at) => wave(at, 200), (at) => wave(at, 200))
    // the wave's own curve between two samples is all there is to heal
    all.forEach((y, i) => { expect(Math.abs(y - wave(i, 200))).toBeLessThan(0.002) })
  })
  it('joins two waves without a step beyond their own', () => {
    // where it was heading and where it goes now: both waves' steepness together at the most
    const own = steps(Array.from({ length: 2000 }, (_, i) => wave(i, 300))) + steps(Array.from({ length: 2000 }, (_, i) => wave(i, 200)))
    expect(steps(heal((at) => wave(at, 200), (at) => wave(at, 300) + 0.4))).toBeLessThan(own)
    // just there it goes on as it was heading
    const at = 100 * BLOCK
    const all = heal((i) => wave(i, 200), (i) => wave(i, 300) + 0.4)
    expect(Math.abs(all[at]! - (2 * all[at - 1]! - all[at - 2]!))).toBeLessThan(0.001)
  })
  it('is healed within 4096 frames: from then on only the new wave is heard', () => {
    const all = heal((at) => wave(at, 200), (at) => wave(at, 300) + 0.4)
    for (let i = 100 * BLOCK + 4096; i < all.length; i++) expect(all[i]).toBe(Math.fround(wave(i, 300) + 0.4))
  })
})

describe('a soft switch', () => {
  it('goes to and fro in six blocks, without a step and never beyond its ends', () => {
    const turn = new Switch()
    const weights: number[] = []
    for (let k = 0; k < 10; k++) {
      const before = turn.end
      turn.move(true)
      expect(turn.start).toBe(before)
      weights.push(turn.end)
    }
    expect(weights.slice(0, 6)).toEqual([...weights.slice(0, 6)].sort((a, b) => a - b))
    expect(weights.slice(5)).toEqual([1, 1, 1, 1, 1])
    expect(Math.max(...weights.slice(1).map((w, i) => w - weights[i]!))).toBeLessThan(0.3)
    for (let k = 0; k < 6; k++) turn.move(false)
    expect(turn.end).toBe(0)
    turn.jump(true)
    expect([turn.start, turn.end]).toEqual([1, 1])
  })
})

describe('delays that line paths up', () => {
  it.each([1, 57, 128, 300])('are of %i samples, to the sample, whatever the block', (frames) => {
    const delay = new BlockDelay(frames)
    const x = new Float32Array(BLOCK), y = new Float32Array(BLOCK)
    for (let k = 0; k < 8; k++) {
      for (let i = 0; i < BLOCK; i++) x[i] = k * BLOCK + i + 1
      delay.process(x, y, BLOCK)
      for (let i = 0; i < BLOCK; i++) expect(y[i]).toBe(Math.max(0, k * BLOCK + i + 1 - frames))
    }
    delay.reset()
    delay.process(x, y, BLOCK)
    expect(y[0]).toBe(0)
  })
  it('begin at the value that is there where they are made while playing, so that nothing jumps', () => {
    const block = stereoBlock()
    fill(block, 0, () => 0.7)
    const input = new AlignedInput(block, 200)
    expect([...input.read().left].every((v) => v === Math.fround(0.7))).toBe(true)
    const fromStart = new AlignedInput(block, 200)
    fromStart.reset()
    expect(fromStart.read().left[0]).toBe(0)
    expect(new AlignedInput(block, 0).read()).toBe(block)
  })
  it('of a modulator hold still while it does, and pass on what moved, so many frames later', () => {
    const delay = new OutputDelay(200)
    const source = new ParamBlock(0.25)
    for (let k = 0; k < 6; k++) delay.process(source)
    expect([delay.out.constant, delay.out.value]).toEqual([true, 0.25])
    for (let i = 0; i < BLOCK; i++) source.buffer[i] = i / BLOCK
    source.move()
    delay.process(source)
    expect(delay.out.values()[5]).toBe(0.25)
    source.hold(1)
    delay.process(source)
    const y = delay.out.values()
    expect(y[200 - BLOCK - 1]).toBe(0.25)
    expect(y[200 - BLOCK]).toBe(0)
    expect(y[BLOCK - 1]).toBe((BLOCK - 1 - (200 - BLOCK)) / BLOCK)
  })
})

describe('the guard', () => {
  const block = stereoBlock()
  it('lets loud sound pass for a moment, and trips where it lasts', () => {
    const guard = new Guard(RATE)
    fill(block, 0, () => 100)
    let blocks = 0
    while (!guard.inspect(block)) blocks++
    expect(blocks * BLOCK / RATE).toBeCloseTo(0.05, 2)
    expect(guard.trips).toBe(1)
    fill(block, 0, () => 1)
    expect(guard.inspect(block)).toBe(false)
    expect(guard.peak).toBe(1)
  })
  it.each([NaN, Infinity, -Infinity])('trips at once at %d, in either channel', (bad) => {
    for (const side of ['left', 'right'] as const) {
      const guard = new Guard(RATE)
      fill(block, 0, () => 0.1)
      block[side][70] = bad
      expect(guard.inspect(block)).toBe(true)
      expect(guard.peak).toBe(0)
    }
  })
})

describe('the safety limiter', () => {
  const ceiling = 10 ** (-0.3 / 20)
  function limited(f: (at: number) => number, blocks: number): { y: number[], lowest: number } {
    const limiter = new SafetyLimiter(RATE)
    const block = stereoBlock()
    const y: number[] = []
    let lowest = 1
    for (let k = 0; k < blocks; k++) {
      fill(block, k * BLOCK, f)
      limiter.process(block)
      lowest = Math.min(lowest, limiter.gain)
      y.push(...block.left)
    }
    return { y, lowest }
  }
  it('passes what is below its ceiling, 64 samples later and otherwise bit for bit', () => {
    const { y, lowest } = limited((at) => Math.fround(wave(at, 300, 0.9)), 40)
    expect(lowest).toBe(1)
    for (let i = 64; i < y.length; i++) expect(y[i]).toBe(Math.fround(wave(i - 64, 300, 0.9)))
  })
  it('never lets a sample over it, and lets go again', () => {
    const { y, lowest } = limited((at) => wave(at, 300, at < 20 * BLOCK ? 8 : 0.5), 400)
    expect(Math.max(...y.map(Math.abs))).toBeLessThanOrEqual(Math.fround(ceiling))
    expect(lowest).toBeLessThan(0.2)
    const end = y.slice(-2 * BLOCK)
    expect(Math.max(...end)).toBeCloseTo(0.5, 2)
  })
  it('takes what is no number for silence', () => {
    const { y } = limited((at) => (at % 7 === 0 ? NaN : at % 11 === 0 ? Infinity : 0.1), 10)
    expect(y.every((v) => Math.abs(v) <= ceiling)).toBe(true)
  })
})

describe('the transport', () => {
  function transport(loop = { on: true, start: 0, end: 1 }, tempo = 120): Transport {
    const t = new Transport(RATE)
    t.configure(tempo, loop, true)
    return t
  }
  it('stands until it plays', () => {
    const t = transport()
    t.play(0.5)
    t.playing = false
    const { beats, playing } = t.advance()
    expect(playing).toBe(false)
    expect(new Set(beats)).toEqual(new Set([0.5]))
    expect(t.beat).toBe(0.5)
  })
  it('comes round to the sample, while the count from the start goes on', () => {
    const t = transport({ on: true, start: 0.25, end: 1 })
    t.play(0)
    const frames: number[] = []
    const runs: number[] = []
    let jumps = 0
    for (let k = 0; k < 400; k++) {
      const song = t.advance()
      if (song.jump >= 0) jumps++
      frames.push(...song.frames)
      runs.push(...song.run)
    }
    const beat = RATE / 2
    expect(frames[beat - 1]).toBe(beat - 1)
    expect(frames[beat]).toBe(beat / 4)
    expect(frames[beat + 0.75 * beat]).toBe(beat / 4)
    expect(jumps).toBe(Math.floor((400 * BLOCK - beat) / (0.75 * beat)) + 1)
    runs.forEach((run, i) => { expect(run).toBeCloseTo(i / beat, 9) })
  })
  it('keeps the beat where the tempo changes', () => {
    const t = transport({ on: false, start: 0, end: 4 })
    t.play(3)
    for (let k = 0; k < 50; k++) t.advance()
    const { beat } = t
    t.configure(87.5, { on: false, start: 0, end: 4 }, true)
    expect(t.beat).toBeCloseTo(beat, 4)
    expect(t.beatsPerFrame).toBeCloseTo(87.5 / 60 / RATE, 12)
  })
  it('goes past the loop where it is off, empty, or begins after it', () => {
    for (const loop of [{ on: false, start: 0, end: 1 }, { on: true, start: 1, end: 1 }]) {
      const t = transport(loop)
      t.play(0)
      for (let k = 0; k < 400; k++) t.advance()
      expect(t.frame).toBe(400 * BLOCK)
    }
    const t = transport()
    t.play(2)
    t.advance()
    expect(t.frame).toBe(RATE + BLOCK)
  })
})
