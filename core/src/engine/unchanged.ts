import { morphLinks } from '../project/morph'
import type { Link, Project, Track } from '../project/schema'
import { carrierOf, findOwner } from '../project/walk'
import type { Plan } from './plan'
import type { Step } from './step'

/** A project and the plan that was made of it. */
interface Planned {
  readonly project: Project
  readonly plan: Plan
}

/**
 * Keys of the steps that give the same in two plans: what they are, their values and the links to them are
 * the same, they stand as late, and all that they read from gives the same.
 */
export function unchangedSteps(before: Planned, after: Planned): Set<string> {
  const [old, now] = [before, after].map(({ project, plan }) => new Texts(project, plan)) as [Texts, Texts]
  if (old.common !== now.common) return new Set()
  const same = new Set([...after.plan.steps.keys()].filter((key) => old.of(key) === now.of(key)))
  // one that reads from what has changed has changed too, until none is left
  for (let size = -1; size !== same.size;) {
    size = same.size
    for (const key of same) if (now.needs(key).some((need) => !same.has(need))) same.delete(key)
  }
  return same
}

/** What a step follows from, as text. */
class Texts {
  readonly common: string
  private readonly keys: Map<Step, string>
  private readonly links = new Map<string, Link[]>()

  constructor(
    private readonly project: Project,
    private readonly plan: Plan,
  ) {
    const { seed, tempo, sampleRate, loop } = project
    this.common = JSON.stringify({ seed, tempo, sampleRate, loop })
    this.keys = new Map([...plan.steps].map(([key, step]) => [step, key]))
    for (const link of [...project.links, ...morphLinks(project)]) {
      const known = this.links.get(link.target.owner) ?? []
      this.links.set(link.target.owner, [...known, link])
    }
  }

  needs(key: string): string[] {
    const step = this.plan.steps.get(key)
    return (step ? (this.plan.needs.get(step) ?? []) : []).map((need) => this.keys.get(need) ?? '')
  }

  of(key: string): string {
    const step = this.plan.steps.get(key)
    if (!step) return ''
    // `kind:id`, with what tells copies of a modulator apart
    const id = key.slice(key.indexOf(':') + 1).replace(/[~#/].*$/, '')
    const owner = findOwner(this.project, id)
    const own =
      owner?.kind === 'track' ? textOfTrack(owner.track) : owner ? textOf(carrierOf(owner) as object) : ''
    const links = (this.links.get(id) ?? []).map(textOf).join()
    const sourceLinks = owner?.kind === 'track' ? (this.links.get(owner.track.source?.id ?? '') ?? []) : []
    const late = this.plan.arrivals.get(step) ?? 0
    return `${step.constructor.name} ${late} ${this.needs(key).join()} ${own} ${links} ${sourceLinks.map(textOf).join()}`
  }
}

/** What of a track its source, notes and fader follow from. */
const textOfTrack = ({ kind, output, source, params, line, arpeggio, noteOffset }: Track): string =>
  JSON.stringify({ kind, output, source, params, line, arpeggio, noteOffset })

const texts = new WeakMap<object, string>()
function textOf(of: object): string {
  const known = texts.get(of)
  if (known !== undefined) return known
  const text = JSON.stringify(of)
  texts.set(of, text)
  return text
}
