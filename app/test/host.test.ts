import { beforeEach, describe, expect, it, vi } from 'vitest'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { fixedSlots, telemetryBytes, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { newProject } from '@oleaje/core/project/new'
import type { FromWorklet, ToWorklet } from '../contract/messages'

vi.mock('../worklet/processor?worker&url', () => ({ default: '/worklet.js' }))
const { EngineHost } = await import('../audio/host')
const { Telemetry } = await import('../audio/telemetry')

function telemetry() {
  const buffer = new ArrayBuffer(telemetryBytes)
  return { t: new Telemetry(buffer), values: telemetryMemory(buffer).values }
}

describe('live values as the interface reads them', () => {
  it('know the fixed ones from the start, and others once their places are told', () => {
    const { t, values } = telemetry()
    values[fixedSlots.indexOf('beat')] = 3.5
    expect(t.fixed('beat')).toBe(3.5)
    expect(t.get('beat')).toBe(3.5)
    expect(t.get('live:f.cutoff', 0.4)).toBe(0.4)
    t.setSlots([['live:f.cutoff', 40]], false)
    values[40] = 0.9
    expect(t.get('live:f.cutoff', 0.4)).toBeCloseTo(0.9, 6)
    expect(t.has('live:f.cutoff')).toBe(true)
  })
  it('keep what they know where some are new, and forget it where all are told anew', () => {
    const { t, values } = telemetry()
    t.setSlots(
      [
        ['beat', 0],
        ['a', 40],
      ],
      true,
    )
    t.setSlots([['b', 41]], false)
    values[40] = 1
    values[41] = 2
    expect([t.get('a'), t.get('b')]).toEqual([1, 2])
    t.setSlots(
      [
        ['beat', 0],
        ['b', 40],
      ],
      true,
    )
    expect([t.get('a', -1), t.get('b')]).toEqual([-1, 1])
  })
  it('give what is missing for one that found no place', () => {
    const { t } = telemetry()
    t.setSlots([['late comer', -1]], false)
    expect(t.get('late comer', 0.25)).toBe(0.25)
  })
  it('add up what a step and the copies of a fan cost', () => {
    const { t, values } = telemetry()
    t.setSlots(
      [
        ['cost:mod:m', 50],
        ['cost:mod:m~l#0', 51],
        ['cost:mod:m~l#1', 52],
        ['cost:mod:m~k#0', 53],
      ],
      false,
    )
    values.set([0.5, 0.25, 0.125, 4], 50)
    expect(t.cost('mod:m')).toBe(0.5)
    expect(t.cost('mod:m~l')).toBe(0.375)
    expect(t.cost('mod:none')).toBe(0)
  })
})

const connections: [unknown, unknown][] = []
class FakeStream {}
class FakeContext {
  static last: FakeContext
  static fails = false
  state: 'running' | 'suspended' = 'suspended'
  onstatechange: (() => void) | null = null
  readonly destination = {}
  readonly baseLatency = 0.01
  readonly outputLatency = 0.02
  readonly modules: string[] = []
  readonly playbackStats = { underrunEvents: 36 }
  closed = false
  readonly audioWorklet = {
    addModule: (url: string) => {
      if (FakeContext.fails) return Promise.reject(new Error('no module'))
      this.modules.push(url)
      return Promise.resolve()
    },
  }
  readonly sampleRate: number
  constructor(readonly options: { sampleRate: number; latencyHint: string | number }) {
    this.sampleRate = options.sampleRate
    FakeContext.last = this
  }
  close(): Promise<void> {
    this.closed = true
    return Promise.resolve()
  }
  createMediaStreamSource(stream: unknown): object {
    return {
      stream,
      connect(to: unknown) {
        connections.push([stream, to])
      },
      disconnect() {},
    }
  }
  resume(): Promise<void> {
    this.state = 'running'
    this.onstatechange?.()
    return Promise.resolve()
  }
}
class FakeNode {
  static last: FakeNode
  onprocessorerror: (() => void) | null = null
  connected: unknown = null
  readonly sent: ToWorklet[] = []
  readonly port = {
    onmessage: null as ((m: { data: FromWorklet }) => void) | null,
    postMessage: (m: ToWorklet) => {
      this.sent.push(m)
    },
  }
  constructor() {
    FakeNode.last = this
  }
  connect(to: unknown): void {
    this.connected = to
  }
}
vi.stubGlobal('AudioContext', FakeContext)
vi.stubGlobal('MediaStream', FakeStream)
vi.stubGlobal('AudioBufferSourceNode', class {})
vi.stubGlobal('AudioWorkletNode', FakeNode)

function host() {
  const made = new EngineHost()
  const states: string[] = []
  const troubles: string[] = []
  made.on.state = (s) => {
    states.push(s)
  }
  made.on.trouble = (s) => {
    troubles.push(s)
  }
  return { made, states, troubles, sent: () => FakeNode.last.sent.map((m) => m.type) }
}
const project = newProject('Night Ferry')
const sound = { hash: 'abc', sampleRate: 48_000, channels: [new Float32Array(4)] }

describe('the sound side of the app', () => {
  beforeEach(() => {
    FakeContext.fails = false
  })

  it('starts once, at the rate of the project, and tells the worklet all it must know in order', async () => {
    const { made, states, sent } = host()
    made.addSounds([sound])
    made.watchCosts(true)
    await Promise.all([made.start(project), made.start(project)])
    expect(FakeContext.last.options.sampleRate).toBe(project.sampleRate)
    expect(FakeContext.last.modules).toEqual(['/worklet.js'])
    expect(FakeNode.last.connected).toBe(FakeContext.last.destination)
    expect(sent()).toEqual(['audio', 'load', 'monitor', 'costs'])
    expect(states).toEqual(['starting', 'suspended'])
    await made.play(project, 2)
    expect(FakeNode.last.sent.at(-1)).toEqual({ type: 'play', beat: 2 })
    expect(states.at(-1)).toBe('running')
    expect(made.deviceLatency).toBeCloseTo(30, 9)
  })

  it('takes the project as it is when the worklet is ready, not as it was asked to start with', async () => {
    const { made } = host()
    const starting = made.start(project)
    const later = { ...project, name: 'Crossing' }
    made.patch(later, [])
    await starting
    expect(FakeNode.last.sent.find((m) => m.type === 'load')).toMatchObject({ project: { name: 'Crossing' } })
  })

  it('says in a sentence that it could not start, and can be asked again', async () => {
    const { made, states, troubles } = host()
    FakeContext.fails = true
    await expect(made.start(project)).rejects.toThrow('no module')
    expect(troubles[0]).toMatch(/could not start: no module.*Your project is safe/)
    expect(states.at(-1)).toBe('failed')
    FakeContext.fails = false
    await made.start(project)
    expect(states.at(-1)).toBe('suspended')
  })

  it('starts anew after the engine has stopped, with the sounds it was given', async () => {
    const { made, troubles, sent } = host()
    made.addSounds([sound])
    await made.play(project, 0)
    FakeNode.last.onprocessorerror?.()
    expect(troubles[0]).toContain('stopped unexpectedly')
    await made.play(project, 4)
    expect(sent()).toEqual(['audio', 'load', 'monitor', 'play'])
    expect(FakeNode.last.sent[0]).toMatchObject({ sounds: [{ hash: 'abc' }] })
  })

  it('passes on what the worklet says', async () => {
    const { made, troubles } = host()
    let late: readonly string[] = []
    made.on.feedback = (ids) => {
      late = ids
    }
    await made.start(project)
    const say = (data: FromWorklet): void => FakeNode.last.port.onmessage?.({ data })
    say({ type: 'slots', entries: [['x', 60]], anew: false, feedback: ['l'] })
    expect(late).toEqual(['l'])
    const buffer = new ArrayBuffer(telemetryBytes)
    telemetryMemory(buffer).values[60] = 7
    say({ type: 'telemetry', buffer })
    expect(made.telemetry.get('x')).toBe(7)
    say({ type: 'error', message: 'No.' })
    expect(troubles).toEqual(['The audio engine reported an error: No.'])
    const captured = made.capture(project, 1, 2)
    await Promise.resolve().then(() => Promise.resolve())
    await vi.waitFor(() => {
      expect(FakeNode.last.sent.at(-1)).toEqual({ type: 'capture', beat: 1, frames: 2 })
    })
    say({ type: 'captured', left: new Float32Array(2), right: new Float32Array(2), latency: 5 })
    expect((await captured).latency).toBe(5)
  })

  it('keeps what it is told before it has started', () => {
    const { made } = host()
    made.setMonitor({ ...openMonitor, dryTrack: 't' })
    made.stop()
    made.note('t', 60, 1)
    expect(made.sound('abc')).toBeUndefined()
    made.addSounds([sound])
    expect(made.sound('abc')).toBe(sound)
  })

  it('opens the output for a note, and sends it when the worklet is there, before the one that ends it', async () => {
    const { made, states } = host()
    made.load(project)
    made.note('t', 61, 0.7)
    made.note('t', 61, 0)
    await vi.waitFor(() => {
      expect(FakeNode.last.sent.filter((m) => m.type === 'note')).toMatchObject([
        { pitch: 61, velocity: 0.7 },
        { pitch: 61, velocity: 0 },
      ])
    })
    expect(FakeContext.last.state).toBe('running')
    expect(states.at(-1)).toBe('running')
  })

  it('plays on where it was with another buffer, its input open again', async () => {
    const { made, states } = host()
    await made.play(project, 0)
    const first = FakeContext.last
    expect(first.options.latencyHint).toBe('interactive')
    const stream = new FakeStream() as MediaStream
    await made.connectInput(stream)
    made.telemetry.memory.values[fixedSlots.indexOf('beat')] = 6.5
    await made.setBuffer('long')
    expect(first.closed).toBe(true)
    expect(first.onstatechange).toBe(null)
    expect(FakeContext.last).not.toBe(first)
    expect(FakeContext.last.options.latencyHint).toBe(0.1)
    expect(FakeNode.last.sent.at(-1)).toEqual({ type: 'play', beat: 6.5 })
    expect(connections.at(-1)).toEqual([stream, FakeNode.last])
    expect(states.at(-1)).toBe('running')
    made.stop()
    await made.setBuffer('short')
    expect(FakeNode.last.sent.map((m) => m.type)).not.toContain('play')
  })

  it('opens only the last of several buffers asked for at once, and none where nothing changes or nothing has started', async () => {
    const { made } = host()
    const before = FakeContext.last
    await made.setBuffer('middle')
    expect(FakeContext.last).toBe(before)
    await made.start(project)
    const first = FakeContext.last
    expect(first.options.latencyHint).toBe(0.03)
    await made.setBuffer('middle')
    expect(FakeContext.last).toBe(first)
    await Promise.all([made.setBuffer('short'), made.setBuffer('long')])
    expect([first.closed, FakeContext.last.options.latencyHint, FakeContext.last.closed]).toEqual([
      true,
      0.1,
      false,
    ])
  })

  it('opens the output anew for a project of another rate', async () => {
    const { made, sent } = host()
    await made.play(project, 0)
    const first = FakeContext.last
    made.load({ ...project, sampleRate: 44_100 })
    await vi.waitFor(() => {
      expect(FakeContext.last.sampleRate).toBe(44_100)
    })
    await vi.waitFor(() => {
      expect(sent()).toEqual(['audio', 'load', 'monitor'])
    })
    expect(first.closed).toBe(true)
    expect(FakeNode.last.sent.find((m) => m.type === 'load')).toMatchObject({
      project: { sampleRate: 44_100 },
    })
  })

  it('counts dropouts from when it began to play, and says null where the browser does not', async () => {
    vi.useFakeTimers()
    const { made } = host()
    const began = (): void => FakeNode.last.port.onmessage?.({ data: { type: 'began' } })
    expect(made.dropouts).toBe(null)
    await made.play(project, 0)
    began()
    // those of the rehearsal still come into the count for a while
    FakeContext.last.playbackStats.underrunEvents += 5
    expect(made.dropouts).toBe(null)
    vi.advanceTimersByTime(2600)
    expect(made.dropouts).toBe(0)
    FakeContext.last.playbackStats.underrunEvents += 2
    expect(made.dropouts).toBe(2)
    await made.play(project, 4)
    expect(made.dropouts).toBe(null)
    began()
    vi.advanceTimersByTime(2600)
    expect(made.dropouts).toBe(0)
    Object.assign(FakeContext.last, { playbackStats: undefined })
    expect(made.dropouts).toBe(null)
    vi.useRealTimers()
  })

  it('takes for no dropout what runs dry while nothing plays: a rehearsal, of another project too', async () => {
    vi.useFakeTimers()
    const { made } = host()
    await made.play(project, 0)
    FakeNode.last.port.onmessage?.({ data: { type: 'began' } })
    vi.advanceTimersByTime(2600)
    expect(made.dropouts).toBe(0)
    made.load({ ...project, name: 'Skerries' })
    FakeContext.last.playbackStats.underrunEvents += 80
    expect(made.dropouts).toBe(null)
    await made.play(project, 0)
    expect(made.dropouts).toBe(null)
    FakeNode.last.port.onmessage?.({ data: { type: 'began' } })
    vi.advanceTimersByTime(2600)
    expect(made.dropouts).toBe(0)
    made.stop()
    expect(made.dropouts).toBe(null)
    vi.useRealTimers()
  })
})
