import { exp2, log2, tanPi } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { choice, factor, hertz, percent } from '../units/parameter'
import { readNumber } from '../units/read-number'
import { defineEffect } from '../contract/effect'

/**
 * First three formants in Hz: averages of men (Peterson & Barney, "Control methods used in a study of the
 * vowels", JASA 24, 1952, table II), by their signs in the International Phonetic Alphabet, from front to
 * back and round again.
 */
export const vowels: readonly {
  readonly sign: string
  readonly formants: readonly [number, number, number]
}[] = [
  { sign: 'i', formants: [270, 2290, 3010] },
  { sign: 'ɪ', formants: [390, 1990, 2550] },
  { sign: 'ɛ', formants: [530, 1840, 2480] },
  { sign: 'æ', formants: [660, 1720, 2410] },
  { sign: 'ɑ', formants: [730, 1090, 2440] },
  { sign: 'ɔ', formants: [570, 840, 2410] },
  { sign: 'ʊ', formants: [440, 1020, 2240] },
  { sign: 'u', formants: [300, 870, 2240] },
  { sign: 'ʌ', formants: [640, 1190, 2390] },
  { sign: 'ɝ', formants: [490, 1350, 1690] },
]

const FORMANTS = 5
/** Two more above the measured three, which say how long the throat is. */
const UPPER = [3500, 4500] as const

/**
 * The five peaks in Hz at a place (position, open, front, size): along the list, or on the plane of the first
 * two formants.
 */
export function formantsAt(mode: number, place: Float64Array, out: Float64Array): void {
  const position = place[0],
    open = place[1],
    front = place[2]
  const scale = 1 / place[3]
  if (mode === 0) {
    const at = position * (vowels.length - 1)
    const k = at >= vowels.length - 1 ? vowels.length - 2 : Math.floor(at)
    const t = at - k
    const a = vowels[k].formants
    const b = vowels[k + 1].formants
    for (let n = 0; n < 3; n++) out[n] = a[n] * exp2(t * log2(b[n] / a[n])) * scale
  } else {
    out[0] = 250 * exp2(open * log2(780 / 250)) * scale
    out[1] = 800 * exp2(front * log2(2350 / 800)) * scale
    out[2] = (2240 + 600 * front * (1 - open)) * scale
    if (out[2] < out[1] * 1.15) out[2] = out[1] * 1.15
  }
  for (let n = 0; n < 2; n++) out[3 + n] = UPPER[n] * scale
}

/** One vowel of an own list: up to five peaks, in Hz, dB and Hz. */
export interface OwnVowel {
  readonly name: string
  readonly peaks: readonly { readonly frequency: number; readonly level: number; readonly width: number }[]
}

/** Takes what a file or an edit says the own vowels are. Never throws. */
export function readVowels(raw: unknown): OwnVowel[] {
  if (!Array.isArray(raw)) return []
  return raw
    .slice(0, 32)
    .filter((v): v is Record<string, unknown> => typeof v === 'object' && v !== null)
    .map((v) => ({
      name: typeof v.name === 'string' ? v.name.slice(0, 20) : '',
      peaks: (Array.isArray(v.peaks) ? v.peaks : []).slice(0, FORMANTS).map((p: unknown) => {
        const peak = (typeof p === 'object' && p !== null ? p : {}) as Record<string, unknown>
        return {
          frequency: readNumber(peak.frequency, 60, 12_000, 500),
          level: readNumber(peak.level, -24, 30, 12),
          width: readNumber(peak.width, 10, 4000, 80),
        }
      }),
    }))
    .filter((v) => v.peaks.length > 0)
}

/** A published vowel as an own one, to begin a list with. */
export const ownFrom = (index: number): OwnVowel => ({
  name: vowels[index].sign,
  peaks: [...vowels[index].formants, ...UPPER].map((frequency, n) => ({
    frequency,
    level: HEIGHTS[n],
    width: Math.round(60 + 0.045 * frequency),
  })),
})

/** Heights of the peaks of the published vowels, in dB: the upper ones are softer. */
const HEIGHTS = [18, 16, 12, 8, 8] as const

/** Peaks between two neighbours of an own list. Missing ones are flat. */
function ownAt(
  list: readonly OwnVowel[],
  position: number,
  scale: number,
  out: Float64Array,
  levels: Float64Array,
  widths: Float64Array,
): void {
  const at = position * (list.length - 1)
  const k = at >= list.length - 1 ? Math.max(0, list.length - 2) : Math.floor(at)
  const t = at - k
  const a = list[k].peaks
  const b = (list[k + 1] ?? list[k]).peaks
  for (let n = 0; n < FORMANTS; n++) {
    const from = a[n] ?? b[n]
    const to = b[n] ?? a[n]
    const hz = from ? from.frequency * exp2(t * log2(to.frequency / from.frequency)) : 1000
    out[n] = hz * scale
    levels[n] = from ? (a[n]?.level ?? 0) * (1 - t) + (b[n]?.level ?? 0) * t : 0
    widths[n] = from ? from.width + (to.width - from.width) * t : 80
  }
}

