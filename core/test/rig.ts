import type { EffectDefinition } from '@oleaje/core/contract/effect'
import type { SourceDefinition } from '@oleaje/core/contract/source'
import { effectDefinition } from '@oleaje/core/effects/index'
import { BLOCK, ParamBlock, noteBlock, pushNote, songBlock, stereoBlock } from '@oleaje/core/contract/block'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { ParamSet } from '@oleaje/core/engine/param-set'
import { Fft } from '@oleaje/core/dsp/fft'
import { insideAt } from '@oleaje/core/units/scale'
import type { LaneValues } from '@oleaje/core/units/lane'
import { commonParams } from '@oleaje/core/project/nodes/common-params'

export const RATE = 48_000

/** One effect by itself, fed block by block. `move` may write the parameters' buffers before each block. */
export function effectRig(
  id: string,
  values: Record<string, number> = {},
  o: { lanes?: LaneValues; data?: Record<string, unknown> } = {},
) {
  const definition = effectDefinition(id) as EffectDefinition
  const params = new ParamSet(
    { ...definition.params, ...commonParams },
    values,
    RATE,
    definition.lanes,
    o.lanes,
  )
  params.reset()
  const processor = definition.create({
    sampleRate: RATE,
    seed: 7,
    latency: definition.latency?.(RATE, values),
  })
  processor.take?.(o.data ?? {})
  processor.reset()
  const song = songBlock()
  song.beatsPerFrame = 120 / 60 / RATE
  const input = stereoBlock()
  const io = {
    in: input,
    out: stereoBlock(),
    side: input,
    song,
    notes: noteBlock(),
    lanes: params.laneBlocks,
  }
  function run(
    left: Float32Array,
    right: Float32Array = left,
    move?: (at: number) => void,
  ): { left: Float32Array; right: Float32Array } {
    const frames = Math.ceil(left.length / BLOCK) * BLOCK
    const out = { left: new Float32Array(frames), right: new Float32Array(frames) }
    for (let at = 0; at < frames; at += BLOCK) {
      for (let i = 0; i < BLOCK; i++) {
        input.left[i] = left[at + i] ?? 0
        input.right[i] = right[at + i] ?? 0
      }
      move?.(at)
      processor.process(io, params.blocks as never)
      out.left.set(io.out.left, at)
      out.right.set(io.out.right, at)
    }
    return out
  }
  return { definition, params, processor, io, run }
}

/**
 * One source by itself, played block by block from the start of the song at 120 bpm. Notes may be written
 * before each block.
 */
export function sourceRig(
  definition: SourceDefinition,
  values: Record<string, number> = {},
  o: {
    channels?: Float32Array[] | null
    sounds?: (Float32Array[] | null)[]
    lanes?: LaneValues
    tempo?: number
  } = {},
) {
  const params = new ParamSet(definition.params, values, RATE, definition.lanes, o.lanes)
  params.reset()
  const processor = definition.create({ sampleRate: RATE, seed: 3 })
  processor.take?.({})
  processor.reset()
  const song = songBlock()
  song.playing = true
  song.beatsPerFrame = (o.tempo ?? 120) / 60 / RATE
  const out = stereoBlock()
  const sound = (channels: Float32Array[] | null | undefined) =>
    channels ? { sampleRate: RATE, channels } : null
  const notes = noteBlock()
  const io = {
    out,
    outputs: [out, ...(definition.outputs ?? []).map(() => stereoBlock())],
    song,
    audio: sound(o.channels),
    sounds: (o.sounds ?? []).map(sound),
    side: stereoBlock(),
    input: stereoBlock(),
    notes,
    lanes: params.laneBlocks,
  }
  let at = 0
  /** A note of the block to come, at a frame of it; velocity 0 ends it. */
  function note(pitch: number, velocity: number, frame = 0): void {
    const known = held.get(pitch) ?? []
    held.set(pitch, known)
    if (velocity > 0) known.push(++lastId)
    pushNote(
      notes,
      frame,
      velocity > 0 ? 1 : 0,
      velocity > 0 ? lastId : (known.shift() ?? 0),
      pitch,
      velocity,
    )
  }
  /** Numbers of the notes that are held, by pitch. */
  const held = new Map<number, number[]>()
  let lastId = 0
  /**
   * So many blocks more; the song jumps to a frame where one is given, so many frames into the first of them.
   */
  function run(blocks: number, before?: (block: number) => void, jump?: { to: number; after: number }) {
    const left = new Float32Array(blocks * BLOCK)
    const right = new Float32Array(blocks * BLOCK)
    for (let b = 0; b < blocks; b++) {
      song.jump = b === 0 && jump ? jump.after : -1
      for (let i = 0; i < BLOCK; i++) {
        if (song.jump === i) at = jump?.to ?? at
        song.frames[i] = at
        song.beats[i] = song.run[i] = at * song.beatsPerFrame
        at++
      }
      before?.(b)
      processor.process(io, params.blocks as never)
      notes.count = 0
      left.set(out.left, b * BLOCK)
      right.set(out.right, b * BLOCK)
    }
    return { left, right }
  }
  return {
    definition,
    params,
    processor,
    io,
    song,
    run,
    note,
    seek: (frame: number) => {
      at = frame
    },
  }
}

