import { StereoDelayLine } from '@oleaje/core/dsp/delay-line'
import { Diffuser } from '@oleaje/core/dsp/diffuser'
import { HilbertPair } from '@oleaje/core/dsp/hilbert'
import { shapeRound } from '@oleaje/core/dsp/antiderivative'
import { sinCycles, tanPi, tanh } from '@oleaje/core/dsp/math'
import { sineBlock } from '@oleaje/core/dsp/sines'
import { Oversampler } from '@oleaje/core/dsp/oversampler'
import type { EffectDefinition, EffectPreset } from '@oleaje/core/contract/effect'
import { effectDefinition, effects } from '@oleaje/core/effects/index'
import { BLOCK, ParamBlock, type StereoBlock } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { LinkState } from '@oleaje/core/engine/link-state'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { readProject } from '@oleaje/core/project/read'
import { linkParams, linkSettings } from '@oleaje/core/project/targets'
import { newLink } from '@oleaje/core/project/new'
import { percent } from '@oleaje/core/units/parameter'
import { readWav } from '@oleaje/core/formats/wav'
import { audioHash } from '@oleaje/core/formats/hash'
import { ALIAS_SIZE, aliasBin, aliasSum } from './aliases'
import { RATE, rig, run } from './rig'
import { bells, benchNoise, delays, ourWholeChain } from './whole-chain'

/** Nanoseconds a call, best of several rounds: the least disturbed one. */
function time(calls: number, f: () => void, rounds = 7): number {
  let best = Infinity
  for (let r = 0; r < rounds; r++) {
    const start = performance.now()
    for (let i = 0; i < calls; i++) f()
    best = Math.min(best, ((performance.now() - start) * 1e6) / calls)
  }
  return best
}

function fill(block: StereoBlock, seed = 1): void {
  let x = seed
  for (let i = 0; i < BLOCK; i++) {
    x = (Math.imul(x, 1664525) + 1013904223) | 0
    block.left[i] = x / 4294967296
    block.right[i] = sinCycles(i / 64) * 0.4
  }
}

/** Effects whose cost depends on how they are set, as their budgets have it. */
function costly(): {
  id: string
  definition: EffectDefinition
  values?: Record<string, number>
  lanes?: EffectPreset['lanes']
}[] {
  const of = (id: string): EffectDefinition => effectDefinition(id) as EffectDefinition
  const cloud = of('taps').presets?.find((p) => p.name === 'Cloud of taps')
  return [
    {
      id: 'taps, 24 with filter and comb',
      definition: of('taps'),
      values: cloud?.params,
      lanes: cloud?.lanes,
    },
    { id: 'grains, 32 at once', definition: of('grains'), values: { overlap: 32, most: 32, size: 0.2 } },
    { id: 'pitch, fine, one voice', definition: of('pitch'), values: { quality: 1 } },
    { id: 'stutter, open at half speed', definition: of('stutter'), values: { by: 2, hold: 1, speed: 0.5 } },
    { id: 'varispeed, behind at 0.84', definition: of('varispeed'), values: { speed: 0.84, after: 0 } },
    {
      id: 'delay, all in the loop',
      definition: of('delay'),
      values: { diffusion: 0.5, pitch: 7, duck: 12, sides: 1 },
    },
  ]
}

/**
 * ns a stereo frame and × real time of each effect, at its defaults and with all its numbers moving at audio
 * rate.
 */
export function effectCosts(): { id: string; still: number; moving: number }[] {
  const all: ReturnType<typeof costly> = [
    ...effects.map((definition) => ({ id: definition.id, definition })),
    ...costly(),
  ]
  return all.map(({ id, definition: d, values, lanes }) => {
    const r = rig(d, values, lanes)
    fill(r.io.in)
    r.processor.reset()
    for (let i = 0; i < 500; i++) run(r)
    const still = time(400, () => run(r)) / BLOCK
    for (const state of r.params.all) {
      if (state.spec.unit === 'choice' || state.spec.unit === 'toggle') continue
      const b = state.block
      const base = b.value
      for (let i = 0; i < BLOCK; i++) b.buffer[i] = base * (1 + 0.05 * sinCycles(i / BLOCK))
      b.move()
    }
    for (let i = 0; i < 500; i++) run(r)
    return { id, still, moving: time(400, () => run(r)) / BLOCK }
  })
}

