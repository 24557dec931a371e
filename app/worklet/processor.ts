import { prepareKernels } from '@oleaje/core/dsp/simd/kernel-memory'
import { Engine } from '@oleaje/core/engine/engine'
import type { Monitor } from '@oleaje/core/engine/monitor'
import { effects } from '@oleaje/core/effects/index'
import { fixedSlot, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { type Patch, patched } from '@oleaje/core/project/patch'
import { valueOf } from '@oleaje/core/project/value-change'
import type { Project } from '@oleaje/core/project/schema'
import type { FromWorklet, ToWorklet, WorkletOptions } from '../contract/messages'
import { EngineOutput } from './engine-output'
import { EngineSounds } from './engine-sounds'
import { LoadMeter, fineClock } from './load-meter'
import { Loopback } from './loopback'
import { MixCapture } from './mix-capture'
import { Rehearsal } from './rehearsal'
import { SlotTeller } from './slot-teller'
import { TapRecording } from './tap-recording'

/** Pictures are drawn some thirty times a second; live values are there some ninety times. */
const REPORT_BLOCKS = 4
/** Blocks between two messages with live values where no memory is shared. */
const MESSAGE_BLOCKS = 8
/** Blocks, a quarter of a second, for which Play waits for pieces of long sounds. */
const PATIENCE = 94

/**
 * Seconds after which a note that was played sounds, so that one the page was late with comes no later than
 * the others.
 */
const NOTE_LEAD = 0.006
/** A time stamp is believed so many seconds back. */
const NOTE_MEMORY = 0.5

// now, while nothing sounds, and not when an effect is added to what plays
prepareKernels()
for (const { prepare } of effects) prepare?.()

type Takers = { readonly [T in ToWorklet['type']]: (message: Extract<ToWorklet, { type: T }>) => void }

/** The engine as an AudioWorklet: messages in, sound and live values out. */
class OleajeProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine
  private readonly sounds = new EngineSounds((message, transfer) => {
    this.port.postMessage(message, transfer ?? [])
  })
  private readonly takers: Takers
  private readonly output: EngineOutput
  private readonly load = new LoadMeter()
  private readonly teller = new SlotTeller((message) => {
    this.send(message)
  })
  private project: Project | null = null
  private rehearsal: Rehearsal | null = null
  /**
   * Where to play from as soon as the rehearsal is over and what is needed there has come, and blocks for
   * which that is still waited for.
   */
  private start: { readonly beat: number; patience: number } | null = null
  /** Patches that wait for a beat of the song, and where the song was when they came. */
  private waiting: { readonly patches: readonly Patch[]; readonly beat: number; from: number } | null = null
  private capture: MixCapture | null = null
  private recording: TapRecording | null = null
  private loopback: Loopback | null = null
  private takesNotes = false
  private readonly options: WorkletOptions

  constructor({ processorOptions: options }: { processorOptions: WorkletOptions }) {
    super()
    this.options = options
    this.engine = new Engine({
      sampleRate: options.rate,
      audio: this.sounds.of,
      telemetry: options.memory ? telemetryMemory(options.memory) : undefined,
      reportEvery: REPORT_BLOCKS,
      onFault: (key) => this.send({ type: 'fault', key }),
      onHowl: () => this.send({ type: 'howl' }),
      onNote: (track, pitch, velocity, beat, run) => {
        if (this.takesNotes) this.send({ type: 'played', track, pitch, velocity, beat, run })
      },
    })
    this.output = new EngineOutput(options.rate, sampleRate, (inLeft, inRight, left, right) => {
      this.work(inLeft, inRight, left, right)
    })
    this.takers = { ...this.takesProject(), ...this.takesPlaying(), ...this.takesRecording() }
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => {
      // no block is due while nothing plays
      this.load.message(() => {
        this.take(data)
      }, this.engine.transport.playing)
    }
  }

  private send(message: FromWorklet): void {
    this.port.postMessage(message)
  }

  private take(message: ToWorklet): void {
    try {
      this.takers[message.type](message as never)
    } catch (error) {
      this.send({ type: 'error', message: error instanceof Error ? error.message : String(error) })
    }
  }

  private takesProject(): Pick<Takers, 'load' | 'patches' | 'audio' | 'forget' | 'piece' | 'monitor'> {
    const { engine, sounds } = this
    return {
      load: ({ project }) => {
        this.project = project
        this.waiting = null
        engine.load(project)
        this.start = null
        this.rehearse()
      },
      patches: ({ patches, beat }) => {
        const { playing, beat: from } = engine.transport
        if (beat !== undefined && playing)
          this.waiting = { patches: [...(this.waiting?.patches ?? []), ...patches], beat, from }
        else {
          this.takeWaiting()
          this.takePatches(patches)
        }
      },
      audio: (message) => {
        for (const sound of message.sounds) sounds.know(sound)
        engine.audioChanged()
        this.rehearse()
      },
      forget: ({ hashes }) => {
        for (const hash of hashes) sounds.forget(hash)
      },
      piece: ({ hash, n, channels }) => {
        sounds.takePiece(hash, n, channels)
      },
      monitor: ({ monitor }) => {
        engine.setMonitor(monitor as Monitor)
      },
    }
  }

  private takesPlaying(): Pick<
    Takers,
    'play' | 'stop' | 'silence' | 'acknowledge' | 'arm' | 'note' | 'shape' | 'measure' | 'costs'
  > {
    const { engine } = this
    return {
      play: ({ beat }) => {
        // code that is being compiled would stutter: what has begun to rehearse ends first, at most some two
        // seconds after the start
        this.start = { beat, patience: this.sounds.pieces.some ? PATIENCE : 0 }
        engine.aimAt(beat)
        if (!this.rehearsal) this.startIfReady()
      },
      stop: ({ cut }) => {
        this.start = null
        engine.stop(cut)
      },
      silence: () => {
        engine.silenceAll()
      },
      acknowledge: ({ node }) => {
        engine.acknowledge(node)
      },
      arm: ({ armed }) => {
        if (armed) this.endRehearsal()
        engine.arm(armed)
      },
      note: ({ track, pitch, velocity, time }) => {
        // what is played is heard at once
        this.endRehearsal()
        this.note(track, pitch, velocity, time)
      },
      shape: ({ track, bend, pressure }) => {
        engine.shapeNotes(track, bend, pressure)
      },
      measure: () => {
        this.load.renew()
      },
      costs: ({ on }) => {
        engine.measureCosts(on ? fineClock : null)
      },
    }
  }

  private takesRecording(): Pick<
    Takers,
    'keep' | 'capture' | 'record' | 'part-back' | 'record-end' | 'loopback' | 'take-notes'
  > {
    const { engine } = this
    return {
      'keep': ({ node }) => {
        this.send({ type: 'kept', channels: engine.held(node) })
      },
      'capture': ({ beat, frames }) => {
        this.rehearsal = this.start = null
        this.capture = new MixCapture(frames)
        engine.play(beat, false)
      },
      'record': ({ track, parts }) => {
        this.recording = new TapRecording(track, parts, (part) => {
          this.port.postMessage({ type: 'recorded', ...part } satisfies FromWorklet, [part.part.buffer])
        })
      },
      'part-back': ({ part }) => {
        this.recording?.recorder.takeBack(part)
      },
      'record-end': () => {
        this.recording?.recorder.end()
        this.recording = null
        this.send({ type: 'record-ended' })
      },
      'loopback': () => {
        this.loopback = new Loopback(this.options.rate)
      },
      'take-notes': ({ on }) => {
        this.takesNotes = on
      },
    }
  }

  /** One value goes to what carries it; all else is looked at as a whole. */
  private takePatches(patches: readonly Patch[]): void {
    if (!this.project) return
    const project = patched(this.project, patches)
    this.project = project
    const value = patches.length === 1 && patches[0] ? valueOf(patches[0]) : null
    if (value) this.engine.setValue(project, value.owner, value.path, value.value)
    else this.engine.update(project)
  }

  private takeWaiting(): void {
    const { waiting } = this
    this.waiting = null
    if (waiting) this.takePatches(waiting.patches)
  }

  /** Takes patches whose beat has come; also where the song has stopped, or has jumped back. */
  private takeDue(waiting: NonNullable<OleajeProcessor['waiting']>): void {
    const { playing, beat } = this.engine.transport
    if (!playing || beat >= waiting.beat || beat < waiting.from) this.takeWaiting()
    else waiting.from = beat
  }

  /** Passes a note on, so many frames later that all come as evenly as they were played. */
  private note(track: string, pitch: number, velocity: number, time: number | undefined): void {
    const { rate } = this.options
    const ago =
      time === undefined || !this.engine.transport.playing
        ? 0
        : Math.min(NOTE_MEMORY, Math.max(0, currentTime - time))
    const delay = time === undefined ? 0 : Math.max(0, time + NOTE_LEAD - currentTime)
    this.engine.note(track, pitch, velocity, Math.min(NOTE_LEAD, delay) * rate, ago * rate)
  }

  private rehearse(): void {
    // never beside sound that is heard: what plays, or a live input
    if (!this.options.rehearses || !this.project || this.engine.transport.playing || this.engine.armed) return
    this.rehearsal = new Rehearsal(this.project, this.options.rate, this.sounds.of)
  }

  private endRehearsal(): void {
    this.rehearsal = null
    this.startIfReady()
  }

  /** Plays what waits and has no pieces of long sounds to wait for. */
  private startIfReady(): void {
    if (this.start?.patience === 0) this.begin(this.start.beat)
  }

  /** Plays what waits for pieces of long sounds, once they have come or have taken too long. */
  private startInTime(start: NonNullable<OleajeProcessor['start']>): void {
    start.patience--
    if (start.patience === 0 || this.sounds.pieces.areHere) this.begin(start.beat)
  }

  private begin(beat: number): void {
    if (!this.engine.transport.playing) prepareKernels()
    this.start = null
    this.engine.play(beat)
    this.send({ type: 'began' })
  }

  /** One block of the engine, and all that goes by blocks. */
  private work(inLeft: Float32Array, inRight: Float32Array, left: Float32Array, right: Float32Array): void {
    const { engine, teller } = this
    engine.input.left.set(inLeft)
    engine.input.right.set(inRight)
    if (this.waiting) this.takeDue(this.waiting)
    engine.process(left, right)
    this.sounds.pieces.pass()
    // what is needed has been asked for with this block
    if (this.start !== null && !this.rehearsal) this.startInTime(this.start)
    teller.look(engine)
    const { values } = engine.telemetry
    if ((values[fixedSlot.blocks] ?? 0) % REPORT_BLOCKS === 0) teller.lookAtGuards(values)
    this.recording?.write(engine)
    if (this.loopback) this.listen(this.loopback, left, right)
    if (this.capture?.take(engine.mix)) this.giveCapture(this.capture)
  }

  private listen(loopback: Loopback, left: Float32Array, right: Float32Array): void {
    const frames = loopback.process(this.engine.input, left, right)
    if (frames === undefined) return
    this.loopback = null
    this.send({ type: 'loopback', frames })
  }

  private giveCapture({ left, right }: MixCapture): void {
    this.capture = null
    this.port.postMessage(
      { type: 'captured', left, right, latency: this.engine.latency } satisfies FromWorklet,
      [left.buffer, right.buffer],
    )
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const out = outputs[0]
    const left = out?.[0]
    const right = out?.[1]
    if (!left || !right) return true
    const { engine, load } = this
    if (this.rehearsal?.goOn()) this.endRehearsal()
    load.begin()
    this.output.process(inputs[0], left, right)
    const { values, buffer } = engine.telemetry
    load.end(left.length / sampleRate, values)
    if (!this.options.shared && (values[fixedSlot.blocks] ?? 0) % MESSAGE_BLOCKS === 0)
      this.send({ type: 'telemetry', buffer: buffer.slice(0) as ArrayBuffer })
    return true
  }
}

registerProcessor('oleaje', OleajeProcessor)
