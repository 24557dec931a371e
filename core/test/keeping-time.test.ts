import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { NoteLineStep } from '@oleaje/core/engine/note-line-step'
import { Transport } from '@oleaje/core/engine/transport'
import { addLink, addModulator, setInput } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { NoteLine, Project } from '@oleaje/core/project/schema'
import { edited, live, place, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const LONG = Boolean(process.env.OLEAJE_LONG)
const note = (start: number, length: number, pitch = 60) => ({ start, length, pitch, velocity: 0.8 })
const lineOf = (length: number, notes: NoteLine['notes']): NoteLine => ({
  length,
  notes,
  bend: [],
  pressure: [],
})

/** Random numbers that are the same in every run. */
function dice(seed: number): () => number {
  let x = seed
  return () => {
    x = (Math.imul(x, 1664525) + 1013904223) | 0
    return (x >>> 0) / 4294967296
  }
}

/** Where the notes of a line begin, in frames since play, over so many of its rounds. */
function starts(tempo: number, line: NoteLine, rounds: number, noteOffset = 0): Map<number, number[]> {
  const transport = new Transport(RATE)
  transport.configure(tempo, { on: false, start: 0, end: 0 }, false)
  const step = new NoteLineStep(transport.song, RATE)
  step.set({ line, noteOffset })
  transport.play(0)
  const found = new Map<number, number[]>()
  const frames = Math.ceil((rounds * line.length * 60 * RATE) / tempo)
  for (let at = 0; at < frames; at += BLOCK) {
    transport.advance()
    step.run()
    for (let k = 0; k < step.out.count; k++) {
      if (step.out.begins[k] !== 1 || at + step.out.frame[k]! >= frames) continue
      const list = found.get(step.out.pitch[k]!) ?? []
      list.push(at + step.out.frame[k]!)
      found.set(step.out.pitch[k]!, list)
    }
  }
  return found
}

describe('a line of notes', () => {
  it('plays every note once a round, at its sample, at 108 bpm and a length of four beats', () => {
    const found = starts(108, lineOf(4, [note(0, 0.5, 50), note(1, 0.25, 51), note(3.75, 0.25, 52)]), 32)
    for (const list of found.values()) expect(list).toHaveLength(32)
  })
  const random = dice(7)
  const cases = Array.from(
    { length: 40 },
    () =>
      [
        Math.round((20 + 280 * random()) * 1000) / 1000,
        Math.round((0.25 + 3.5 * random()) * 1000) / 1000,
      ] as const,
  )
  it.each(cases)('at %d bpm, %d beats long', (tempo, length) => {
    const rounds = LONG ? 1000 : 120
    const offsets = [0, length * random(), length * random(), length - 0.01]
    const found = starts(
      tempo,
      lineOf(
        length,
        offsets.map((s, k) => note(s, 0.05, 50 + k)),
      ),
      rounds,
    )
    offsets.forEach((s, k) => {
      // where a note lies between two frames, it begins with the later
      const due = Array.from({ length: rounds }, (_, r) =>
        Math.max(0, Math.ceil(((r * length + s) * 60 * RATE) / tempo - 1e-5)),
      )
      expect(found.get(50 + k)).toEqual(due)
    })
  })
  it.each([0.05, 0.0137, -0.0137, -0.05])(
    'an offset of %d s moves every note by whole frames, and loses none',
    (noteOffset) => {
      const late = Math.round(noteOffset * RATE)
      const line = lineOf(1.37, [note(0, 0.05, 50), note(0.011, 0.05, 51), note(1.36, 0.002, 52)])
      const plain = starts(107, line, 40)
      const moved = starts(107, line, 40, noteOffset)
      for (const [pitch, list] of plain) {
        const due = list.map((f) => Math.max(0, f + late)).filter((f) => f < (40 * 1.37 * 60 * RATE) / 107)
        expect(moved.get(pitch)!.slice(0, due.length)).toEqual(due)
      }
      // a line of the song’s own goes round the loop as early or late
      const transport = new Transport(RATE)
      const step = new NoteLineStep(transport.song, RATE)
      step.set({
        line: lineOf(0, [note(1, 0.05, 50), note(1.004, 0.05, 51), note(3.99, 0.05, 52), note(5, 1, 53)]),
        noteOffset,
      })
      transport.configure(107, { on: true, start: 1, end: 4 }, true)
      transport.play(1)
      const counts = new Map<number, number>()
      const round = Math.round(4 / transport.beatsPerFrame) - Math.round(1 / transport.beatsPerFrame)
      for (let b = 0; b * BLOCK < 50 * round; b++) {
        transport.advance()
        step.run()
        for (let k = 0; k < step.out.count; k++)
          if (step.out.begins[k] === 1)
            counts.set(step.out.pitch[k]!, (counts.get(step.out.pitch[k]!) ?? 0) + 1)
      }
      expect(counts.has(53)).toBe(false)
      for (const pitch of [50, 51, 52]) expect(Math.abs(counts.get(pitch)! - 50)).toBeLessThanOrEqual(1)
    },
  )
  it('keeps to that while the tempo is turned', () => {
    const transport = new Transport(RATE)
    const step = new NoteLineStep(transport.song, RATE)
    step.set({ line: lineOf(0.75, [note(0, 0.1), note(0.5, 0.1)]) })
    transport.configure(107, { on: false, start: 0, end: 0 }, false)
    transport.play(0)
    let begun = 0
    for (let b = 0; b < 20_000; b++) {
      if (b % 11 === 5) transport.configure(80 + 60 * random(), { on: false, start: 0, end: 0 }, false)
      transport.advance()
      step.run()
      for (let k = 0; k < step.out.count; k++) begun += step.out.begins[k]!
    }
    const beats = transport.song.run[BLOCK - 1]!
    expect(
      Math.abs(begun - (Math.floor(beats / 0.75) + 1 + Math.floor((beats + 0.25) / 0.75))),
    ).toBeLessThanOrEqual(1)
  })
  it('ends every note that it begins, and plays a song’s notes once in each pass of its loop', () => {
    const transport = new Transport(RATE)
    const step = new NoteLineStep(transport.song, RATE)
    step.set({ line: lineOf(0, [note(0, 0.3), note(1.37, 2.2, 61), note(2.999, 0.001, 62)]) })
    transport.configure(107, { on: true, start: 0, end: 3 }, true)
    transport.play(0)
    const balance = new Map<number, number>()
    let first = 0
    for (let b = 0; b < 30_000; b++) {
      transport.advance()
      if (b === 29_900) transport.playing = false
      step.run()
      for (let k = 0; k < step.out.count; k++) {
        const on = step.out.begins[k] === 1
        balance.set(step.out.pitch[k]!, (balance.get(step.out.pitch[k]!) ?? 0) + (on ? 1 : -1))
        if (on && step.out.pitch[k] === 60) first++
      }
    }
    expect([...balance.values()]).toEqual([0, 0, 0])
    expect(first).toBe(Math.ceil((29_900 * BLOCK * 107) / 60 / RATE / 3))
  })
})

/** Runs an engine and does something before certain blocks. */
function run(
  p: { project: Project; audio: () => { sampleRate: number; channels: Float32Array[] } },
  blocks: number,
  at: Record<number, (e: Engine) => void> = {},
  each?: (e: Engine, b: number) => void,
): Float32Array {
  const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping: true })
  engine.load(p.project)
  engine.play(0)
  const out = new Float32Array(blocks * BLOCK)
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    at[b]?.(engine)
    engine.process(l, r)
    out.set(engine.mix.left, b * BLOCK)
    each?.(engine, b)
  }
  return out
}

