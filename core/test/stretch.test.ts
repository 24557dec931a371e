import { describe, expect, it } from 'vitest'
import { findTempo } from '@oleaje/core/analysis/tempo'
import { hitsOf } from '@oleaje/core/dsp/hits'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { play, projectOf as chainOf } from './project-rig'
import { RATE, db, noise, peak, rms, toneAt } from './rig'

const OWN = 96
const beats = (n: number, tempo = OWN): number => ((n * 60) / tempo) * RATE
/** Hits at odd places of a bar: beats, and how loud. */
const pattern: [number, number, number][] = [
  [0, 0.9, 60],
  [0.75, 0.4, 4000],
  [1, 0.7, 900],
  [1.5, 0.35, 4000],
  [2.25, 0.9, 60],
  [3, 0.7, 900],
  [3.5, 0.3, 4000],
]

/** A bar of drums: bursts of noise and tones that die away. */
function drums(): Float32Array {
  const out = new Float32Array(Math.round(beats(4)))
  const white = noise(4, 5)
  for (const [at, level, hz] of pattern) {
    const from = Math.round(beats(at))
    for (let i = 0; i < 0.28 * RATE && from + i < out.length; i++) {
      const t = i / RATE
      out[from + i]! +=
        level *
        (hz === 60
          ? Math.sin(2 * Math.PI * (60 * t + 4 * (1 - Math.exp(-t * 40)))) * Math.exp(-t * 14)
          : white[i + hz]! * Math.exp(-t * (hz > 2000 ? 60 : 22)) * 0.8)
    }
  }
  return out
}
/** A bar of a chord whose partials all fit into it whole. */
function pad(): Float32Array {
  const length = Math.round(beats(4))
  return Float32Array.from({ length }, (_, i) => {
    let y = 0
    for (const cycles of [275, 413, 619, 929, 1391, 2089, 3133])
      y += Math.sin((2 * Math.PI * cycles * i) / length + cycles * cycles)
    return 0.08 * y
  })
}

function projectOf(sound: Float32Array, tempo: number, params: Record<string, number> = {}) {
  const track = newTrack('loop', newSource('loop', { play: 2, tempo: OWN, ...params }, 'x', 'src'), 't')
  const project: Project = {
    ...newProject('stretch'),
    tempo,
    loop: { on: true, start: 0, end: 4 },
    audio: { x: { name: 'x', frames: sound.length, channels: 1, sampleRate: RATE } },
  }
  project.tracks.unshift(track)
  const audio = { sampleRate: RATE, channels: [sound] }
  return { project, audio: () => audio }
}

/** So many rounds of the song's loop, as live. */
function played(p: ReturnType<typeof projectOf>, rounds: number, from = 0): Float32Array {
  const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping: true })
  engine.load(p.project)
  engine.play(from)
  const blocks = Math.ceil(beats(4 * rounds, p.project.tempo) / BLOCK)
  const out = new Float32Array(blocks * BLOCK)
  const heard = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    engine.process(heard, heard)
    out.set(engine.mix.left, b * BLOCK)
  }
  return out
}
const tempos = [0.7, 0.83, 1.19, 1.4].map((r) => Math.round(OWN * r * 100) / 100)

