import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { resample } from '@oleaje/core/formats/resample'
import { RateStream } from '@oleaje/core/formats/rate-stream'
import { ClockMap } from '../audio/clock-map'
import { OutputClock } from '../audio/output-clock'
import { OutputBorder } from '../worklet/output-border'

describe('the clock of an output', () => {
  beforeEach(() => {
    vi.useFakeTimers()
  })
  afterEach(() => {
    vi.useRealTimers()
  })
  /** A context whose clock runs or stands as it is told. */
  const context = () => ({
    state: 'suspended' as AudioContextState,
    currentTime: 0,
    resumed: 0,
    resume(): Promise<void> {
      this.resumed++
      return new Promise(() => {})
    },
  })
  it('that stands still though sound is wanted counts as no output after a second, and as running when it runs', () => {
    const states: string[] = []
    const c = context()
    const clock = new OutputClock((state) => states.push(state))
    clock.watch(c)
    vi.advanceTimersByTime(5000)
    // nothing is wanted yet: it may stand
    expect(states).toEqual(['suspended'])
    c.state = 'running'
    clock.wake()
    vi.advanceTimersByTime(700)
    expect(states.at(-1)).toBe('running')
    vi.advanceTimersByTime(700)
    expect(states.at(-1)).toBe('stalled')
    c.currentTime = 0.37
    vi.advanceTimersByTime(250)
    expect(states.at(-1)).toBe('running')
  })
  it('is resumed again where the context is stopped from outside', () => {
    const c = context()
    const clock = new OutputClock(() => {})
    clock.watch(c)
    clock.wake()
    const before = c.resumed
    c.state = 'interrupted' as AudioContextState
    vi.advanceTimersByTime(1000)
    expect(c.resumed).toBeGreaterThan(before + 2)
    clock.watch(null)
    const last = c.resumed
    vi.advanceTimersByTime(1000)
    expect(c.resumed).toBe(last)
  })
})

describe('two clocks', () => {
  it('are matched by the latest place of the one that moves in steps', () => {
    const map = new ClockMap()
    expect(map.contextTime(100)).toBeUndefined()
    // the context moves on every 10.7 ms and is looked at every 3.7 ms; it is 5.2 s behind the page
    for (let ms = 5200; ms < 6500; ms += 3.7) map.take(Math.floor((ms - 5200) / 10.7) * 0.0107, ms)
    expect(Math.abs((map.contextTime(6400) ?? 0) - 1.2)).toBeLessThan(0.002)
    // it stood still for a while
    map.take(1.25, 9000)
    expect(map.contextTime(9000)).toBeCloseTo(1.25, 6)
  })
})

describe('a context of another rate or quantum', () => {
  const tone = (rate: number, n: number) =>
    Float32Array.from({ length: n }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 311 * i) / rate))
  it.each([
    [48_000, 44_100],
    [44_100, 48_000],
    [96_000, 44_100],
    [48_000, 96_000],
  ])('a stream from %d to %d Hz gives what the whole gives', (from, to) => {
    const whole = tone(from, 20_000)
    const wanted = resample(whole, from, to)
    const stream = new RateStream(from, to)
    const got: number[] = []
    const out = new Float32Array(113)
    for (let at = 0; at < whole.length; at += 97) {
      stream.push(whole.subarray(at, at + 97))
      while (stream.has(out.length)) {
        stream.pull(out)
        got.push(...out)
      }
    }
    expect(got.length).toBeGreaterThan(wanted.length - 400)
    const end = Math.min(got.length, wanted.length - 200)
    for (let i = 0; i < end; i++)
      if (got[i] !== wanted[i]) throw new Error(`differs at ${i}: ${got[i]} ${wanted[i]}`)
  })
  it.each([
    [48_000, 44_100, 128],
    [48_000, 48_000, 256],
    [44_100, 44_100, 100],
    [96_000, 48_000, 128],
  ])(
    'an engine at %d Hz in a context of %d Hz and %d frames plays without a gap, and hears its input',
    (rate, contextRate, quantum) => {
      const border = new OutputBorder(rate, contextRate, quantum)
      const played = tone(rate, 4 * rate)
      const heard: number[] = []
      let at = 0
      const out: number[] = []
      const input = tone(contextRate, contextRate)
      const left = new Float32Array(quantum)
      for (let k = 0; (k + 1) * quantum <= 20_000; k++) {
        const block = input.subarray(k * quantum, (k + 1) * quantum)
        border.process(block, block, left, new Float32Array(quantum), (inLeft, _, l, r) => {
          heard.push(...inLeft)
          l.set(played.subarray(at, at + BLOCK))
          r.set(l)
          at += BLOCK
        })
        out.push(...left)
      }
      const wanted = tone(contextRate, out.length)
      let most = 0
      for (let i = 200; i < out.length; i++) most = Math.max(most, Math.abs((out[i] ?? 0) - (wanted[i] ?? 0)))
      expect(most).toBeLessThan(1e-4)
      // the input comes later, and whole
      const loud = heard.slice(2000).reduce((m, x) => Math.max(m, Math.abs(x)), 0)
      expect(loud).toBeGreaterThan(0.49)
      const steps = heard.slice(2000).map((x, i, all) => Math.abs(x - (all[i - 1] ?? x)))
      expect(Math.max(...steps)).toBeLessThan(0.5 * 2 * Math.PI * (311 / Math.min(rate, contextRate)) * 1.5)
    },
  )
})
