import { type StereoBlock, stereoBlock } from '../contract/block'
import type { AudioData } from '../contract/audio'
import { branchesOf } from '../project/nodes/index'
import type { Project } from '../project/schema'
import { linkSettings } from '../project/targets'
import { heardChain, nodesIn, trackOf, findOwner } from '../project/walk'
import { type NextPlan, type Planning, compile, planning } from './compile'
import { EffectStep } from './effect-step'
import { FaderStep } from './fader-step'
import { LOOK_AHEAD } from './limiter'
import { LiveValues } from './live-values'
import { MixFade } from './mix-fade'
import { MonitorOutput } from './monitor-output'
import { ModulatorStep } from './modulator-step'
import { applyMonitor } from './apply-monitor'
import { type Monitor, openMonitor } from './monitor'
import { engineOf } from './nodes/index'
import { NoteLineStep } from './note-line-step'
import { type CompileContext, type Plan, stepAt } from './plan'
import { IdleTracks } from './idle-tracks'
import { SourceStep } from './source-step'
import type { SoundStep, Step } from './step'
import { StepRunner } from './step-runner'
import { type Clock, StepCosts } from './step-costs'
import { isInPlan, ownText, structureOf } from './structure'
import { type SlotMap, type TelemetryMemory, telemetryMemory } from './telemetry'
import { Transport } from './transport'

/** Blocks for which an effect that is about to go fades out first. */
const LEAVING_BLOCKS = 7

/** Pieces of work on a new plan done with one block: one is about a step of the chain or the links of one. */
const PIECES = 6

export interface EngineOptions {
  readonly sampleRate: number
  readonly audio: (hash: string) => AudioData | null
  /** Memory for live values; the engine makes its own where none is given. */
  readonly telemetry?: TelemetryMemory
  /**
   * Blocks between two writings of live values; 1 where none is given. Song position, loudness and the rings
   * of the listening panel come with every block.
   */
  readonly reportEvery?: number
  /** Told where something fails while it plays: by the key of its step. It is cut, and all else plays on. */
  readonly onFault?: (key: string, error: unknown) => void
  /** Told where a howl between output and input was dipped. */
  readonly onHowl?: () => void
  /**
   * Told of notes played live, with where the song is: in quarter notes by its position, and as they pass.
   * Velocity 0 ends one.
   */
  readonly onNote?: (track: string, pitch: number, velocity: number, beat: number, run: number) => void
  /** Follow the project's loop. A render does not. */
  readonly looping?: boolean
}

/** Below −80 dBFS nothing needs a fade. */
const AUDIBLE = 1e-4

/**
 * Plays a project in blocks of 128 frames. The same object runs in the AudioWorklet, in workers and in Node,
 * and gives the same bits in all of them. `process` allocates nothing and throws nothing; `update` may do
 * both, between blocks.
 */
export class Engine {
  readonly transport: Transport
  readonly telemetry: TelemetryMemory
  /** The mix before the monitor stage: what a render writes. */
  readonly mix: StereoBlock = stereoBlock()
  /** Live input of the block to come. */
  readonly input: StereoBlock = stereoBlock()
  private plan: Plan | null = null
  private project: Project | null = null
  /** Of the plan that plays, or of the one that is being made. */
  private structure = ''
  /** A plan in preparation: its project now, and at the time of the playing plan. */
  private next: {
    project: Project
    readonly before: Project
    readonly work: Planning
    ready: NextPlan | null
    wait: number
    hurried: boolean
  } | null = null
  private monitor: Monitor = openMonitor
  private readonly idleTracks = new IdleTracks()
  private readonly runner: StepRunner
  private readonly fade = new MixFade()
  private readonly output: MonitorOutput
  private readonly live: LiveValues

  constructor(private readonly options: EngineOptions) {
    const { sampleRate } = options
    this.transport = new Transport(sampleRate)
    this.telemetry = options.telemetry ?? telemetryMemory()
    this.output = new MonitorOutput(sampleRate, options.onHowl)
    this.live = new LiveValues(sampleRate, this.telemetry, options.reportEvery ?? 1)
    this.runner = new StepRunner((step, error) => {
      for (const [key, known] of this.plan?.steps ?? []) if (known === step) options.onFault?.(key, error)
    })
  }

  /** Samples between the song and the mix. */
  get latency(): number {
    return this.plan?.latency ?? 0
  }
  /** What it runs: steps and how they hang together; see {@link divide}. */
  get whole(): Plan | null {
    return this.plan
  }
  /** Links and sidechains that come a block late because they form a feedback loop. */
  get feedbackEdges(): readonly string[] {
    return this.plan?.feedbackEdges ?? []
  }
  /** Which live value stands where. */
  get slots(): SlotMap {
    return this.live.slots
  }
  /** Counts how often the places of live values have been reassigned. */
  get reports(): number {
    return this.live.renewals
  }

