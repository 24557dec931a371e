import { LINEAR_BAND_LATENCY } from '../dsp/linear-band'
import { exp2 } from '../dsp/math'
import { hashText, mix32, valueAt } from '../dsp/random'
import { effectDefinition } from '../effects/index'
import { modulatorDefinition } from '../modulators/index'
import type { ChainNode, Effect, Link, Listen, Modulator, Project, Track } from '../project/schema'
import { lanePlace, pathOf } from '../project/param-path'
import { branchParams, commonParams, groupParams, linkParams, splitParams, trackParams } from '../project/targets'
import { heardChain, mixOf } from '../project/walk'
import { sourceDefinition } from '../sources/index'
import type { AudioData } from '../sources/definition'
import { type LaneSpecs, type LaneValues, laneItems } from '../units/lane'
import type { ParamSpec } from '../units/parameter'
import { AlignedInput } from './aligned-input'
import { type ParamBlock, type SongBlock, type StereoBlock, stereoBlock } from './block'
import { LinkState } from './link-state'
import { type DelayedOutput, ModulatorStep } from './modulator-step'
import { NoteLineStep } from './note-line-step'
import { OutputDelay } from './output-delay'
import { ParamSet } from './param-set'
import { BranchInStep } from './branch-in-step'
import { EffectStep } from './effect-step'
import { FaderStep } from './fader-step'
import { MergeStep } from './merge-step'
import { ParamsStep } from './params-step'
import { SourceStep } from './source-step'
import type { SoundStep, Step } from './step'
import { isLinear } from './structure'

/** How many steps of a plan are put in order, or connected, as one piece of work. */
const AT_ONCE = 4

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

/** Everything with a life, by key: kept from plan to plan. */
export interface Kept {
  readonly steps: ReadonlyMap<string, Step>
  /** By id of the link, and for one that goes to every item of a lane its index: `id`, `id#2`. */
  readonly links: ReadonlyMap<string, LinkState>
  readonly inputs: ReadonlyMap<string, AlignedInput>
}

/** The project as the engine runs it. */
export interface Plan {
  /** In the order in which they run. */
  readonly order: readonly Step[]
  /** What a step reads from. */
  readonly needs: ReadonlyMap<Step, readonly Step[]>
  readonly steps: ReadonlyMap<string, Step>
  readonly links: ReadonlyMap<string, LinkState>
  readonly inputs: ReadonlyMap<string, AlignedInput>
  /** Parameters by owner. */
  readonly params: ReadonlyMap<string, ParamSet>
  readonly mix: FaderStep
  /** Samples from the song to the output. */
  readonly latency: number
  /** Links and sidechains that go round in a circle and so come a block late: ids of link, effect or modulator. */
  readonly late: readonly string[]
}

interface Edge {
  readonly from: () => Draft | undefined
  /** Goes from one track to another. */
  readonly crossing: boolean
  /** Makes the connection, so far as that changes nothing of what plays. */
  readonly attach: (source: Draft, delay: number) => void
  readonly id: string
  late: boolean
}