describe('a loop on a muted track', () => {
  const sound = noise(1.237, 3, 0.3)
  it.each([
    ['as it is', {}, 0.9],
    ['by varispeed', { play: 1, tempo: 97 }, 3.3],
    ['tuned', { tune: -3 }, 1.7],
    ['muted for half a minute', {}, 31.3],
  ] as const)('comes back where the song is: %s', (_, params, seconds) => {
    const made = projectOf(sound, [])
    const project = edited(
      { ...made.project, tempo: 107 },
      ...Object.entries(params).map(([k, v]) => setParam('src', k, v)),
    )
    const on = Math.round(((0.5 + seconds) * RATE) / BLOCK)
    const muted = edited(project, setParam('t', 'mute', 1))
    const heard = run({ ...made, project }, on + 300, {
      190: (e) => e.update(muted),
      [on]: (e) => e.update(project),
    })
    const whole = run({ ...made, project }, on + 300)
    for (let i = (on + 20) * BLOCK; i < whole.length; i++)
      if (Math.abs(heard[i]! - whole[i]!) > 1e-6) throw new Error(`is elsewhere at ${i}`)
  })
  it('and so does one of a project that was muted from the start', () => {
    const made = projectOf(sound, [])
    const muted = edited(made.project, setParam('t', 'mute', 1))
    const heard = run({ ...made, project: muted }, 800, { 500: (e) => e.update(made.project) })
    const whole = run(made, 800)
    for (let i = 530 * BLOCK; i < whole.length; i++) expect(heard[i]).toBeCloseTo(whole[i]!, 6)
  })
})

