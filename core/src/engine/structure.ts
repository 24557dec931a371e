import { kindOf } from '../project/nodes/index'
import { morphText } from '../project/morph'
import { pathOf } from '../project/param-path'
import type { ChainNode, Link, Listen, Modulator, Project, Source, Track } from '../project/schema'
import { type Owner, heardChain } from '../project/walk'
import { sourceDefinition } from '../sources/index'

/**
 * A text that differs where the plan must: which nodes there are, in which order, what listens to what and
 * which links exist, but no value of any parameter. An edit leaves what it does not touch as it is, so the
 * text of that is known.
 */
export function structureOf(project: Project): string {
  const tracks = project.tracks.map((t) => remembered(trackTexts, t, project.sampleRate, trackText))
  const sends = project.sends.map((s) => `${s.id}:${s.from}>${s.to}${s.before ? 'before' : ''}`).join()
  return `${project.seed}/${tracks.join('/')}/${sends}/${remembered(linkTexts, project.links, 0, linksText)}`
}

const trackTexts = new WeakMap<Track, { rate: number; text: string }>()
const linkTexts = new WeakMap<readonly Link[], { rate: number; text: string }>()

function remembered<T extends object>(
  known: WeakMap<T, { rate: number; text: string }>,
  of: T,
  rate: number,
  make: (of: T, rate: number) => string,
): string {
  const old = known.get(of)
  if (old?.rate === rate) return old.text
  const text = make(of, rate)
  known.set(of, { rate, text })
  return text
}

function trackText(t: Track, rate: number): string {
  const nodes = (list: readonly ChainNode[]): string =>
    list.map((n) => kindOf(n).structure(n, rate, nodes)).join()
  const lanes = (o: Modulator | Source): string =>
    o.lanes
      ? Object.entries(o.lanes)
          .map(([k, items]) => `${k}${items.length}`)
          .join()
      : ''
  const modulator = (m: Modulator): string =>
    `${m.id}:${m.type}${lanes(m)}${m.inputs.map((i) => (i ? `${i.source}.${i.output}` : '-')).join()}${heard(m.listens)}`
  const source = (s: Source): string => {
    const definition = sourceDefinition(s.type)
    const sounds =
      definition
        ?.sounds?.(s.data ?? {})
        .map((hash) => hash ?? '-')
        .join() ?? ''
    return `${s.id}:${s.type}:${s.audio ?? ''}${sounds}${lanes(s)}${heard(s.listens)}${String(definition?.latency?.(rate, s.params) ?? '')}`
  }
  return `${t.id}${t.kind}${t.output === undefined ? '' : `>${t.output ?? ''}`}<${t.source ? source(t.source) : ''}>${nodes(heardChain(t).nodes)};${t.modulators.map(modulator).join()}${morphText(t)}`
}

/** The structure text of one owner, without its contents. */
export const ownText = (owner: Owner, { sampleRate }: Project): string =>
  owner.kind === 'node' || owner.kind === 'branch'
    ? kindOf(owner.node).structure(owner.node, sampleRate, () => '')
    : ''

/** Whether the values of an owner are used by its own parameters only. */
export const isInPlan = ({ kind }: Owner): boolean =>
  kind === 'node' || kind === 'branch' || kind === 'modulator'

const heard = (listens: Listen | null | undefined): string =>
  listens ? `~${listens.track}${listens.point}${listens.branch ?? ''}` : ''

const linksText = (links: readonly Link[]): string =>
  links
    .map(
      (l) =>
        `${l.id}${l.source}.${l.output}>${l.target.owner}.${pathOf(l.target)}${l.fan ? `${l.fan.phase},${l.fan.rate},${l.fan.random}` : ''}`,
    )
    .join()
