import { exp2 } from '../dsp/math'
import { modulatorDefinition } from '../modulators/index'
import { seedIn } from '../project/new'
import type { ChainNode, Link, Listen, Modulator, Project, Send, Track } from '../project/schema'
import { morphLinks } from '../project/morph'
import { waysOf } from '../project/routing'
import { sendParams, trackParams } from '../project/targets'
import { heardChain, mixOf } from '../project/walk'
import { sourceDefinition } from '../sources/index'
import type { AlignedInput } from './aligned-input'
import { inOrder, lineUp } from './arrange'
import { heldAudio } from '../contract/audio'
import { type NoteBlock, type ParamBlock, stereoBlock } from '../contract/block'
import { type Draft, type Made, PlanDraft, sameItems } from './draft'
import { FaderStep } from './fader-step'
import { inPieces } from './in-pieces'
import { LateNotes } from './late-notes'
import { LinkWiring } from './link-wiring'
import { ModulatorStep } from './modulator-step'
import { engineOf } from './nodes/index'
import type { Placing } from './nodes/node-engine'
import { NoteLineStep } from './note-line-step'
import { ParamSet } from './param-set'
import type { CompileContext, Plan, KeptSteps } from './plan'
import { SendStep } from './send-step'
import { type SignalStep, outputOf } from './signal-step'
import { SourceStep } from './source-step'
import type { SoundStep } from './step'
import { type Arrival, SumStep } from './sum-step'

/** Turns a project into a plan at once: {@link planning} to its end. Call between blocks; allocates. */
export function compile(project: Project, context: CompileContext, kept: KeptSteps): Plan {
  const work = planning(project, context, kept)
  for (;;) {
    const step = work.next()
    if (step.done) return step.value.exchange()
  }
}

/** A plan that is ready to take the place of the one that plays. */
export interface NextPlan {
  /**
   * Has what looks far back hear the block that has passed; gives whether it wants more. Between two blocks.
   */
  rehearse(): boolean
  /** Puts it in its place. */
  exchange(): Plan
}

/** Making a plan, in small pieces of work. */
export type Planning = Generator<void, NextPlan>

/**
 * Turns a project into a plan: one order for sound and modulation together, delays that line up every meeting
 * of two paths, and steps that keep their state where `kept` has them. Goes on between blocks while the plan
 * that `kept` is from plays, and changes nothing of that until the end; what is left to do then is only what
 * differs between the two. Allocates.
 */
export function* planning(project: Project, context: CompileContext, kept: KeptSteps): Planning {
  const drawing = new Drawing(project, context, kept)
  const { plan, links } = drawing
  const mix = yield* drawing.mix()
  yield* links.connect()
  const { order, feedback } = yield* inOrder(plan.drafts.values())
  const needs = yield* lineUp(order, context.compensate)
  yield* links.attach()
  yield* inPieces(plan.finishing, (finish) => {
    finish()
  })
  for (const settle of plan.settling) settle()
  const made: Plan = {
    order: order.filter((d) => d.step !== silentStep).map((d) => d.step),
    arrivals: new Map(order.map((d) => [d.step, d.arrival])),
    needs,
    feedbackEdges: feedback,
    steps: plan.steps,
    links: links.links,
    inputs: plan.inputs,
    songs: plan.songs,
    lateSongs: [...plan.songs.values()],
    params: links.params,
    mix: mix.step,
    latency: mix.draft.arrival + mix.draft.latency,
  }
  return {
    rehearse: () => plan.rehearsals.reduce((more, rehearsal) => rehearsal() || more, false),
    exchange: () => {
      for (const change of plan.exchange) change()
      return made
    },
  }
}

/** Walks a project and puts a step on the plan for everything in it. */
class Drawing {
  readonly plan: PlanDraft
  readonly links: LinkWiring
  private readonly homes = new Map<string, { track: Track; modulator: Modulator }>()
  private readonly lines = new Map<string, Made<NoteLineStep>>()

  /**
   * What is random in a thing follows from its own seed; that of older things from the project's and their
   * id.
   */
  private readonly seedOf = (of: { readonly id: string; readonly seed?: number }): number =>
    of.seed ?? seedIn(this.project, of.id)

