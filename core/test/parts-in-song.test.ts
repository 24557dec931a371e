import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { modulators } from '@oleaje/core/modulators/index'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Project } from '@oleaje/core/project/schema'
import { sources } from '@oleaje/core/sources/index'
import { edited, live, place, projectOf } from './project-rig'
import { RATE, noise, peak } from './rig'

type Script = Record<number, (e: Engine) => void>

/** The mix of a project, to which something is done before certain blocks. */
function run(
  project: Project,
  audio: () => { sampleRate: number; channels: Float32Array[] },
  blocks: number,
  at: Script = {},
  each?: (e: Engine, b: number) => void,
): Float32Array {
  const engine = new Engine({ sampleRate: RATE, audio, looping: true })
  engine.load(project)
  engine.play(0)
  const out = new Float32Array(blocks * BLOCK)
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    at[b]?.(engine)
    engine.input.left.set(noise(BLOCK / RATE, b + 1, 0.3).subarray(0, BLOCK))
    engine.process(l, r)
    out.set(engine.mix.left, b * BLOCK)
    each?.(engine, b)
  }
  return out
}

describe.each(sources.map((d) => [d.id, d] as const))('source %s in a song', (id, definition) => {
  const made = projectOf(noise(1.237, 3, 0.3), [])
  const withSource = (tempo: number, loop = { on: false, start: 0, end: 1e5 }): Project => {
    const source = {
      ...newSource(id, {}, definition.audio ? 'x' : null, 'src'),
      ...(definition.sounds ? { data: { pads: [{ name: 'pad', audio: 'x' }] } } : {}),
      ...(definition.listens ? { listens: { track: 'other', point: 'before' as const } } : {}),
    }
    const line = definition.notes
      ? { length: 0.7, notes: [{ start: 0, length: 0.3, pitch: 36, velocity: 0.9 }], bend: [], pressure: [] }
      : null
    const tracks = made.project.tracks.map((t) => (t.source ? { ...t, source, line } : t))
    const other = {
      ...newTrack('other', newSource('loop', {}, 'x', 'other-src'), 'other'),
      params: { level: 0, pan: 0, mute: 1 },
    }
    return { ...made.project, tempo, loop, tracks: definition.listens ? [other, ...tracks] : tracks }
  }
  it('is finite and heard at every tempo, and the same again', () => {
    for (const tempo of [20, 61.3, 107, 233, 300]) {
      const once = run(withSource(tempo), made.audio, 400)
      expect(once.every((v) => Number.isFinite(v) && Math.abs(v) < 2)).toBe(true)
      expect(peak(once)).toBeGreaterThan(0.01)
      expect(run(withSource(tempo), made.audio, 400)).toEqual(once)
    }
  })
  it('comes back from a mute as if it had been heard all the time', () => {
    const project = withSource(107)
    const muted = edited(project, setParam('t', 'mute', 1))
    const back = run(project, made.audio, 900, { 133: (e) => e.update(muted), 611: (e) => e.update(project) })
    const whole = run(project, made.audio, 900)
    for (let i = 640 * BLOCK; i < whole.length; i++)
      if (Math.abs(back[i]! - whole[i]!) > 1e-5) throw new Error(`is elsewhere at ${i}`)
  })
  it('goes round the loop, sounds on from a seek, and falls silent when the song stops, unless it is live', () => {
    const project = withSource(107, { on: true, start: 0.37, end: 2.11 })
    const y = run(project, made.audio, 1600, { 700: (e) => e.play(1.3), 1400: (e) => e.stop() })
    expect(y.every((v) => Number.isFinite(v))).toBe(true)
    expect(peak(y.subarray(710 * BLOCK, 1390 * BLOCK))).toBeGreaterThan(0.01)
    if (!definition.live) expect(peak(y.subarray(1500 * BLOCK))).toBeLessThan(1e-4)
  })
})

describe.each(modulators.map((d) => [d.id, d] as const))('modulator %s in a song', (id, definition) => {
  const made = projectOf(noise(1.237, 3, 0.3), [newEffect('filter', {}, 'f')])
  const notes = [
    { start: 0.2, length: 0.4, pitch: 50, velocity: 0.7 },
    { start: 1.1, length: 0.3, pitch: 62, velocity: 0.4 },
  ]
  const project = edited(
    { ...made.project, tempo: 107 },
    addModulator('t', id, { id: 'm', listens: definition.listens ? { track: 't', point: 'before' } : null }),
    addModulator('t', 'lfo', { id: 'other' }),
    addLink(
      'm',
      { owner: 'f', param: 'cutoff' },
      place(made.project, 'f', 'cutoff', 300),
      place(made.project, 'f', 'cutoff', 3000),
      {
        id: 'k',
      },
    ),
    setNoteLine('t', { length: 1.7, notes, bend: [], pressure: [] }),
  )
  const traced = (p: Project, at: Script = {}, blocks = 900): number[] => {
    const seen: number[] = []
    run(p, made.audio, blocks, at, (e) => seen.push(live(e, 'mod:m')))
    return seen
  }
  it('stays within 0 and 1 at every tempo, and gives the same again', () => {
    for (const tempo of [20, 107, 300]) {
      const seen = traced({ ...project, tempo })
      for (const v of seen) expect(v >= 0 && v <= 1).toBe(true)
      expect(traced({ ...project, tempo })).toEqual(seen)
    }
  })
  it('goes on beneath while another is heard alone, and is where it would have been afterwards', () => {
    const seen = traced(project, {
      200: (e) => e.setMonitor({ ...openMonitor, alone: 'other' }),
      500: (e) => e.setMonitor(openMonitor),
    })
    const whole = traced(project)
    for (let b = 510; b < whole.length; b++) expect(seen[b]).toBeCloseTo(whole[b]!, 6)
  })
})