/** ns a sample of the kernels. */
export function kernelCosts(): { id: string; ns: number }[] {
  const x = Float64Array.from({ length: 512 }, (_, i) => sinCycles(i / 50) * 4)
  const line = new StereoDelayLine(4096, 3, BLOCK)
  const over = new Oversampler(BLOCK)
  const source = new ParamBlock(0)
  for (let i = 0; i < BLOCK; i++) source.buffer[i] = sinCycles(i / 128) * 0.5 + 0.5
  source.move()
  const linked = newLink('s', 'wave', { owner: 'o', param: 'p' }, -0.2, 0.3, 'l')
  const link = new LinkState(
    linked,
    source,
    percent('Probe', { default: 0.5 }),
    new ParamSet(linkParams, linkSettings(linked), RATE),
    RATE,
  )
  const places = new Float64Array(BLOCK)
  const lineTimes = line.block(),
    lineL = line.block(),
    lineR = line.block()
  for (let i = 0; i < BLOCK; i++) lineTimes[i] = 300.3 + i * 0.01
  const sink = new Float64Array(1)
  const diffuser = new Diffuser(RATE)
  const pair = new HilbertPair(BLOCK)
  const half = new Float64Array(BLOCK),
    right = new Float64Array(BLOCK),
    other = new Float64Array(BLOCK)
  /** What is worked on in place is filled anew, as it is in C. */
  const refill = (): void => {
    for (let i = 0; i < BLOCK; i++) half[i] = right[i] = source.buffer[(i * 7) % BLOCK]! * 0.3
  }
  const per = (n: number, f: () => void): number => time(2000, f) / n
  const out = [
    {
      id: 'half-band 4 × up and down',
      ns: per(BLOCK, () => {
        over.raise(4)
        over.lower(4)
      }),
    },
    {
      id: 'antiderivative curve',
      ns: per(512, () => {
        sink[0]! += shapeRound(x, 0)
      }),
    },
    {
      id: 'sinc delay, both sides',
      ns: per(BLOCK, () => {
        line.write(places, places, 0, BLOCK)
        line.read(lineTimes, lineL, lineR, 0, BLOCK)
      }),
    },
    {
      id: 'diffuser',
      ns: per(BLOCK, () => {
        refill()
        diffuser.process(half, other, source.buffer, 0, BLOCK)
      }),
    },
    {
      id: 'Hilbert pair, both sides',
      ns: per(BLOCK, () => {
        for (let i = 0; i < 2 * BLOCK; i++) pair.real[i] = source.buffer[(i * 7) % BLOCK]! * 0.3
        pair.process(0, BLOCK)
      }),
    },
    {
      id: 'tan',
      ns: per(512, () => {
        for (let i = 0; i < 512; i++) sink[0]! += tanPi(i / 1100)
      }),
    },
    {
      id: 'tanh',
      ns: per(512, () => {
        for (let i = 0; i < 512; i++) sink[0]! += tanh(x[i] ?? 0)
      }),
    },
    {
      id: 'audio-rate link',
      ns: per(BLOCK, () => {
        link.moves()
        link.add(places, 0.5, 0.5)
      }),
    },
  ]
  if (!Number.isFinite(sink[0])) throw new Error('a kernel gave no number')
  return out
}

const SECONDS = 6
const ROUNDS = 11

/** × real time of the browser's graph and of ours, and how many times as fast ours is. */
export interface Comparison {
  readonly graph: number
  readonly ours: number
  readonly ratio: number
}

