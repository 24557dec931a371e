import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { noise } from './rig'
import type { LaneValues } from '@oleaje/core/units/lane'
import type { ParamSet } from '@oleaje/core/engine/param-set'
import type * as Rig from './rig'

interface Case {
  readonly name: string
  readonly effect: string
  readonly values: Record<string, number>
  readonly lanes?: LaneValues
  readonly moving?: readonly string[]
}

const bands = (n: number): LaneValues => ({
  bands: Array.from({ length: n }, (_, b) => ({
    kind: b % 8,
    frequency: 90 * 2 ** b,
    gain: 6 - b,
    q: 0.7 + b / 4,
    slope: b % 4,
  })),
})

/** Every effect that has SIMD kernels, in the ways that take different roads through them. */
const cases: Case[] = [
  { name: 'Drive, naive', effect: 'drive', values: { quality: 0, bias: 0.2 } },
  { name: 'Drive at 2 times', effect: 'drive', values: { quality: 1, bias: 0.2 } },
  { name: 'Drive at 4 times', effect: 'drive', values: { quality: 2, bias: 0.2 } },
  { name: 'Drive at 8 times', effect: 'drive', values: { quality: 3, bias: 0.2 } },
  {
    name: 'Drive, moving, with its tones',
    effect: 'drive',
    values: { lowCut: 90, before: 5000, tone: 4000 },
    moving: ['drive', 'bias', 'output'],
  },
  { name: 'Drive, hard', effect: 'drive', values: { curve: 2, drive: 24 } },
  { name: 'Folder at 16 times', effect: 'folder', values: { quality: 4 } },
  { name: 'Shaper', effect: 'shaper', values: {} },
  { name: 'EQ at rest, an odd number of stages', effect: 'eq', values: {}, lanes: bands(3) },
  { name: 'EQ, all kinds', effect: 'eq', values: {}, lanes: bands(8) },
  {
    name: 'EQ, moving',
    effect: 'eq',
    values: { amount: 0.8 },
    lanes: bands(5),
    moving: ['bands[0].frequency', 'bands[1].frequency', 'bands[2].q', 'shift'],
  },
  { name: 'EQ, parallel', effect: 'eq', values: { row: 1 }, lanes: bands(4), moving: ['bands[1].frequency'] },
  { name: 'Delay', effect: 'delay', values: { time: 0.0123, feedback: 0.6 } },
  {
    name: 'Delay, moving',
    effect: 'delay',
    values: { time: 0.02, feedback: 0.7, path: 1 },
    moving: ['time'],
  },
  { name: 'Delay, cross-fading', effect: 'delay', values: { time: 0.02, change: 1 }, moving: ['time'] },
  { name: 'Reverb', effect: 'reverb', values: { predelay: 0 } },
  {
    name: 'Reverb, moving',
    effect: 'reverb',
    values: { predelay: 0.01, motion: 0.8 },
    moving: ['size', 'decay', 'width'],
  },
  { name: 'Frequency shift', effect: 'frequency-shift', values: { shift: 311, feedback: 0.6, time: 0.0021 } },
  { name: 'Phaser', effect: 'phaser', values: { stages: 8, rate: 3.1 }, moving: ['frequency', 'feedback'] },
  { name: 'Convolver', effect: 'convolver', values: { predelay: 0.0031 } },
  { name: 'Comb', effect: 'comb', values: { feedback: -0.97 }, moving: ['frequency', 'damping'] },
  { name: 'Resonators', effect: 'resonators', values: { decay: 2.1 }, moving: ['transpose'] },
  { name: 'Compressor', effect: 'compressor', values: { threshold: -30, knee: 12 } },
  {
    name: 'Compressor, no knee, by power, lifting',
    effect: 'compressor',
    values: { threshold: -20, knee: 0, detector: 1, upRatio: 3, sideCut: 200 },
  },
  {
    name: 'Compressor, moving',
    effect: 'compressor',
    values: { ahead: 1 },
    moving: ['threshold', 'ratio', 'attack', 'knee'],
  },
]

/** 0.3 s of an effect's output. */
function output(rig: typeof Rig, c: Case): { left: Float32Array; right: Float32Array } {
  const r = rig.effectRig(c.effect, c.values, { lanes: c.lanes })
  const move = (params: ParamSet, at: number): void => {
    for (const [k, path] of (c.moving ?? []).entries()) {
      const state = params.byName[path]
      if (!state) throw new Error(`${c.effect} has no ${path}`)
      const { block, spec } = state
      // some straight through a block, some bent, some at a stand for a while
      const rate = [0.00002, 0.003, 0.11][k % 3] as number
      const base = block.value
      for (let i = 0; i < 128; i++)
        block.buffer[i] = Math.min(spec.max, Math.max(spec.min, base * (1 + 0.1 * Math.sin((at + i) * rate))))
      if (at % 1024 < 640) block.move()
      else block.hold(base)
    }
  }
  return r.run(noise(0.3), noise(0.3, 5), (at) => {
    move(r.params, at)
  })
}

