import { lanePlace, pathOf } from '../project/param-path'
import type { Link } from '../project/schema'
import { isMorphLink } from '../project/morph'
import { linkParams, linkSettings } from '../project/targets'
import { randomAt } from '../dsp/random'
import { type LaneSpecs, type LaneValues, laneItems } from '../units/lane'
import type { ParamSpec } from '../units/parameter'
import { ParamBlock } from '../contract/block'
import type { Draft, Edge, Made, PlanDraft } from './draft'
import { type LinkParams, LinkState } from './link-state'
import { OutputDelay } from './output-delay'
import { ParamSet } from './param-set'
import { ParamsStep } from './params-step'
import { type DelayedOutput, type SignalStep, outputOf } from './signal-step'
import type { Step } from './step'

/** Specs and values of the lanes of an owner, for the number of their items. */
export interface Lanes {
  readonly specs?: LaneSpecs
  readonly values?: LaneValues
}

/** Connects the links of a project to the parameters of a plan that is being made. */
export class LinkWiring {
  readonly links = new Map<string, LinkState>()
  /** Parameters by owner. */
  readonly params = new Map<string, ParamSet>()
  private readonly byOwner = new Map<string, Link[]>()
  private readonly waiting: (() => void)[] = []
  private readonly attaching: (() => void)[] = []
  private readonly delays = new Map<SignalStep, DelayedOutput[]>()

  /** @param copy gives a link's own copy of its modulator for one item of a lane */
  constructor(
    private readonly plan: PlanDraft,
    links: readonly Link[],
    private readonly sampleRate: number,
    private readonly seedOf: (link: Link) => number,
    private readonly copy: (link: Link, index: number, count: number) => () => Draft | undefined,
  ) {
    for (const link of links) {
      const list = this.byOwner.get(link.target.owner)
      if (list) list.push(link)
      else this.byOwner.set(link.target.owner, [link])
    }
  }

  /**
   * Makes the parameters of a step known, to be linked when all modulators are there.
   * @param acts samples after the step's input at which a parameter acts on the sound; asked when all
   *   arrivals are known
   */
  own<S extends Step & { readonly params: ParamSet | null }>(
    made: Made<S>,
    owner: string,
    lanes: Lanes = noLanes,
    acts: (path: string, draft: Draft) => number = atInput,
  ): Made<S> {
    const { params } = made.step
    if (!params) return made
    this.params.set(owner, params)
    this.waiting.push(() => {
      this.wire(made.draft, owner, params, lanes, acts)
    })
    return made
  }

  /** Connects what waits, an owner with each piece. */
  *connect(): Generator<void, void> {
    // linked links are owners themselves, and come to the list meanwhile
    for (const wire of this.waiting) {
      yield
      wire()
    }
  }

  /**
   * An output as it is where sound comes so many frames late; the one of the plan before where
   * it goes on.
   */
  delayed(step: SignalStep, source: ParamBlock, frames: number): ParamBlock {
    if (frames <= 0) return source
    const same = (d: DelayedOutput): boolean => d.source === source && d.delay.frames === frames
    const list = this.delays.get(step) ?? []
    let found = list.find(same)
    if (!found) {
      found = step.delays.find(same) ?? { source, delay: new OutputDelay(frames) }
      this.delays.set(step, [...list, found])
    }
    return found.delay.out
  }

  /** All delayed outputs of a step that this plan wants. */
  delaysOf(step: SignalStep): readonly DelayedOutput[] {
    return this.delays.get(step) ?? noDelays
  }

  /** Attaches all links, when it is known how late each of their parameters acts. In pieces. */
  *attach(): Generator<void, void> {
    for (const attach of this.attaching) {
      yield
      attach()
    }
  }

