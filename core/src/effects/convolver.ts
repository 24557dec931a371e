import { Convolver, Kernel } from '../dsp/convolution'
import {
  type Impulse,
  type ImpulseName,
  PIECE,
  type Pieces,
  finish,
  impulseNamed,
  impulseNames,
  impulsePieces,
} from '../dsp/impulses'
import { SINC_PHASES, SINC_TAPS, sincTable } from '../dsp/sinc-table'
import { exp } from '../dsp/math'
import { BLOCK } from '../contract/block'
import type { AudioData } from '../contract/audio'
import { boost, seconds } from '../units/parameter'
import { readNumber } from '../units/read-number'
import { defineEffect } from '../contract/effect'

/** Longest response in seconds. */
export const LONGEST_IMPULSE = 10
/**
 * Partitions that are made ready in a block while it plays, and blocks in which one response gives way to the
 * next.
 */
const READY_AT_ONCE = 2
const FADE_BLOCKS = 8

/**
 * What is done with a response before it is used. `start` and `end` are shares of it, `stretch` a factor of
 * its length.
 */
export interface ImpulseShape {
  readonly name: ImpulseName
  readonly audio: string | null
  readonly start: number
  readonly end: number
  readonly stretch: number
  readonly fade: number
  readonly reverse: boolean
}

/** The effect's data as stored, which may be anything. */
export function impulseShape(data: Readonly<Record<string, unknown>> | undefined): ImpulseShape {
  const start = readNumber(data?.start, 0, 0.99, 0)
  return {
    name: impulseNames.find((n) => n === data?.impulse) ?? 'cabin',
    audio: typeof data?.audio === 'string' ? data.audio : null,
    start,
    end: readNumber(data?.end, start + 0.001, 1, 1),
    stretch: readNumber(data?.stretch, 0.25, 4, 1),
    fade: readNumber(data?.fade, 0, 1, 0),
    reverse: data?.reverse === true,
  }
}

/**
 * Trims, turns round, stretches and fades a response, and brings it to a level at which noise keeps its
 * loudness.
 */
export function* shapePieces(raw: Impulse, shape: ImpulseShape, sampleRate: number): Pieces<Impulse> {
  const from = Math.floor(shape.start * raw.left.length)
  const span = Math.max(1, Math.floor(shape.end * raw.left.length) - from)
  const length = Math.max(
    1,
    Math.min(Math.round(LONGEST_IMPULSE * sampleRate), Math.round(span * shape.stretch)),
  )
  const out = { left: new Float32Array(length), right: new Float32Array(length) }
  let most = 0
  for (const side of ['left', 'right'] as const) {
    const x = raw[side]
    const y = out[side]
    let energy = 0
    for (let i = 0; i < length; i++) {
      const place = (shape.reverse ? length - 1 - i : i) / shape.stretch
      const k = Math.floor(place)
      const t = place - k
      // 4-point, 3rd-order Hermite interpolation; exact where nothing is stretched
      const b = within(x, from, span, k)
      let v = b
      if (t !== 0) {
        const a = within(x, from, span, k - 1),
          c = within(x, from, span, k + 1),
          d = within(x, from, span, k + 2)
        v = b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))
      }
      if (shape.fade > 0) v *= exp((-6.9 * shape.fade * i) / length)
      y[i] = v
      energy += y[i] * y[i]
      if (i % PIECE === PIECE - 1) yield
    }
    most = Math.max(most, Math.sqrt(energy))
  }
  if (most > 0) {
    for (const y of [out.left, out.right]) for (let i = 0; i < length; i++) y[i] /= most
  }
  return out
}

const within = (x: Float32Array, from: number, span: number, n: number): number =>
  n < 0 || n >= span ? 0 : x[from + n]

/** The same at once. */
export const shapeImpulse = (raw: Impulse, shape: ImpulseShape, sampleRate: number): Impulse =>
  finish(shapePieces(raw, shape, sampleRate))

/**
 * From data to what is played: the response made or taken, shaped, and its partitions transformed, never much
 * of it at once.
 */
function* prepare(shape: ImpulseShape, audio: AudioData | null, sampleRate: number): Pieces<Convolver> {
  const raw =
    shape.audio && audio
      ? {
          left: new Float32Array(audio.channels[0]),
          right: new Float32Array(audio.channels[1] ?? audio.channels[0]),
        }
      : yield* impulsePieces(shape.name, sampleRate)
  const { left, right } = yield* shapePieces(raw, shape, sampleRate)
  const kernel = new Kernel(left, right)
  while (!kernel.ready) {
    kernel.advance(READY_AT_ONCE)
    yield
  }
  return new Convolver(kernel)
}