/**
 * Runs both by turns and takes medians, of the ratio too: a slow moment of the machine then falls on a
 * neighbouring pair, and no single lucky round decides. The first round warms up.
 */
async function compare(theirs: () => Promise<number>, own: () => number): Promise<Comparison> {
  const rounds: { graph: number; ours: number; ratio: number }[] = []
  for (let i = 0; i <= ROUNDS; i++) {
    const graph = await theirs()
    const ours = own()
    if (i) rounds.push({ graph, ours, ratio: ours / graph })
  }
  const median = (key: 'graph' | 'ours' | 'ratio'): number =>
    rounds.map((r) => r[key]).sort((a, b) => a - b)[ROUNDS >> 1] ?? 0
  return { graph: median('graph'), ours: median('ours'), ratio: median('ratio') }
}

/** Renders the browser's own graph and gives × real time, and its output. */
async function graph(
  build: (context: OfflineAudioContext, input: AudioNode) => AudioNode,
  input: AudioBuffer,
): Promise<{ factor: number; output: AudioBuffer }> {
  const context = new OfflineAudioContext(2, input.length, RATE)
  const source = context.createBufferSource()
  source.buffer = input
  build(context, source).connect(context.destination)
  source.start()
  const start = performance.now()
  const output = await context.startRendering()
  return { factor: input.length / RATE / ((performance.now() - start) / 1000), output }
}

function bufferOf(sound: readonly Float32Array[]): AudioBuffer {
  const [first] = sound
  const buffer = new AudioBuffer({ length: first?.length ?? 1, numberOfChannels: 2, sampleRate: RATE })
  for (const [c, side] of sound.entries()) buffer.copyToChannel(side as Float32Array<ArrayBuffer>, c)
  return buffer
}

function timesRealTime(frames: number, f: () => void): number {
  const start = performance.now()
  f()
  return frames / RATE / ((performance.now() - start) / 1000)
}

const GAIN = 10 ** (18 / 20)
/** The same curve in both: x / √(1 + x²). */
function shaper(context: OfflineAudioContext): WaveShaperNode {
  const curve = new Float32Array(8193)
  // the node reads its table over −1…1, so what goes in is scaled down by 16 and the table reaches to ±16
  for (let i = 0; i < curve.length; i++) {
    const x = (i / 4096 - 1) * 16
    curve[i] = x / Math.sqrt(1 + x * x)
  }
  return new WaveShaperNode(context, { curve, oversample: '4x' })
}

let chainAtWork: ReturnType<typeof ourWholeChain> | null = null
const chainSound = benchNoise(SECONDS)
const chainOut = [new Float32Array(SECONDS * RATE), new Float32Array(SECONDS * RATE)] as const

/** One round of the whole chain in the browser's graph and in ours, × real time. */
export async function wholeChainRound(): Promise<{ graph: number; ours: number }> {
  const chain = (chainAtWork ??= ourWholeChain())
  const { factor } = await graph(wholeChainGraph, bufferOf(chainSound))
  return { graph: factor, ours: timesRealTime(SECONDS * RATE, () => chain(chainSound, chainOut)) }
}

/** So many last samples of its left side in ours. */
export const wholeChainLast = (samples: number): number[] => [...chainOut[0].slice(-samples)]

/** Aliases of its saturation in dB, at 1.2 and 5 kHz. */
export async function wholeChainAliases(): Promise<{ graph: number[]; ours: number[] }> {
  return {
    graph: [await graphAliases(1200), await graphAliases(5000)],
    ours: [driveAliases(1200, 2), driveAliases(5000, 2)],
  }
}

