import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { removeTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newProject, newSource, newSplit, newTrack } from '@oleaje/core/project/new'
import { checkProject } from '@oleaje/core/project/read'
import {
  addBus,
  addSend,
  refusedWay,
  removeSend,
  setOutput,
  setSend,
  wrongRouting,
} from '@oleaje/core/project/routing'
import type { Project, Track } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { planRender, render } from '@oleaje/core/render/render'
import { edited } from './project-rig'
import { tailOf } from '@oleaje/core/render/tail'
import { RATE, db, noise, peak } from './rig'

const sounds: Record<string, Float32Array> = { drum: noise(1.37, 3), rope: noise(0.91, 8) }
const audio = (hash: string) => (sounds[hash] ? { sampleRate: RATE, channels: [sounds[hash]] } : null)
const trackOf = (id: string, hash: string): Track =>
  newTrack(id, newSource('loop', {}, hash, `${id}-src`), id)

function projectOf(): Project {
  const project: Project = {
    ...newProject('buses'),
    tempo: 107,
    loop: { on: false, start: 0, end: 4 },
    audio: Object.fromEntries(
      Object.entries(sounds).map(([hash, c]) => [
        hash,
        { name: hash, frames: c.length, channels: 1, sampleRate: RATE },
      ]),
    ),
  }
  project.tracks.unshift(trackOf('drum', 'drum'), trackOf('rope', 'rope'))
  project.tracks[2]!.id = 'mix'
  return edited(project, addBus('Fog room', 'fog'), addBus('Harbour', 'harbour'))
}

function rendered(project: Project, track?: string): Float32Array {
  const plan = planRender(checkProject(JSON.parse(JSON.stringify(project))), {
    from: 0,
    to: 0.6,
    tail: 0,
    track,
  })
  const out = new Float32Array(plan.frames)
  let at = 0
  for (const { channels } of render(plan, audio)) {
    out.set(channels[0], at)
    at += channels[0].length
  }
  return out
}
const minus = (a: Float32Array, ...others: Float32Array[]): Float32Array =>
  a.map((v, i) => others.reduce((x, o) => x - o[i]!, v))
const times = (a: Float32Array, g: number): Float32Array => a.map((v) => v * g)
const dB = (x: number): number => 10 ** (x / 20)

