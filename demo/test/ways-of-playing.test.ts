import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { hitsOf } from '@oleaje/core/dsp/hits'
import { audioHash } from '@oleaje/core/formats/hash'
import { readMidiFile, writeMidiFile } from '@oleaje/core/formats/midi'
import { readWav } from '@oleaje/core/formats/wav'
import type { Project, Track } from '@oleaje/core/project/schema'
import { planRender, render } from '@oleaje/core/render/render'
import { edited } from '../../core/test/project-rig'
import { RATE, db, peak, toneAt } from '../../core/test/rig'
import { alone, demoProject } from './demo-rig'

const assets = join(import.meta.dirname, '../assets')
const sounds = new Map(
  await Promise.all(
    readdirSync(assets)
      .filter((n) => n.endsWith('.wav'))
      .map(async (n) => {
        const wav = readWav(new Uint8Array(readFileSync(join(assets, n))))
        return [await audioHash(wav), wav] as const
      }),
  ),
)
const studies = demoProject('playing-studies')
const BEAT = (60 / 96) * RATE

function rendered(p: Project, beats: number): Float32Array {
  const plan = planRender(p, { from: 0, to: (beats * 60) / 96, tail: 0 })
  const out = new Float32Array(plan.frames)
  let at = 0
  for (const { channels, done } of render(plan, (hash) => sounds.get(hash) ?? null)) {
    out.set(channels[0].subarray(0, done - at), at)
    at = done
  }
  return out
}
const trackOf = (p: Project, id: string): Track => p.tracks.find((t) => t.id === id)!
const change = (p: Project, how: (p: Project) => void): Project =>
  edited(p, (q) => {
    how(q)
  })
const hz = (note: number): number => 440 * 2 ** ((note - 69) / 12)
/** How much stronger a pitch is than those a semitone beside it, in dB. */
function standsOut(x: Float32Array, note: number): number {
  const level = (n: number): number =>
    [1, 2, 3].reduce((sum, k) => sum + toneAt(x, k * hz(n)).amplitude ** 2, 0)
  return 10 * Math.log10(level(note) / Math.max(level(note - 1), level(note + 1)))
}

