import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import type { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { addNode } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, live, place, play, projectOf } from './project-rig'
import { RATE, noise, peak, rms } from './rig'

const second = Math.round(RATE / BLOCK)
const played = projectOf(noise(1, 3, 0.3), [newEffect('gain', {}, 'first')])
/** A second track `u` with a tone and a delay, beside `t`. */
const both: Project = {
  ...played.project,
  tracks: [
    played.project.tracks[0]!,
    {
      ...newTrack('u', newSource('tone', { level: -20, frequency: 300 }, null, 'tone'), 'u'),
      params: { mute: 1 },
    },
    played.project.tracks[1]!,
  ],
}
const withDelay = edited(
  both,
  addNode(newEffect('delay', { time: 0.2, feedback: 0.5, wet: 0.5 }, 'echo'), { startOf: 'u' }),
)
const audio = played.audio
const mute = (on: number) => (e: Engine) => e.update(edited(withDelay, setParam('u', 'mute', on)))

describe('a muted track', () => {
  it('is not worked out, and changes nothing of what is heard', () => {
    const { left, engine } = play({ project: withDelay, audio }, 1, {}, undefined, true)
    expect(live(engine, 'peak:source:u')).toBe(0)
    expect(live(engine, 'peak:source:t')).toBeGreaterThan(0.1)
    expect(left).toEqual(play({ ...played }, 1, {}, undefined, true).left)
  })
  it('comes back with its source where the song is', () => {
    const { left } = play({ project: withDelay, audio }, 2, { [second]: mute(0) })
    const never = play({ project: edited(withDelay, setParam('u', 'mute', 0)), audio }, 2).left
    // the echoes of what nobody heard are missing for a while, then it is the same
    const off = left.map((v, i) => v - never[i]!)
    expect(rms(off.slice(0, RATE))).toBeGreaterThan(0.05)
    expect(rms(off.slice(1.95 * RATE))).toBeLessThan(0.1 * rms(off.slice(0, RATE)))
  })
  it('shows its levels again as soon as it is heard again', () => {
    const { engine } = play({ project: withDelay, audio }, 2.5, { [second]: mute(0) }, undefined, true)
    expect(live(engine, 'peak:source:u')).toBeGreaterThan(0.05)
    expect(live(engine, 'peak:node:echo')).toBeGreaterThan(0.05)
  })
  it('rings out before it rests, so that nothing old is heard when it comes back', () => {
    const run = play(
      { project: edited(withDelay, setParam('u', 'mute', 0)), audio },
      3,
      { [second]: mute(1), [2 * second]: mute(0) },
      undefined,
      true,
    )
    const alone = play({ project: withDelay, audio }, 3, {}, undefined, true)
    const u = run.left.map((v, i) => v - alone.left[i]!)
    expect(peak(u.slice(1.2 * RATE, 1.9 * RATE))).toBe(0)
    // within the second it has rung out by half to the fifth; what comes back is the tone itself first
    const wanted = peak(u.slice(0.05 * RATE, 0.15 * RATE))
    expect(peak(u.slice(2.05 * RATE, 2.15 * RATE))).toBeLessThan(1.1 * wanted)
    expect(peak(u.slice(2.05 * RATE, 2.15 * RATE))).toBeGreaterThan(0.9 * wanted)
  })
  it('goes on as long as something listens to it: a follower, a sidechain, an open panel, a link on its mute', () => {
    const running = (p: Project, monitor = openMonitor): boolean =>
      live(
        play({ project: p, audio }, 0.5, { 0: (e) => e.setMonitor(monitor) }, undefined, true).engine,
        'peak:source:u',
      ) > 0
    const follower = edited(
      withDelay,
      addModulator('t', 'follower', { id: 'f', listens: { track: 'u', point: 'after' } }),
    )
    expect(running(withDelay)).toBe(false)
    expect(running(withDelay, { ...openMonitor, probe: { track: 'u', modulator: null } })).toBe(true)
    expect(running(follower)).toBe(false)
    expect(running(follower, { ...openMonitor, probe: { track: 't', modulator: null } })).toBe(true)
    expect(running(edited(follower, addLink('f', { owner: 'first', param: 'level' }, 0.2, 0.6)))).toBe(true)
    const ducked = edited(
      withDelay,
      addNode(
        { ...newEffect('compressor', {}, 'duck'), sidechain: { track: 'u', point: 'before' } },
        { after: 'first' },
      ),
    )
    expect(running(ducked)).toBe(true)
    const moved = edited(
      withDelay,
      addModulator('t', 'macro', { id: 'm' }),
      addLink('m', { owner: 'u', param: 'mute' }, 0, 1),
    )
    expect(running(moved)).toBe(true)
  })
  it('does not stop the clocks of its modulators', () => {
    const wobble = edited(
      withDelay,
      addModulator('u', 'lfo', { id: 'l', params: { rate: 0.7 } }),
      addLink(
        'l',
        { owner: 'echo', param: 'feedback' },
        place(withDelay, 'echo', 'feedback', 0.2),
        place(withDelay, 'echo', 'feedback', 0.6),
      ),
    )
    const at = (muted: number): number =>
      live(
        play({ project: edited(wobble, setParam('u', 'mute', muted)), audio }, 1.3, {}, undefined, true)
          .engine,
        'mod:l',
      )
    expect(at(1)).toBe(at(0))
    expect(at(1)).not.toBe(0)
  })
})
