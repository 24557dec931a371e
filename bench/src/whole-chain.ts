import { StereoDelayLine } from '@oleaje/core/dsp/delay-line'
import { sineBlock } from '@oleaje/core/dsp/sines'
import type { EffectDefinition } from '@oleaje/core/contract/effect'
import { effectDefinition } from '@oleaje/core/effects/index'
import { BLOCK, type ParamBlock } from '@oleaje/core/contract/block'
import { RATE, rig, run } from './rig'

type Stereo = readonly [Float32Array, Float32Array]

/**
 * Saturation 4 × → five moving bells → two moving delays → compressor, made once; each call takes a whole
 * sound through it from rest and leaves the output in `out`. The same in C: whole-chain.c; in the browser's
 * graph: in-page.ts.
 */
export function ourWholeChain(): (input: Stereo, out: Stereo) => void {
  const drive = rig(effectDefinition('drive') as EffectDefinition, { drive: 18, output: 0, quality: 2 })
  const comp = rig(effectDefinition('compressor') as EffectDefinition, { threshold: -20, ratio: 4, knee: 6 })
  const eq = rig(
    effectDefinition('eq') as EffectDefinition,
    {},
    { bands: bells.map(([frequency]) => ({ frequency, gain: 6, q: 1.4 })) },
  )
  const moved = (eq.params.lanes.bands ?? []).map((b) => b.frequency as ParamBlock)
  const phases = new Float64Array(bells.length + delays.length)
  const left = new Float64Array(BLOCK)
  const right = new Float64Array(BLOCK)
  const lines = delays.map(([time, rate, depth]) => {
    const line = new StereoDelayLine(4800, 3, BLOCK)
    return {
      line,
      samples: line.block(),
      left: line.block(),
      right: line.block(),
      time: time * RATE,
      rate,
      depth: depth * RATE,
    }
  })

  function sway(): void {
    for (let b = 0; b < bells.length; b++) {
      const band = moved[b] as ParamBlock
      const hz = band.buffer
      const [base, rate, depth] = bells[b] as readonly [number, number, number]
      sineBlock(hz, phases.subarray(b, b + 1), rate / RATE)
      for (let i = 0; i < BLOCK; i++) hz[i] = base + depth * hz[i]!
      band.move()
    }
  }

  /** Both delays, from `left` and `right` into the compressor. */
  function delayed(): void {
    let fromL: Float64Array = left,
      fromR: Float64Array = right
    for (let d = 0; d < lines.length; d++) {
      const delay = lines[d] as (typeof lines)[number]
      const { line, samples } = delay
      sineBlock(samples, phases.subarray(bells.length + d, bells.length + d + 1), delay.rate / RATE)
      // written first, so everything lies a block further back
      for (let i = 0; i < BLOCK; i++) samples[i] = delay.time + BLOCK + delay.depth * samples[i]!
      line.write(fromL, fromR, 0, BLOCK)
      line.read(samples, delay.left, delay.right, 0, BLOCK)
      fromL = delay.left
      fromR = delay.right
    }
    comp.io.in.left.set(fromL)
    comp.io.in.right.set(fromR)
  }

  return ([inL, inR], [outL, outR]) => {
    for (const r of [drive, eq, comp]) r.processor.reset()
    for (const { line } of lines) line.reset()
    phases.fill(0)
    for (let at = 0; at + BLOCK <= inL.length; at += BLOCK) {
      drive.io.in.left.set(inL.subarray(at, at + BLOCK))
      drive.io.in.right.set(inR.subarray(at, at + BLOCK))
      run(drive)
      eq.io.in.left.set(drive.io.out.left)
      eq.io.in.right.set(drive.io.out.right)
      sway()
      run(eq)
      left.set(eq.io.out.left)
      right.set(eq.io.out.right)
      delayed()
      run(comp)
      outL.set(comp.io.out.left, at)
      outR.set(comp.io.out.right, at)
    }
  }
}

/** Of each bell: frequency, rate and depth of its sway, in Hz. */
export const bells = [
  [180, 0.3, 60],
  [500, 0.7, 200],
  [1200, 1.1, 500],
  [3000, 0.5, 1200],
  [7000, 0.9, 2500],
] as const

/** Of each delay: time in seconds, rate in Hz and depth in seconds. */
export const delays = [
  [0.011, 0.6, 0.002],
  [0.017, 0.9, 0.003],
] as const

/** Noise of −6 dBFS peak on both sides, the same each time. */
export function benchNoise(seconds: number): Stereo {
  const side = (seed: number): Float32Array => {
    let x = seed
    return Float32Array.from({ length: seconds * RATE }, () => {
      x = (Math.imul(x, 1664525) + 1013904223) | 0
      return (x / 4294967296) * 0.5
    })
  }
  return [side(1), side(2)]
}