  constructor(
    private readonly project: Project,
    private readonly context: CompileContext,
    kept: KeptSteps,
  ) {
    this.plan = new PlanDraft(kept)
    this.links = new LinkWiring(
      this.plan,
      [...project.links, ...morphLinks(project)],
      context.sampleRate,
      this.seedOf,
      (link, index, count) => this.copy(link, index, count),
    )
  }

  /** All modulators, all tracks, and the mix of these, which it gives. */
  *mix(): Generator<void, Made<FaderStep>> {
    const { plan, project } = this
    for (const track of project.tracks) {
      for (const modulator of track.modulators) {
        yield
        this.modulator(track, modulator)
      }
    }
    const mixTrack = mixOf(project)
    for (const track of project.tracks)
      if (track !== mixTrack)
        yield* this.track(
          track,
          track.kind === 'bus' ? this.sum(track, `source:${track.id}`) : yield* this.source(track),
        )
    for (const send of project.sends) this.send(send)
    const sum = this.sum(mixTrack, 'sum')
    plan.drafts.set(`source:${mixTrack.id}`, sum)
    return yield* this.track(mixTrack, sum)
  }

  /** What leaves a track or a branch for a bus. */
  private send({ id, from, before, params }: Send): void {
    const {
      plan,
      links,
      context: { sampleRate },
    } = this
    const made = links.own(
      plan.add(
        `send:${id}`,
        SendStep,
        () => true,
        () => new SendStep(new ParamSet(sendParams, params, sampleRate)),
      ),
      id,
    )
    const head = (): Draft | undefined =>
      plan.drafts.get(`track:${from}`) ?? plan.drafts.get(`branch:${from}`)
    plan.connect(
      made.draft,
      before ? 'before' : 'in',
      () => (head() ? head() : this.silence()),
      (i) => {
        plan.give(made, 'input', i)
      },
      { id, before: before && head() !== undefined },
    )
  }

  /** The head of a bus or of the mix: the sum of all that goes there. */
  private sum(track: Track, key: string): Draft {
    const { plan, project } = this
    const { draft, step } = plan.add(
      key,
      SumStep,
      () => true,
      () => new SumStep(),
    )
    const arrivals: Arrival[] = []
    for (const { from, to, send } of waysOf(project)) {
      if (to !== track.id) continue
      const way = send ? `send:${send.id}` : `track:${from}`
      plan.connect(
        draft,
        way,
        () => plan.drafts.get(way),
        (input) => {
          arrivals.push({ way, input })
        },
        { crossing: true },
      )
    }
    plan.finishing.push(() => {
      const known = step.arrivals
      if (
        sameItems(
          arrivals.map((a) => a.input),
          known.map((a) => a.input),
        )
      )
        return
      plan.change(draft, () => {
        if (!draft.fresh && known.length !== arrivals.length) step.cut()
        step.arrivals = arrivals
      })
    })
    return draft
  }

  private silence(): Draft {
    const silence: Draft = {
      key: 'silence',
      step: silentStep,
      fresh: true,
      edges: [],
      latency: 0,
      arrival: 0,
    }
    this.plan.drafts.set(silence.key, silence)
    return silence
  }

  private *source(track: Track): Generator<void, Draft> {
    const {
      plan,
      links,
      context: { sampleRate, song, input, audio },
    } = this
    const { source } = track
    const definition = source && sourceDefinition(source.type)
    if (!source || !definition) {
      return this.silence()
    }
    const latency = definition.latency?.(sampleRate, source.params) ?? 0
    const made = plan.add(
      `source:${track.id}`,
      SourceStep,
      (s) => s.definition === definition && s.latency === latency,
      () => {
        const params = new ParamSet(
          definition.params,
          source.params,
          sampleRate,
          definition.lanes,
          source.lanes,
        )
        return new SourceStep(
          definition,
          definition.create({ sampleRate, seed: this.seedOf(source), latency }),
          params,
          latency,
          song,
          input,
        )
      },
      latency,
    )
    const { draft, step } = made
    links.own(made, source.id, { specs: definition.lanes, values: source.lanes })
    if (!step.params.hasShape(source.lanes))
      plan.change(draft, () => {
        step.params.shape(source.lanes)
      })
    if (draft.fresh) step.take(source.data)
    const found = source.audio ? audio(source.audio) : null
    const main = definition.inPieces ? found : heldAudio(found)
    const sounds =
      definition.sounds?.(source.data ?? {}).map((hash) => heldAudio(hash ? audio(hash) : null)) ?? []
    if (definition.prepare) for (const sound of [main, ...sounds]) yield* definition.prepare(sound)
    plan.give(made, 'audio', main)
    if (!sameItems(sounds, step.sounds)) plan.give(made, 'sounds', sounds)
    let side: AlignedInput | null = null
    if (source.listens && definition.listens)
      this.listen(draft, source.listens, track, source.id, (i) => {
        side = i
      })
    plan.finishing.push(() => {
      plan.give(made, 'side', side)
    })
    if (definition.notes) {
      const line = this.noteLine(track)
      plan.give(made, 'notes', line.step.out)
      plan.after(draft, source.id, () => line.draft)
    }
    return draft
  }

