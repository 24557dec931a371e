import { FRACTION } from '@oleaje/core/dsp/fraction'
import { BLOCK } from '@oleaje/core/contract/block'
import { prepareKernels } from '@oleaje/core/dsp/simd/kernel-memory'
import type { AudioData } from '@oleaje/core/contract/audio'
import { ArrivingPieces } from '@oleaje/core/engine/arriving-pieces'
import { Engine } from '@oleaje/core/engine/engine'
import type { Monitor } from '@oleaje/core/engine/monitor'
import { effects } from '@oleaje/core/effects/index'
import { fixedSlot, telemetryMemory } from '@oleaje/core/engine/telemetry'
import { type Patch, patched } from '@oleaje/core/project/patch'
import { valueOf } from '@oleaje/core/project/value-change'
import type { Project } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import type { EngineSound, FromWorklet, ToWorklet, WorkletOptions } from '../contract/messages'
import { OutputBorder, type WorkBlock } from './output-border'
import { Recorder } from './recorder'
import { TripWatch } from './trip-watch'

// Whole milliseconds give a true mean over many blocks, and reading them allocates nothing.
const coarse = (): number => Date.now()
// The one clock of this scope that tells microseconds makes an object each time: for measuring, not for
// always.
const fine: (() => number) | null =
  typeof Temporal === 'undefined' ? null : () => Number(Temporal.Now.instant().epochNanoseconds) / 1e6

declare const Temporal: { readonly Now: { instant(): { readonly epochNanoseconds: bigint } } } | undefined

/** Pictures are drawn some thirty times a second; live values are there some ninety times. */
const REPORT_BLOCKS = 4

/** Frames of the click that goes round, and the level at which it is heard coming in. */
const CLICK = 64
const HEARD = 0.1

/**
 * Blocks after which the engine's code has been compiled, and how many of them are worked out in the time of
 * one.
 */
const WARM_BLOCKS = 1200
const WARM_AT_ONCE = 12
/** Blocks, a quarter of a second, for which Play waits for pieces of long sounds. */
const PATIENCE = 94
/**
 * Edits carried out at once when a project comes in, so that the first real one while sound plays meets code
 * that is there.
 */
const WARM_EDITS = 16

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