/** The vowel nearest to a place, by its sign. */
export function vowelNear(f1: number, f2: number): string {
  let best = ''
  let least = Infinity
  for (const v of vowels) {
    const d = log2(f1 / v.formants[0]) ** 2 + log2(f2 / v.formants[1]) ** 2
    if (d < least) {
      least = d
      best = v.sign
    }
  }
  return best
}

/**
 * Formants as five peaks in a row of state-variable bells, between a low and a high cut: over a list of
 * vowels, or on the plane of jaw and tongue. Amount goes from flat to exaggerated.
 */
export const vowel = defineEffect({
  id: 'vowel',
  name: 'Vowel',
  group: 'filter',
  load: { kB: 123, ns: 450 },
  tip: 'Adds the formants of a voice, so that drums speak',
  also: ['formant', 'talk', 'speech', 'mouth'],
  readouts: ['first', 'second'],
  params: {
    mode: choice(
      'Mode',
      ['list', 'plane', 'own list'],
      0,
      'Moves along the vowel list, freely on a plane, or along a list of your own',
    ),
    position: percent('Position', { default: 0.45, tip: 'Position in the list: i ɪ ɛ æ ɑ ɔ ʊ u ʌ ɝ' }),
    open: percent('Open', { default: 0.6, tip: 'Jaw opening: the first formant' }),
    front: percent('Front', { default: 0.4, tip: 'Tongue position: the second formant' }),
    size: factor('Size', {
      min: 0.6,
      max: 1.6,
      default: 1,
      tip: 'Vocal tract length: below 1 a child, above 1 a giant',
    }),
    amount: percent('Amount', {
      max: 2,
      default: 1,
      tip: 'Strength of the formants, from flat to exaggerated',
    }),
    width: factor('Peak width', {
      min: 0.3,
      max: 4,
      default: 1,
      tip: 'Width of the formants: narrow rings, wide is soft',
    }),
    lowCut: hertz('Low cut', { min: 20, max: 1000, default: 100, tip: 'High-pass before the formants' }),
    highCut: hertz('High cut', { min: 1000, max: 20_000, default: 7000, tip: 'Low-pass after the formants' }),
    dry: percent('Dry', { default: 0, tip: 'Dry sound mixed in' }),
  },
  tail: () => 0.6,
  applies: (param, value) => {
    const onPlane = value('mode') === 1
    if (param === 'open' || param === 'front') return onPlane
    return param !== 'position' || !onPlane
  },
  groups: [
    { name: 'Vowel', gauges: ['mode', 'position', 'open', 'front'] },
    { name: 'Voice', gauges: ['size', 'amount', 'width'] },
    { name: 'Output', gauges: ['lowCut', 'highCut', 'dry'] },
  ],
  presets: [
    { name: 'Ah', tip: 'One open vowel', params: { position: 4 / 9, amount: 1 } },
    { name: 'Giant says oo', tip: 'Low, dark vowel', params: { position: 7 / 9, size: 1.4, amount: 1.2 } },
    {
      name: 'Small and bright',
      tip: 'High, child-like vowel',
      params: { mode: 1, open: 0.3, front: 0.95, size: 0.75 },
    },
    {
      name: 'Barely speaking',
      tip: 'A hint of a vowel',
      params: { position: 0.3, amount: 0.45, width: 1.8, dry: 0.3 },
    },
    {
      name: 'Two words of your own',
      tip: 'Five vowels in your own list',
      params: { mode: 2, position: 0.5 },
      data: { vowels: [ownFrom(0), ownFrom(4), ownFrom(7)] },
    },
  ],
  create: ({ sampleRate }) => {
    const readouts = new Float64Array(2)
    // two integrators of each peak and cut, left and right
    const state = new Float64Array(4 * (FORMANTS + 2))
    const from = new Float64Array(FORMANTS)
    const to = new Float64Array(FORMANTS)
    const place = new Float64Array(4)
    const levels = new Float64Array(HEIGHTS)
    const widenings = new Float64Array(FORMANTS)
    let own: readonly OwnVowel[] = []
    let fresh = true
    const left = new Float64Array(BLOCK)
    const right = new Float64Array(BLOCK)
    const g = new Float64Array(BLOCK)
    /** The peaks as they are at one frame, into `to`, `levels` and `widenings`. */
    function settle(mode: number): void {
      if (mode === 2 && own.length > 0) {
        ownAt(own, place[0], 1 / place[3], to, levels, widenings)
        return
      }
      formantsAt(mode === 2 ? 0 : mode, place, to)
      for (let n = 0; n < FORMANTS; n++) {
        levels[n] = HEIGHTS[n]
        widenings[n] = 60 + 0.045 * to[n]
      }
    }
    return {
      readouts,
      take(data) {
        own = readVowels(data.vowels)
      },
      reset() {
        state.fill(0)
        fresh = true
      },
      process({ in: input, out }, p) {
        const amounts = p.amount.values(),
          widths = p.width.values(),
          dries = p.dry.values()
        left.set(input.left)
        right.set(input.right)
        fillG(g, p.lowCut.values(), sampleRate)
        cut(left, right, g, state, 0, true)
        const moving = !(p.position.constant && p.open.constant && p.front.constant && p.size.constant)
        const positions = p.position.values(),
          opens = p.open.values(),
          fronts = p.front.values(),
          sizes = p.size.values()
        const mode = p.mode.value
        // formants go by octaves between places sixteen samples apart: a mouth is no faster
        const stride = moving ? 16 : BLOCK
        if (fresh) {
          setNormalized(place, 0, positions, opens, fronts, sizes)
          settle(mode)
          fresh = false
        }
        for (let start = 0; start < BLOCK; start += stride) {
          from.set(to)
          const last = start + stride - 1
          setNormalized(place, last, positions, opens, fronts, sizes)
          settle(mode)
          for (let n = 0; n < FORMANTS; n++) {
            const at = 4 * (n + 1)
            const height = levels[n]
            const bandwidth = widenings[n]
            const g0 = tanPi(Math.min(0.45, from[n] / sampleRate))
            const step = (tanPi(Math.min(0.45, to[n] / sampleRate)) - g0) / stride
            let l1 = state[at],
              l2 = state[at + 1],
              r1 = state[at + 2],
              r2 = state[at + 3]
            for (let i = start; i < start + stride; i++) {
              const gi = g0 + step * (i - start + 1)
              const a = exp2(height * amounts[i] * 0.08304820237218406)
              const k = (bandwidth * widths[i]) / (to[n] * a)
              const m = k * (a * a - 1)
              const d = 1 / (1 + gi * (gi + k))
              const x = left[i]
              const y = right[i]
              const lv = d * (l1 + gi * (x - l2))
              const rv = d * (r1 + gi * (y - r2))
              l1 = 2 * lv - l1
              l2 += 2 * gi * lv
              r1 = 2 * rv - r1
              r2 += 2 * gi * rv
              left[i] = x + m * lv
              right[i] = y + m * rv
            }
            state[at] = l1
            state[at + 1] = l2
            state[at + 2] = r1
            state[at + 3] = r2
          }
        }
        fillG(g, p.highCut.values(), sampleRate)
        cut(left, right, g, state, 4 * (FORMANTS + 1), false)
        for (let i = 0; i < BLOCK; i++) {
          // what the peaks add is taken back in level, so that amount changes colour more than loudness
          const down = exp2(-amounts[i])
          out.left[i] = left[i] * down + input.left[i] * dries[i]
          out.right[i] = right[i] * down + input.right[i] * dries[i]
        }
        for (let k = 0; k < state.length; k++) if (state[k] < 1e-18 && state[k] > -1e-18) state[k] = 0
        readouts[0] = to[0]
        readouts[1] = to[1]
      },
    }
  },
})