  private *track(track: Track, head: Draft): Generator<void, Made<FaderStep>> {
    const { plan } = this
    const end = yield* this.placing(track).nodes(heardChain(track).nodes, head)
    const made = this.fader(
      `track:${track.id}`,
      track.id,
      () => new ParamSet(trackParams, track.params, this.context.sampleRate),
    )
    plan.connect(
      made.draft,
      'in',
      () => end,
      (i) => {
        plan.give(made, 'input', i)
      },
    )
    plan.connect(
      made.draft,
      'dry',
      () => head,
      (i) => {
        plan.give(made, 'dry', i)
      },
      { quiet: true },
    )
    return made
  }

  private fader(key: string, owner: string, params: () => ParamSet): Made<FaderStep> {
    return this.links.own(
      this.plan.add(
        key,
        FaderStep,
        () => true,
        () => new FaderStep(params()),
      ),
      owner,
    )
  }

  /** Context in which kinds of nodes put themselves on the plan. */
  private placing(track: Track): Placing {
    const { plan, links, context, seedOf } = this
    const placing: Placing = {
      plan,
      links,
      context,
      track,
      seedOf,
      nodes: (list, from) => nodes(list, from),
      fader: (key, owner, params) => this.fader(key, owner, params),
      listen: (draft, to, id, set) => {
        this.listen(draft, to, track, id, set)
      },
      noteLine: () => this.noteLine(track),
      notesAt: (line, late) => this.notesAt(line, late),
    }
    function* nodes(list: readonly ChainNode[], from: Draft): Generator<void, Draft> {
      let last = from
      for (const node of list) {
        yield
        last = yield* engineOf(node).place(node, last, placing)
      }
      return last
    }
    return placing
  }

  /** Connects the sound of a track or a branch that something listens to. */
  private listen(
    draft: Draft,
    { track, branch, point }: Listen,
    home: Track,
    id: string,
    set: (input: AlignedInput) => void,
  ): void {
    const { drafts } = this.plan
    const whole = `track:${track}`
    const from = (): Draft | undefined =>
      branch
        ? (drafts.get(`branch:${branch}`) ?? drafts.get(whole))
        : drafts.get(point === 'before' ? `source:${track}` : whole)
    this.plan.connect(draft, 'side', from, set, {
      crossing: track !== home.id,
      id,
      quiet: true,
      before: point === 'after' && !branch,
    })
  }

  private modulator(track: Track, modulator: Modulator): void {
    const {
      plan,
      links,
      context: { sampleRate, song },
    } = this
    const definition = modulatorDefinition(modulator.type)
    if (!definition) return
    this.homes.set(modulator.id, { track, modulator })
    const made = plan.add(
      `mod:${modulator.id}`,
      ModulatorStep,
      (s) => s.definition === definition,
      () => {
        const params = new ParamSet(
          definition.params,
          modulator.params,
          sampleRate,
          definition.lanes,
          modulator.lanes,
        )
        return new ModulatorStep(
          definition,
          definition.create({ sampleRate, seed: this.seedOf(modulator) }),
          params,
          song,
        )
      },
    )
    links.own(made, modulator.id, { specs: definition.lanes, values: modulator.lanes })
    const { params } = made.step
    if (!params.hasShape(modulator.lanes))
      plan.change(made.draft, () => {
        params.shape(modulator.lanes)
      })
    this.hear(track, modulator, made)
  }

