import { type Monitor, openMonitor } from '@oleaje/core/engine/monitor'
import { telemetryBytes, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { overBudget, ownBudget, weigh, withinBudget } from '@oleaje/core/project/budget'
import type { Patch } from '@oleaje/core/project/patch'
import { valueOf } from '@oleaje/core/project/value-change'
import type { Project } from '@oleaje/core/project/schema'
import { stepName } from '@oleaje/core/project/targets'
import { shallowReactive } from 'vue'
import processorUrl from '../worklet/processor?worker&url'
import { newPart } from '../worklet/recorder'
import { bufferOf, clickBeside, playBeside } from './beside'
import { type Buffering, buffers } from './buffering'
import { ClockMap } from './clock-map'
import { OutputClock } from './output-clock'
import type { PlayedNote } from '../contract/played-note'
import { Resampler } from '@oleaje/core/formats/resample'
import { Telemetry } from './telemetry'
import type { EngineSound, FromWorklet, RecordedPart, Sound, ToWorklet } from '../contract/messages'

const COUNT_DELAY_MS = 2500
/** What a real way out and in again takes, about. */
const CABLE_SECONDS = 0.0137

/** What newer browsers tell of how often the output had nothing to play. */
interface CountsDropouts {
  readonly playbackStats?: { readonly underrunEvents: number }
}

/** `stalled`: it should run, and its clock stands still, as where there is no output device. */
export type HostState = 'off' | 'starting' | 'running' | 'suspended' | 'stalled' | 'failed'

/**
 * The sound side of the app: one AudioContext at the project's rate, one worklet with the engine in it.
 * Everything that can go wrong ends in `onTrouble` with a sentence; the document is never at stake.
 */
export class EngineHost {
  /** Some browsers are isolated and have no shared memory all the same. */
  readonly shared = globalThis.crossOriginIsolated === true && typeof SharedArrayBuffer !== 'undefined'
  readonly telemetry: Telemetry
  context: AudioContext | null = null
  onState: (state: HostState) => void = () => {}
  /** Told what is wrong where a project takes more than there is, and nothing where none is. */
  onOverBudget: (sentence: string) => void = () => {}
  onTrouble: (sentence: string) => void = () => {}
  /** Told of notes that are played live, while {@link takeNotes} asks for it. */
  onPlayed: (note: PlayedNote) => void = () => {}
  onFeedback: (ids: readonly string[]) => void = () => {}
  /** Told the key of a step that its guard has cut. */
  onTripped: (key: string) => void = () => {}
  /** Asked for a piece of a long sound, by channel. */
  bringPiece: (sound: Sound, n: number) => Promise<Float32Array<ArrayBuffer>[]> = () => Promise.resolve([])
  /** Bytes of long sounds that the engine has at hand. */
  pieceBytes = 0
  private node: AudioWorkletNode | null = null
  private readonly memory: SharedArrayBuffer | null
  private starting: Promise<void> | null = null
  private project: Project | null = null
  private monitor: Monitor = openMonitor
  /** What is there; whoever shows a sound sees it come. */
  private readonly sounds = shallowReactive(new Map<string, Sound>())
  private costWatchers = 0
  private kept: ((channels: readonly [Float32Array, Float32Array] | null) => void) | null = null
  private captured: ((result: { left: Float32Array; right: Float32Array; latency: number }) => void) | null =
    null
  private input: MediaStream | Sound | 'cable' | null = null
  private inputNode: AudioNode | null = null
  /** Pulls the simulated cable out of the output. */
  private cable: (() => void) | null = null
  private buffer: Buffering = 'short'
  private opened: Buffering = 'short'
  private playing = false
  /** Whether a project is worked through unheard before it plays; read when the engine starts. */
  rehearses = true
  private dropoutsBefore: number | null = null
  /** Rate at which the engine works: the project's, whatever the context's is. */
  private rate = 0
  private readonly clocks = new ClockMap()
  private readonly clock = new OutputClock((state) => {
    this.onState(state)
  })

  constructor() {
    this.memory = this.shared ? new SharedArrayBuffer(telemetryBytes) : null
    this.telemetry = new Telemetry(this.memory ?? new ArrayBuffer(telemetryBytes))
  }

  /** Makes context and worklet ready. Safe to call again; after a failure it starts anew. */
  start(project: Project): Promise<void> {
    this.project = project
    this.starting ??= this.open(project).catch((error: unknown) => {
      this.starting = null
      this.onState('failed')
      this.onTrouble(
        `The sound engine could not start: ${error instanceof Error ? error.message : String(error)} Your project is safe; press Play to try again.`,
      )
      throw error
    })
    return this.starting
  }

  private async open(project: Project): Promise<void> {
    this.onState('starting')
    const context = openContext(project.sampleRate, buffers[this.buffer])
    this.context = context
    this.opened = this.buffer
    if (this.sink) await sinkOf(context)?.(this.sink).catch(() => {})
    try {
      await this.fill(context, project)
    } catch (error) {
      // a context that is left open is lost for the page, which has few of them
      if (this.context === context) this.context = null
      context.onstatechange = null
      await context.close().catch(() => {})
      throw error
    }
  }

  /** Puts the engine into a context. */
  private async fill(context: AudioContext, project: Project): Promise<void> {
    context.onstatechange = () => {
      this.clock.look()
    }
    await context.audioWorklet.addModule(processorUrl)
    const node = new AudioWorkletNode(context, 'oleaje', {
      numberOfInputs: 1,
      numberOfOutputs: 1,
      outputChannelCount: [2],
      processorOptions: {
        memory: this.memory,
        shared: this.shared,
        rate: project.sampleRate,
        rehearses: this.rehearses,
      },
    })
    node.onprocessorerror = () => {
      this.close()
      this.onState('failed')
      this.onTrouble(
        'The sound engine stopped unexpectedly. Your project is safe; press Play to start it again.',
      )
    }
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => this.take(data)
    node.connect(context.destination)
    this.node = node
    this.pieceBytes = 0
    this.send({ type: 'audio', sounds: [...this.sounds.values()].map(forEngine) })
    this.give(this.project ?? project)
    this.send({ type: 'monitor', monitor: this.monitor })
    if (this.costWatchers > 0) this.send({ type: 'costs', on: true })
    this.rate = project.sampleRate
    this.clock.watch(context)
    if (this.input) await this.connectInput(this.input)
  }

  private close(): void {
    const { context } = this
    this.starting = this.context = this.node = this.inputNode = this.cable = null
    this.playing = false
    this.clock.watch(null)
    if (!context) return
    context.onstatechange = null
    void context.close()
  }

  /**
   * Has sound come out of another device; the usual one for an empty id. False where the browser cannot, or
   * the device is not there.
   */
  async setOutput(device: string): Promise<boolean> {
    this.sink = device
    const set = this.context && sinkOf(this.context)
    return set
      ? set(device).then(
          () => true,
          () => false,
        )
      : this.context === null
  }
  private sink = ''

  /** Keeps more or less sound ready at the output. What plays goes on where it was, after a short break. */
  setBuffer(buffer: Buffering): Promise<void> {
    this.buffer = buffer
    return this.renew()
  }

  /**
   * Opens the output anew where it has another rate than the project, or another buffer than is asked for.
   */
  private async renew(): Promise<void> {
    const { starting } = this
    if (!starting) return
    await starting.catch(() => {})
    const { context, project } = this
    if (this.starting !== starting || !context || !project) return
    if (this.rate === project.sampleRate && this.opened === this.buffer) return
    const beat = this.playing ? this.telemetry.fixed('beat') : null
    this.close()
    // what can go wrong has been said by `start`
    await (beat === null ? this.start(project) : this.play(project, beat)).catch(() => {})
  }

  private take(message: FromWorklet): void {
    if (message.type === 'slots') {
      this.telemetry.setSlots(message.entries, message.anew)
      this.onFeedback(message.feedback)
    } else if (message.type === 'fault')
      this.onTrouble(
        `${this.project ? stepName(this.project, message.key) : 'A part of the engine'} failed and was cut; the rest plays on. Remove it, or undo what was done to it last.`,
      )
    else if (message.type === 'tripped') this.onTripped(message.key)
    else if (message.type === 'howl')
      this.onTrouble(
        'Sound goes round from the output into the input: it was turned down for a moment. Use headphones, turn the input down, or have it recorded without being heard.',
      )
    else if (message.type === 'telemetry') this.telemetry.memory = telemetryMemory(message.buffer)
    else if (message.type === 'recorded') {
      this.recorded(message)
      this.node?.port.postMessage({ type: 'part-back', part: message.part } satisfies ToWorklet, [
        message.part.buffer,
      ])
    } else if (message.type === 'record-ended') this.recordEnded()
    else if (message.type === 'loopback') this.loopbackFound(message.frames)
    else if (message.type === 'want') void this.givePiece(message.hash, message.n)
    else if (message.type === 'piece-back') this.pieceBytes -= bytesOf(message.channels)
    else if (message.type === 'played') this.onPlayed(message)
    else if (message.type === 'began') this.countDropouts()
    else if (message.type === 'kept') this.kept?.(message.channels)
    else if (message.type === 'captured') this.captured?.(message)
    else this.onTrouble(`The sound engine met something it could not do: ${message.message}`)
  }

  private send(message: ToWorklet): void {
    this.node?.port.postMessage(message)
  }

  load(project: Project): void {
    this.project = project
    this.playing = false
    this.give(project)
    void this.renew()
  }

  patch(project: Project, patches: readonly Patch[]): void {
    this.project = project
    // a value weighs nothing
    if (!this.isOver && (patches.every(valueOf) || !overBudget(weigh(project), ownBudget)))
      return this.send({ type: 'patches', patches })
    const beat = this.telemetry.fixed('beat')
    this.give(project)
    if (this.playing) this.send({ type: 'play', beat })
  }

  /**
   * Gives the engine a project, as far as it is within the budget; what is over is neither made nor heard,
   * and the page says so.
   */
  private give(project: Project): void {
    const { project: part, left, wrong } = withinBudget(project)
    this.isOver = wrong !== undefined
    this.onOverBudget(
      wrong
        ? `${wrong} ${left} of its effects and modulators, the last ones of the chains, are not heard.`
        : '',
    )
    this.send({ type: 'load', project: part })
  }
  private isOver = false

  addSounds(sounds: readonly Sound[]): void {
    for (const sound of sounds) this.sounds.set(sound.hash, sound)
    this.send({ type: 'audio', sounds: sounds.map(forEngine) })
  }

  /** Gives the engine a piece of a long sound; silence where it cannot be read. */
  private async givePiece(hash: string, n: number): Promise<void> {
    const { node, sounds } = this
    const sound = sounds.get(hash)
    if (!sound) return
    const channels = await this.bringPiece(sound, n).catch((): Float32Array<ArrayBuffer>[] => [])
    if (channels.length === 0)
      this.onTrouble(
        'A part of a long sound could not be read from where this browser keeps it, and is silent. Reload, or bring its file in again.',
      )
    if (this.node !== node || sounds.get(hash) !== sound) return
    this.pieceBytes += bytesOf(channels)
    node?.port.postMessage(
      { type: 'piece', hash, n, channels } satisfies ToWorklet,
      channels.map((c) => c.buffer),
    )
  }

  sound(hash: string): Sound | undefined {
    return this.sounds.get(hash)
  }

  /** Hashes of all sounds that are there, those that came first first. */
  get hashes(): string[] {
    return [...this.sounds.keys()]
  }

  /** Lets go of sounds that nothing plays, here and in the engine. */
  forget(hashes: readonly string[]): void {
    for (const hash of hashes) this.sounds.delete(hash)
    this.send({ type: 'forget', hashes })
  }

  setMonitor(monitor: Monitor): void {
    this.monitor = monitor
    this.send({ type: 'monitor', monitor })
  }

  async play(project: Project, beat: number): Promise<void> {
    await this.start(project)
    this.playing = true
    this.dropoutsBefore = null
    this.send({ type: 'play', beat })
    // not waited for: without an output device some browsers never answer, and it plays as soon as the clock
    // runs
    this.clock.wake()
  }

  /** Opens the output again, as after a device has come or gone; what was to play plays from where it was. */
  async tryAgain(): Promise<void> {
    const { project, playing } = this
    if (!project) return
    const beat = this.telemetry.fixed('beat')
    this.close()
    // what goes wrong has been said by `start`
    await (playing ? this.play(project, beat) : this.start(project)).catch(() => {})
  }

  /** @param cut whether tails are cut */
  stop(cut = false): void {
    this.playing = false
    this.send({ type: 'stop', cut })
  }

  /** Empties all that rings; what plays goes on. */
  silence(): void {
    this.send({ type: 'silence' })
  }

  /**
   * A note of a live player on a track; velocity 0 ends it. The first one opens the output, and is heard when
   * it is open.
   * @param at when it was played, by the page's clock in ms: it keeps its distance to others, whatever the
   *   page does meanwhile
   */
  note(track: string, pitch: number, velocity: number, at?: number): void {
    const { context } = this
    if (context?.state === 'running') this.clocks.take(context.currentTime, performance.now())
    if (this.node)
      this.send({
        type: 'note',
        track,
        pitch,
        velocity,
        time: at === undefined ? undefined : this.clocks.contextTime(at),
      })
    else if (this.project)
      void this.start(this.project)
        .then(() => this.note(track, pitch, velocity))
        .catch(() => {})
    this.clock.wake()
  }

  /** Bend (½ for none) and pressure of a live player on a track, 0…1. */
  shapeNotes(track: string, bend: number, pressure: number): void {
    this.send({ type: 'shape', track, bend, pressure })
  }

  /** Plays a sound by itself, beside the engine, until it ends or is stopped. */
  async listen(sound: Sound): Promise<{ stop: () => void }> {
    if (!this.project) throw new Error('There is no project open.')
    await this.start(this.project)
    const { context } = this
    if (!context) throw new Error('The sound engine is not open.')
    this.clock.wake()
    return playBeside(context, sound)
  }

  private recorded: (part: RecordedPart) => void = () => {}
  private recordEnded: () => void = () => {}
  private loopbackFound: (frames: number | null) => void = () => {}

  /**
   * Records what goes into the chain of a track and what comes out, from when the song plays.
   * @param take given each part, to be copied at once
   */
  record(track: string, take: (part: RecordedPart) => void): void {
    this.recorded = take
    const parts = Array.from({ length: 6 }, newPart)
    this.node?.port.postMessage(
      { type: 'record', track, parts } satisfies ToWorklet,
      parts.map((p) => p.buffer),
    )
  }

  /** Ends a recording; done when its last part has come. */
  endRecording(): Promise<void> {
    if (!this.node) return Promise.resolve()
    return new Promise((resolve) => {
      this.recordEnded = resolve
      this.send({ type: 'record-end' })
    })
  }

  /**
   * Samples from the output to the open input, by a click that goes round; null where it does not come in.
   */
  loopback(): Promise<number | null> {
    if (!this.node) return Promise.resolve(null)
    return new Promise((resolve) => {
      this.loopbackFound = resolve
      this.send({ type: 'loopback' })
    })
  }

  /** Tells of notes that are played live, or no more. */
  takeNotes(on: boolean): void {
    this.send({ type: 'take-notes', on })
  }

  /** Clicks beside the engine, the first one higher; gives the seconds until the one that would follow. */
  click(count: number, seconds: number): number {
    return this.context ? clickBeside(this.context, count, seconds) : 0
  }

  /** A person has seen that the guard cut a node, which may sound again. */
  acknowledge(node: string): void {
    this.send({ type: 'acknowledge', node })
  }

  measure(): void {
    this.send({ type: 'measure' })
  }

  /** Measures what each step costs, from the first who watches until the last. */
  watchCosts(on: boolean): void {
    this.costWatchers = Math.max(0, this.costWatchers + (on ? 1 : -1))
    if (this.costWatchers === (on ? 1 : 0)) this.send({ type: 'costs', on })
  }

  /** What the buffer of an effect holds now; null where it holds nothing. */
  held(node: string): Promise<readonly [Float32Array, Float32Array] | null> {
    if (!this.node) return Promise.resolve(null)
    return new Promise((resolve) => {
      this.kept = resolve
      this.send({ type: 'keep', node })
    })
  }

  /** Plays from a beat and gives the mix as it leaves the engine, `frames` long. */
  async capture(
    project: Project,
    beat: number,
    frames: number,
  ): Promise<{ left: Float32Array; right: Float32Array; latency: number }> {
    await this.start(project)
    this.clock.wake()
    return new Promise((resolve) => {
      this.captured = resolve
      this.send({ type: 'capture', beat, frames })
    })
  }

  /**
   * Connects a live input: a stream from a device, a sound played in a loop as by somebody at the other end,
   * or a cable from the output.
   */
  async connectInput(input: MediaStream | Sound | 'cable' | null): Promise<void> {
    const { context, node } = this
    this.input = input
    this.cable?.()
    this.cable = null
    this.inputNode?.disconnect()
    if (this.inputNode instanceof AudioBufferSourceNode) this.inputNode.stop()
    this.inputNode = null
    this.send({ type: 'arm', armed: input !== null })
    if (!input || !context || !node) return
    if (input === 'cable') {
      const cable = context.createDelay(1)
      cable.delayTime.value = CABLE_SECONDS
      node.connect(cable)
      this.cable = () => {
        node.disconnect(cable)
      }
      this.inputNode = cable
    } else if (input instanceof MediaStream) this.inputNode = context.createMediaStreamSource(input)
    else {
      const source = context.createBufferSource()
      source.buffer = bufferOf(context, input)
      source.loop = true
      source.start()
      this.inputNode = source
    }
    this.inputNode.connect(node)
    this.clock.wake()
  }

  private get ranDry(): number | null {
    return (this.context as CountsDropouts | null)?.playbackStats?.underrunEvents ?? null
  }

  /**
   * How often the output had nothing to play while this song did; null where nothing plays, and where the
   * browser does not tell, or not yet.
   */
  get dropouts(): number | null {
    return !this.playing || this.ranDry === null || this.dropoutsBefore === null
      ? null
      : this.ranDry - this.dropoutsBefore
  }

  /** Counts from here on. The browser brings its own count up to date about once a second, and late. */
  private countDropouts(): void {
    const { context } = this
    setTimeout(() => {
      if (this.context === context) this.dropoutsBefore = this.ranDry
    }, COUNT_DELAY_MS)
  }

  /** Milliseconds from input to output, as far as the browser knows. */
  get deviceLatency(): number {
    const c = this.context
    return c ? (c.baseLatency + (c.outputLatency || 0)) * 1000 : 0
  }
}

/** A context at a rate; at the device's own where the browser refuses that, and then the worklet converts. */
function openContext(sampleRate: number, latencyHint: AudioContextLatencyCategory | number): AudioContext {
  try {
    return new AudioContext({ sampleRate, latencyHint })
  } catch {
    return new AudioContext({ latencyHint })
  }
}

/** Newer browsers let an output be chosen. */
function sinkOf(context: AudioContext): ((id: string) => Promise<void>) | null {
  const own = context as AudioContext & { setSinkId?: (id: string) => Promise<void> }
  return own.setSinkId ? (id) => own.setSinkId?.(id) ?? Promise.resolve() : null
}

const forEngine = ({ hash, sampleRate, channels, long }: Sound): EngineSound =>
  long
    ? {
        hash,
        sampleRate,
        channels,
        pieces: {
          frames: new Resampler(long.sampleRate, sampleRate).framesOf(long.frames),
          channelCount: long.channelCount,
        },
      }
    : { hash, sampleRate, channels }
const bytesOf = (channels: readonly Float32Array[]): number =>
  channels.reduce((sum, c) => sum + c.byteLength, 0)