/** A step on its way into the plan. */
interface Draft {
  readonly key: string
  readonly step: Step
  /** Whether it was made for this plan and so does not play yet. */
  readonly fresh: boolean
  readonly edges: Edge[]
  readonly latency: number
  /** Samples that its input comes after the song. */
  arrival: number
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
 * paths, and steps that keep their state where `kept` has them. Where things go round in a circle, the edge that
 * closes it reads the block before. Goes on between blocks while the plan that `kept` is from plays, and changes nothing
 * of that until the end; what is left to do then is only what differs between the two. Allocates.
 */
export function* planning(project: Project, context: CompileContext, kept: Kept): Planning {
  const drafts = new Map<string, Draft>()
  const params = new Map<string, ParamSet>()
  const steps = new Map<string, Step>()
  const links = new Map<string, LinkState>()
  const inputs = new Map<string, AlignedInput>()
  const { sampleRate, song } = context
  const seedOf = (id: string) => mix32(project.seed ^ hashText(id))
  const linksTo = new Map<string, Link[]>()
  for (const link of project.links) {
    const list = linksTo.get(link.target.owner)
    if (list) list.push(link)
    else linksTo.set(link.target.owner, [link])
  }

  function add<S extends Step>(key: string, owner: string | null, fits: (s: Step) => s is S, make: () => S, latency = 0, lanes?: Lanes): { draft: Draft, step: S } {
    const old = kept.steps.get(key)
    const fresh = !(old && fits(old))
    const step = fresh ? make() : old
    const draft: Draft = { key, step, fresh, edges: [], latency, arrival: 0 }
    drafts.set(key, draft)
    steps.set(key, step)
    if (owner) {
      const set = (step as unknown as { params: ParamSet | null }).params
      if (set) {
        params.set(owner, set)
        // links come from modulators that may not be there yet
        wiring.push(() => { wire(draft, owner, set, lanes) })
      }
    }
    return { draft, step }
  }
  const wiring: (() => void)[] = []
  // what is done when all connections are known, and what is done to steps that play when the plan is put in its place
  const finishing: (() => void)[] = []
  const exchange: (() => void)[] = []
  const none: LinkState[] = []

  /** Changes a step: at once where it does not play yet, else with the exchange. */
  function change(draft: Draft, how: () => void) {
    if (draft.fresh) how()
    else exchange.push(how)
  }

  /** Sets a field of a step, where it differs. */
  function give<S extends Step, K extends keyof S>(made: { draft: Draft, step: S }, name: K, value: S[K]) {
    if (made.step[name] !== value) change(made.draft, () => { made.step[name] = value })
  }

  /** Has a step run after another, of which it reads what it knows already. */
  function after(draft: Draft, id: string, from: () => Draft | undefined) {
    draft.edges.push({ id, from, late: false, crossing: false, attach: () => {} })
  }

  /** Outputs of modulators as they are where sound comes late, those of the plan before where they go on. */
  const delays = new Map<ModulatorStep, DelayedOutput[]>()
  function delayed(step: ModulatorStep, source: ParamBlock, frames: number): ParamBlock {
    if (frames <= 0) return source
    const same = (d: DelayedOutput): boolean => d.source === source && d.delay.frames === frames
    const list = delays.get(step) ?? []
    let found = list.find(same)
    if (!found) {
      found = step.delays.find(same) ?? { source, delay: new OutputDelay(frames) }
      delays.set(step, [...list, found])
    }
    return found.delay.out
  }

  /** Connects the links that act on an owner's parameters. */
  function wire(draft: Draft, owner: string, set: ParamSet, lanes: Lanes = noLanes) {
    const byParam = new Map<string, LinkState[]>()
    for (const link of linksTo.get(owner) ?? []) {
      const place = lanePlace(pathOf(link.target))
      const many = place !== undefined && place.index === undefined
      const spec = many ? lanes.specs?.[place.lane] : undefined
      const count = !many ? 1 : spec ? laneItems(spec, lanes.values?.[place.lane]).length : 0
      if (count === 0) continue
      const amounts = addLinkStep(link)
      after(draft, link.id, () => drafts.get(`link:${link.id}`))
      for (let i = 0; i < count; i++) {
        const path = many ? pathOf({ ...place, index: i }) : pathOf(link.target)
        const from = many && link.fan ? addCopy(link, i, count) : () => drafts.get(`mod:${link.source}`)
        const key = many ? `${link.id}#${i}` : link.id
        const shift = many && link.fan ? link.fan.random * (valueAt(seedOf(link.id), i) - 0.5) : 0
        draft.edges.push({
          id: link.id, from, late: false, crossing: false,
          attach: (source, delay) => {
            const spec = specAt(set, lanes, path)
            if (!spec) return
            const step = source.step as ModulatorStep
            const output = delayed(step, step.outputs[Math.max(0, step.definition.outputs.indexOf(link.output))], delay)
            let at = kept.links.get(key)
            if (!at?.fits(amounts, spec, shift)) at = new LinkState(link, output, spec, amounts, sampleRate, shift)
            else if (!at.hears(output)) exchange.push(at.connect.bind(at, output))
            links.set(key, at)
            const list = byParam.get(path)
            if (list) list.push(at)
            else byParam.set(path, [at])
          },
        })
      }
    }
    const acting = linksTo.has(owner)
    if (!acting && !set.linked) return
    finishing.push(() => {
      const relink = (): void => {
        set.linked = acting
        for (const name in set.byName) set.byName[name].setLinks(byParam.get(name) ?? none)
      }
      const stays = set.linked === acting && set.hasShape(lanes.values) && set.isLinked(byParam)
      if (!stays) change(draft, relink)
    })
  }

  /** What moves within a link: its amount and whether it is on. Worked out before the parameter that the link moves. */
  function addLinkStep(link: Link): ParamSet {
    const values = { amount: link.amount, on: link.on ? 1 : 0 }
    return add(`link:${link.id}`, link.id, (s): s is ParamsStep => s instanceof ParamsStep, () => new ParamsStep(new ParamSet(linkParams, values, sampleRate))).step.params
  }

  /** One copy of a modulator for one item of a lane: it has its own phase, speed and state, and the first one's parameters. */
  function addCopy(link: Link, index: number, count: number): () => Draft | undefined {
    const first = drafts.get(`mod:${link.source}`)
    if (!first || !link.fan) return () => first
    const { definition, params: shared } = first.step as ModulatorStep
    const way = count > 1 ? index / (count - 1) : 0
    const fan = { phase: link.fan.phase * index / count, rate: exp2(link.fan.rate * way) }
    const key = `mod:${link.source}~${link.id}#${index}/${fan.phase}/${fan.rate}`
    const made = add(key, null, (s): s is ModulatorStep => s instanceof ModulatorStep && s.definition === definition && s.params === shared, () =>
      new ModulatorStep(definition, definition.create({ sampleRate, seed: seedOf(link.source), fan }), shared, song, true))
    const home = modulatorHomes.get(link.source)
    if (home) connectModulator(home.track, home.modulator, made)
    after(made.draft, link.id, () => first)
    return () => made.draft
  }
  const modulatorHomes = new Map<string, { track: Track, modulator: Modulator }>()

  /** Connects sound from one step to an input of another, which `set` takes without changing what plays. */
  function connect(draft: Draft, name: string, from: () => Draft | undefined, set: (input: AlignedInput) => void, o: { crossing?: boolean, id?: string, quiet?: boolean, before?: boolean } = {}) {
    const key = `${draft.key}<${name}`
    draft.edges.push({
      from, late: false, crossing: o.crossing ?? false, id: o.id ?? draft.key,
      attach: (source, delay) => {
        const block = o.before ? (source.step as FaderStep).before : (source.step as SoundStep).out
        const old = kept.inputs.get(key)
        const same = old && old.source === block && old.delay === delay
        const input = same ? old : new AlignedInput(block, delay)
        if (!same && !o.quiet && !draft.fresh) exchange.push(() => { draft.step.cut() })
        inputs.set(key, input)
        set(input)
      },
    })
  }

  const heard = (listen: Listen) => () => listen.branch ? drafts.get(`branch:${listen.branch}`) ?? drafts.get(`track:${listen.track}`)
    : listen.point === 'before' ? drafts.get(`source:${listen.track}`) : drafts.get(`track:${listen.track}`)

  function* addNodes(track: Track, list: readonly ChainNode[], from: Draft): Generator<void, Draft> {
    let last = from
    for (const node of list) {
      yield
      last = node.kind === 'effect' ? addEffect(track, node, last) : yield* addContainer(track, node, last)
    }
    return last
  }

  function addEffect(track: Track, node: Effect, from: Draft): Draft {
    const definition = effectDefinition(node.type)
    // an effect that this version does not know passes its input on
    if (!definition) return from
    const latency = definition.latency?.(sampleRate, node.params) ?? 0
    const made = add(`node:${node.id}`, node.id, (s): s is EffectStep => s instanceof EffectStep && s.definition === definition && s.latency === latency, () =>
      new EffectStep(definition, definition.create({ sampleRate, seed: seedOf(node.id), latency }), new ParamSet({ ...definition.params, ...commonParams }, node.params, sampleRate, definition.lanes, node.lanes), latency, song, sampleRate), latency, { specs: definition.lanes, values: node.lanes })
    const { draft, step } = made
    if (!step.params.hasShape(node.lanes)) change(draft, () => { step.params.shape(node.lanes) })
    if (draft.fresh || definition.sound) change(draft, () => { step.take(node.data, context.audio) })
    connect(draft, 'in', () => from, (i) => { give(made, 'input', i) })
    let side: AlignedInput | null = null
    const { sidechain } = node
    if (sidechain && definition.sidechain) {
      connect(draft, 'side', heard(sidechain), (i) => { side = i }, { crossing: sidechain.track !== track.id, id: node.id, quiet: true, before: sidechain.point === 'after' && !sidechain.branch })
    }
    finishing.push(() => { give(made, 'side', side) })
    return draft
  }

  function* addContainer(track: Track, node: Exclude<ChainNode, Effect>, from: Draft): Generator<void, Draft> {
    if (node.kind === 'split') {
      // what all branches share comes first, since the first of them needs it already
      const shared = add(`split:${node.id}`, node.id, (s): s is ParamsStep => s instanceof ParamsStep, () => new ParamsStep(new ParamSet(splitParams, node.params, sampleRate)))
      const linear = isLinear(node)
      const ends: Draft[] = []
      for (const [index, branch] of node.branches.entries()) {
        const head = add(`head:${branch.id}`, null, (s): s is BranchInStep => s instanceof BranchInStep && s.params === shared.step.params && s.linear === linear, () => new BranchInStep(node.mode, shared.step.params, sampleRate, linear), linear ? LINEAR_BAND_LATENCY : 0)
        give(head, 'mode', node.mode)
        give(head, 'index', index)
        give(head, 'count', node.branches.length)
        connect(head.draft, 'in', () => from, (i) => { give(head, 'input', i) })
        after(head.draft, node.id, () => shared.draft)
        const end = yield* addNodes(track, branch.nodes, head.draft)
        const fader = add(`branch:${branch.id}`, branch.id, (s): s is FaderStep => s instanceof FaderStep, () => new FaderStep(new ParamSet(branchParams, branch.params, sampleRate)))
        connect(fader.draft, 'in', () => end, (i) => { give(fader, 'input', i) })
        ends.push(fader.draft)
      }
      const merge = add(`node:${node.id}`, null, (s): s is MergeStep => s instanceof MergeStep && s.params === shared.step.params, () => new MergeStep(shared.step.params, true))
      meet(merge, ends, node.mode === 'select')
      connect(merge.draft, 'dry', () => from, (i) => { give(merge, 'dry', i) })
      after(merge.draft, node.id, () => shared.draft)
      return merge.draft
    }
    const end = yield* addNodes(track, node.nodes, from)
    const merge = add(`node:${node.id}`, node.id, (s): s is MergeStep => s instanceof MergeStep, () => new MergeStep(new ParamSet(groupParams, node.params, sampleRate)))
    meet(merge, [end])
    connect(merge.draft, 'dry', () => from, (i) => { give(merge, 'dry', i) })
    return merge.draft
  }

  /** Connects all that is added up in one place. */
  function meet(merge: { draft: Draft, step: MergeStep }, ends: readonly Draft[], selects = false, crossing = false) {
    const inputs: AlignedInput[] = []
    for (const end of ends) connect(merge.draft, end.key, () => end, (i) => { inputs.push(i) }, { crossing })
    finishing.push(() => {
      const known = merge.step.inputs
      if (selects === merge.step.selects && sameItems(inputs, known)) return
      change(merge.draft, () => {
        if (!merge.draft.fresh && (known.length !== inputs.length || selects !== merge.step.selects)) merge.step.cut()
        merge.step.inputs = inputs
        merge.step.selects = selects
      })
    })
  }

  function addModulator(track: Track, modulator: Modulator) {
    const definition = modulatorDefinition(modulator.type)
    if (!definition) return
    modulatorHomes.set(modulator.id, { track, modulator })
    const made = add(`mod:${modulator.id}`, modulator.id, (s): s is ModulatorStep => s instanceof ModulatorStep && s.definition === definition, () =>
      new ModulatorStep(definition, definition.create({ sampleRate, seed: seedOf(modulator.id) }), new ParamSet(definition.params, modulator.params, sampleRate, definition.lanes, modulator.lanes), song), 0, { specs: definition.lanes, values: modulator.lanes })
    const { params: set } = made.step
    if (!set.hasShape(modulator.lanes)) change(made.draft, () => { set.shape(modulator.lanes) })
    connectModulator(track, modulator, made)
  }

  /** What a modulator hears and works on: a sound, other modulators, the notes of its track. */
  function connectModulator(track: Track, modulator: Modulator, made: { draft: Draft, step: ModulatorStep }) {
    const { draft, step } = made
    const { definition } = step
    const { listens: ear } = modulator
    const slots = definition.inputs ?? []
    if (draft.fresh) step.take(modulator.data)
    let listens: AlignedInput | null = null
    const inputs: (ParamBlock | null)[] = slots.map(() => null)
    if (ear && definition.listens) {
      connect(draft, 'side', heard(ear), (i) => { listens = i }, { crossing: ear.track !== track.id, id: modulator.id, quiet: true, before: ear.point === 'after' && !ear.branch })
    }
    for (const slot of slots.keys()) {
      const input = modulator.inputs[slot]
      if (!input) continue
      draft.edges.push({
        id: modulator.id, from: () => drafts.get(`mod:${input.source}`), late: false, crossing: false,
        attach: (from, delay) => {
          const other = from.step as ModulatorStep
          inputs[slot] = delayed(other, other.outputs[Math.max(0, other.definition.outputs.indexOf(input.output))], delay)
        },
      })
    }
    if (definition.notes) {
      const line = noteLine(track)
      give(made, 'notes', line.step.out)
      after(draft, modulator.id, () => line.draft)
    }
    finishing.push(() => {
      give(made, 'listens', listens)
      if (!sameItems(inputs, step.inputs)) give(made, 'inputs', inputs)
      const late = delays.get(step) ?? []
      if (!sameItems(late, step.delays)) give(made, 'delays', late)
    })
  }

  /** The one player of a track's notes, however many listen to it. */
  function noteLine(track: Track): { draft: Draft, step: NoteLineStep } {
    const known = lines.get(track.id)
    if (known) return known
    const line = add(`notes:${track.id}`, null, (s): s is NoteLineStep => s instanceof NoteLineStep, () => new NoteLineStep(song))
    if (line.draft.fresh) line.step.set(track.line)
    lines.set(track.id, line)
    return line
  }
  const lines = new Map<string, { draft: Draft, step: NoteLineStep }>()

  function* addTrack(track: Track, head: Draft): Generator<void, Draft> {
    const end = yield* addNodes(track, heardChain(track).nodes, head)
    const made = add(`track:${track.id}`, track.id, (s): s is FaderStep => s instanceof FaderStep, () => new FaderStep(new ParamSet(trackParams, track.params, sampleRate)))
    connect(made.draft, 'in', () => end, (i) => { give(made, 'input', i) })
    connect(made.draft, 'dry', () => head, (i) => { give(made, 'dry', i) }, { quiet: true })
    return made.draft
  }

  for (const track of project.tracks) {
    for (const m of track.modulators) {
      yield
      addModulator(track, m)
    }
  }
  const silence: Draft = { key: 'silence', step: silentStep, fresh: true, edges: [], latency: 0, arrival: 0 }
  const mixTrack = mixOf(project)
  const outs: Draft[] = []
  for (const track of project.tracks) {
    if (track === mixTrack) continue
    const { source } = track
    const definition = source && sourceDefinition(source.type)
    let head = silence
    if (source && definition) {
      const made = add(`source:${track.id}`, source.id, (s): s is SourceStep => s instanceof SourceStep && s.definition === definition, () =>
        new SourceStep(definition, definition.create({ sampleRate, seed: seedOf(source.id) }), new ParamSet(definition.params, source.params, sampleRate), song, context.input))
      give(made, 'audio', source.audio ? context.audio(source.audio) : null)
      head = made.draft
    } else drafts.set(silence.key, silence)
    outs.push(yield* addTrack(track, head))
  }
  const sum = add('sum', null, (s): s is MergeStep => s instanceof MergeStep, () => new MergeStep(null))
  meet(sum, outs, false, true)
  drafts.set(`source:${mixTrack.id}`, sum.draft)
  const mixDraft = yield* addTrack(mixTrack, sum.draft)

  for (const w of wiring) {
    yield
    w()
  }

  // one order for all
  const order: Draft[] = []
  const state = new Map<Draft, 'open' | 'done'>()
  const late: string[] = []
  const visit = (draft: Draft) => {
    state.set(draft, 'open')
    for (const edge of draft.edges) {
      const from = edge.from()
      if (!from) continue
      const seen = state.get(from)
      if (seen === 'open') {
        edge.late = true
        late.push(edge.id)
      } else if (!seen) visit(from)
    }
    state.set(draft, 'done')
    order.push(draft)
  }
  yield* inPieces(drafts.values(), (draft) => { if (!state.has(draft)) visit(draft) })

  // times of arrival, and the delays that follow from them
  const needs = new Map<Step, readonly Step[]>()
  yield* inPieces(order, (draft) => {
    const counted = draft.edges.filter((e) => !e.late && (context.compensate || !e.crossing))
    draft.arrival = counted.reduce((most, e) => {
      const from = e.from()
      return from ? Math.max(most, from.arrival + from.latency) : most
    }, 0)
    const sources: Step[] = []
    for (const edge of draft.edges) {
      const from = edge.from()
      if (!from) continue
      sources.push(from.step)
      edge.attach(from, counted.includes(edge) ? draft.arrival - from.arrival - from.latency : 0)
    }
    needs.set(draft.step, sources)
  })
  yield* inPieces(finishing, (f) => { f() })

  const plan: Plan = {
    order: order.filter((d) => d !== silence).map((d) => d.step),
    needs, steps, links, inputs, params,
    mix: mixDraft.step as FaderStep, latency: mixDraft.arrival + mixDraft.latency, late,
  }
  return () => {
    for (const f of exchange) f()
    return plan
  }
}

/** Does light work a few at a time. */
function* inPieces<T>(list: Iterable<T>, work: (item: T) => void): Generator<void, void> {
  let count = 0
  for (const item of list) {
    if (count++ % AT_ONCE === 0) yield
    work(item)
  }
}

/** The scale of a parameter, whether or not its owner has the item of a lane yet that it belongs to; undefined for one it will not have. */
function specAt(set: ParamSet, lanes: Lanes, path: string): ParamSpec | undefined {
  const place = lanePlace(path)
  if (!place) return set.specs[path]
  const spec = lanes.specs?.[place.lane]
  return spec && place.index !== undefined && place.index < laneItems(spec, lanes.values?.[place.lane]).length ? spec.params[place.param] : undefined
}

const sameItems = <T>(a: readonly T[], b: readonly T[]): boolean => a.length === b.length && a.every((x, i) => x === b[i])

/** What says how many items the lanes of an owner have. */
interface Lanes { readonly specs?: LaneSpecs, readonly values?: LaneValues }
const noLanes: Lanes = {}

const silentStep: SoundStep = { out: stereoBlock(), peak: 0, run() {}, reset() {}, cut() {} }