  /** Takes a project as it is, with clean state, and stands still. */
  load(project: Project): void {
    this.stand()
    this.next = null
    this.plan = null
    this.structure = structureOf(project)
    this.plan = compile(project, this.context(), {
      steps: new Map(),
      links: new Map(),
      inputs: new Map(),
      songs: new Map(),
    })
    this.adopted(project, null)
    this.reset()
    this.live.renew('next')
  }

  /**
   * The same for a project that differs in values alone, without a new plan.
   * @param plan what it ran before it was divided; see {@link divide}
   * @returns false where the project differs in more, and nothing has been done
   */
  reload(project: Project, plan: Plan): boolean {
    if (this.next || structureOf(project) !== this.structure) return false
    this.stand()
    this.plan = plan
    this.adoptValues(project, null)
    this.reset()
    return true
  }

  /** Stands still, as if nothing had been played. */
  private stand(): void {
    this.runner.rest.wake()
    this.transport.rewind()
    this.runner.forgive()
    // a start that still waited for a fade was of the project before
    this.fade.leave()
    this.fade.heard = 0
  }

  /** Has it run another plan made of the one that it has, from the start of playing on; see `shares.ts`. */
  divide(part: (plan: Plan, order: readonly Step[]) => Plan): void {
    if (!this.plan || !this.project) return
    this.plan = part(this.plan, this.idleTracks.order)
    this.adoptValues(this.project, this.project)
  }

  /** Whether a plan for a structural edit is in preparation. */
  get planning(): boolean {
    return this.next !== null
  }

  /**
   * Takes an edited project while playing. Values glide from the next block on. Structure is exchanged
   * without a click some blocks later: its plan is made a piece with each block, so that none has to wait for
   * all of it.
   */
  update(project: Project): void {
    if (!this.plan || !this.project) return this.load(project)
    this.runner.rest.wake()
    const structure = structureOf(project)
    if (structure === this.structure) {
      if (this.next) this.next.project = project
      this.adoptValues(project, this.project)
      return
    }
    this.structure = structure
    const staying = new Set<string>()
    for (const track of project.tracks)
      for (const node of nodesIn(heardChain(track).nodes))
        for (const key of engineOf(node).steps(node)) staying.add(key)
    let someLeave = false
    for (const [key, step] of this.plan.steps) {
      if (step.leaving === undefined) continue
      const leaves = !staying.has(key)
      // what leaves already has faded for as long as the plan under way has waited
      someLeave ||= leaves && !step.leaving && step.isHeard === true
      step.leaving = leaves
    }
    this.begin(project, someLeave ? LEAVING_BLOCKS : Math.max(0, this.next?.wait ?? 0))
  }

  /**
   * Takes a project that differs by one value. Unlike {@link update}, it looks at what carries the value
   * alone: at its kind's text, since a quality may change when sound arrives.
   */
  setValue(project: Project, owner: string, path: string, value: number): void {
    const { plan, project: before } = this
    const found = findOwner(project, owner)
    const known = before && findOwner(before, owner)
    const params = plan?.params.get(owner)
    if (
      !params ||
      this.next ||
      !found ||
      !known ||
      !isInPlan(found) ||
      ownText(found, project) !== ownText(known, project)
    )
      return this.update(project)
    this.project = project
    this.runner.rest.wake()
    params.setOne(path, value)
  }

  /** Says that sound of the project has arrived or changed. */
  audioChanged(): void {
    if (this.project) this.begin(this.next?.project ?? this.project, this.next?.wait ?? 0)
  }

  /** Whether a live input is monitored, so that tracks are not aligned with each other. */
  get armed(): boolean {
    return this.output.armed
  }

  arm(armed: boolean): void {
    if (armed === this.output.armed) return
    this.output.arm(armed)
    this.runner.rest.wake()
    if (!this.project) return
    this.begin(this.next?.project ?? this.project, 0)
    this.finish()
  }

  setMonitor(monitor: Monitor): void {
    this.runner.rest.wake()
    const sameProbe = this.monitor.probe?.track === monitor.probe?.track
    this.monitor = monitor
    this.applyMonitor()
    if (!sameProbe) this.live.probe.reset()
  }

  /** Measures from now on what each step costs, as live values `cost:KEY`; null ends it. */
  measureCosts(clock: Clock | null): void {
    this.runner.rest.wake()
    this.runner.costs = clock && new StepCosts(clock, this.options.sampleRate)
    this.live.renew('soon')
  }

  /** Says where it will be played from in a moment, so that long sounds are brought from there on. */
  aimAt(beat: number): void {
    this.runner.rest.wake()
    this.transport.aimAt(beat)
  }

