import { LINEAR_BAND_LATENCY } from '../dsp/linear-band'
import { exp2 } from '../dsp/math'
import { hashText, mix32 } from '../dsp/random'
import { effectDefinition } from '../effects/index'
import { modulatorDefinition } from '../modulators/index'
import type { ChainNode, Effect, Link, Listen, Modulator, Project, Split, Track } from '../project/schema'
import { branchParams, commonParams, groupParams, splitParams, trackParams } from '../project/targets'
import { heardChain, mixOf } from '../project/walk'
import { sourceDefinition } from '../sources/index'
import type { AudioData } from '../sources/definition'
import type { AlignedInput } from './aligned-input'
import { inOrder, lineUp } from './arrange'
import { type ParamBlock, type SongBlock, type StereoBlock, stereoBlock } from './block'
import { BranchInStep } from './branch-in-step'
import { type Draft, type Kept, type Made, PlanDraft, sameItems } from './draft'
import { EffectStep } from './effect-step'
import { FaderStep } from './fader-step'
import { inPieces } from './in-pieces'
import { LinkWiring } from './link-wiring'
import { MergeStep } from './merge-step'
import { ModulatorStep } from './modulator-step'
import { NoteLineStep } from './note-line-step'
import { ParamSet } from './param-set'
import { ParamsStep } from './params-step'
import { SourceStep } from './source-step'
import type { SoundStep, Step } from './step'
import { isLinear } from './structure'

/** What steps are made with. */
export interface CompileContext {
  readonly sampleRate: number
  readonly song: SongBlock
  /** The live input of this block. */
  readonly input: StereoBlock
  readonly audio: (hash: string) => AudioData | null
  /** Line tracks up with each other; off while a live input is armed. */
  readonly compensate: boolean
}

/** The project as the engine runs it. */
export interface Plan extends Kept {
  /** In the order in which they run. */
  readonly order: readonly Step[]
  /** What a step reads from. */
  readonly needs: ReadonlyMap<Step, readonly Step[]>
  /** Parameters by owner. */
  readonly params: ReadonlyMap<string, ParamSet>
  readonly mix: FaderStep
  /** Samples from the song to the output. */
  readonly latency: number
  /** Links and sidechains that go round in a circle and so come a block late: ids of link, effect or modulator. */
  readonly late: readonly string[]
}

/** Turns a project into a plan at once: {@link planning} to its end. Call between blocks; allocates. */
export function compile(project: Project, context: CompileContext, kept: Kept): Plan {
  const work = planning(project, context, kept)
  for (;;) {
    const step = work.next()
    if (step.done) return step.value()
  }
}

/** Making a plan, in small pieces of work. What it gives in the end puts the plan in place of the one before. */
export type Planning = Generator<void, () => Plan>

/**
 * Turns a project into a plan: one order for sound and modulation together, delays that line up every meeting of two
 * paths, and steps that keep their state where `kept` has them. Goes on between blocks while the plan that `kept` is from
 * plays, and changes nothing of that until the end; what is left to do then is only what differs between the two. Allocates.
 */
export function* planning(project: Project, context: CompileContext, kept: Kept): Planning {
  const drawing = new Drawing(project, context, kept)
  const { plan, links } = drawing
  const mix = yield* drawing.mix()
  yield* links.connect()
  const { order, late } = yield* inOrder(plan.drafts.values())
  const needs = yield* lineUp(order, context.compensate)
  yield* inPieces(plan.finishing, (finish) => { finish() })
  const made: Plan = {
    order: order.filter((d) => d.step !== silentStep).map((d) => d.step),
    needs, late, steps: plan.steps, links: links.links, inputs: plan.inputs, params: links.params,
    mix: mix.step, latency: mix.draft.arrival + mix.draft.latency,
  }
  return () => {
    for (const change of plan.exchange) change()
    return made
  }
}