function setNormalized(
  place: Float64Array,
  i: number,
  positions: Float64Array,
  opens: Float64Array,
  fronts: Float64Array,
  sizes: Float64Array,
): void {
  place[0] = positions[i]
  place[1] = opens[i]
  place[2] = fronts[i]
  place[3] = sizes[i]
}

function fillG(g: Float64Array, hz: Float64Array, sampleRate: number): void {
  let known = -1
  let value = 0
  for (let i = 0; i < BLOCK; i++) {
    if (hz[i] !== known) {
      known = hz[i]
      value = tanPi(known > 0.49 * sampleRate ? 0.49 : known / sampleRate)
    }
    g[i] = value
  }
}

/** Second-order Butterworth cut of both sides, in place. */
function cut(
  left: Float64Array,
  right: Float64Array,
  g: Float64Array,
  state: Float64Array,
  at: number,
  high: boolean,
): void {
  const k = 1.4142135623730951
  let l1 = state[at],
    l2 = state[at + 1],
    r1 = state[at + 2],
    r2 = state[at + 3]
  for (let i = 0; i < BLOCK; i++) {
    const gi = g[i]
    const d = 1 / (1 + gi * (gi + k))
    const lv = d * (l1 + gi * (left[i] - l2))
    const rv = d * (r1 + gi * (right[i] - r2))
    const ll = l2 + gi * lv
    const rl = r2 + gi * rv
    l1 = 2 * lv - l1
    r1 = 2 * rv - r1
    l2 = 2 * ll - l2
    r2 = 2 * rl - r2
    left[i] = high ? left[i] - k * lv - ll : ll
    right[i] = high ? right[i] - k * rv - rl : rl
  }
  state[at] = l1
  state[at + 1] = l2
  state[at + 2] = r1
  state[at + 3] = r2
}