  /**
   * Starts from a song position in quarter notes, with clean state. What still rings from before fades first,
   * where it is heard live.
   * @param soft false to start with the next block, whatever rings
   */
  play(beat: number, soft = true): void {
    this.finish()
    const start = (): void => {
      this.transport.play(beat)
      this.reset()
    }
    if (!soft || this.options.looping === false || this.fade.heard < AUDIBLE) start()
    else this.fade.to(start, false)
  }

  /** Ends all tails with a fade; playback continues. */
  silenceAll(): void {
    this.runner.rest.wake()
    this.fade.to(() => {
      this.empty()
    }, true)
  }

  private empty(): void {
    if (this.plan) for (const step of this.plan.order) step.empty?.()
  }

  /**
   * A note of a live player on a track; velocity 0 ends it.
   * @param delay frames after the start of the next block at which it sounds
   * @param ago frames before the start of the next block at which it was played
   */
  note(track: string, pitch: number, velocity: number, delay = 0, ago = 0): void {
    const { transport } = this
    this.runner.rest.wake(true)
    this.options.onNote?.(
      track,
      pitch,
      velocity,
      transport.beatBefore(ago),
      transport.run - ago * transport.beatsPerFrame,
    )
    if (this.plan) stepAt(this.plan, `notes:${track}`, NoteLineStep)?.play(pitch, velocity, delay)
  }

  /** Bend (½ for none) and pressure of a live player on a track, 0…1. */
  shapeNotes(track: string, bend: number, pressure: number): void {
    this.runner.rest.wake(true)
    if (this.plan) stepAt(this.plan, `notes:${track}`, NoteLineStep)?.shape(bend, pressure)
  }

  /** Stops the song exactly this many frames from now. Tails continue. */
  stopAfter(frames: number): void {
    this.transport.stopAfter(frames)
  }

  /** Stops the sources; what rings rings on, or is cut. */
  stop(cut = false): void {
    this.transport.stop()
    this.runner.rest.wake(true)
    // a start that waited for a fade is taken back
    this.fade.instead(() => {
      this.empty()
    })
    if (cut) this.silenceAll()
  }

  /** Clean state everywhere, as at the start of playing. */
  reset(): void {
    this.runner.rest.wake()
    if (!this.plan) return
    for (const step of this.plan.order) step.reset()
    this.idleTracks.settle()
    for (const link of this.plan.links.values()) link.reset()
    for (const late of this.plan.lateSongs) late.reset()
    this.output.reset()
    this.live.probe.reset()
  }

  /** Computes one block. `left` and `right` receive the output after the monitor stage. */
  process(left: Float32Array, right: Float32Array): void {
    if (this.next !== null) {
      this.runner.rest.wake()
      this.goOn(this.next)
    }
    this.transport.advance()
    const { plan, mix } = this
    const { rest } = this.runner
    if (plan && !rest.isOn) this.run(plan)
    else {
      mix.left.fill(0)
      mix.right.fill(0)
    }
    left.set(mix.left)
    right.set(mix.right)
    if (this.options.looping === false) return
    if (rest.isOn) {
      this.live.goOn()
      return
    }
    this.output.process(left, right, this.input)
    this.live.follow(plan, this.idleTracks.order, this.runner.costs)
    this.live.write(this.transport, this.output.gain, this.latency)
    if (plan) rest.look(plan, this.isBusy)
  }

  private run(plan: Plan): void {
    const { mix } = this
    if (this.idleTracks.count()) this.live.renew('soon')
    for (const late of plan.lateSongs) late.process()
    this.runner.run(this.idleTracks.order, this.telemetry.values)
    mix.left.set(plan.mix.out.left)
    mix.right.set(plan.mix.out.right)
    this.fade.process(mix)
  }

  /** Whether the next block may sound, or is measured. */
  private get isBusy(): boolean {
    return (
      this.transport.playing ||
      this.armed ||
      this.fade.isOn ||
      this.fade.heard > 0 ||
      this.runner.costs !== null
    )
  }

  /** Whether it rests: nothing sounds, and nothing is worked out until something changes. */
  get isResting(): boolean {
    return this.runner.rest.isOn
  }

  private context(): CompileContext {
    return {
      sampleRate: this.options.sampleRate,
      song: this.transport.song,
      input: this.input,
      audio: this.options.audio,
      compensate: !this.output.armed,
    }
  }

  /**
   * Begins to make a plan in place of the one that plays, to be exchanged after `wait` blocks at the
   * earliest.
   */
  private begin(project: Project, wait: number): void {
    const { plan } = this
    if (!plan) return
    this.runner.rest.wake()
    this.next = {
      project,
      before: this.next?.before ?? this.project ?? project,
      work: planning(project, this.context(), plan),
      ready: null,
      wait,
      hurried: false,
    }
  }