/** Walks a project and puts a step on the plan for everything in it. */
class Drawing {
  readonly plan: PlanDraft
  readonly links: LinkWiring
  private readonly homes = new Map<string, { track: Track, modulator: Modulator }>()
  private readonly lines = new Map<string, Made<NoteLineStep>>()

  private readonly seedOf = (id: string): number => mix32(this.project.seed ^ hashText(id))

  constructor(private readonly project: Project, private readonly context: CompileContext, kept: Kept) {
    this.plan = new PlanDraft(kept)
    this.links = new LinkWiring(this.plan, project.links, context.sampleRate, this.seedOf, (link, index, count) => this.copy(link, index, count))
  }

  /** All modulators, all tracks, and the mix of these, which it gives. */
  * mix(): Generator<void, Made<FaderStep>> {
    const { plan, project } = this
    for (const track of project.tracks) {
      for (const modulator of track.modulators) {
        yield
        this.modulator(track, modulator)
      }
    }
    const mixTrack = mixOf(project)
    const outs: Draft[] = []
    for (const track of project.tracks) if (track !== mixTrack) outs.push((yield* this.track(track, this.source(track))).draft)
    const sum = plan.add('sum', (s): s is MergeStep => s instanceof MergeStep, () => new MergeStep(null))
    plan.meet(sum, outs, { crossing: true })
    plan.drafts.set(`source:${mixTrack.id}`, sum.draft)
    return yield* this.track(mixTrack, sum.draft)
  }

  private source(track: Track): Draft {
    const { plan, links, context: { sampleRate, song, input, audio } } = this
    const { source } = track
    const definition = source && sourceDefinition(source.type)
    if (!source || !definition) {
      const silence: Draft = { key: 'silence', step: silentStep, fresh: true, edges: [], latency: 0, arrival: 0 }
      plan.drafts.set(silence.key, silence)
      return silence
    }
    const made = plan.add(`source:${track.id}`, (s): s is SourceStep => s instanceof SourceStep && s.definition === definition, () =>
      new SourceStep(definition, definition.create({ sampleRate, seed: this.seedOf(source.id) }), new ParamSet(definition.params, source.params, sampleRate), song, input))
    links.own(made, source.id)
    plan.give(made, 'audio', source.audio ? audio(source.audio) : null)
    return made.draft
  }

  private * track(track: Track, head: Draft): Generator<void, Made<FaderStep>> {
    const { plan } = this
    const end = yield* this.nodes(track, heardChain(track).nodes, head)
    const made = this.fader(`track:${track.id}`, track.id, () => new ParamSet(trackParams, track.params, this.context.sampleRate))
    plan.connect(made.draft, 'in', () => end, (i) => { plan.give(made, 'input', i) })
    plan.connect(made.draft, 'dry', () => head, (i) => { plan.give(made, 'dry', i) }, { quiet: true })
    return made
  }

  private fader(key: string, owner: string, params: () => ParamSet): Made<FaderStep> {
    return this.links.own(this.plan.add(key, (s): s is FaderStep => s instanceof FaderStep, () => new FaderStep(params())), owner)
  }

  private * nodes(track: Track, list: readonly ChainNode[], from: Draft): Generator<void, Draft> {
    let last = from
    for (const node of list) {
      yield
      last = node.kind === 'effect' ? this.effect(track, node, last) : node.kind === 'split' ? yield* this.split(track, node, last) : yield* this.group(track, node, last)
    }
    return last
  }