describe('a stretched loop', () => {
  it.each(tempos)(
    'drums at %d bpm: each hit at its time within 3 ms, every round the same length to the sample',
    (tempo) => {
      const y = played(projectOf(drums(), tempo), 3)
      const { at } = hitsOf({ sampleRate: RATE, channels: [y] })
      const round = Math.round(beats(4, tempo))
      for (let r = 0; r < 3; r++) {
        for (const [beat] of pattern) {
          const due = r * round + beats(beat, tempo)
          const found = at.reduce((best, a) => (Math.abs(a - due) < Math.abs(best - due) ? a : best), -1e9)
          expect((Math.abs(found - due) / RATE) * 1000, `beat ${beat} of round ${r}`).toBeLessThan(3)
        }
      }
      // the last block reaches a little into the next round
      expect(at.filter((a) => a < 3 * round - 200).length).toBe(3 * pattern.length)
      // the own sound of hits is the same in every round, sample by sample
      const snare = Math.round(beats(1, tempo))
      expect(
        peak(y.slice(snare + 300, snare + 1500).map((v, i) => v - y[snare + 300 + i + round]!)),
      ).toBeLessThan(1e-4)
    },
  )
  it.each(tempos)('keeps the level at %d bpm, of drums within 1.5 dB and of a pad within 0.5', (tempo) => {
    for (const [sound, most] of [
      [drums(), 1.5],
      [pad(), 0.5],
    ] as const) {
      const plain = rms(played(projectOf(sound, OWN, { play: 0 }), 2))
      expect(Math.abs(db(rms(played(projectOf(sound, tempo), 2))) - db(plain))).toBeLessThan(most)
    }
  })
  it.each(tempos)('a pad keeps its pitches at %d bpm and goes round without a seam', (tempo) => {
    const y = played(projectOf(pad(), tempo), 3)
    const base = RATE / beats(4)
    for (const cycles of [275, 619, 1391]) {
      // as many whole seconds as there are: where the peak of the spectrum lies
      const part = y.subarray(RATE / 2, RATE / 2 + 65_536)
      const level = (hz: number): number => {
        let c = 0
        let s = 0
        part.forEach((v, i) => {
          const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / part.length)
          c += w * v * Math.cos((2 * Math.PI * hz * i) / RATE)
          s += w * v * Math.sin((2 * Math.PI * hz * i) / RATE)
        })
        return Math.hypot(c, s)
      }
      const hz = cycles * base
      const [low, mid, high] = [level(hz - 0.6), level(hz), level(hz + 0.6)]
      expect(mid).toBeGreaterThan(Math.max(low, high))
    }
    // what would be a click: steps of the second order, at the seam and elsewhere
    const step = (from: number, to: number): number => {
      let worst = 0
      for (let i = from; i < to; i++) worst = Math.max(worst, Math.abs(y[i]! - 2 * y[i - 1]! + y[i - 2]!))
      return worst
    }
    const round = Math.round(beats(4, tempo))
    expect(step(round - 400, round + 400)).toBeLessThan(
      1.2 * step(Math.round(round / 4), Math.round((round / 4) * 3)),
    )
    // and no hole at the start
    expect(Math.abs(db(rms(y.subarray(0, 4000))) - db(rms(y.subarray(round, round + 4000))))).toBeLessThan(1)
  })
  it('plays at the song’s place wherever the song begins', () => {
    const p = projectOf(drums(), 118)
    const whole = played(p, 2)
    const late = played(p, 1, 2.25)
    const at = Math.round(beats(2.25, 118))
    // the hit right there, as the recording has it
    for (let i = 300; i < 1200; i++) expect(Math.abs(late[i]! - whole[at + i]!)).toBeLessThan(0.02)
  })
  it('its pitch is its own: an octave up at the same tempo', () => {
    const ups = (x: Float32Array): number => x.filter((v, i) => i > 0 && x[i - 1]! < 0 && v >= 0).length
    const tone = Float32Array.from(
      { length: Math.round(beats(4)) },
      (_, i) => 0.4 * Math.sin((2 * Math.PI * 500 * i) / Math.round(beats(4))),
    )
    const plain = ups(played(projectOf(tone, 77), 1).subarray(4800, 52_800))
    expect(
      Math.abs(ups(played(projectOf(tone, 77, { tune: 12 }), 1).subarray(4800, 52_800)) / plain - 2),
    ).toBeLessThan(0.02)
  })
})