/** Moves every number of a set over its whole range at audio rate. */
export function shake(params: ParamSet, at: number): void {
  params.all.forEach((state, k) => {
    if (state.spec.unit === 'choice' || state.spec.unit === 'toggle') {
      state.block.hold(Math.floor((at / BLOCK + k) % (state.spec.max + 1)))
      return
    }
    for (let i = 0; i < BLOCK; i++)
      state.block.buffer[i] = insideAt(state.spec, 0.5 + 0.5 * Math.sin((at + i) * (0.013 + 0.007 * k)))
    state.block.move()
  })
}

/**
 * One modulator by itself, run block by block while the song plays from beat 0 at 120 bpm. `before` may write
 * inputs before each block.
 */
export function modulatorRig(
  id: string,
  values: Record<string, number> = {},
  o: {
    lanes?: LaneValues
    data?: Record<string, unknown>
    seed?: number
    fan?: { phase: number; rate: number }
  } = {},
) {
  const definition = modulatorDefinition(id)!
  const params = new ParamSet(definition.params, values, RATE, definition.lanes, o.lanes)
  params.reset()
  const processor = definition.create({ sampleRate: RATE, seed: o.seed ?? 3, fan: o.fan })
  processor.take?.(o.data ?? {})
  processor.reset()
  const song = songBlock()
  song.playing = true
  song.beatsPerFrame = 2 / RATE
  const io = {
    outputs: definition.outputs.map(() => new ParamBlock(0)),
    side: stereoBlock(),
    song,
    inputs: (definition.inputs ?? []).map((): ParamBlock | null => new ParamBlock(0)),
    notes: noteBlock(),
    lanes: params.laneBlocks,
  }
  let at = 0
  function block(): void {
    for (let i = 0; i < BLOCK; i++) {
      song.frames[i] = at + i
      song.beats[i] = song.run[i] = (at + i) * song.beatsPerFrame
    }
    at += BLOCK
    processor.process(io, params.blocks as never)
  }
  /** All that an output gives over so many seconds. */
  function run(seconds: number, before?: (at: number) => void, output = 0): Float64Array {
    const blocks = Math.ceil((seconds * RATE) / BLOCK)
    const all = new Float64Array(blocks * BLOCK)
    for (let b = 0; b < blocks; b++) {
      before?.(at)
      block()
      all.set(io.outputs[output]!.values(), b * BLOCK)
    }
    return all
  }
  return { definition, params, processor, io, song, block, run }
}

export const sine = (hz: number, seconds: number, level = 1): Float32Array =>
  Float32Array.from(
    { length: Math.round(seconds * RATE) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / RATE),
  )

export function noise(seconds: number, seed = 1, level = 0.5): Float32Array {
  let x = seed
  return Float32Array.from({ length: Math.round(seconds * RATE) }, () => {
    x = (Math.imul(x, 1664525) + 1013904223) | 0
    return (x / 2147483648) * level
  })
}

export const db = (x: number): number => 20 * Math.log10(Math.abs(x) + 1e-300)
export function rms(x: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < x.length; i++) sum += x[i]! ** 2
  return Math.sqrt(sum / x.length)
}
export function peak(x: ArrayLike<number>): number {
  let most = 0
  for (let i = 0; i < x.length; i++) most = Math.max(most, Math.abs(x[i]!))
  return most
}

/**
 * Magnitudes in dB of a stretch whose length is a power of two, with a window of very low side lobes
 * (Blackman–Harris, 1978).
 */
export function spectrumDb(x: ArrayLike<number>): Float64Array {
  const n = x.length
  const re = Float64Array.from({ length: n }, (_, i) => {
    const p = (2 * Math.PI * i) / n
    return (
      ((((x[i] ?? 0) *
        (0.35875 - 0.48829 * Math.cos(p) + 0.14128 * Math.cos(2 * p) - 0.01168 * Math.cos(3 * p))) /
        0.35875) *
        2) /
      n
    )
  })
  const im = new Float64Array(n)
  new Fft(n).forward(re, im)
  return Float64Array.from(
    { length: n / 2 },
    (_, i) => 10 * Math.log10((re[i] ?? 0) ** 2 + (im[i] ?? 0) ** 2 + 1e-30),
  )
}

/** Complex amplitude of one frequency in a stretch, by correlation. Use a whole number of periods. */
export function toneAt(x: ArrayLike<number>, hz: number, rate = RATE): { amplitude: number; phase: number } {
  let re = 0
  let im = 0
  for (let i = 0; i < x.length; i++) {
    re += (x[i] ?? 0) * Math.cos((2 * Math.PI * hz * i) / rate)
    im -= (x[i] ?? 0) * Math.sin((2 * Math.PI * hz * i) / rate)
  }
  return { amplitude: (2 * Math.hypot(re, im)) / x.length, phase: Math.atan2(im, re) }
}
