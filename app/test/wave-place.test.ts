import { describe, expect, it, vi } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'

vi.mock('../composables/useSession', () => ({ useSession: () => ({}) }))
const { loudestBetween, wavePlace } = await import('../composables/useWave')

const RATE = 48_000
const FRAMES = 30_000
/** A sound that tells where it is read: each sample is its own share of the way. */
const ramp = Float32Array.from({ length: FRAMES }, (_, i) => (i / FRAMES) * 0.5)

describe('the wave on the song', () => {
  it.each([
    ['as it is', {}],
    ['a part of it', { start: 0.2, end: 0.6 }],
    ['at the song’s tempo', { play: 1, tempo: 90 }],
    ['tuned down', { tune: -7 }],
    ['with a place of its own to go back to', { start: 0.1, loopFrom: 0.4, end: 0.8 }],
    ['turned round', { reverse: 1, start: 0.2, end: 0.7 }],
    ['from a later beat on', { at: 0.37 }],
    ['all of that', { play: 1, tempo: 80, tune: 3, start: 0.1, end: 0.9 }],
  ])('shows what is heard at each beat: %s', (_, params) => {
    const project = { ...newProject('Night Ferry'), tempo: 120, loop: { on: false, start: 0, end: 64 } }
    const track = newTrack('Bell buoy', newSource('loop', params, 'x'), 'buoy')
    project.tracks.unshift(track)
    const engine = new Engine({ sampleRate: RATE, audio: () => ({ sampleRate: RATE, channels: [ramp] }) })
    engine.load(project)
    engine.play(0)
    const heard: number[] = []
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    for (let b = 0; b < 600; b++) {
      engine.process(left, right)
      heard.push(...engine.mix.left)
    }
    const shareAt = wavePlace(track, FRAMES, project.tempo, RATE)
    let compared = 0
    for (let frame = 1000; frame < heard.length - 2000; frame += 997) {
      const share = shareAt((frame / RATE) * 2)
      const read = heard[frame + engine.latency]! / 0.5
      // before it begins
      if (Number.isNaN(share)) {
        expect(read).toBe(0)
        continue
      }
      // where it turns round, neighbouring samples are the two ends
      if (
        Math.abs(share - shareAt(((frame + 8) / RATE) * 2)) > 0.05 ||
        Math.abs(share - shareAt(((frame - 8) / RATE) * 2)) > 0.05
      )
        continue
      compared++
      expect(read, `at frame ${frame}`).toBeCloseTo(share, 3)
    }
    expect(compared).toBeGreaterThan(50)
  })
})

describe('the loudest between two places', () => {
  const table = Float32Array.of(0.1, 0.5, 0.2, 0.9, 0.3, 0.4, 0, 0.6)

  it('misses no peak, in either direction', () => {
    expect(loudestBetween(table, 0.2, 0.45)).toBeCloseTo(0.9)
    expect(loudestBetween(table, 0.45, 0.2)).toBeCloseTo(0.9)
    expect(loudestBetween(table, 0.26, 0.37)).toBeCloseTo(0.2)
    expect(loudestBetween(table, 0.9, 1)).toBeCloseTo(0.6)
  })

  it('is that of one place where a round ends between, and nothing before the sound begins', () => {
    expect(loudestBetween(table, 0.8, 0.01)).toBe(0)
    expect(loudestBetween(table, NaN, 0.3)).toBe(0)
  })
})