  private wire(
    draft: Draft,
    owner: string,
    set: ParamSet,
    lanes: Lanes,
    acts: (path: string, draft: Draft) => number,
  ): void {
    const { plan, sampleRate } = this
    const byParam = new Map<string, LinkState[]>()
    for (const link of this.byOwner.get(owner) ?? []) {
      const place = lanePlace(pathOf(link.target))
      const many = place !== undefined && place.index === undefined
      const spec = many ? lanes.specs?.[place.lane] : undefined
      const count = !many ? 1 : spec ? laneItems(spec, lanes.values?.[place.lane]).length : 0
      if (count === 0) continue
      const made = isMorphLink(link)
      const amounts = made ? null : this.addLinkStep(link, (path) => draft.arrival + acts(path, draft))
      if (amounts) plan.after(draft, link.id, () => plan.drafts.get(`link:${link.id}`))
      for (let i = 0; i < count; i++) {
        const path = many ? pathOf({ ...place, index: i }) : pathOf(link.target)
        const from =
          many && link.fan ? this.copy(link, i, count) : () => plan.drafts.get(`mod:${link.source}`)
        const key = many ? `${link.id}#${i}` : link.id
        const shift = many && link.fan ? link.fan.random * (randomAt(this.seedOf(link), i) - 0.5) : 0
        const edge: Edge = {
          id: link.id,
          from,
          isFeedback: false,
          crossing: false,
          attach: (source, delay) => {
            this.attaching.push(() => {
              const spec = specAt(set, lanes, path)
              if (!spec) return
              const step = source.step as SignalStep
              const late = edge.isFeedback ? 0 : delay + Math.round(acts(path, draft))
              const output = this.delayed(step, outputOf(step, link.output), late)
              let at = plan.kept.links.get(key)
              const params = amounts ?? weighedBy(link, output)
              if (!at?.fits(params, spec, shift))
                at = new LinkState(link, output, spec, params, sampleRate, shift)
              else if (!at.hears(output)) plan.exchange.push(at.connect.bind(at, output))
              this.links.set(key, at)
              const list = byParam.get(path)
              if (list) list.push(at)
              else byParam.set(path, [at])
            })
          },
        }
        draft.edges.push(edge)
      }
    }
    if (!this.byOwner.has(owner) && !set.linked) return
    plan.finishing.push(() => {
      if (!set.hasShape(lanes.values) || !set.isLinked(byParam))
        plan.change(draft, () => {
          set.link(byParam)
        })
    })
  }

  /**
   * What moves within a link: its amount and whether it is on. Worked out before the parameter that the link
   * moves.
   * @param arrives samples after the song at which the parameter of a path acts
   */
  private addLinkStep(link: Link, arrives: (path: string) => number): ParamSet {
    const values = linkSettings(link)
    const made = this.plan.add(
      `link:${link.id}`,
      ParamsStep,
      () => true,
      () => new ParamsStep(new ParamSet(linkParams, values, this.sampleRate)),
    )
    const target = pathOf(link.target)
    return this.own(made, link.id, noLanes, (_, { arrival }) => Math.max(0, arrives(target) - arrival)).step
      .params
  }
}

/** Parameters of a link that a morph makes: its place by the weight of its point. */
const weighedBy = (link: Link, weight: ParamBlock): LinkParams => ({
  blocks: {
    amount: weight,
    on: new ParamBlock(1),
    from: new ParamBlock(link.from),
    to: new ParamBlock(link.to),
  },
})

/**
 * The scale of a parameter, whether or not its owner has the item of a lane yet that it belongs to; undefined
 * for one it will not have.
 */
function specAt(set: ParamSet, lanes: Lanes, path: string): ParamSpec | undefined {
  const place = lanePlace(path)
  if (!place) return set.specs[path]
  const spec = lanes.specs?.[place.lane]
  return spec && place.index !== undefined && place.index < laneItems(spec, lanes.values?.[place.lane]).length
    ? spec.params[place.param]
    : undefined
}

const noLanes: Lanes = {}
const atInput = (): number => 0
const noDelays: readonly DelayedOutput[] = []
