import { describe, expect, it, vi } from 'vitest'
import { apply, type Edit, together } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { RecordedPart } from '../contract/messages'
import { Takes } from '../services/takes'
import { PART, Recorder, newPart } from '../worklet/recorder'
import { inEvery } from './in-every'

vi.mock('../storage/running-takes', () => ({
  RunningTake: class {
    add(): void {}
    drop = (): Promise<void> => Promise.resolve()
    leave = (): Promise<void> => Promise.resolve()
  },
  cutOffTakes: () => Promise.resolve([]),
  dropTake: () => Promise.resolve(),
}))

const BLOCK = 128
const block = (first: number) => ({
  left: Float32Array.from({ length: BLOCK }, (_, i) => first + i),
  right: new Float32Array(BLOCK),
})

/**
 * What a recorder hands over of so many blocks, of which the sides count frames up and down; the page gives
 * parts back but for some time.
 */
function recorded(blocks: number, busy: { from: number; to: number }): RecordedPart[] {
  const parts: RecordedPart[] = []
  const waiting: Float32Array<ArrayBuffer>[] = []
  const recorder = new Recorder([newPart(), newPart()], (part, frames, from) => {
    parts.push({ part: part.slice(), frames, from, beat: 3.37, latency: 0, heard: 0 })
    waiting.push(part)
  })
  for (let b = 0; b < blocks; b++) {
    if (b < busy.from || b >= busy.to) for (const part of waiting.splice(0)) recorder.takeBack(part)
    recorder.write(block(b * BLOCK), block(-b * BLOCK))
  }
  // parts have come back by the time that the end is asked for
  for (const part of waiting.splice(0)) recorder.takeBack(part)
  recorder.end()
  return parts
}