describe('ways of playing', () => {
  it('the snare alone has a chain of its own: all other pads are the same with it and without, below −120 dB', () => {
    const p = change(alone(studies, 'struck', 'fog-room'), (q) => {
      q.sends = []
    })
    const bare = change(p, (q) => {
      trackOf(q, 'struck').a.nodes = []
    })
    const silent = (q: Project): Project =>
      change(q, (r) => {
        trackOf(r, 'struck').source!.lanes!.pads![1]!.level = -72
      })
    const x = rendered(silent(p), 8)
    const y = rendered(silent(bare), 8)
    expect(db(peak(x.map((v, i) => v - y[i]!)))).toBeLessThan(-120)
    expect(peak(rendered(p, 8).map((v, i) => v - x[i]!))).toBeGreaterThan(0.1)
  })
  it('a MIDI file of two tracks tunes a comb with one and is played with the other, and goes out as it came in', () => {
    const melody = [
      [0, 62],
      [2, 69],
      [4, 65],
      [6, 74],
    ] as const
    const line = (notes: readonly (readonly [number, number])[]) => ({
      length: 8,
      bend: [],
      pressure: [],
      notes: notes.map(([start, pitch]) => ({ start, length: 1.9, pitch, velocity: 100 / 127 })),
    })
    const bytes = writeMidiFile(
      [
        { name: 'Comb', line: line(melody) },
        { name: 'Horn', line: line(melody.map(([s, n]) => [s, n - 24])) },
      ],
      96,
      4,
    )
    const file = readMidiFile(bytes)
    const p = change(studies, (q) => {
      for (const [i, id] of ['combed', 'glide'].entries())
        trackOf(q, id).line = { length: 8, notes: [...file.parts[i]!.notes], bend: [], pressure: [] }
      Object.assign(trackOf(q, 'glide').source!.params, { glide: 0, attack: 0.002, copies: 1 })
      q.sends = []
    })
    for (const [id, octaves] of [
      ['combed', 0],
      ['glide', -24],
    ] as const) {
      const x = rendered(alone(p, id), 8)
      for (const [start, note] of melody)
        expect(
          standsOut(
            x.subarray(Math.round((start + 0.7) * BEAT), Math.round((start + 1.8) * BEAT)),
            note + octaves,
          ),
          `${id} at ${start}`,
        ).toBeGreaterThan(6)
    }
    const lines = ['combed', 'glide'].map((id, i) => ({
      name: file.parts[i]!.name,
      line: trackOf(p, id).line!,
    }))
    expect(writeMidiFile(lines, 96, 4)).toEqual(bytes)
  })
  it('a band plays the arpeggio in steps of three eighths over two octaves, by velocity; only it goes on to the delay', () => {
    const p = alone(studies, 'arpeggio')
    const bare = change(p, (q) => {
      const split = trackOf(q, 'arpeggio').a.nodes[0]!
      if (split.kind !== 'split') throw new Error('There is no split.')
      split.branches[0]!.params.mute = 1
      split.branches[1]!.nodes = split.branches[1]!.nodes.slice(0, 2)
    })
    const x = rendered(bare, 12)
    // D, F, A, then an octave up, as the chords go by: which of the held notes sound at each step
    const chords = [
      [62, 65, 69],
      [58, 62, 65],
      [60, 65, 69],
    ]
    for (let step = 0; step < 7; step++) {
      const at = step * 1.5
      const chord = chords[Math.floor(at / 4)]!
      const all = [...chord, ...chord.map((n) => n + 12)]
      const part = x.subarray(Math.round((at + 0.25) * BEAT), Math.round((at + 1.2) * BEAT))
      const levels = all.map((n) => toneAt(part, hz(n)).amplitude)
      const loudest = all[levels.indexOf(Math.max(...levels))]!
      if (step < 3) expect(loudest, `step ${step}`).toBe(all[step])
    }
    // the straight branch is untouched by all that: the pad through it alone is the pad
    const straight = change(p, (q) => {
      const split = trackOf(q, 'arpeggio').a.nodes[0]!
      if (split.kind === 'split') split.branches[1]!.params.mute = 1
    })
    const pad = change(p, (q) => {
      trackOf(q, 'arpeggio').a.nodes = []
    })
    const [a, b] = [rendered(straight, 4), rendered(pad, 4)]
    expect(db(peak(a.map((v, i) => v - b[i]! * 10 ** (-9 / 20))))).toBeLessThan(-100)
  })
  it('glides for three seconds over three octaves, straight in pitch', () => {
    const p = change(alone(studies, 'glide'), (q) => {
      trackOf(q, 'glide').a.nodes = []
      Object.assign(trackOf(q, 'glide').source!.params, { copies: 1, attack: 0.002, plays: 1 })
    })
    const x = rendered(p, 16)
    for (const t of [0.5, 1.3, 2.1, 2.8]) {
      const at = Math.round(7.9 * BEAT + t * RATE)
      const ups: number[] = []
      for (let i = at - 2400; i < at + 2400; i++)
        if (x[i - 1]! < 0 && x[i]! >= 0) ups.push(i - x[i]! / (x[i]! - x[i - 1]!))
      const found = ((ups.length - 1) / (ups[ups.length - 1]! - ups[0]!)) * RATE
      const middle = ((ups[0]! + ups[ups.length - 1]!) / 2 - 7.9 * BEAT) / RATE
      expect(Math.abs(1200 * Math.log2(found / hz(26 + (36 * middle) / 3)))).toBeLessThan(2)
    }
  })
  it('the deck kit strikes where the tape was struck', () => {
    const ferry = demoProject('night-ferry')
    const only = (pad: number): readonly number[] =>
      hitsOf({
        sampleRate: RATE,
        channels: [
          rendered(
            change(alone(ferry, 'kit'), (q) => {
              trackOf(q, 'kit').a.nodes = []
              q.tracks.at(-1)!.a.nodes = []
              trackOf(q, 'kit').source!.lanes!.pads!.forEach((p, i) => {
                if (i !== pad) p.level = -72
              })
            }),
            8,
          ),
        ],
      }).at
    for (const [pad, beats] of [
      [0, [0, 1.5, 2.75, 4, 5.5, 6.25]],
      [1, [1, 3, 3.75, 5, 6.75, 7]],
    ] as const) {
      for (const beat of beats)
        expect(
          only(pad).some((at) => Math.abs(at - beat * BEAT) < 0.003 * RATE),
          `pad ${pad}, beat ${beat}`,
        ).toBe(true)
    }
  })
})