describe('SIMD kernels', () => {
  let plain: typeof Rig
  const wasm = globalThis.WebAssembly
  beforeAll(async () => {
    vi.resetModules()
    Reflect.deleteProperty(globalThis, 'WebAssembly')
    plain = await import('./rig')
    // compiled kernels are known to a module from its first use on
    for (const c of cases) output(plain, c)
    globalThis.WebAssembly = wasm
  })
  afterAll(() => {
    vi.resetModules()
  })

  it.each(cases)('give the same bits as the plain ways: $name', async (c) => {
    vi.resetModules()
    const simd = await import('./rig')
    const a = output(simd, c)
    const b = output(plain, c)
    expect(a.left.some((x) => x !== 0)).toBe(true)
    expect(a).toEqual(b)
  })

  it.each([NaN, 1e-23, -1e-23, -0, 3e-22])('a delay line keeps %s as the plain way does', async (x) => {
    const read = async (): Promise<Float64Array> => {
      vi.resetModules()
      const { StereoDelayLine } = await import('@oleaje/core/dsp/delay-line')
      const line = new StereoDelayLine(300, 5, 37)
      const [inL, inR, times, left, right] = Array.from({ length: 5 }, () => line.block())
      inL!.fill(x)
      inR!.fill(0.5)
      times!.fill(41)
      line.write(inL!, inR!, 0, 37)
      line.read(times!, left!, right!, 0, 37)
      return left!.slice()
    }
    const simd = await read()
    Reflect.deleteProperty(globalThis, 'WebAssembly')
    const without = await read()
    globalThis.WebAssembly = wasm
    expect(simd).toEqual(without)
  })

  it('were there at all', async () => {
    vi.resetModules()
    const { KernelMemory, SimdKernel } = await import('@oleaje/core/dsp/simd/kernel-memory')
    const { delayLineBytes } = await import('@oleaje/core/dsp/simd/delay-line.wasm')
    expect(new KernelMemory(new SimdKernel(delayLineBytes), 64).simd).not.toBeNull()
    expect(new KernelMemory(new SimdKernel('AAAA'), 64).simd).toBeNull()
  })
})

describe('the memory of kernels', () => {
  const fresh = async () => {
    vi.resetModules()
    const { KernelMemory, SimdKernel, prepareKernels } = await import('@oleaje/core/dsp/simd/kernel-memory')
    const { delayLineBytes } = await import('@oleaje/core/dsp/simd/delay-line.wasm')
    return { KernelMemory, kernel: new SimdKernel(delayLineBytes), prepareKernels }
  }

  it('is shared by many, without one lying over another', async () => {
    const { KernelMemory, kernel } = await fresh()
    const all = Array.from({ length: 400 }, (_, i) => {
      const m = new KernelMemory(kernel, 8 * 100 + 16)
      const a = m.doubles(100),
        b = m.ints(3)
      a.fill(i)
      b.fill(-i)
      return { a, b, m }
    })
    all.forEach(({ a, b }, i) => {
      expect(a.every((v) => v === i)).toBe(true)
      expect(b.every((v) => v === -i)).toBe(true)
    })
    expect(new Set(all.map(({ a }) => a.buffer)).size).toBe(1)
    expect(new Set(all.map(({ m }) => m.simd)).size).toBe(1)
  })

  it('is there before it is wanted, once it has been prepared', async () => {
    const { KernelMemory, kernel, prepareKernels } = await fresh()
    prepareKernels()
    const { Memory } = globalThis.WebAssembly
    let made = 0
    Object.assign(globalThis.WebAssembly, {
      Memory: class extends Memory {
        constructor(o: WebAssembly.MemoryDescriptor) {
          super(o)
          made++
        }
      },
    })
    try {
      // half an arena, as of seven delays
      for (let i = 0; i < 7; i++) expect(new KernelMemory(kernel, 16 << 20).simd).not.toBeNull()
      expect(made).toBe(0)
      prepareKernels()
      prepareKernels()
      expect(made).toBe(0)
      for (let i = 0; i < 7; i++) new KernelMemory(kernel, 16 << 20)
      expect(made).toBe(0)
      prepareKernels()
      expect(made).toBe(1)
    } finally {
      Object.assign(globalThis.WebAssembly, { Memory })
    }
  })

  it('holds a table once for all that read it, as it is', async () => {
    const { KernelMemory, kernel } = await fresh()
    const table = Float32Array.from({ length: 100 }, (_, i) => i / 7)
    const a = new KernelMemory(kernel, 64),
      b = new KernelMemory(kernel, 64)
    expect(a.table(table)).toBe(b.table(table))
    expect([...a.table(table)]).toEqual([...table])
    a.doubles(8).fill(NaN)
    expect(b.table(table)[99]).toBe(Math.fround(99 / 7))
    expect(() => a.table(new Float32Array(1 << 19))).toThrow('more tables')
  })

  it('has room for more than an arena holds, and is empty at first', async () => {
    const { KernelMemory, kernel } = await fresh()
    const big = new KernelMemory(kernel, 80 << 20).floats(20 << 20)
    expect(big.length).toBe(20 << 20)
    expect(big[12345]).toBe(0)
    expect(new KernelMemory(kernel, 64).doubles(8)[7]).toBe(0)
  })

  it('says so where more is asked of it than it was made for', async () => {
    const { KernelMemory, kernel } = await fresh()
    const m = new KernelMemory(kernel, 64)
    m.doubles(8)
    expect(() => m.doubles(1)).toThrow('More arrays')
  })

  it('gives plain arrays where the browser gives no memory', async () => {
    const { KernelMemory, kernel } = await fresh()
    const { Memory } = globalThis.WebAssembly
    Object.assign(globalThis.WebAssembly, {
      Memory: class {
        constructor() {
          throw new RangeError('no memory')
        }
      },
    })
    try {
      const m = new KernelMemory(kernel, 64)
      expect(m.simd).toBeNull()
      expect(m.doubles(100)).toHaveLength(100)
    } finally {
      Object.assign(globalThis.WebAssembly, { Memory })
    }
  })
})
