import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { addModulator, addLink } from '@oleaje/core/project/motion-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, live, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const left = new Float32Array(BLOCK)
const right = new Float32Array(BLOCK)
const SECOND = RATE / BLOCK

function opened(p: { project: Project; audio: () => { sampleRate: number; channels: Float32Array[] } }) {
  const engine = new Engine({ sampleRate: RATE, audio: p.audio, looping: true })
  engine.load(p.project)
  const blocks = (count: number): number[] =>
    Array.from({ length: Math.ceil(count) }, () => {
      engine.process(left, right)
      return left.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
    })
  return { engine, blocks }
}
const delay = () => newEffect('delay', { time: 0.37, feedback: 0.6, wet: 0.5 }, 'd')
const looped = () => projectOf(noise(0.5, 3, 0.3), [delay()])

describe('an engine with nothing to do', () => {
  it('rests soon after a project has come in, counts blocks on, and plays at once as if it never had', () => {
    const rested = opened(looped())
    const fresh = opened(looped())
    rested.blocks(SECOND)
    expect(rested.engine.isResting).toBe(true)
    expect(live(rested.engine, 'blocks')).toBe(Math.ceil(SECOND))
    rested.engine.play(1.37)
    fresh.engine.play(1.37)
    for (let b = 0; b < 300; b++) {
      rested.engine.process(left, right)
      const heard = left.slice()
      fresh.engine.process(left, right)
      expect(heard).toEqual(left)
    }
  })

  it('lets what rings ring out to its end, and says how loud it was for as long as that is measured', () => {
    const { engine, blocks } = opened(looped())
    engine.setMonitor({ ...openMonitor, probe: { track: 't', modulator: null } })
    engine.play(0)
    blocks(2 * SECOND)
    engine.stop()
    const tail = blocks(30 * SECOND)
    // 0.6 a round of 0.37 s falls by 120 dB in 10 s
    const last = tail.reduce((at, v, b) => (v > 1e-6 ? b : at), 0)
    expect((last * BLOCK) / RATE).toBeGreaterThan(8)
    expect((last * BLOCK) / RATE).toBeLessThan(13)
    expect(engine.isResting).toBe(true)
    for (const key of ['wet momentary', 'wet short']) expect(live(engine, key)).toBeLessThan(-119)
  })

  it('waits for an echo that comes after seconds of silence', () => {
    const p = projectOf(noise(0.1, 3, 0.3), [
      newEffect('delay', { sync: 1, length: 16, feedback: 0, wet: 0.5 }, 'd'),
    ])
    const { engine, blocks } = opened({ ...p, project: { ...p.project, tempo: 53 } })
    engine.play(0)
    blocks(0.1 * SECOND)
    engine.stop()
    const heard = blocks(20 * SECOND)
    // 16 beats at 53 bpm
    const echo = heard.findIndex((v, b) => b > SECOND && v > 0.01)
    expect((echo * BLOCK) / RATE).toBeCloseTo((16 * 60) / 53 - 0.1, 1)
  })

  it('does not rest while a muted track still rings, which might be heard later', () => {
    const { engine, blocks } = opened(looped())
    engine.play(0)
    blocks(SECOND)
    engine.stop()
    engine.setMonitor({ ...openMonitor, soloTracks: ['mix'] })
    blocks(5 * SECOND)
    expect(engine.isResting).toBe(false)
  })

  it('takes edits: a value is where it was set, a new link moves it, and it rests again', () => {
    const p = looped()
    const { engine, blocks } = opened(p)
    blocks(SECOND)
    const shorter = edited(p.project, setParam('d', 'time', 0.11))
    engine.setValue(shorter, 'd', 'time', 0.11)
    expect(engine.isResting).toBe(false)
    blocks(SECOND)
    expect(engine.isResting).toBe(true)
    const at = live(engine, 'live:d.time')
    const moved = edited(
      shorter,
      addModulator('t', 'macro', { id: 'm', params: { value: 1 } }),
      addLink('m', { owner: 'd', param: 'time' }, 0.1, 0.3, { id: 'k' }),
    )
    engine.update(moved)
    blocks(SECOND)
    expect(at).toBeGreaterThan(0.5)
    expect(live(engine, 'live:d.time')).toBeCloseTo(0.3, 6)
    expect(engine.isResting).toBe(true)
  })

  it('plays a live note on its frame, stopped, and a live input for as long as it is open', () => {
    const track = newTrack('Keys', newSource('played', { plays: 1, attack: 0 }, null, 's'), 'k')
    const project = { ...newProject('Skerries') }
    project.tracks.unshift(track)
    const none = { sampleRate: RATE, channels: [] }
    const { engine, blocks } = opened({ project, audio: () => none })
    blocks(SECOND)
    expect(engine.isResting).toBe(true)
    engine.note('k', 60, 0.9, 37)
    engine.process(left, right)
    expect(engine.mix.left.findIndex((v) => v !== 0)).toBeGreaterThanOrEqual(37)
    expect(engine.mix.left.findIndex((v) => v !== 0)).toBeLessThan(40)
    engine.note('k', 60, 0)
    blocks(6 * SECOND)
    expect(engine.isResting).toBe(true)
    engine.arm(true)
    blocks(6 * SECOND)
    expect(engine.isResting).toBe(false)
  })

  it('never rests while it renders', () => {
    const { project, audio } = looped()
    const engine = new Engine({ sampleRate: RATE, audio, looping: false })
    engine.load(project)
    for (let b = 0; b < 3 * SECOND; b++) engine.process(left, right)
    expect(engine.isResting).toBe(false)
  })
})