describe('a modulator', () => {
  const silence = new Float32Array(RATE)
  const made = projectOf(silence, [newEffect('filter', {}, 'f')])
  const withEnvelope = (params: Record<string, number>): Project =>
    edited(
      { ...made.project, tempo: 107 },
      addModulator('t', 'envelope', {
        id: 'env',
        params: { trigger: 0, attack: 0.01, decay: 0.05, sustain: 0.6, release: 0.1, ...params },
      }),
      addModulator('t', 'lfo', { id: 'lfo', params: { rate: 3.1 } }),
      addModulator('t', 'macro', { id: 'mac', params: { value: 1 } }),
      addLink(
        'env',
        { owner: 'f', param: 'cutoff' },
        place(made.project, 'f', 'cutoff', 200),
        place(made.project, 'f', 'cutoff', 4000),
        {
          id: 'k',
          mode: 'fixed',
        },
      ),
      setNoteLine('t', lineOf(0, [note(0.1, 1.1)])),
    )
  const level = (e: Engine): number => live(e, 'mod:env')

  it('misses no note-off while another is heard alone', () => {
    const project = withEnvelope({})
    let last = 1
    run(
      { ...made, project },
      700,
      { 150: (e) => e.setMonitor({ ...openMonitor, alone: 'lfo' }), 450: (e) => e.setMonitor(openMonitor) },
      (e) => {
        last = level(e)
      },
    )
    expect(last).toBeLessThan(1e-6)
  })
  it.each([1, 2, 3])(
    'of the envelope kind lets go when its trigger is changed in mid-note: to %i',
    (trigger) => {
      const project = edited(
        withEnvelope({ every: 60, level: 0.9 }),
        setInput('env', 0, { source: 'lfo', output: 'wave' }),
        setParam('lfo', 'rate', 0.01),
        setParam('lfo', 'phase', 0.75),
      )
      let last = 1
      let before = 0
      run(
        { ...made, project },
        400,
        {
          150: (e) => {
            before = level(e)
            e.update(edited(project, setParam('env', 'trigger', trigger)))
          },
        },
        (e) => {
          last = level(e)
        },
      )
      expect(before).toBeCloseTo(0.6, 3)
      expect(last).toBeLessThan(1e-6)
    },
  )
  it('of the envelope kind stays up for the notes that are held when it is given back to them', () => {
    const project = withEnvelope({})
    let up = 0
    let down = 1
    run(
      { ...made, project: edited(project, setParam('env', 'trigger', 3)) },
      700,
      { 100: (e) => e.update(project) },
      (e, b) => {
        if (b === 240) up = level(e)
        down = level(e)
      },
    )
    // its note began before it was asked to hear notes; the next one starts it
    expect(up).toBeLessThan(1e-6)
    expect(down).toBeLessThan(1e-6)
  })
  it('of the LFO kind runs on when it is taken from notes back to free running', () => {
    const project = edited(
      withEnvelope({}),
      setParam('lfo', 'goes', 1),
      setParam('lfo', 'trigger', 1),
      setNoteLine('t', null),
    )
    const seen: number[] = []
    run(
      { ...made, project },
      400,
      { 100: (e) => e.update(edited(project, setParam('lfo', 'goes', 0))) },
      (e) => seen.push(live(e, 'mod:lfo')),
    )
    expect(new Set(seen.slice(10, 95)).size).toBe(1)
    expect(Math.max(...seen.slice(110)) - Math.min(...seen.slice(110))).toBeGreaterThan(0.9)
  })
})
