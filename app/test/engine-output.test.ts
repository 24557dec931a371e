import { describe, expect, it } from 'vitest'
import { EngineOutput } from '../worklet/engine-output'

const BLOCK = 128

/** Blocks that the engine works out while a context asks for so many frames, and what comes out. */
function asked(rate: number, contextRate: number, quantum: number, frames: number) {
  let blocks = 0
  let at = 0
  const output = new EngineOutput(rate, contextRate, (_left, _right, left, right) => {
    blocks++
    // a tone of 311 Hz at the engine's rate
    for (let i = 0; i < BLOCK; i++) left[i] = right[i] = Math.sin((2 * Math.PI * 311 * at++) / rate)
  })
  const heard = new Float32Array(frames)
  for (let from = 0; from < frames; from += quantum) {
    const left = new Float32Array(quantum)
    output.process(undefined, left, new Float32Array(quantum))
    heard.set(left.subarray(0, Math.min(quantum, frames - from)), from)
  }
  let turns = 0
  for (let i = 1; i < frames; i++) if (heard[i - 1]! < 0 && heard[i]! >= 0) turns++
  return { blocks, hz: (turns * contextRate) / frames }
}

describe('the way from the engine to the context', () => {
  it.each([
    [48_000, 48_000, 128],
    [44_100, 48_000, 128],
    [48_000, 44_100, 128],
    [96_000, 44_100, 128],
    [48_000, 48_000, 256],
    [44_100, 48_000, 1024],
  ])('from %i Hz to %i in quanta of %i, time and pitch stay as they are', (rate, contextRate, quantum) => {
    const { blocks, hz } = asked(rate, contextRate, quantum, contextRate)
    expect(Math.abs((blocks * BLOCK) / rate - 1)).toBeLessThan(0.03)
    expect(Math.abs(hz - 311)).toBeLessThan(2.5)
  })
})