describe('marks of a loop', () => {
  const ramp = Float32Array.from({ length: 48_000 }, (_, i) => i / 48_000)
  it('begins at the start once, then goes back to its own mark', () => {
    const y = played(projectOf(ramp, 120, { play: 0, start: 0.25, loopFrom: 0.5, end: 0.75 }), 1)
    expect(y[0]).toBeCloseTo(0.25, 6)
    expect(y[12_000]).toBeCloseTo(0.5, 6)
    expect(y[23_999]).toBeCloseTo(0.75, 4)
    expect(y[24_000]).toBeCloseTo(0.5, 6)
    expect(y[36_000]).toBeCloseTo(0.5, 6)
  })
  it('begins at its beat of the song, and is silent before; stretched as well', () => {
    const y = played(
      projectOf(
        ramp.map((v) => v + 0.1),
        120,
        { play: 0, at: 1.37 },
      ),
      1,
    )
    const at = Math.round(1.37 * 24_000)
    expect([y[at - 1], y[at]!.toFixed(4), y[at + 4800]!.toFixed(4)]).toEqual([0, '0.1000', '0.2000'])
    const drum = played(projectOf(drums(), 118, { at: 1 }), 1)
    const due = Math.round(beats(1, 118))
    expect(peak(drum.subarray(0, due - 1500))).toBeLessThan(0.001)
    expect(Math.abs(hitsOf({ sampleRate: RATE, channels: [drum] }).at[0]! - due) / RATE).toBeLessThan(0.003)
  })
  it('turned round it begins at its end; fades are at both ends of each round', () => {
    const y = played(projectOf(ramp, 120, { play: 0, start: 0.25, end: 0.75, reverse: 1 }), 1)
    expect(y[0]).toBeCloseTo(0.75, 4)
    expect(y[23_999]).toBeCloseTo(0.25, 4)
    const faded = played(
      projectOf(
        ramp.map(() => 1),
        120,
        { play: 0, start: 0.25, end: 0.75, fadeIn: 0.1, fadeOut: 0.2 },
      ),
      1,
    )
    expect([
      faded[0]! < 0.001,
      faded[2400]! > 0.45 && faded[2400]! < 0.55,
      faded[24_000 - 4800]! > 0.45 && faded[24_000 - 4800]! < 0.55,
      faded[12_000],
    ]).toEqual([true, true, true, 1])
  })
})

describe('what is found on import', () => {
  it('hits within a millisecond of where they were struck', () => {
    const { at } = hitsOf({ sampleRate: RATE, channels: [drums()] })
    expect(at.length).toBe(pattern.length)
    pattern.forEach(([beat], k) => expect(Math.abs(at[k]! - beats(beat)) / RATE).toBeLessThan(0.0015))
  })
  it.each([
    [96, 4],
    [87.3, 8],
    [107, 16],
    [140.7, 8],
    [171, 16],
  ])('the tempo of drums at %d bpm, %d beats long', (tempo, length) => {
    const frames = Math.round(beats(length, tempo))
    const at = Array.from({ length: length / 4 }, (_, bar) =>
      pattern.map(([b]) => Math.round(beats(b + 4 * bar, tempo))),
    ).flat()
    const found = findTempo(frames, RATE, { at, strength: at.map((_, i) => pattern[i % pattern.length]![1]) })
    expect(Math.abs(found.tempo - tempo)).toBeLessThan(0.2)
    expect(found.beats).toBe(length)
  })
  it('without hits, a whole number of bars at a usual tempo', () => {
    const { beats: length, tempo } = findTempo(8 * RATE, RATE, { at: [], strength: [] })
    expect([length, tempo]).toEqual([16, 120])
  })
})

describe('a stretched loop that is longer than the song’s', () => {
  it('goes back with the song: nothing of what comes after the loop is heard at its beginning', () => {
    // a low tone for as long as the song's loop is, and a high one after it
    const length = Math.round(beats(8))
    const sound = Float32Array.from(
      { length },
      (_, i) => 0.5 * Math.sin((2 * Math.PI * (i < length / 2 ? 311 : 2477) * i) / RATE),
    )
    const y = played(projectOf(sound, 107), 3)
    const round = Math.round(beats(4, 107))
    for (const n of [1, 2]) {
      const start = y.subarray(n * round + 480, n * round + 480 + 4096)
      expect(toneAt(start, 2477).amplitude).toBeLessThan(0.01)
      expect(toneAt(start, 311).amplitude).toBeGreaterThan(0.4)
    }
  })
})

it('a seamless loop that is loud at its seam goes round without a dip', () => {
  // a chord whose partials all come round in the loop
  const frames = 2 * RATE
  const chord = Float32Array.from({ length: frames }, (_, i) =>
    [220, 277.5, 330.5, 523].reduce(
      (sum, hz, k) => sum + 0.12 * Math.sin(2 * Math.PI * ((hz * i) / RATE + 0.13 * k)),
      0,
    ),
  )
  const { project, audio } = chainOf(chord, [])
  project.tempo = 131
  Object.assign(project.tracks[0]!.source!.params, { play: 2, tempo: 120 })
  const { left } = play({ project, audio }, 9)
  const window = 2400
  let least = Infinity
  let most = 0
  for (let at = RATE; at + window < left.length; at += window / 2) {
    const level = rms(left.subarray(at, at + 3 * window))
    least = Math.min(least, level)
    most = Math.max(most, level)
  }
  expect(db(least / most)).toBeGreaterThan(-1.5)
})