  private effect(track: Track, node: Effect, from: Draft): Draft {
    const { plan, links, context: { sampleRate, song, audio } } = this
    const definition = effectDefinition(node.type)
    // an effect that this version does not know passes its input on
    if (!definition) return from
    const latency = definition.latency?.(sampleRate, node.params) ?? 0
    const made = plan.add(`node:${node.id}`, (s): s is EffectStep => s instanceof EffectStep && s.definition === definition && s.latency === latency, () =>
      new EffectStep(definition, definition.create({ sampleRate, seed: this.seedOf(node.id), latency }), new ParamSet({ ...definition.params, ...commonParams }, node.params, sampleRate, definition.lanes, node.lanes), latency, song, sampleRate), latency)
    links.own(made, node.id, { specs: definition.lanes, values: node.lanes })
    const { draft, step } = made
    if (!step.params.hasShape(node.lanes)) plan.change(draft, () => { step.params.shape(node.lanes) })
    if (draft.fresh || definition.sound) plan.change(draft, () => { step.take(node.data, audio) })
    plan.connect(draft, 'in', () => from, (i) => { plan.give(made, 'input', i) })
    let side: AlignedInput | null = null
    if (node.sidechain && definition.sidechain) this.listen(draft, node.sidechain, track, node.id, (i) => { side = i })
    plan.finishing.push(() => { plan.give(made, 'side', side) })
    return draft
  }

  /** Connects the sound of a track or a branch that something listens to. */
  private listen(draft: Draft, { track, branch, point }: Listen, home: Track, id: string, set: (input: AlignedInput) => void): void {
    const { drafts } = this.plan
    const whole = `track:${track}`
    const from = (): Draft | undefined => branch ? drafts.get(`branch:${branch}`) ?? drafts.get(whole) : drafts.get(point === 'before' ? `source:${track}` : whole)
    this.plan.connect(draft, 'side', from, set, { crossing: track !== home.id, id, quiet: true, before: point === 'after' && !branch })
  }

  private * split(track: Track, node: Split, from: Draft): Generator<void, Draft> {
    const { plan, links, context: { sampleRate } } = this
    // what all branches share comes first, since the first of them needs it already
    const shared = links.own(plan.add(`split:${node.id}`, (s): s is ParamsStep => s instanceof ParamsStep, () => new ParamsStep(new ParamSet(splitParams, node.params, sampleRate))), node.id)
    const { params } = shared.step
    const linear = isLinear(node)
    const ends: Draft[] = []
    for (const [index, branch] of node.branches.entries()) {
      const head = plan.add(`head:${branch.id}`, (s): s is BranchInStep => s instanceof BranchInStep && s.params === params && s.linear === linear, () => new BranchInStep(node.mode, params, sampleRate, linear), linear ? LINEAR_BAND_LATENCY : 0)
      plan.give(head, 'mode', node.mode)
      plan.give(head, 'index', index)
      plan.give(head, 'count', node.branches.length)
      plan.connect(head.draft, 'in', () => from, (i) => { plan.give(head, 'input', i) })
      plan.after(head.draft, node.id, () => shared.draft)
      const end = yield* this.nodes(track, branch.nodes, head.draft)
      const fader = this.fader(`branch:${branch.id}`, branch.id, () => new ParamSet(branchParams, branch.params, sampleRate))
      plan.connect(fader.draft, 'in', () => end, (i) => { plan.give(fader, 'input', i) })
      ends.push(fader.draft)
    }
    const merge = plan.add(`node:${node.id}`, (s): s is MergeStep => s instanceof MergeStep && s.params === params, () => new MergeStep(params, true))
    plan.meet(merge, ends, { selects: node.mode === 'select' })
    plan.connect(merge.draft, 'dry', () => from, (i) => { plan.give(merge, 'dry', i) })
    plan.after(merge.draft, node.id, () => shared.draft)
    return merge.draft
  }

  private * group(track: Track, node: Exclude<ChainNode, Effect | Split>, from: Draft): Generator<void, Draft> {
    const { plan, links } = this
    const end = yield* this.nodes(track, node.nodes, from)
    const merge = links.own(plan.add(`node:${node.id}`, (s): s is MergeStep => s instanceof MergeStep, () => new MergeStep(new ParamSet(groupParams, node.params, this.context.sampleRate))), node.id)
    plan.meet(merge, [end])
    plan.connect(merge.draft, 'dry', () => from, (i) => { plan.give(merge, 'dry', i) })
    return merge.draft
  }

