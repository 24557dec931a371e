import { describe, expect, it } from 'vitest'
import { BlockDelay } from '@oleaje/core/dsp/block-delay'
import { PAST, continuation } from '@oleaje/core/dsp/continuation'
import { AlignedInput } from '@oleaje/core/engine/aligned-input'
import { BLOCK, ParamBlock, stereoBlock } from '@oleaje/core/contract/block'
import { Guard } from '@oleaje/core/engine/guard'
import { SafetyLimiter } from '@oleaje/core/engine/limiter'
import { OutputDelay } from '@oleaje/core/engine/output-delay'
import { Declick } from '@oleaje/core/engine/declick'
import { Switch } from '@oleaje/core/engine/soft-switch'
import { Transport } from '@oleaje/core/engine/transport'
import { RATE, noise } from './rig'

const wave = (at: number, hz: number, level = 0.5): number => level * Math.sin((2 * Math.PI * hz * at) / RATE)
function fill(
  block: { left: Float32Array; right: Float32Array },
  from: number,
  f: (at: number) => number,
): void {
  for (let i = 0; i < BLOCK; i++) block.left[i] = block.right[i] = f(from + i)
}
const steps = (x: readonly number[]): number => Math.max(...x.slice(1).map((v, i) => Math.abs(v - x[i]!)))

describe('a declick', () => {
  type Wave = (at: number) => number
  const CUT = 100 * BLOCK
  /** A hundred blocks of one sound and a hundred of another, cut between. */
  function heal(a: Wave, b: Wave): number[] {
    const declick = new Declick()
    const block = stereoBlock()
    const all: number[] = []
    for (let k = 0; k < 200; k++) {
      if (k === 100) declick.cut()
      fill(block, k * BLOCK, k < 100 ? a : b)
      all.push(...declick.process(block).left)
    }
    return all
  }
  const hiss = noise(1, 7, 0.3)
  const hissing =
    (from: number): Wave =>
    (at) =>
      hiss[(at + from) % hiss.length]!
  const sine =
    (hz: number, level = 0.5, phase = 0): Wave =>
    (at) =>
      level * Math.sin(phase + (2 * Math.PI * hz * at) / RATE)
  const saw =
    (hz: number): Wave =>
    (at) =>
      (((at * hz) / RATE) % 1) - 0.5
  const pairs: [string, Wave, Wave][] = [
    ['40 Hz to 60 Hz', sine(40, 0.5, 1), sine(60, 0.5, -1.5)],
    ['200 Hz to 300 Hz and a level', sine(200), (at) => sine(300)(at) + 0.4],
    ['2 kHz to nothing', sine(2000, 0.5, 1), () => 0],
    ['nothing to 8 kHz', () => 0, sine(8000, 0.5, 1)],
    ['noise to noise', hissing(0), hissing(9000)],
    ['a saw to another', saw(110), saw(147)],
    ['a level to nothing', () => 0.7, () => 0],
    ['hum with noise to hum', (at) => sine(50, 0.4)(at) + 0.5 * hissing(0)(at), sine(50, 0.4, 2)],
    ['10 Hz to its opposite', sine(10, 0.9, 1.2), sine(10, 0.9, 1.2 + Math.PI)],
  ]

  it('is not there at all before a cut', () => {
    const declick = new Declick()
    const block = stereoBlock()
    fill(block, 0, sine(200))
    expect(declick.process(block)).toBe(block)
  })
  it.each([40, 200, 2000, 8000, 19_000])('leaves a tone alone that goes on as it was: %i Hz', (hz) => {
    const all = heal(sine(hz, 0.5, 0.3), sine(hz, 0.5, 0.3))
    all.forEach((y, i) => {
      expect(Math.abs(y - sine(hz, 0.5, 0.3)(i))).toBeLessThan(0.02)
    })
  })
  it.each(pairs)('adds no step beyond those of both sounds by more than −60 dBFS: %s', (_, a, b) => {
    const own = Math.max(
      steps(Array.from({ length: CUT }, (_, i) => a(i))),
      steps(Array.from({ length: CUT }, (_, i) => b(CUT + i))),
    )
    expect(steps(heal(a, b)) - own).toBeLessThan(0.001)
  })
  it.each(pairs)('adds nothing that is louder than both sounds: %s', (_, a, b) => {
    const loudest = (wave: Wave, from: number): number =>
      Math.max(...Array.from({ length: CUT }, (_, i) => Math.abs(wave(from + i))))
    const all = heal(a, b)
    expect(Math.max(...all.map(Math.abs))).toBeLessThan(1.1 * (loudest(a, 0) + loudest(b, CUT)))
    // of sounds without a level of their own, nothing stays behind once the waves have been exchanged
    if (!/level|hum|saw|[12460]0 Hz/.test(_))
      for (let i = CUT + BLOCK; i < all.length; i++) expect(Math.abs(all[i]! - b(i))).toBeLessThan(0.06)
  })
  it('is healed within 4096 frames: from then on only the new wave is heard', () => {
    const all = heal(sine(200), (at) => sine(300)(at) + 0.4)
    for (let i = CUT + 4096; i < all.length; i++) expect(all[i]).toBe(Math.fround(sine(300)(i) + 0.4))
  })
  it('heals again where it is cut while it heals', () => {
    const declick = new Declick()
    const block = stereoBlock()
    const all: number[] = []
    for (let k = 0; k < 60; k++) {
      if (k >= 20 && k < 26) declick.cut()
      fill(block, k * BLOCK, k < 20 ? sine(200) : sine(200, 0.5, k))
      all.push(...declick.process(block).left)
    }
    expect(Math.max(...all.map(Math.abs))).toBeLessThan(1.1)
    expect(steps(all.slice(0, 26 * BLOCK))).toBeLessThan(0.03)
  })
})