describe('a take', () => {
  it('is heard, and a second press stops it; the other side takes its place', async () => {
    const stops: string[] = []
    const host = {
      sound: (hash: string) => ({ hash }),
      listen: ({ hash }: { hash: string }) => Promise.resolve({ stop: () => stops.push(hash) }),
    }
    const monitoring = { heardTake: '' }
    const none = {} as never
    const takes = new Takes(none, { monitoring } as never, host as never, none, none)
    const take = { id: 'k', name: 'Take', at: 0, dry: 'dry', wet: 'wet' }
    await takes.hear(take as never, 'dry')
    expect([monitoring.heardTake, stops]).toEqual(['k dry', []])
    await takes.hear(take as never, 'wet')
    expect([monitoring.heardTake, stops]).toEqual(['k wet', ['dry']])
    await takes.hear(take as never, 'wet')
    expect([monitoring.heardTake, stops]).toEqual(['', ['dry', 'wet']])
  })

  it('is all that was recorded, one block more than two parts', () => {
    const parts = recorded((2 * PART) / BLOCK + 1, { from: 0, to: 0 })
    expect(parts.map(({ frames, from }) => [from, frames])).toEqual([
      [0, PART],
      [PART, PART],
      [2 * PART, BLOCK],
    ])
  })

  it('says how much is missing at its end, too', () => {
    const blocks = (3 * PART) / BLOCK + 5
    const parts = recorded(blocks, { from: 17, to: Infinity })
    expect(parts.map(({ frames, from }) => [from, frames])).toEqual([
      [0, PART],
      [PART, PART],
      [blocks * BLOCK, 0],
    ])
  })

  it('keeps its place where the page was too busy for some of it, which is silent, and says how much', async () => {
    const blocks = (4 * PART) / BLOCK + 37
    const parts = recorded(blocks, { from: 17, to: (3 * PART) / BLOCK + 11 })
    const track = newTrack('Line', newSource('input'), 'line')
    const project = newProject('Night Ferry')
    project.tracks.unshift(track)
    const doc = {
      project,
      trouble: '',
      edit: vi.fn((_: string, edit: Edit) => {
        doc.project = apply(doc.project, edit).next
      }),
    }
    const bench = { recordingTrack: null as string | null, playing: true, starting: false, roundTrips: {} }
    let take: (part: RecordedPart) => void = () => {}
    const host = {
      start: () => Promise.resolve(),
      record: (_: string, f: typeof take) => {
        take = f
      },
      endRecording: () => Promise.resolve(),
    }
    const kept: Float32Array[][] = []
    const sounds = {
      takeSamples: (name: string, channels: Float32Array[]) => {
        kept.push(channels)
        return Promise.resolve({
          sound: { hash: name },
          ref: { name, frames: channels[0]?.length ?? 0, channels: 2, sampleRate: 48_000 },
        })
      },
    }
    const takes = new Takes(
      doc as never,
      inEvery(bench) as never,
      host as never,
      sounds as never,
      {} as never,
    )
    await takes.toggle(track)
    parts.forEach(take)
    await takes.toggle(track)
    const [dry = new Float32Array(0)] = kept[0] ?? []
    expect(dry.length).toBe(blocks * BLOCK)
    const hole = { from: 2 * PART, to: 3 * PART + 11 * BLOCK }
    expect(dry.every((v, i) => v === (i >= hole.from && i < hole.to ? 0 : i))).toBe(true)
    expect(doc.project.tracks[0]?.takes).toMatchObject([{ at: 3.37 }])
    expect(doc.trouble).toContain(`${((hole.to - hole.from) / 48_000).toFixed(2)} s of it are silent`)
  })
  it('is cut to the last whole pass of the loop, or into its passes', async () => {
    const project = { ...newProject('Skerries'), tempo: 107, loop: { on: true, start: 2, end: 5 } }
    const perBeat = (60 / 107) * project.sampleRate
    const frames = Math.round(7.4 * perBeat)
    const take = { id: 'k', name: 'Take 1', at: 3, dry: 'd', wet: 'w' }
    project.tracks.unshift({ ...newTrack('Rope', null, 't'), takes: [take] })
    for (const hash of ['d', 'w'])
      project.audio[hash] = { name: hash, frames, channels: 1, sampleRate: project.sampleRate }
    const doc = {
      project,
      trouble: '',
      edit: (_: string, e: Edit) => {
        doc.project = apply(doc.project, e).next as typeof project
      },
    }
    const ramp = Float32Array.from({ length: frames }, (_, i) => i)
    const host = { sound: () => ({ sampleRate: project.sampleRate, channels: [ramp] }) }
    const cut: Float32Array[] = []
    const sounds = {
      takeSamples: (name: string, channels: Float32Array[]) => {
        cut.push(channels[0]!)
        const ref = { name, frames: channels[0]!.length, channels: 1, sampleRate: project.sampleRate }
        return Promise.resolve({ sound: { hash: `s${cut.length}` }, ref })
      },
    }
    const none = {} as never
    const takes = new Takes(doc as never, none, host as never, sounds as never, none)
    await takes.cutToLoop(doc.project.tracks[0]!, take, 'last')
    // begun at beat 3 of a loop from 2 to 5, it holds two beats, a whole pass, and 2.4 beats
    expect(doc.project.tracks[0]!.takes).toMatchObject([{ name: 'Take 1', at: 2, wet: 's2' }])
    expect([cut[1]![0], cut[1]!.length]).toEqual([
      Math.round(2 * perBeat),
      Math.round(5 * perBeat) - Math.round(2 * perBeat),
    ])
    expect(Object.keys(doc.project.audio).sort()).toEqual(['s1', 's2'])
    doc.project = project
    await takes.cutToLoop(doc.project.tracks[0]!, take, 'each')
    expect(doc.project.tracks[0]!.takes?.map((t) => [t.name, t.at])).toEqual([
      ['Take 1, pass 1', 3],
      ['Take 1, pass 2', 2],
      ['Take 1, pass 3', 2],
    ])
    doc.project = { ...project, loop: { on: true, start: 0, end: 64 } }
    await takes.cutToLoop(doc.project.tracks[0]!, take, 'last')
    expect(doc.trouble).toContain('holds no whole pass')
  })

  it('is kept dry with the whole chain: effects, modulators and links', () => {
    let project = newProject('Skerries')
    const track = newTrack('Rope', newSource('loop', {}, 'hash'), 't')
    track.a.nodes = [newEffect('filter', { cutoff: 311 }, 'f')]
    project.tracks.unshift(track)
    project.audio.dry = { name: 'Rope, take 1, dry', frames: 480, channels: 2, sampleRate: 48_000 }
    project = apply(
      project,
      together(
        addModulator('t', 'lfo', { id: 'm' }),
        addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.7),
      ),
    ).next
    const doc = {
      project,
      edit: (_: string, e: Edit) => {
        doc.project = apply(doc.project, e).next
      },
    }
    const selection = { selectTrack: vi.fn() }
    const none = {} as never
    const takes = new Takes(doc as never, { selection } as never, none, none, none)
    const take = { id: 'k', name: 'take 1', at: 4, dry: 'dry', wet: 'dry' }
    takes.keep(doc.project.tracks[0]!, take as never, 'dry')
    const kept = doc.project.tracks.find((t) => t.name === 'Rope, take 1, dry')!
    expect(kept.a.nodes.map((n) => n.kind === 'effect' && n.type)).toEqual(['filter'])
    expect(kept.modulators.map((m) => m.type)).toEqual(['lfo'])
    const own = doc.project.links.filter((l) => l.source === kept.modulators[0]!.id)
    expect(own.map((l) => l.target)).toEqual([{ owner: kept.a.nodes[0]!.id, param: 'cutoff' }])
    expect(kept.source?.params.at).toBe(4)
    takes.keep(doc.project.tracks[0]!, take as never, 'wet')
    expect(doc.project.links).toHaveLength(2)
  })
})