  private modulator(track: Track, modulator: Modulator): void {
    const { plan, links, context: { sampleRate, song } } = this
    const definition = modulatorDefinition(modulator.type)
    if (!definition) return
    this.homes.set(modulator.id, { track, modulator })
    const made = plan.add(`mod:${modulator.id}`, (s): s is ModulatorStep => s instanceof ModulatorStep && s.definition === definition, () =>
      new ModulatorStep(definition, definition.create({ sampleRate, seed: this.seedOf(modulator.id) }), new ParamSet(definition.params, modulator.params, sampleRate, definition.lanes, modulator.lanes), song))
    links.own(made, modulator.id, { specs: definition.lanes, values: modulator.lanes })
    const { params } = made.step
    if (!params.hasShape(modulator.lanes)) plan.change(made.draft, () => { params.shape(modulator.lanes) })
    this.hear(track, modulator, made)
  }

  /** One copy of a modulator for one item of a lane: it has its own phase, speed and state, and the first one's parameters. */
  private copy(link: Link, index: number, count: number): () => Draft | undefined {
    const { plan, context: { sampleRate, song } } = this
    const first = plan.drafts.get(`mod:${link.source}`)
    if (!first || !link.fan) return () => first
    const { definition, params } = first.step as ModulatorStep
    const way = count > 1 ? index / (count - 1) : 0
    const fan = { phase: link.fan.phase * index / count, rate: exp2(link.fan.rate * way) }
    const made = plan.add(`mod:${link.source}~${link.id}#${index}/${fan.phase}/${fan.rate}`, (s): s is ModulatorStep => s instanceof ModulatorStep && s.definition === definition && s.params === params, () =>
      new ModulatorStep(definition, definition.create({ sampleRate, seed: this.seedOf(link.source), fan }), params, song, true))
    const home = this.homes.get(link.source)
    if (home) this.hear(home.track, home.modulator, made)
    plan.after(made.draft, link.id, () => first)
    return () => made.draft
  }

  /** What a modulator hears and works on: a sound, other modulators, the notes of its track. */
  private hear(track: Track, modulator: Modulator, made: Made<ModulatorStep>): void {
    const { plan, links } = this
    const { draft, step } = made
    const { definition } = step
    const slots = definition.inputs ?? []
    if (draft.fresh) step.take(modulator.data)
    let listens: AlignedInput | null = null
    const inputs: (ParamBlock | null)[] = slots.map(() => null)
    if (modulator.listens && definition.listens) this.listen(draft, modulator.listens, track, modulator.id, (i) => { listens = i })
    for (const slot of slots.keys()) {
      const input = modulator.inputs[slot]
      if (!input) continue
      draft.edges.push({
        id: modulator.id, from: () => plan.drafts.get(`mod:${input.source}`), late: false, crossing: false,
        attach: (from, delay) => {
          const other = from.step as ModulatorStep
          inputs[slot] = links.delayed(other, other.outputs[Math.max(0, other.definition.outputs.indexOf(input.output))], delay)
        },
      })
    }
    if (definition.notes) {
      const line = this.noteLine(track)
      plan.give(made, 'notes', line.step.out)
      plan.after(draft, modulator.id, () => line.draft)
    }
    plan.finishing.push(() => {
      plan.give(made, 'listens', listens)
      if (!sameItems(inputs, step.inputs)) plan.give(made, 'inputs', inputs)
      const late = links.delaysOf(step)
      if (!sameItems(late, step.delays)) plan.give(made, 'delays', late)
    })
  }

  /** The one player of a track's notes, however many listen to it. */
  private noteLine(track: Track): Made<NoteLineStep> {
    const known = this.lines.get(track.id)
    if (known) return known
    const line = this.plan.add(`notes:${track.id}`, (s): s is NoteLineStep => s instanceof NoteLineStep, () => new NoteLineStep(this.context.song))
    if (line.draft.fresh) line.step.set(track.line)
    this.lines.set(track.id, line)
    return line
  }
}

const silentStep: SoundStep = { out: stereoBlock(), peak: 0, run() {}, reset() {}, cut() {} }