  /** A block's share of the work on the next plan, and its exchange when it is there. */
  private goOn(next: NonNullable<Engine['next']>): void {
    next.wait--
    for (let i = 0; i < PIECES && next.ready === null; i++) {
      const piece = next.work.next()
      if (piece.done) next.ready = piece.value
    }
    if (next.ready === null || (!next.hurried && next.ready.rehearse()) || next.wait > 0) return
    this.next = null
    this.plan = next.ready.exchange()
    this.adopted(next.project, next.before)
  }

  /** Has the next plan play at once, where one is on its way. */
  finish(): void {
    while (this.next !== null) {
      this.next.wait = 0
      this.next.hurried = true
      this.goOn(this.next)
    }
  }

  /** Updates after a new plan. */
  private adopted(project: Project, before: Project | null): void {
    this.adoptValues(project, before)
    this.applyMonitor()
    this.live.renew('soon')
  }

  /** Takes the values of a project, of which those of `before` are set. */
  private adoptValues(project: Project, before: Project | null): void {
    this.project = project
    this.transport.configure(project.tempo, project.loop, this.options.looping !== false)
    const { plan } = this
    if (!plan) return
    if (this.idleTracks.update(plan, project, this.monitor)) this.live.renew('soon')
    for (const track of project.tracks) {
      if (before && before !== project && before.tracks.includes(track)) continue
      plan.params.get(track.id)?.set(track.params)
      if (track.source) {
        plan.params.get(track.source.id)?.set(track.source.params, track.source.lanes)
        stepAt(plan, `source:${track.id}`, SourceStep)?.take(track.source.data)
      }
      for (const m of track.modulators) {
        plan.params.get(m.id)?.set(m.params, m.lanes)
        stepAt(plan, `mod:${m.id}`, ModulatorStep)?.take(m.data)
      }
      stepAt(plan, `notes:${track.id}`, NoteLineStep)?.set(track)
      for (const node of nodesIn(heardChain(track).nodes)) {
        plan.params.get(node.id)?.set(node.params, node.lanes)
        for (const branch of branchesOf(node)) plan.params.get(branch.id)?.set(branch.params)
        engineOf(node).adopt?.(node, plan, this.options.audio)
      }
    }
    if (!before || before.sends !== project.sends)
      for (const send of project.sends) plan.params.get(send.id)?.set(send.params)
    if (before && before.links === project.links) return
    const links = new Map(project.links.map((l) => [l.id, l]))
    for (const state of plan.links.values()) {
      const link = links.get(state.id)
      if (link) state.set(link)
    }
    for (const link of project.links) plan.params.get(link.id)?.set(linkSettings(link))
  }

  private applyMonitor(): void {
    const { plan, project, monitor } = this
    if (!plan || !project) return
    applyMonitor(plan, project, monitor)
    if (this.idleTracks.update(plan, project, monitor)) this.live.renew('soon')
    const { probe } = monitor
    const fader = probe && trackOf(project, probe.track) && stepAt(plan, `track:${probe.track}`, FaderStep)
    this.live.probed = fader
      ? {
          fader,
          modulator: (probe.modulator && stepAt(plan, `mod:${probe.modulator}`, ModulatorStep)) || null,
        }
      : null
  }

  /** Copy of the buffer of an effect; null without one. Between blocks; allocates. */
  held(node: string): readonly [Float32Array, Float32Array] | null {
    return (this.plan && stepAt(this.plan, `node:${node}`, EffectStep)?.processor.held?.()) ?? null
  }

  /**
   * What goes into the chain of a track and what comes out of it, with the samples that this comes later, and
   * those that what is heard comes after the song; null where there is no such track.
   */
  tap(track: string): {
    readonly dry: StereoBlock
    readonly wet: StereoBlock
    readonly latency: number
    readonly heard: number
  } | null {
    const { plan } = this
    const source =
      plan?.steps.get(`source:${track}`) ??
      (plan && track === this.project?.tracks.at(-1)?.id ? plan.steps.get('sum') : undefined)
    const fader = plan && stepAt(plan, `track:${track}`, FaderStep)
    if (!plan || !source || !fader) return null
    return {
      dry: (source as SoundStep).out,
      wet: fader.before,
      latency: (plan.arrivals.get(fader) ?? 0) - (plan.arrivals.get(source) ?? 0),
      heard: plan.latency + LOOK_AHEAD,
    }
  }

  /** A person has seen that the guard cut a node, which may sound again. */
  acknowledge(node: string): void {
    this.runner.rest.wake()
    this.plan?.steps.get(`node:${node}`)?.guard?.release()
  }
}
