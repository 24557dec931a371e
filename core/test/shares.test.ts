import { describe, expect, it } from 'vitest'
import type { AudioData } from '@oleaje/core/contract/audio'
import { readWav } from '@oleaje/core/formats/wav'
import { addNode, addTrack } from '@oleaje/core/project/chain-edits'
import type { Edit } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import { addBus, addSend } from '@oleaje/core/project/routing'
import { setParam } from '@oleaje/core/project/value-edits'
import { deliver, recordFor } from '@oleaje/core/render/deliver'
import { type DeliveryOrder, planDelivery, usualOrder } from '@oleaje/core/render/delivery'
import { Reel, Reels, type Wire } from '@oleaje/core/render/reels'
import { edited, projectOf } from './project-rig'
import { db, noise, rms } from './rig'

type Rig = ReturnType<typeof projectOf>

const track = (name: string, ...nodes: Parameters<typeof addNode>[0][]): Edit => {
  const t = newTrack(name, newSource('loop', {}, 'x', `${name}-src`), name)
  t.a.nodes = nodes
  return addTrack(t)
}

/** Four tracks with tails and latency, a bus, a mix that follows a track, and one that ducks another. */
function song(...edits: Edit[]): Rig {
  const rig = projectOf(noise(1.37, 5, 0.2), [newEffect('filter', { cutoff: 900 }, 'f')])
  const project = edited(
    rig.project,
    track('keys', newEffect('delay', { time: 0.11, feedback: 0.7 }, 'd'), newEffect('chorus', {}, 'c')),
    track('bass', newEffect('drive', { drive: 20 }, 'dr'), newEffect('pitch', {}, 'p')),
    track('pad', newEffect('reverb', { decay: 3.1 }, 'pr'), newEffect('vowel', {}, 'v')),
    addBus('Room', 'room'),
    addNode(newEffect('reverb', {}, 'r'), { startOf: 'room' }),
    addSend('keys', 'room', { id: 's', level: -9 }),
    addSend('bass', 'room', { id: 's2', level: -4, before: true }),
    addModulator('bass', 'follower', { id: 'fo', listens: { track: 't', point: 'after' } }),
    addLink('fo', { owner: 'bass', param: 'level' }, 0.2, 0.8),
    addNode(newEffect('filter', { cutoff: 5000 }, 'mf'), { startOf: 'mix' }),
    addModulator('mix', 'follower', { id: 'mfo', listens: { track: 'pad', point: 'after' } }),
    addLink('mfo', { owner: 'mf', param: 'cutoff' }, 0.4, 0.9),
    ...edits,
  )
  return { ...rig, project: { ...project, loop: { on: true, start: 1.3, end: 6.7 } } }
}

const order = (o: Partial<DeliveryOrder>): DeliveryOrder => ({ ...usualOrder, depth: 32, tail: 0.43, ...o })

/** A pair of ends that carry messages as ports of workers do, and counts what is on its way. */
function wires(): { ends: [Wire, Wire]; most: () => number } {
  const heard: ((event: { readonly data: unknown }) => void)[] = []
  let waiting = 0
  let most = 0
  const end = (n: 0 | 1): Wire => ({
    addEventListener: (_, f) => (heard[n] = f),
    start: () => {},
    postMessage: (data) => {
      if (n === 0) most = Math.max(most, ++waiting)
      else waiting--
      setImmediate(() => heard[1 - n]?.({ data }))
    },
  })
  const ends: [Wire, Wire] = [end(0), end(1)]
  return { ends, most: () => most }
}

/** The mix as so many workers make it, how many tracks they took, and the most pieces that waited. */
async function made(rig: Rig, o: Partial<DeliveryOrder>, workers: number, broken?: () => AudioData) {
  const [file] = planDelivery(rig.project, order(o))
  if (!file) throw new Error('no file')
  const pairs = Array.from({ length: workers - 1 }, wires)
  const reels = pairs.map(({ ends }) => new Reel(ends[1]))
  const recording = pairs.map(({ ends }, share) =>
    recordFor(file, broken ?? rig.audio, { share, workers }, ends[0]),
  )
  const parts: Uint8Array[] = []
  const work = deliver(file, rig.audio, workers > 1 ? new Reels(reels) : undefined)
  let step = await work.next()
  for (; !step.done; step = await work.next()) parts.push(step.value.bytes)
  await Promise.all(recording)
  const { channels } = readWav(Buffer.concat(parts))
  return { channels, recorded: pairs.filter((p) => p.most() > 0).length, most: pairs.map((p) => p.most()) }
}

/** Samples that differ. */
const different = (a: Float32Array[], b: Float32Array[]): number =>
  a.reduce(
    (all, side, k) =>
      all +
      side.reduce((n, x, i) => n + (x === b[k]?.[i] ? 0 : 1), Math.abs(side.length - (b[k]?.length ?? 0))),
    0,
  )

describe('tracks in several workers', () => {
  const cases: [string, Rig, Partial<DeliveryOrder>][] = [
    ['tails, a bus, a ducked track and a mix that follows a track', song(), { begin: 'song' }],
    ['a loudness target', song(), { level: { kind: 'loudness', loudness: -20, ceiling: -1 } }],
    ['another rate', song(), { rate: 44_100 }],
    ['a muted track that another follows', song(setParam('t', 'mute', 1)), {}],
    ['one track through the mix', song(), { what: 'track', track: 'keys' }],
    ['an endless tail', song(setParam('d', 'feedback', 1)), { tail: 'auto' }],
  ]
  it.each(cases)('%s: the same bits from one, two and three', async (_, rig, o) => {
    const { channels } = await made(rig, o, 1)
    expect(db(rms(channels[0] as Float32Array))).toBeGreaterThan(-50)
    for (const workers of [2, 3]) expect(different((await made(rig, o, workers)).channels, channels)).toBe(0)
  })

  it('each takes some tracks, and none is far ahead of the mix', async () => {
    const { recorded, most } = await made(song(), { tail: 2 }, 3)
    expect(recorded).toBe(2)
    for (const pieces of most) expect(pieces).toBeLessThanOrEqual(6)
  })

  it('where every track hears the mix, one does it all', async () => {
    const hears = (of: string): Edit[] => [
      addModulator(of, 'follower', { id: `m-${of}`, listens: { track: 'mix', point: 'after' } }),
      addLink(`m-${of}`, { owner: of, param: 'level' }, 0.3, 0.9),
    ]
    const rig = song(...['t', 'keys', 'bass', 'pad'].flatMap(hears))
    const { channels } = await made(rig, {}, 1)
    const shared = await made(rig, {}, 3)
    expect(shared.recorded).toBe(0)
    expect(different(shared.channels, channels)).toBe(0)
  })

  it('what fails in one fails the file', async () => {
    const broken = (): AudioData => {
      throw new Error('The sound could not be read.')
    }
    await expect(made(song(), {}, 2, broken)).rejects.toThrow('The sound could not be read.')
  })
})