/** The engine as an AudioWorklet: messages in, sound and live values out. */
class OleajeProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine
  private readonly audio = new Map<string, AudioData>()
  private readonly pieces = new ArrivingPieces((hash, n) => this.send({ type: 'want', hash, n }))
  private project: Project | null = null
  private told = 0
  private reports = 0
  private generation = 0
  private toldFeedback = ''
  private clock = coarse
  /** Milliseconds that messages have taken since the last block, which the next one has less. */
  private between = FRACTION
  private busy = FRACTION
  private worst = FRACTION
  private measured = 0
  private missed = 0
  private capture: { left: Float32Array; right: Float32Array; at: number; from: number } | null = null
  private readonly messageEvery: number
  /**
   * A second engine that plays unheard before the first is asked to, so that the first sounding blocks meet
   * compiled code.
   */
  private rehearsal: {
    readonly engine: Engine
    readonly projects: readonly Project[]
    edits: number
    left: number
  } | null = null
  /**
   * Where to play from as soon as the rehearsal is over and what is needed there has come, and blocks for
   * which that is still waited for.
   */
  private waiting: number | null = null
  private patience = 0
  private silent = new Float32Array(BLOCK)
  private readonly unheard = new Float32Array(BLOCK)
  /** The project's rate, at which the engine works. */
  private readonly rate: number
  private readonly rehearses: boolean
  private readonly trips = new TripWatch()
  private readonly tripped = (key: string): void => this.send({ type: 'tripped', key })
  /** Where the context has another rate or quantum than the engine. */
  private border: OutputBorder | null = null
  private readonly work: WorkBlock = (inLeft, inRight, left, right) => {
    this.workBlock(inLeft, inRight, left, right)
  }

  constructor(options: { processorOptions: WorkletOptions }) {
    super()
    const { memory, shared, rate, rehearses } = options.processorOptions
    this.rate = rate
    this.rehearses = rehearses
    this.messageEvery = shared ? 0 : 8
    this.engine = new Engine({
      sampleRate: rate,
      audio: (hash) => this.audio.get(hash) ?? null,
      telemetry: memory ? telemetryMemory(memory) : undefined,
      reportEvery: REPORT_BLOCKS,
      onFault: (key) => this.send({ type: 'fault', key }),
      onHowl: () => this.send({ type: 'howl' }),
      onNote: (track, pitch, velocity, beat, run) => {
        if (this.takesNotes) this.send({ type: 'played', track, pitch, velocity, beat, run })
      },
    })
    this.port.onmessage = (message: MessageEvent<ToWorklet>) => {
      const start = this.clock()
      const { playing } = this.engine.transport
      try {
        this.take(message.data)
      } catch (error) {
        this.send({ type: 'error', message: error instanceof Error ? error.message : String(error) })
      }
      // nobody waits for a block while nothing plays; and not where the message has exchanged the clock
      const took = this.clock() - start
      if (playing && took < 60_000 && took > -60_000) this.between += took
    }
  }

  private send(message: FromWorklet): void {
    this.port.postMessage(message)
  }

  /** One value goes to what carries it; all else is looked at as a whole. */
  private takePatches(project: Project, patches: readonly Patch[]): void {
    const value = patches.length === 1 && patches[0] ? valueOf(patches[0]) : null
    if (value) this.engine.setValue(project, value.owner, value.path, value.value)
    else this.engine.update(project)
  }

  private take(message: ToWorklet): void {
    const { engine } = this
    switch (message.type) {
      case 'load':
        this.project = message.project
        engine.load(message.project)
        this.waiting = null
        this.rehearse()
        break
      case 'patches':
        if (!this.project) return
        this.project = patched(this.project, message.patches)
        this.takePatches(this.project, message.patches)
        break
      case 'audio':
        for (const sound of message.sounds) this.know(sound)
        engine.audioChanged()
        this.rehearse()
        break
      case 'forget':
        for (const hash of message.hashes) {
          this.audio.delete(hash)
          this.giveBack(this.pieces.close(hash))
        }
        break
      case 'piece': {
        this.giveBack(this.pieces.take(message.hash, message.n, message.channels) ?? [])
        break
      }
      case 'play':
        // code that is being compiled would stutter: what has begun to rehearse ends first, at most some two
        // seconds after the start
        this.waiting = message.beat
        this.patience = this.pieces.some ? PATIENCE : 0
        engine.transport.aimAt(message.beat)
        if (!this.rehearsal && this.patience === 0) this.begin(message.beat)
        break
      case 'stop':
        this.waiting = null
        engine.stop(message.cut)
        break
      case 'silence':
        engine.silenceAll()
        break
      case 'monitor':
        engine.setMonitor(message.monitor as Monitor)
        break
      case 'keep':
        this.send({ type: 'kept', channels: engine.held(message.node) })
        break
      case 'acknowledge':
        engine.acknowledge(message.node)
        break
      case 'arm':
        this.armed = message.armed
        if (message.armed) this.endRehearsal()
        engine.arm(message.armed)
        break
      case 'capture':
        this.rehearsal = this.waiting = null
        this.capture = {
          left: new Float32Array(message.frames),
          right: new Float32Array(message.frames),
          at: 0,
          from: message.beat,
        }
        engine.play(message.beat, false)
        break
      case 'note':
        // what is played is heard at once
        this.endRehearsal()
        this.note(message.track, message.pitch, message.velocity, message.time)
        break
      case 'shape':
        engine.shapeNotes(message.track, message.bend, message.pressure)
        break
      case 'record':
        this.recording = {
          track: message.track,
          beat: NaN,
          latency: 0,
          heard: 0,
          recorder: new Recorder(message.parts, (part, frames, from) => {
            this.port.postMessage(
              {
                type: 'recorded',
                part,
                frames,
                from,
                beat: this.recording?.beat ?? 0,
                latency: this.recording?.latency ?? 0,
                heard: this.recording?.heard ?? 0,
              } satisfies FromWorklet,
              [part.buffer],
            )
          }),
        }
        break
      case 'part-back':
        this.recording?.recorder.takeBack(message.part)
        break
      case 'record-end':
        this.recording?.recorder.end()
        this.recording = null
        this.send({ type: 'record-ended' })
        break
      case 'loopback':
        this.loopback = 0
        break
      case 'take-notes':
        this.takesNotes = message.on
        break
      case 'measure':
        this.clock = fine ?? coarse
        this.busy = this.worst = this.measured = this.missed = 0
        break
      case 'costs':
        engine.measureCosts(message.on ? fine : null)
        break
    }
  }

  /** Passes a note on, so many frames later that all come as evenly as they were played. */
  private note(track: string, pitch: number, velocity: number, time: number | undefined): void {
    const ago =
      time === undefined || !this.engine.transport.playing
        ? 0
        : Math.min(NOTE_MEMORY, Math.max(0, currentTime - time))
    const delay = time === undefined ? 0 : Math.max(0, time + NOTE_LEAD - currentTime)
    this.engine.note(track, pitch, velocity, Math.min(NOTE_LEAD, delay) * this.rate, ago * this.rate)
  }

  /**
   * Takes a sound. One that is there stays as it is, with the pieces that have come: it has the same content
   * under the same name.
   */
  private know({ hash, sampleRate: rate, channels, pieces }: EngineSound): void {
    if (this.audio.get(hash)?.sampleRate === rate) return
    this.giveBack(this.pieces.close(hash))
    this.audio.set(
      hash,
      pieces
        ? { sampleRate: rate, channels, pieces: this.pieces.open(hash, pieces.frames, pieces.channelCount) }
        : { sampleRate: rate, channels },
    )
  }

  /** Gives pieces to the page, which forgets them where nobody waits. */
  private giveBack(channels: readonly Float32Array[]): void {
    if (channels.length)
      this.port.postMessage(
        { type: 'piece-back', channels } satisfies FromWorklet,
        channels.map((c) => c.buffer as ArrayBuffer),
      )
  }

  private armed = false
  private takesNotes = false
  private recording: {
    readonly track: string
    beat: number
    latency: number
    heard: number
    readonly recorder: Recorder
  } | null = null
  /** Frames since a click was sent; negative for none. */
  private loopback = -1

  /** Writes the block to the recording, once the song plays. */
  private record(recording: NonNullable<OleajeProcessor['recording']>): void {
    const { engine } = this
    const tap = engine.transport.playing ? engine.tap(recording.track) : null
    if (!tap) return
    if (Number.isNaN(recording.beat)) recording.beat = engine.transport.song.beats[0] ?? 0
    recording.latency = tap.latency
    recording.heard = tap.heard
    recording.recorder.write(tap.dry, tap.wet)
  }

  /** Lays a click over the first block, and looks for it in what comes in. */
  private click(left: Float32Array, right: Float32Array): void {
    const { input } = this.engine
    if (this.loopback === 0) for (let i = 0; i < CLICK; i++) left[i] = right[i] = i % 8 < 4 ? 0.8 : -0.8
    for (let i = 0; i < BLOCK; i++) {
      if (Math.abs(input.left[i] ?? 0) < HEARD || this.loopback + i === 0) continue
      this.send({ type: 'loopback', frames: this.loopback + i })
      this.loopback = -1
      return
    }
    this.loopback += BLOCK
    if (this.loopback < this.rate) return
    this.loopback = -1
    this.send({ type: 'loopback', frames: null })
  }

  private begin(beat: number): void {
    if (!this.engine.transport.playing) prepareKernels()
    this.waiting = null
    this.engine.play(beat)
    this.send({ type: 'began' })
  }

  private endRehearsal(): void {
    this.rehearsal = null
    if (this.waiting !== null && this.patience === 0) this.begin(this.waiting)
  }

  /** Plays what waits for pieces of long sounds, once they have come or have taken too long. */
  private beginInTime(beat: number): void {
    this.patience--
    if (this.patience === 0 || this.pieces.areHere) this.begin(beat)
  }

  private rehearse(): void {
    // never beside sound that is heard: what plays, or a live input
    if (!this.rehearses || !this.project || this.engine.transport.playing || this.armed) return
    const engine = new Engine({ sampleRate: this.rate, audio: (hash) => this.audio.get(hash) ?? null })
    engine.load(this.project)
    engine.play(this.project.loop.start)
    this.rehearsal = { engine, projects: rehearsedOf(this.project), edits: 0, left: WARM_BLOCKS }
    for (let i = 0; i < WARM_EDITS; i++) {
      this.rehearseEdit()
      for (let k = 0; k < 4; k++) engine.process(this.unheard, this.unheard)
      engine.finish()
      for (let k = 0; k < 4; k++) engine.process(this.unheard, this.unheard)
    }
  }

  private rehearseEdit(): void {
    const { rehearsal } = this
    const next = rehearsal?.projects[rehearsal.edits++ % rehearsal.projects.length]
    if (next) rehearsal.engine.update(next)
  }

  /** Says where new live values stand, when there are any. */
  private tellSlots(): void {
    const { feedbackEdges: feedback, slots } = this.engine
    const anew = slots.generation !== this.generation
    if (anew) this.told = 0
    if (slots.size === this.told && feedback.join() === this.toldFeedback) return
    const entries = slots.since(this.told)
    this.trips.follow(entries, this.told === 0)
    this.send({ type: 'slots', entries, anew: this.told === 0, feedback })
    this.told = slots.size
    this.generation = slots.generation
    this.toldFeedback = feedback.join()
  }

  /** One block of the engine, and all that goes by blocks. */
  private workBlock(
    inLeft: Float32Array,
    inRight: Float32Array,
    left: Float32Array,
    right: Float32Array,
  ): void {
    const { engine } = this
    engine.input.left.set(inLeft)
    engine.input.right.set(inRight)
    engine.process(left, right)
    this.pieces.pass()
    // what is needed has been asked for with this block
    if (this.waiting !== null && !this.rehearsal) this.beginInTime(this.waiting)
    if (engine.reports !== this.reports) {
      this.reports = engine.reports
      this.tellSlots()
    }
    if ((engine.telemetry.values[fixedSlot.blocks] ?? 0) % REPORT_BLOCKS === 0)
      this.trips.look(engine.telemetry.values, this.tripped)
    if (this.recording) this.record(this.recording)
    if (this.loopback >= 0) this.click(left, right)
    const { capture } = this
    if (capture) {
      const n = Math.min(BLOCK, capture.left.length - capture.at)
      capture.left.set(n === BLOCK ? engine.mix.left : engine.mix.left.subarray(0, n), capture.at)
      capture.right.set(n === BLOCK ? engine.mix.right : engine.mix.right.subarray(0, n), capture.at)
      capture.at += n
      if (capture.at === capture.left.length) {
        this.capture = null
        this.port.postMessage(
          {
            type: 'captured',
            left: capture.left,
            right: capture.right,
            latency: engine.latency,
          } satisfies FromWorklet,
          [capture.left.buffer, capture.right.buffer],
        )
      }
    }
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const out = outputs[0]
    const left = out?.[0]
    const right = out?.[1]
    if (!left || !right) return true
    const { engine, rehearsal } = this
    if (rehearsal) {
      for (let i = 0; i < WARM_AT_ONCE; i++) rehearsal.engine.process(this.unheard, this.unheard)
      if (!rehearsal.engine.planning) this.rehearseEdit()
      rehearsal.left -= WARM_AT_ONCE
      if (rehearsal.left <= 0) this.endRehearsal()
    }
    const start = this.clock()
    const input = inputs[0]
    const frames = left.length
    if (this.silent.length !== frames) this.silent = new Float32Array(frames)
    const inLeft = input?.[0] ?? this.silent
    const inRight = input?.[1] ?? inLeft
    if (frames !== BLOCK || this.rate !== sampleRate) {
      this.border ??= new OutputBorder(this.rate, sampleRate, frames)
      this.border.process(inLeft, inRight, left, right, this.work)
    } else this.workBlock(inLeft, inRight, left, right)
    const took = (this.clock() - start + this.between) / 1000
    this.between = 0
    const seconds = frames / sampleRate
    this.busy += took
    this.measured++
    if (took > this.worst) this.worst = took
    if (took > seconds) this.missed++
    const { values } = engine.telemetry
    values[fixedSlot.load] = this.busy / (this.measured * seconds)
    values[fixedSlot.worst] = this.worst / seconds
    values[fixedSlot.missed] = this.missed
    values[fixedSlot['fine clock']] = fine ? 1 : 0
    if (this.measured >= 2000) {
      this.busy *= 0.5
      this.measured *= 0.5
    }
    if (this.messageEvery && (values[fixedSlot.blocks] ?? 0) % this.messageEvery === 0)
      this.send({ type: 'telemetry', buffer: engine.telemetry.buffer.slice(0) as ArrayBuffer })
    return true
  }
}

/**
 * A project as it is and as it would be after edits: in each track in turn an effect twice, and a link gone.
 */
function rehearsedOf(project: Project): Project[] {
  const edits = project.tracks.flatMap((track) => {
    const { nodes } = heardChain(track)
    const at = nodes.findIndex((n) => n.kind === 'effect')
    if (at < 0) return []
    const twice: Patch = {
      op: 'insert',
      path: ['tracks', { id: track.id }, heardChain(track) === track.b ? 'b' : 'a', 'nodes'],
      value: { ...nodes[at], id: 'rehearsed' },
      after: nodes[at]?.id ?? null,
    }
    return [
      project.links.length > 0
        ? [twice, { op: 'remove', path: ['links'], id: project.links[0]?.id ?? '' } satisfies Patch]
        : [twice],
    ]
  })
  return edits.flatMap((patches) => [patched(project, patches), project])
}

registerProcessor('oleaje', OleajeProcessor)