/**
 * Plays the sound through a response: of a room, a thing, or any sound that is imported. No latency is added.
 */
export const convolver = defineEffect({
  id: 'convolver',
  name: 'Convolver',
  group: 'space',
  load: { kB: 6000, ns: 2400 },
  tip: 'Puts the sound into a room, an object or any imported impulse response',
  also: ['impulse response', 'cabinet', 'reverb'],
  params: {
    predelay: seconds('Pre-delay', { min: 0, max: 0.5, default: 0, tip: 'Time before the response starts' }),
    output: boost('Output', { min: -36, max: 24, default: 0, tip: 'Level of the response' }),
  },
  sound: true,
  tail: (v, _, data) =>
    v.predelay +
    (impulseShape(data).audio
      ? LONGEST_IMPULSE
      : (impulseNamed(impulseShape(data).name, 48_000).left.length / 48_000) * impulseShape(data).stretch),
  presets: [
    { name: 'Cabin', tip: 'Small wooden room', params: { wet: 0.4 }, data: { impulse: 'cabin' } },
    { name: 'Small speaker', tip: 'Thin and boxy', params: { output: 0 }, data: { impulse: 'speaker' } },
    {
      name: 'Spring under the deck',
      tip: 'Metallic spring',
      params: { wet: 0.35 },
      data: { impulse: 'spring' },
    },
    {
      name: 'Reversed swell',
      tip: 'Swells into each note',
      params: { wet: 0.5 },
      data: { impulse: 'swell' },
    },
    {
      name: 'Hold, reversed',
      tip: 'A large space, backwards',
      params: { wet: 0.45 },
      data: { impulse: 'hold', reverse: true, end: 0.5 },
    },
    {
      name: 'Across a bottle',
      tip: 'Hollow resonance',
      params: { wet: 0.7, output: -6 },
      data: { impulse: 'bottle', stretch: 1.5 },
    },
  ],
  create: ({ sampleRate }) => {
    let now = new Convolver(new Kernel(new Float32Array(1), new Float32Array(1)))
    let coming: Pieces<Convolver> | null = null
    let next: Convolver | null = null
    // blocks of the fade that are left: down to the change, then up again
    let fading = 0
    const size = sampleRate > 64_000 ? 65_536 : 32_768
    const lines = [new Float32Array(size), new Float32Array(size)]
    let head = 0
    const left = new Float32Array(BLOCK)
    const right = new Float32Array(BLOCK)
    now.kernel.advance(1e6)
    return {
      take(data, audio) {
        coming = prepare(impulseShape(data), audio ?? null, sampleRate)
        return true
      },
      reset() {
        if (coming) next = finish(coming)
        if (next) now = next
        coming = next = null
        fading = 0
        now.reset()
        for (const l of lines) l.fill(0)
        head = 0
      },
      process({ in: input, out }, p) {
        // a response that is chosen while another fades in waits until that is done
        if (coming && fading === 0) {
          const { done, value } = coming.next()
          if (done) {
            next = value
            coming = null
            fading = 2 * FADE_BLOCKS
          }
        }
        const delays = p.predelay.values(),
          outputs = p.output.values()
        const mask = size - 1
        for (let i = 0; i < BLOCK; i++) {
          lines[0][head] = input.left[i]
          lines[1][head] = input.right[i]
          // between samples by a sinc, which reaches four ahead; nearer than that at whole samples
          const asked = delays[i] * sampleRate
          const d = asked < 4 ? Math.round(asked) : asked
          const k = Math.ceil(d)
          const row = (((k - d) * SINC_PHASES + 0.5) | 0) * SINC_TAPS
          if (row === 0) {
            left[i] = lines[0][(head - k) & mask]
            right[i] = lines[1][(head - k) & mask]
          } else {
            let l = 0
            let r = 0
            for (let n = 0; n < SINC_TAPS; n++) {
              const w = sincTable[row + n]
              const at = (head - k - 3 + n) & mask
              l += w * lines[0][at]
              r += w * lines[1][at]
            }
            left[i] = l
            right[i] = r
          }
          head = (head + 1) & mask
        }
        now.process(left, right, out.left, out.right)
        let from = 1
        let to = 1
        if (fading > 0) {
          from = Math.abs(fading - FADE_BLOCKS) / FADE_BLOCKS
          fading--
          to = Math.abs(fading - FADE_BLOCKS) / FADE_BLOCKS
        }
        for (let i = 0; i < BLOCK; i++) {
          const g = outputs[i] * (from + ((to - from) * (i + 1)) / BLOCK)
          out.left[i] *= g
          out.right[i] *= g
        }
        if (fading === FADE_BLOCKS && next) {
          now = next
          next = null
        }
      },
    }
  },
})