describe('buses and sends', () => {
  it('a send arrives at its level and in time, whatever comes late on either way, below −120 dB', () => {
    const dry = rendered(projectOf())
    const drum = rendered(projectOf(), 'drum')
    const sent = edited(projectOf(), addSend('drum', 'fog', { id: 's', level: -7.3 }))
    expect(db(peak(minus(rendered(sent), dry, times(drum, dB(-7.3)))))).toBeLessThan(-120)
    // latency on the bus, on the other track, and on the track itself
    for (const late of ['fog', 'rope', 'drum']) {
      const p = JSON.parse(JSON.stringify(sent)) as Project
      p.tracks.find((t) => t.id === late)!.a.nodes = [newEffect('limiter', { on: 0 })]
      expect(db(peak(minus(rendered(p), dry, times(drum, dB(-7.3))))), late).toBeLessThan(-120)
    }
  })
  it('leaves before the fader or after it, from a track or a branch', () => {
    const base = edited(projectOf(), setParam('drum', 'level', -9), setParam('rope', 'mute', 1))
    const drum = rendered(edited(base, setParam('drum', 'level', 0)))
    const after = edited(base, addSend('drum', 'fog', { id: 's', level: 0 }))
    expect(db(peak(minus(rendered(after), times(drum, 2 * dB(-9)))))).toBeLessThan(-120)
    expect(
      db(peak(minus(rendered(edited(after, setSend('s', { before: true }))), times(drum, 1 + dB(-9))))),
    ).toBeLessThan(-120)
    // before the fader it goes on while the track is muted
    expect(
      db(
        peak(
          minus(rendered(edited(after, setSend('s', { before: true }), setParam('drum', 'mute', 1))), drum),
        ),
      ),
    ).toBeLessThan(-120)
    expect(peak(rendered(edited(after, setParam('drum', 'mute', 1))))).toBe(0)
    const split = JSON.parse(JSON.stringify(base)) as Project
    const [low, high] = [newBranch('one', -6, 'one'), newBranch('two', -72, 'two')]
    split.tracks[0]!.a.nodes = [newSplit([low, high], 'split')]
    const branch = edited(split, setOutput('drum', null), addSend('one', 'fog', { id: 's', level: 3 }))
    expect(db(peak(minus(rendered(branch), times(drum, dB(-3)))))).toBeLessThan(-120)
  })
  it('outputs go through a bus, or nowhere; buses go to buses', () => {
    const p = edited(
      projectOf(),
      setOutput('drum', 'fog'),
      setOutput('fog', 'harbour'),
      setParam('harbour', 'level', -4),
      setParam('fog', 'level', -2),
    )
    const [drum, rope] = [rendered(projectOf(), 'drum'), rendered(projectOf(), 'rope')]
    expect(db(peak(minus(rendered(p), rope, times(drum, dB(-6)))))).toBeLessThan(-120)
    expect(db(peak(minus(rendered(edited(p, setParam('fog', 'mute', 1))), rope)))).toBeLessThan(-120)
    expect(db(peak(minus(rendered(edited(p, setOutput('drum', null))), rope)))).toBeLessThan(-120)
    expect(db(peak(minus(rendered(p, 'harbour'), times(drum, dB(-6)))))).toBeLessThan(-120)
    expect(
      tailOf(
        edited(p, (q) => {
          q.tracks.find((t) => t.id === 'harbour')!.a.nodes = [newEffect('reverb', {})]
        }),
      ),
    ).toBeGreaterThan(0.5)
  })
  it('a way that would go round is refused with the way named, by edits and by files', () => {
    const p = edited(projectOf(), setOutput('fog', 'harbour'))
    expect(refusedWay(p, 'harbour', 'fog')).toBe(
      '“Harbour” cannot be routed to “Fog room”: this would create a feedback loop, “Fog room” to “Harbour” to “Fog room”.',
    )
    expect(edited(p, setOutput('harbour', 'fog'), addSend('harbour', 'fog')).sends).toEqual([])
    expect(refusedWay(p, 'mix', 'fog')).toMatch(/no output/)
    expect(refusedWay(p, 'fog', 'fog')).toMatch(/feedback loop/)
    const round = { ...p, sends: [{ id: 's', from: 'harbour', to: 'fog', before: false, params: {} }] }
    expect(wrongRouting(round)).toMatch(
      /^This project contains a feedback loop: “Fog room” to “Harbour” to “Fog room”\.$/,
    )
    expect(() => checkProject(JSON.parse(JSON.stringify(round)))).toThrow(/contains a feedback loop/)
    for (const wrong of [
      { from: 'nobody', to: 'fog' },
      { from: 'drum', to: 'rope' },
      { from: 'mix', to: 'fog' },
    ]) {
      expect(() =>
        checkProject(
          JSON.parse(JSON.stringify({ ...p, sends: [{ id: 's', before: false, params: {}, ...wrong }] })),
        ),
      ).toThrow(/A send/)
    }
  })
  it('what goes takes its ways along, and their links', () => {
    const p = edited(
      projectOf(),
      setOutput('drum', 'fog'),
      addSend('rope', 'fog', { id: 's' }),
      addModulator('rope', 'lfo', { id: 'l' }),
      addLink('l', { owner: 's', param: 'level' }, 0.2, 0.8),
    )
    expect(p.links).toHaveLength(1)
    const less = edited(p, removeTrack('fog'))
    expect([less.sends, less.links, less.tracks[0]!.output]).toEqual([[], [], undefined])
    expect(edited(p, removeSend('s')).links).toEqual([])
    expect(edited(p, removeTrack('rope')).sends).toEqual([])
  })
  it('alone and muted, a bus is heard with what feeds it, and a track with the buses it goes through', () => {
    const p = edited(
      projectOf(),
      addSend('drum', 'fog', { id: 's', level: -3 }),
      setOutput('rope', 'harbour'),
    )
    const live = (alone: string[]): Float32Array => {
      const engine = new Engine({ sampleRate: RATE, audio, looping: true })
      engine.load(p)
      engine.setMonitor({ ...openMonitor, soloTracks: alone })
      engine.play(0)
      const out = new Float32Array(150 * BLOCK)
      const heard = new Float32Array(BLOCK)
      for (let b = 0; b < 150; b++) {
        engine.process(heard, heard)
        out.set(engine.mix.left, b * BLOCK)
      }
      return out
    }
    const [drum, rope] = [
      rendered(projectOf(), 'drum').subarray(0, 150 * BLOCK),
      rendered(projectOf(), 'rope').subarray(0, 150 * BLOCK),
    ]
    for (const [alone, parts] of [
      [['fog'], times(drum, dB(-3))],
      [['harbour'], rope],
      [['drum'], times(drum, 1 + dB(-3))],
      [['fog', 'rope'], times(drum, dB(-3)).map((v, i) => v + rope[i]!)],
    ] as const)
      expect(db(peak(minus(live([...alone]), parts))), alone.join()).toBeLessThan(-110)
  })
  it('live is the same as rendered, bit for bit, with everything that moves', () => {
    const p = edited(
      projectOf(),
      addSend('drum', 'fog', { id: 's', level: -3 }),
      setOutput('rope', 'harbour'),
      setOutput('fog', 'harbour'),
      addModulator('rope', 'lfo', { id: 'l' }),
      addLink('l', { owner: 's', param: 'level' }, 0.2, 0.8),
      (q) => {
        q.tracks.find((t) => t.id === 'fog')!.a.nodes = [
          newEffect('reverb', {}),
          newEffect('drive', { quality: 2 }),
        ]
      },
    )
    const engine = new Engine({ sampleRate: RATE, audio, looping: true })
    engine.load(checkProject(JSON.parse(JSON.stringify(p))))
    engine.play(0)
    const heard = new Float32Array(BLOCK)
    const offline = rendered(p)
    const out = new Float32Array(200 * BLOCK)
    for (let b = 0; b < 200; b++) {
      engine.process(heard, heard)
      out.set(engine.mix.left, b * BLOCK)
    }
    const { latency } = engine
    for (let i = 0; i < 190 * BLOCK - latency; i++)
      if (out[i + latency] !== offline[i]) throw new Error(`differs at ${i}`)
    expect(peak(offline)).toBeGreaterThan(0.1)
  })
  it('ways are made and taken away while playing, with no click', () => {
    const engine = new Engine({
      sampleRate: RATE,
      audio: () => ({
        sampleRate: RATE,
        channels: [
          Float32Array.from({ length: 48_000 }, (_, i) => 0.3 * Math.sin((2 * Math.PI * 100 * i) / RATE)),
        ],
      }),
      looping: true,
    })
    let p = projectOf()
    engine.load(p)
    engine.play(0)
    const heard = new Float32Array(BLOCK)
    const out = new Float32Array(600 * BLOCK)
    for (let b = 0; b < 600; b++) {
      if (b === 100) p = edited(p, addSend('drum', 'fog', { id: 's', level: 0 }))
      if (b === 200) p = edited(p, setOutput('rope', 'fog'))
      if (b === 300) p = edited(p, removeSend('s'))
      if (b === 400) p = edited(p, removeTrack('fog'))
      engine.update(p)
      engine.process(heard, heard)
      out.set(engine.mix.left, b * BLOCK)
    }
    // steps of the second order: a sine bends softly, a click does not
    let worst = 0
    for (let i = 2; i < out.length; i++)
      worst = Math.max(worst, Math.abs(out[i]! - 2 * out[i - 1]! + out[i - 2]!))
    expect(db(worst)).toBeLessThan(-50)
  })
})