/** The whole chain (see whole-chain.ts) in the browser's graph. */
function wholeChainGraph(c: OfflineAudioContext, from: AudioNode): AudioNode {
  let node = from.connect(new GainNode(c, { gain: GAIN / 16 })).connect(shaper(c)) as AudioNode
  const sway = (rate: number, depth: number, param: AudioParam): void => {
    const o = new OscillatorNode(c, { frequency: rate })
    o.connect(new GainNode(c, { gain: depth })).connect(param)
    o.start()
  }
  for (const [hz, rate, depth] of bells) {
    const bell = new BiquadFilterNode(c, { type: 'peaking', frequency: hz, Q: 1.4, gain: 6 })
    sway(rate, depth, bell.frequency)
    node = node.connect(bell)
  }
  for (const [time, rate, depth] of delays) {
    const d = new DelayNode(c, { maxDelayTime: 0.1, delayTime: time })
    sway(rate, depth, d.delayTime)
    node = node.connect(d)
  }
  return node.connect(new DynamicsCompressorNode(c, { threshold: -20, ratio: 4, knee: 6 }))
}

async function graphAliases(frequency: number): Promise<number> {
  const bin = aliasBin(frequency, RATE)
  const buffer = new AudioBuffer({ length: ALIAS_SIZE * 3, numberOfChannels: 2, sampleRate: RATE })
  for (let c = 0; c < 2; c++)
    buffer.copyToChannel(
      Float32Array.from({ length: ALIAS_SIZE * 3 }, (_, i) => sinCycles((i * bin) / ALIAS_SIZE)),
      c,
    )
  const { output } = await graph(
    (c, from) => from.connect(new GainNode(c, { gain: GAIN / 16 })).connect(shaper(c)),
    buffer,
  )
  return aliasSum(output.getChannelData(0).slice(ALIAS_SIZE, ALIAS_SIZE * 2), bin, RATE)
}

/** Aliases of our Drive for a full-scale sine at 18 dB: quality 0 naive, 1 … 3 for 2 ×, 4 ×, 8 ×. */
export function driveAliases(frequency: number, quality: number): number {
  const bin = aliasBin(frequency, RATE)
  const r = rig(effectDefinition('drive') as EffectDefinition, { drive: 18, output: 0, quality })
  r.processor.reset()
  // long enough for the DC blocker to have settled where it is measured
  const out = new Float32Array(ALIAS_SIZE * 8)
  for (let at = 0; at < out.length; at += BLOCK) {
    for (let i = 0; i < BLOCK; i++)
      r.io.in.left[i] = r.io.in.right[i] = sinCycles(((at + i) * bin) / ALIAS_SIZE)
    run(r)
    out.set(r.io.out.left, at)
  }
  return aliasSum(out.slice(7 * ALIAS_SIZE), bin, RATE)
}

/** One stereo low-pass with its frequency moving at audio rate: the browser's biquad and our Filter. */
export async function singleFilter(): Promise<Comparison> {
  const input = bufferOf(benchNoise(20))
  const build = (c: OfflineAudioContext, from: AudioNode): AudioNode => {
    const f = new BiquadFilterNode(c, { type: 'lowpass', frequency: 1000, Q: 2 })
    const o = new OscillatorNode(c, { frequency: 3 })
    o.connect(new GainNode(c, { gain: 700 })).connect(f.frequency)
    o.start()
    return from.connect(f)
  }
  return compare(
    async () => (await graph(build, input)).factor,
    () => ourFilter(input),
  )
}

/**
 * Eight stereo bells with all their frequencies moving at audio rate: eight of the browser's biquads and our
 * EQ.
 */
