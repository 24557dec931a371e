import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Engine } from '@oleaje/core/engine/engine'
import { Guard } from '@oleaje/core/engine/guard'
import { SLOTS, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { addNode, removeNode } from '@oleaje/core/project/chain-edits'
import { PIECE_FRAMES } from '@oleaje/core/dsp/audio-pieces'
import { apply, type Edit } from '@oleaje/core/project/edit'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import type { FromWorklet, ToWorklet } from '../contract/messages'

const RATE = 48_000
const BLOCK = 128
/** More blocks than the rehearsal takes. */
const REHEARSAL = 101

class FakePort {
  onmessage: ((m: { data: ToWorklet }) => void) | null = null
  readonly sent: FromWorklet[] = []
  postMessage(message: FromWorklet): void {
    this.sent.push(structuredClone(message))
  }
}
interface Processor {
  readonly port: FakePort
  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean
}

let Processor: new (options: {
  processorOptions: { memory: null; shared: boolean; rate: number; rehearses: boolean }
}) => Processor
vi.stubGlobal('sampleRate', RATE)
vi.stubGlobal(
  'AudioWorkletProcessor',
  class {
    readonly port = new FakePort()
  },
)
vi.stubGlobal('registerProcessor', (name: string, made: typeof Processor) => {
  expect(name).toBe('oleaje')
  Processor = made
})
await import('../worklet/processor')

function night(): Project {
  const project = newProject('Night Ferry')
  const pad = newTrack('Fog pad', newSource('tone', {}, null, 'src'), 'pad')
  pad.a.nodes = [newEffect('filter', { cutoff: 900 }, 'f'), newEffect('delay', { time: 0.02 }, 'd')]
  project.tracks.unshift(pad)
  return [
    addModulator('pad', 'lfo', { id: 'm', params: { rate: 4 } }),
    addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'l' }),
  ].reduce((p: Project, e: Edit) => apply(p, e).next, project)
}

/** The worklet as the browser runs it: messages in, blocks out. */
function worklet() {
  const processor = new Processor({
    processorOptions: { memory: null, shared: false, rate: RATE, rehearses: true },
  })
  const { port } = processor
  const send = (message: ToWorklet): void => port.onmessage?.({ data: structuredClone(message) })
  function run(blocks: number, input: Float32Array[] = []): Float32Array {
    const all = new Float32Array(blocks * BLOCK)
    for (let b = 0; b < blocks; b++) {
      const out = [all.subarray(b * BLOCK, (b + 1) * BLOCK), new Float32Array(BLOCK)]
      expect(processor.process([input], [out])).toBe(true)
    }
    return all
  }
  /** Runs until the rehearsal is over, so that Play is heard at once. */
  function load(project: Project): void {
    send({ type: 'load', project })
    run(REHEARSAL)
  }
  const slots = () => port.sent.filter((m) => m.type === 'slots')
  return { port, send, run, load, slots }
}

const peak = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)