  /**
   * One copy of a modulator for one item of a lane: it has its own phase, speed and state, and the first
   * one's parameters.
   */
  private copy(link: Link, index: number, count: number): () => Draft | undefined {
    const {
      plan,
      context: { sampleRate, song },
    } = this
    const first = plan.drafts.get(`mod:${link.source}`)
    const home = this.homes.get(link.source)
    if (!first || !link.fan || !home) return () => first
    const { definition, params } = first.step as ModulatorStep
    const way = count > 1 ? index / (count - 1) : 0
    const fan = { phase: (link.fan.phase * index) / count, rate: exp2(link.fan.rate * way) }
    const made = plan.add(
      `mod:${link.source}~${link.id}#${index}/${fan.phase}/${fan.rate}`,
      ModulatorStep,
      (s) => s.definition === definition && s.params === params,
      () =>
        new ModulatorStep(
          definition,
          definition.create({ sampleRate, seed: this.seedOf(home.modulator), fan }),
          params,
          song,
          true,
        ),
    )
    this.hear(home.track, home.modulator, made)
    plan.after(made.draft, link.id, () => first)
    return () => made.draft
  }

  /** Connects the inputs of a modulator: a sound, signals, the notes of its track. */
  private hear(track: Track, modulator: Modulator, made: Made<ModulatorStep>): void {
    const { plan, links } = this
    const { draft, step } = made
    const { definition } = step
    const slots = definition.inputs ?? []
    if (draft.fresh) step.take(modulator.data)
    let listens: AlignedInput | null = null
    const inputs: (ParamBlock | null)[] = slots.map(() => null)
    if (modulator.listens && definition.listens)
      this.listen(draft, modulator.listens, track, modulator.id, (i) => {
        listens = i
      })
    for (const slot of slots.keys()) {
      const input = modulator.inputs[slot]
      if (!input) continue
      draft.edges.push({
        id: modulator.id,
        from: () => plan.drafts.get(`mod:${input.source}`) ?? plan.drafts.get(`node:${input.source}`),
        isFeedback: false,
        crossing: false,
        attach: (from, delay) => {
          const other = from.step as SignalStep
          if (other.outputs.length) inputs[slot] = links.delayed(other, outputOf(other, input.output), delay)
        },
      })
    }
    const line = definition.notes ? this.noteLine(track) : null
    if (line) plan.after(draft, modulator.id, () => line.draft)
    plan.finishing.push(() => {
      if (line) plan.give(made, 'notes', this.notesAt(line, draft.arrival))
      plan.give(made, 'song', plan.songAt(this.context.song, draft.arrival))
      plan.give(made, 'listens', listens)
      if (!sameItems(inputs, step.inputs)) plan.give(made, 'inputs', inputs)
      const late = links.delaysOf(step)
      if (!sameItems(late, step.delays)) plan.give(made, 'delays', late)
    })
  }

  /** The notes of a line, delayed by so many frames of latency. */
  private notesAt(line: Made<NoteLineStep>, late: number): NoteBlock {
    const known = line.step.late
    if (late <= 0 && known.every((n) => n.late === 0)) return line.step.out
    const wanted = this.lateNotes.get(line.step) ?? []
    const found = [...wanted, ...known].find((n) => n.late === late) ?? new LateNotes(line.step.out, late)
    if (!wanted.includes(found)) this.lateNotes.set(line.step, [...wanted, found])
    const [other] = known
    if (other && !known.includes(found) && !wanted.includes(found))
      this.plan.exchange.push(() => {
        found.takeOver(other)
      })
    return found.out
  }
  private readonly lateNotes = new Map<NoteLineStep, LateNotes[]>()

  /** The one player of a track's notes, however many listen to it. */
  private noteLine(track: Track): Made<NoteLineStep> {
    const known = this.lines.get(track.id)
    if (known) return known
    const line = this.plan.add(
      `notes:${track.id}`,
      NoteLineStep,
      () => true,
      () => new NoteLineStep(this.context.song, this.context.sampleRate),
    )
    if (line.draft.fresh) line.step.set(track)
    this.lines.set(track.id, line)
    // the last to finish, when all have said how late they are
    this.plan.settling.push(() => {
      const late = this.lateNotes.get(line.step) ?? []
      if (!sameItems(late, line.step.late)) this.plan.give(line, 'late', late)
    })
    return line
  }
}

const silentStep: SoundStep = { out: stereoBlock(), peak: 0, run() {}, reset() {}, cut() {} }