export async function eightBands(): Promise<Comparison> {
  const input = bufferOf(benchNoise(SECONDS))
  const centres = [90, 180, 360, 720, 1400, 2800, 5600, 9000]
  const build = (c: OfflineAudioContext, from: AudioNode): AudioNode =>
    centres.reduce((node: AudioNode, hz, i) => {
      const bell = new BiquadFilterNode(c, { type: 'peaking', frequency: hz, Q: 1.4, gain: 6 })
      const o = new OscillatorNode(c, { frequency: 0.5 + i * 0.3 })
      o.connect(new GainNode(c, { gain: hz * 0.4 })).connect(bell.frequency)
      o.start()
      return node.connect(bell)
    }, from)
  const lanes = { bands: centres.map((frequency) => ({ frequency, gain: 6, q: 1.4 })) }
  return compare(
    async () => (await graph(build, input)).factor,
    () => {
      const r = rig(effectDefinition('eq') as EffectDefinition, {}, lanes)
      r.processor.reset()
      const moved = (r.params.lanes.bands ?? []).map((b) => b.frequency as ParamBlock)
      const phases = new Float64Array(8)
      const left = input.getChannelData(0)
      const right = input.getChannelData(1)
      const start = performance.now()
      for (let at = 0; at + BLOCK <= left.length; at += BLOCK) {
        r.io.in.left.set(left.subarray(at, at + BLOCK))
        r.io.in.right.set(right.subarray(at, at + BLOCK))
        for (let b = 0; b < 8; b++) {
          const hz = (moved[b] as ParamBlock).buffer
          const centre = centres[b] ?? 0
          sineBlock(hz, phases.subarray(b, b + 1), (0.5 + b * 0.3) / RATE)
          for (let i = 0; i < BLOCK; i++) hz[i] = centre * (1 + 0.4 * hz[i]!)
          moved[b]?.move()
        }
        run(r)
      }
      return left.length / RATE / ((performance.now() - start) / 1000)
    },
  )
}

function ourFilter(input: AudioBuffer): number {
  const r = rig(effectDefinition('filter') as EffectDefinition, { resonance: 2 })
  r.processor.reset()
  const cutoff = r.params.blocks.cutoff as ParamBlock
  const hz = cutoff.buffer
  const phase = new Float64Array(1)
  const left = input.getChannelData(0)
  const right = input.getChannelData(1)
  const start = performance.now()
  for (let at = 0; at + BLOCK <= left.length; at += BLOCK) {
    r.io.in.left.set(left.subarray(at, at + BLOCK))
    r.io.in.right.set(right.subarray(at, at + BLOCK))
    sineBlock(hz, phase, 3 / RATE)
    for (let i = 0; i < BLOCK; i++) hz[i] = 1000 + 700 * hz[i]!
    cutoff.move()
    run(r)
  }
  return left.length / RATE / ((performance.now() - start) / 1000)
}

/** An engine playing the demo project, warmed up. */
async function demoEngine(project: string, wavs: string[]): Promise<() => void> {
  const sounds = new Map(
    await Promise.all(
      wavs.map(async (base64) => {
        const wav = readWav(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)))
        return [await audioHash(wav), wav] as const
      }),
    ),
  )
  const engine = new Engine({ sampleRate: RATE, audio: (hash) => sounds.get(hash) ?? null })
  engine.load(readProject(project))
  engine.setMonitor({ ...openMonitor, probe: { track: 'pad', modulator: 'tide' } })
  engine.play(0)
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  const block = (): void => engine.process(left, right)
  for (let i = 0; i < 4000; i++) block()
  return block
}

/**
 * The demo project played for some seconds in blocks of 128: share of one core, and the worst block against
 * its time.
 */
export async function demoLoad(
  project: string,
  wavs: string[],
  seconds: number,
): Promise<{ load: number; worst: number; over: number; blocks: number }> {
  const block = await demoEngine(project, wavs)
  const blocks = Math.round((seconds * RATE) / BLOCK)
  const slot = (BLOCK / RATE) * 1000
  let worst = 0
  let over = 0
  const start = performance.now()
  for (let i = 0; i < blocks; i++) {
    const t = performance.now()
    block()
    const took = performance.now() - t
    if (took > worst) worst = took
    if (took > slot) over++
  }
  return { load: (performance.now() - start) / (blocks * slot), worst: worst / slot, over, blocks }
}

Object.assign(globalThis, {
  effectCosts,
  kernelCosts,
  wholeChainRound,
  wholeChainLast,
  wholeChainAliases,
  singleFilter,
  driveAliases,
  demoLoad,
  eightBands,
})