describe('the worklet', () => {
  let w: ReturnType<typeof worklet>
  const project = night()
  beforeEach(() => {
    w = worklet()
  })

  it('is silent until it is told to play, whatever comes before', () => {
    expect(peak(w.run(4))).toBe(0)
    w.send({ type: 'patches', patches: [] })
    w.send({ type: 'load', project })
    expect(peak(w.run(20))).toBe(0)
    expect(w.port.sent.filter((m) => m.type === 'error')).toEqual([])
  })

  it('gives the engine’s own sound, bit for bit, the rehearsal before it unheard', () => {
    w.load(project)
    w.send({ type: 'play', beat: 2 })
    const heard = w.run(200)
    const engine = new Engine({ sampleRate: RATE, audio: () => null })
    engine.load(project)
    engine.play(2)
    const wanted = new Float32Array(200 * BLOCK)
    const other = new Float32Array(BLOCK)
    for (let b = 0; b < 200; b++) engine.process(wanted.subarray(b * BLOCK, (b + 1) * BLOCK), other)
    expect(peak(heard)).toBeGreaterThan(0.01)
    expect(heard).toEqual(wanted)
  })

  it('tells of each guard that trips, once each time, whichever track it is on', () => {
    w.load(project)
    w.send({ type: 'play', beat: 0 })
    w.run(31)
    const tripped = () => w.port.sent.flatMap((m) => (m.type === 'tripped' ? [m.key] : []))
    expect(tripped()).toEqual([])
    for (const times of [1, 2]) {
      const inspect = vi.spyOn(Guard.prototype, 'inspect').mockImplementationOnce(function (this: Guard) {
        this.trip()
        return true
      })
      w.run(17)
      inspect.mockRestore()
      w.run(400)
      expect(tripped()).toEqual(Array(times).fill('node:f'))
      w.send({ type: 'acknowledge', node: 'f' })
    }
  })

  it('told to play during the rehearsal, begins when that is over, and not if it was stopped or another project came', () => {
    const began = () => w.port.sent.filter((m) => m.type === 'began').length
    w.send({ type: 'load', project })
    w.send({ type: 'play', beat: 0 })
    expect(peak(w.run(50))).toBe(0)
    expect(began()).toBe(0)
    expect(peak(w.run(REHEARSAL))).toBeGreaterThan(0.01)
    expect(began()).toBe(1)
    for (const message of [{ type: 'stop' }, { type: 'load', project }] satisfies ToWorklet[]) {
      const other = worklet()
      other.send({ type: 'load', project })
      other.send({ type: 'play', beat: 0 })
      other.send(message)
      expect(peak(other.run(2 * REHEARSAL))).toBe(0)
    }
  })

  it('ends its rehearsal for a live input, and then plays what was asked for', () => {
    w.send({ type: 'load', project })
    w.send({ type: 'play', beat: 0 })
    w.send({ type: 'arm', armed: true })
    expect(peak(w.run(20))).toBeGreaterThan(0.01)
  })

  it('begins from a place of a long sound that nobody wanted when its pieces have come, from the first sample on, and in a quarter of a second at the latest', () => {
    const frames = 40 * PIECE_FRAMES + 311
    const long = { ...newProject('Night Ferry'), tempo: 120 }
    long.tracks.unshift(newTrack('Crossing', newSource('loop', {}, 'long'), 'crossing'))
    long.audio = { long: { name: 'crossing', frames, channels: 1, sampleRate: RATE } }
    w.send({
      type: 'audio',
      sounds: [{ hash: 'long', sampleRate: RATE, channels: [], pieces: { frames, channelCount: 1 } }],
    })
    w.load(long)
    const given = new Set<number>()
    const give = (): void => {
      for (const m of w.port.sent) {
        if (m.type !== 'want' || given.has(m.n)) continue
        given.add(m.n)
        w.send({
          type: 'piece',
          hash: 'long',
          n: m.n,
          channels: [
            Float32Array.from(
              { length: Math.min(PIECE_FRAMES, frames - m.n * PIECE_FRAMES) },
              (_, i) => (m.n * PIECE_FRAMES + i) / 8_000_000,
            ),
          ],
        })
      }
    }
    const began = () => w.port.sent.filter((m) => m.type === 'began').length
    give()
    // beat 107.37 is at 53.685 s, in the twentieth piece
    w.send({ type: 'play', beat: 107.37 })
    expect(peak(w.run(17))).toBe(0)
    expect([began(), given.has(19)]).toEqual([0, false])
    give()
    expect([given.has(19), peak(w.run(1)), began()]).toEqual([true, 0, 1])
    const heard = w.run(9)
    const first = Math.round((107.37 * RATE) / 2)
    const latency = heard.findIndex((v) => v !== 0)
    expect(latency).toBeGreaterThanOrEqual(0)
    expect(heard.subarray(latency)).toEqual(
      Float32Array.from({ length: heard.length - latency }, (_, i) => Math.fround((first + i) / 8_000_000)),
    )
    // from another one nothing comes: what plays goes on meanwhile, and then it is silent there
    w.send({ type: 'play', beat: 31.1 })
    expect(peak(w.run(93))).toBeGreaterThan(0.3)
    expect(began()).toBe(1)
    w.run(1)
    expect(began()).toBe(2)
    w.run(40)
    expect(peak(w.run(4))).toBe(0)
    // stopped while it waits, it does not begin
    w.send({ type: 'play', beat: 50.3 })
    w.send({ type: 'stop', cut: true })
    w.run(200)
    expect(began()).toBe(2)
  })

  it('asks for pieces of a long sound as they are played, keeps them when the sound is told of again, and gives them back with it', () => {
    const frames = 5 * PIECE_FRAMES + 311
    const long = newProject('Night Ferry')
    long.tracks.unshift(newTrack('Crossing', newSource('loop', {}, 'long'), 'crossing'))
    long.audio = { long: { name: 'crossing', frames, channels: 1, sampleRate: RATE } }
    const sound: ToWorklet = {
      type: 'audio',
      sounds: [{ hash: 'long', sampleRate: RATE, channels: [], pieces: { frames, channelCount: 1 } }],
    }
    const wanted = (): number[] => w.port.sent.flatMap((m) => (m.type === 'want' ? [m.n] : []))
    w.send(sound)
    w.load(long)
    w.run(4)
    const asked = wanted()
    expect(asked.slice(0, 4)).toEqual([0, 1, 2, 3])
    for (const n of new Set(asked))
      w.send({ type: 'piece', hash: 'long', n, channels: [new Float32Array(PIECE_FRAMES).fill(0.37)] })
    w.send({ type: 'play', beat: 0 })
    expect(peak(w.run(8))).toBeGreaterThan(0.2)
    w.send(sound)
    expect(Math.min(...w.run(4).map(Math.abs))).toBeGreaterThan(0.2)
    expect(wanted()).toEqual(asked)
    w.send({ type: 'forget', hashes: ['long'] })
    expect(w.port.sent.flatMap((m) => (m.type === 'piece-back' ? m.channels : []))).toHaveLength(
      new Set(asked).size,
    )
  })

  it('says where live values stand: all of them first, then those that an edit brings', () => {
    w.load(project)
    const [first] = w.slots()
    expect(first).toMatchObject({ anew: true, feedback: [] })
    expect(first?.entries[0]).toEqual(['beat', 0])
    expect(first?.entries.map(([key]) => key)).toContain('live:f.cutoff')
    w.send({ type: 'play', beat: 0 })
    w.send({
      type: 'patches',
      patches: apply(project, addNode(newEffect('gain', { level: 3 }, 'g'), { after: 'f' })).patches,
    })
    w.run(60)
    const news = w.slots()[1]
    expect(w.slots()).toHaveLength(2)
    expect(news?.anew).toBe(false)
    expect(news?.entries.map(([key]) => key)).toContain('live:g.level')
    expect(news?.entries.map(([key]) => key)).not.toContain('live:f.cutoff')
    // what only goes needs no word
    w.send({
      type: 'patches',
      patches: apply(
        apply(project, addNode(newEffect('gain', { level: 3 }, 'g'), { after: 'f' })).next,
        removeNode('g'),
      ).patches,
    })
    w.run(60)
    expect(w.slots()).toHaveLength(2)
  })

  it('follows edits while it plays', () => {
    w.load(project)
    w.send({ type: 'play', beat: 0 })
    const before = peak(w.run(100))
    w.send({ type: 'patches', patches: apply(project, setParam('pad', 'level', -60)).patches })
    w.run(100)
    expect(peak(w.run(50))).toBeLessThan(before / 100)
  })

  it('sends its live values along where no memory is shared, and counts load, blocks and those over their time', () => {
    w.load(project)
    const at = (key: string): number => new Map(w.slots().flatMap((m) => m.entries)).get(key) ?? -1
    w.send({ type: 'play', beat: 0 })
    w.send({ type: 'measure' })
    w.run(64)
    const told = w.port.sent.filter((m) => m.type === 'telemetry')
    expect(told.length).toBeGreaterThanOrEqual(8)
    const { values } = telemetryMemory(told.at(-1)?.buffer)
    expect(values).toHaveLength(SLOTS)
    expect(values[at('beat')]).toBeGreaterThan(0)
    expect(values[at('playing')]).toBe(1)
    expect(values[at('blocks')]).toBeGreaterThanOrEqual(64)
    expect(values[at('peak:track:pad')]).toBeGreaterThan(0.001)
    expect(values[at('missed')]).toBeGreaterThanOrEqual(0)
  })

  it('goes on after something it cannot do, and says what it was', () => {
    w.load(project)
    w.send({ type: 'play', beat: 0 })
    w.run(10)
    w.send({
      type: 'patches',
      patches: [{ op: 'set', path: ['tracks', { id: 'nobody' }, 'name'], value: 'x' }],
    })
    expect(w.port.sent.filter((m) => m.type === 'error').map((m) => m.message)).toEqual([
      'A change points to something that is not in the project.',
    ])
    expect(peak(w.run(10))).toBeGreaterThan(0.001)
  })

  it('captures the first frames of a passage, before the monitor stage', () => {
    w.send({ type: 'load', project })
    w.send({
      type: 'monitor',
      monitor: {
        soloTracks: ['nobody'],
        unheardTrack: null,
        soloBranches: [],
        dryTrack: null,
        upTo: null,
        part: null,
        items: null,
        match: null,
        alone: null,
        probe: null,
      },
    })
    w.send({ type: 'capture', beat: 1, frames: 1000 })
    w.run(9)
    const captured = w.port.sent.find((m) => m.type === 'captured')
    expect(captured?.left).toHaveLength(1000)
    expect(captured?.right).toHaveLength(1000)
    expect(w.port.sent.filter((m) => m.type === 'captured')).toHaveLength(1)
  })

  it('hears a live input once it is armed', () => {
    const line = newProject('Night Ferry')
    line.tracks.unshift(newTrack('Line', newSource('input', {}, null, 'src'), 'line'))
    w.send({ type: 'load', project: line })
    w.send({ type: 'arm', armed: true })
    w.send({ type: 'play', beat: 0 })
    const tone = Float32Array.from({ length: BLOCK }, (_, i) => 0.3 * Math.sin(i / 5))
    expect(peak(w.run(40, [tone]))).toBeGreaterThan(0.1)
    // the last of it leaves the look-ahead of the limiter
    w.run(2)
    expect(peak(w.run(4))).toBeLessThan(0.01)
  })

  it('stops its sources and lets ring what rings', () => {
    w.load(apply(project, setParam('d', 'feedback', 0.7)).next)
    w.send({ type: 'play', beat: 0 })
    w.run(100)
    w.send({ type: 'stop' })
    expect(peak(w.run(20))).toBeGreaterThan(0.001)
    w.run(6000)
    expect(peak(w.run(4))).toBeLessThan(1e-4)
  })
})