describe('the way a signal would have gone on', () => {
  const told = (f: (i: number) => number, frames = BLOCK): number[] => {
    const next = new Float64Array(frames)
    continuation(
      Float64Array.from({ length: PAST }, (_, i) => f(i - PAST)),
      next,
    )
    return [...next]
  }
  it.each([100, 440, 5000, 20_000])('is itself for a tone of %i Hz', (hz) => {
    told((i) => 0.5 * Math.sin(1 + (2 * Math.PI * hz * i) / RATE)).forEach((y, i) => {
      expect(Math.abs(y - 0.5 * Math.sin(1 + (2 * Math.PI * hz * i) / RATE))).toBeLessThan(0.12)
    })
  })
  it('is known for a chord in its first samples, and for a level for ever', () => {
    const chord = (i: number): number =>
      [220, 277, 330].reduce((sum, hz) => sum + 0.2 * Math.sin((2 * Math.PI * hz * i) / RATE), 0)
    told(chord, 8).forEach((y, i) => {
      expect(y).toBeCloseTo(chord(i), 3)
    })
    for (const y of told(() => 0.7, 4000)) expect(y).toBeCloseTo(0.7, 6)
  })
  it('dies away for noise, and never grows, whatever came before', () => {
    for (let seed = 1; seed < 40; seed++) {
      const x = noise(0.01, seed, 0.5)
      const next = told(
        (i) => (seed % 3 === 0 && i < -100 ? 0 : x[i + PAST]! * (seed % 2 === 0 ? (i + PAST) / PAST : 1)),
        2000,
      )
      expect(Math.max(...next.map(Math.abs))).toBeLessThan(1)
      expect(Math.max(...next.slice(1500).map(Math.abs))).toBeLessThan(0.05)
    }
  })
  it('is silence after silence, and after what is no number', () => {
    expect(told(() => 0)).toEqual(Array.from({ length: BLOCK }, () => 0))
    expect(told((i) => (i === -3 ? NaN : 0.5)).every((y) => y === 0)).toBe(true)
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
    const x = new Float32Array(BLOCK),
      y = new Float32Array(BLOCK)
    for (let k = 0; k < 8; k++) {
      for (let i = 0; i < BLOCK; i++) x[i] = k * BLOCK + i + 1
      delay.process(x, y, BLOCK)
      for (let i = 0; i < BLOCK; i++) expect(y[i]).toBe(Math.max(0, k * BLOCK + i + 1 - frames))
    }
    delay.reset()
    delay.process(x, y, BLOCK)
    expect(y[0]).toBe(0)
  })
  it.each([1, 5, 57, 300])('are of %i samples in pieces of any length too, and in place', (frames) => {
    const delay = new BlockDelay(frames)
    let at = 0
    for (const length of [1, 17, 128, 3, 64, 128, 5, 99, 128]) {
      const x = Float32Array.from({ length }, (_, i) => at + i + 1)
      delay.process(x, x, length)
      for (let i = 0; i < length; i++) expect(x[i]).toBe(Math.max(0, at + i + 1 - frames))
      at += length
    }
  })
  it.each<[string, (i: number) => number, number]>([
    ['a level', () => 0.7, 0.001],
    ['a tone of 300 Hz', (i) => 0.5 * Math.sin((2 * Math.PI * 300 * i) / RATE), 0.035],
    ['a tone of 8 kHz', (i) => 0.5 * Math.sin(1.047 * i), 0.75],
  ])(
    'begin with what would have come before where they are made while playing, so that nothing jumps: %s',
    (_, f, most) => {
      const block = stereoBlock()
      for (const delay of [57, 200, 1500]) {
        const input = new AlignedInput(block, delay)
        const heard: number[] = []
        for (let k = 0; k < 20; k++) {
          fill(block, k * BLOCK, f)
          heard.push(...input.read().left)
        }
        // a delay that is longer than what can be told begins in silence
        expect(steps(heard.slice(delay > 1024 ? delay - 1023 : 0))).toBeLessThan(most)
        expect(Math.max(...heard.map(Math.abs))).toBeLessThan(0.75)
        for (let i = delay; i < heard.length; i++) expect(heard[i]).toBe(Math.fround(f(i - delay)))
      }
    },
  )
  it('are silent at first where they are there from the start, and are none where nothing comes late', () => {
    const block = stereoBlock()
    fill(block, 0, () => 0.7)
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
    while (blocks < 1000 && !guard.inspect(block, 2)) blocks++
    expect((blocks * BLOCK) / RATE).toBeCloseTo(0.05, 2)
    expect(guard.trips).toBe(1)
    fill(block, 0, () => 1)
    expect(guard.inspect(block, 2)).toBe(false)
    expect(guard.peak).toBe(1)
  })
  it('leaves loud output alone that its input and the stated gain explain, with 6 dB to spare', () => {
    fill(block, 0, () => 100)
    const trips = (input: number): boolean => {
      const guard = new Guard(RATE)
      for (let k = 0; k < 100; k++) {
        guard.hear(input)
        if (guard.inspect(block, 2)) return true
      }
      return false
    }
    expect(trips(26)).toBe(false)
    expect(trips(24)).toBe(true)
  })
  it('holds what tripped, until it has been seen or its input has been quiet for a second', () => {
    const guard = new Guard(RATE)
    fill(block, 0, () => NaN)
    guard.inspect(block, 2)
    for (let k = 0; k < 1000; k++) guard.hear(0.1)
    expect(guard.held).toBe(true)
    let blocks = 0
    while (guard.held && blocks < 1000) {
      guard.hear(0.0005)
      blocks++
    }
    expect((blocks * BLOCK) / RATE).toBeCloseTo(1, 2)
    guard.inspect(block, 2)
    guard.release()
    expect(guard.held).toBe(false)
  })
  it.each([NaN, Infinity, -Infinity])('trips at once at %d, in either channel', (bad) => {
    for (const side of ['left', 'right'] as const) {
      const guard = new Guard(RATE)
      fill(block, 0, () => 0.1)
      block[side][70] = bad
      expect(guard.inspect(block, 2)).toBe(true)
      expect(guard.peak).toBe(0)
    }
  })
})

describe('the safety limiter', () => {
  const ceiling = 10 ** (-0.3 / 20)
  function limited(f: (at: number) => number, blocks: number): { y: number[]; lowest: number } {
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
    runs.forEach((run, i) => {
      expect(run).toBeCloseTo(i / beat, 9)
    })
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
    for (const loop of [
      { on: false, start: 0, end: 1 },
      { on: true, start: 1, end: 1 },
    ]) {
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
