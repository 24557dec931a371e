import { type Monitor, openMonitor } from '@oleaje/core/engine/monitor'
import { telemetryBytes, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { overBudget, ownBudget, weigh, withinBudget } from '@oleaje/core/project/budget'
import type { Patch } from '@oleaje/core/project/patch'
import { valueOf } from '@oleaje/core/project/value-change'
import type { Project } from '@oleaje/core/project/schema'
import processorUrl from '../worklet/processor?worker&url'
import { newPart } from '../worklet/recorder'
import { clickBeside, playBeside } from './beside'
import type { Buffering } from './buffering'
import { ContextOutput } from './context-output'
import { DropoutCount } from './dropout-count'
import { HostSounds } from './host-sounds'
import { InputNode, type InputSignal } from './input-node'
import { OutputClock } from './output-clock'
import type { PlayedNote } from '../contract/played-note'
import { Telemetry } from './telemetry'
import type { FromWorklet, RecordedPart, Sound, ToWorklet, WorkletOptions } from '../contract/messages'

/** `stalled`: it should run, and its clock stands still, as where there is no output device. */
export type HostState = 'off' | 'starting' | 'running' | 'suspended' | 'stalled' | 'failed'

/** Told of what happens to the sound. */
export interface HostEvents {
  state: (state: HostState) => void
  /** Message where a project exceeds the budget; empty otherwise. */
  overBudget: (sentence: string) => void
  trouble: (sentence: string) => void
  /** Sound went round from the output into the input. */
  howl: () => void
  /** Notes that are played live, while {@link EngineHost.takeNotes} asks for it. */
  played: (note: PlayedNote) => void
  feedback: (ids: readonly string[]) => void
  /** The key of a step that its guard has cut, and of one that failed. */
  tripped: (key: string) => void
  failed: (key: string) => void
}

/** Whoever waits for an answer of the worklet. */
interface Answers {
  kept: (channels: readonly [Float32Array, Float32Array] | null) => void
  captured: (result: { left: Float32Array; right: Float32Array; latency: number }) => void
  recorded: (part: RecordedPart) => void
  recordEnded: () => void
  loopback: (frames: number | null) => void
}

/**
 * The sound side of the app: one AudioContext at the project's rate, one worklet with the engine in it.
 * Everything that can go wrong ends in `on.trouble` with a sentence; the document is never at stake.
 */
export class EngineHost {
  readonly telemetry: Telemetry
  /** Listeners to events of the engine. */
  readonly on: HostEvents = {
    state: () => {},
    overBudget: () => {},
    trouble: () => {},
    howl: () => {},
    played: () => {},
    feedback: () => {},
    tripped: () => {},
    failed: () => {},
  }
  readonly sounds = new HostSounds()
  /** Whether a project is worked through unheard before it plays; read when the engine starts. */
  rehearses = true
  private readonly memory: SharedArrayBuffer | null
  private readonly output = new ContextOutput()
  private readonly clock = new OutputClock((state) => {
    this.on.state(state)
  })
  private readonly input = new InputNode()
  private readonly answers: Answers = {
    kept: () => {},
    captured: () => {},
    recorded: () => {},
    recordEnded: () => {},
    loopback: () => {},
  }
  private readonly dry = new DropoutCount()
  /** Monitoring state, and the number of viewers of step costs. */
  private readonly asked = { monitor: openMonitor, costs: 0 }
  private starting: Promise<void> | null = null
  private project: Project | null = null
  private playing = false
  private isOver = false

  constructor() {
    // some browsers are isolated and have no shared memory all the same
    const shares = globalThis.crossOriginIsolated === true && typeof SharedArrayBuffer !== 'undefined'
    this.memory = shares ? new SharedArrayBuffer(telemetryBytes) : null
    this.telemetry = new Telemetry(this.memory ?? new ArrayBuffer(telemetryBytes))
  }

  /** Makes context and worklet ready. Safe to call again; after a failure it starts again. */
  start(project: Project): Promise<void> {
    this.project = project
    this.starting ??= this.open(project).catch((error: unknown) => {
      this.starting = null
      this.on.state('failed')
      this.on.trouble(
        `The audio engine could not start: ${error instanceof Error ? error.message : String(error)} Your project is safe. Press Play to try again.`,
      )
      throw error
    })
    return this.starting
  }

  private async open(project: Project): Promise<void> {
    this.on.state('starting')
    const context = await this.output.open(project.sampleRate)
    try {
      await this.fill(context, project)
    } catch (error) {
      // a context that is left open is lost for the page, which has few of them
      await this.output.close(context)
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
        shared: this.memory !== null,
        rate: project.sampleRate,
        rehearses: this.rehearses,
      } satisfies WorkletOptions,
    })
    node.onprocessorerror = () => {
      this.close()
      this.on.state('failed')
      this.on.trouble(
        'The audio engine stopped unexpectedly. Your project is safe. Press Play to restart it.',
      )
    }
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => this.take(data)
    node.connect(context.destination)
    this.output.node = node
    this.sounds.pieceBytes = 0
    this.send({ type: 'audio', sounds: this.sounds.forEngine })
    this.give(this.project ?? project)
    this.send({ type: 'monitor', monitor: this.asked.monitor })
    if (this.asked.costs > 0) this.send({ type: 'costs', on: true })
    this.output.rate = project.sampleRate
    this.clock.watch(context)
    if (this.input.input) await this.connectInput(this.input.input)
  }

  private close(): void {
    const { context } = this.output
    this.starting = null
    this.input.forget()
    this.playing = false
    this.clock.watch(null)
    if (context) void this.output.close(context)
  }

  /**
   * Has sound come out of another device; the usual one for an empty id. False where the browser cannot, or
   * the device is not there.
   */
  setOutput(device: string): Promise<boolean> {
    return this.output.setSink(device)
  }

  /** Keeps more or less sound ready at the output. What plays goes on where it was, after a short break. */
  setBuffer(buffer: Buffering): Promise<void> {
    this.output.buffer = buffer
    return this.renew()
  }

  /**
   * Opens the output anew where it has another rate than the project, or another buffer than is asked for.
   */
  private async renew(): Promise<void> {
    const { starting } = this
    if (!starting) return
    await starting.catch(() => {})
    const { project, output } = this
    if (this.starting !== starting || !output.context || !project || output.isFor(project.sampleRate)) return
    const beat = this.playing ? this.telemetry.fixed('beat') : null
    this.close()
    // what can go wrong has been said by `start`
    await (beat === null ? this.start(project) : this.play(project, beat)).catch(() => {})
  }

  private take(message: FromWorklet): void {
    const { on, answers, telemetry } = this
    if (message.type === 'slots') {
      telemetry.setSlots(message.entries, message.anew)
      on.feedback(message.feedback)
    } else if (message.type === 'fault') on.failed(message.key)
    else if (message.type === 'tripped') on.tripped(message.key)
    else if (message.type === 'howl') on.howl()
    else if (message.type === 'telemetry') telemetry.memory = telemetryMemory(message.buffer)
    else if (message.type === 'recorded') {
      answers.recorded(message)
      this.send({ type: 'part-back', part: message.part }, [message.part.buffer])
    } else if (message.type === 'record-ended') answers.recordEnded()
    else if (message.type === 'loopback') answers.loopback(message.frames)
    else if (message.type === 'want') void this.givePiece(message.hash, message.n)
    else if (message.type === 'piece-back') this.sounds.took(message.channels)
    else if (message.type === 'played') on.played(message)
    else if (message.type === 'began') this.dry.begin(this.output.context)
    else if (message.type === 'kept') answers.kept(message.channels)
    else if (message.type === 'captured') answers.captured(message)
    else on.trouble(`The audio engine reported an error: ${message.message}`)
  }

  private send(message: ToWorklet, transfer: Transferable[] = []): void {
    this.output.node?.port.postMessage(message, transfer)
  }

  load(project: Project): void {
    this.project = project
    this.playing = false
    this.give(project)
    void this.renew()
  }

  /** @param at beat of the song at which they are taken; at once by default */
  patch(project: Project, patches: readonly Patch[], at?: number): void {
    this.project = project
    // a value weighs nothing
    if (!this.isOver && (patches.every(valueOf) || !overBudget(weigh(project), ownBudget)))
      return this.send({ type: 'patches', patches, beat: at })
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
    this.on.overBudget(
      wrong ? `${wrong} ${left} of its effects and modulators, at the ends of the chains, are bypassed.` : '',
    )
    this.send({ type: 'load', project: part })
  }
  addSounds(sounds: readonly Sound[]): void {
    this.send({ type: 'audio', sounds: this.sounds.add(sounds) })
  }

  /** Gives the engine a piece of a long sound; silence where it cannot be read. */
  private async givePiece(hash: string, n: number): Promise<void> {
    const { sounds } = this
    const { node } = this.output
    const sound = sounds.of(hash)
    if (!sound) return
    const channels = await sounds.bring(sound, n).catch((): Float32Array<ArrayBuffer>[] => [])
    if (channels.length === 0)
      this.on.trouble(
        'Part of a long sound could not be read from this browser’s storage and is silent. Reload the page, or import the file again.',
      )
    if (this.output.node !== node || sounds.of(hash) !== sound) return
    sounds.gave(channels)
    this.send(
      { type: 'piece', hash, n, channels },
      channels.map((c) => c.buffer),
    )
  }

  sound(hash: string): Sound | undefined {
    return this.sounds.of(hash)
  }

  /** Lets go of sounds that nothing plays, here and in the engine. */
  forget(hashes: readonly string[]): void {
    this.sounds.forget(hashes)
    this.send({ type: 'forget', hashes })
  }

  setMonitor(monitor: Monitor): void {
    this.asked.monitor = monitor
    this.send({ type: 'monitor', monitor })
  }

  async play(project: Project, beat: number): Promise<void> {
    await this.start(project)
    this.playing = true
    this.dry.forget()
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
    const { context, node, clocks } = this.output
    if (context?.state === 'running') clocks.take(context.currentTime, performance.now())
    if (node)
      this.send({
        type: 'note',
        track,
        pitch,
        velocity,
        time: at === undefined ? undefined : clocks.contextTime(at),
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

  /** Plays a sound beside the engine until it ends or is stopped. */
  async listen(sound: Sound): Promise<{ stop: () => void }> {
    if (!this.project) throw new Error('No project is open.')
    await this.start(this.project)
    const { context } = this.output
    if (!context) throw new Error('The audio engine is not running.')
    this.clock.wake()
    return playBeside(context, sound)
  }

  /**
   * Records what goes into the chain of a track and what comes out, from when the song plays.
   * @param take given each part, to be copied at once
   */
  record(track: string, take: (part: RecordedPart) => void): void {
    this.answers.recorded = take
    const parts = Array.from({ length: 6 }, newPart)
    this.send(
      { type: 'record', track, parts },
      parts.map((p) => p.buffer),
    )
  }

  /** Ends a recording; done when its last part has come. */
  endRecording(): Promise<void> {
    if (!this.output.node) return Promise.resolve()
    return new Promise((resolve) => {
      this.answers.recordEnded = resolve
      this.send({ type: 'record-end' })
    })
  }

  /**
   * Round-trip latency in samples from the output to the open input, measured by a click; null without one.
   */
  loopback(): Promise<number | null> {
    if (!this.output.node) return Promise.resolve(null)
    return new Promise((resolve) => {
      this.answers.loopback = resolve
      this.send({ type: 'loopback' })
    })
  }

  /** Announces live notes that start or end. */
  takeNotes(on: boolean): void {
    this.send({ type: 'take-notes', on })
  }

  /** Clicks beside the engine, the first one higher; gives the seconds until the one that would follow. */
  click(count: number, seconds: number): number {
    const { context } = this.output
    return context ? clickBeside(context, count, seconds) : 0
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
    this.asked.costs = Math.max(0, this.asked.costs + (on ? 1 : -1))
    if (this.asked.costs === (on ? 1 : 0)) this.send({ type: 'costs', on })
  }

  /** Copy of the buffer of an effect; null where it is empty. */
  held(node: string): Promise<readonly [Float32Array, Float32Array] | null> {
    if (!this.output.node) return Promise.resolve(null)
    return new Promise((resolve) => {
      this.answers.kept = resolve
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
      this.answers.captured = resolve
      this.send({ type: 'capture', beat, frames })
    })
  }

  /** Connects a live input, or none. */
  async connectInput(input: InputSignal | null): Promise<void> {
    const { context, node } = this.output
    this.input.input = input
    this.input.disconnect()
    this.send({ type: 'arm', armed: input !== null })
    if (!input || !context || !node) return
    this.input.connect(input, context, node)
    this.clock.wake()
  }

  /**
   * How often the output had nothing to play while this song did; null where nothing plays, and where the
   * browser does not tell, or not yet.
   */
  get dropouts(): number | null {
    return this.playing ? this.dry.since : null
  }

  /** Whether the output is open. */
  get isOpen(): boolean {
    return this.output.context !== null
  }

  /** Milliseconds from input to output, as far as the browser knows. */
  get deviceLatency(): number {
    return this.output.latency
  }
}
