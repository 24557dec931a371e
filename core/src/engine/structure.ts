import { effectDefinition } from '../effects/index'
import { pathOf } from '../project/param-path'
import type { ChainNode, Effect, Link, Modulator, Project, Split, Track } from '../project/schema'
import { heardChain } from '../project/walk'

/**
 * A text that differs where the plan must: which nodes there are, in which order, what listens to what and which links
 * exist, but no value of any parameter. An edit leaves what it does not touch as it is, so the text of that is known.
 */
export function structureOf(project: Project): string {
  const tracks = project.tracks.map((t) => remembered(trackTexts, t, project.sampleRate, trackText))
  return `${project.seed}/${tracks.join('/')}/${remembered(linkTexts, project.links, 0, linksText)}`
}

const trackTexts = new WeakMap<Track, { rate: number, text: string }>()
const linkTexts = new WeakMap<readonly Link[], { rate: number, text: string }>()

function remembered<T extends object>(known: WeakMap<T, { rate: number, text: string }>, of: T, rate: number, make: (of: T, rate: number) => string): string {
  const old = known.get(of)
  if (old?.rate === rate) return old.text
  const text = make(of, rate)
  known.set(of, { rate, text })
  return text
}

function trackText(t: Track, rate: number): string {
  const lanes = (o: Effect | Modulator): string => (o.lanes ? Object.entries(o.lanes).map(([k, items]) => `${k}${items.length}`).join() : '')
  const latency = (n: Effect): string => String(effectDefinition(n.type)?.latency?.(rate, n.params) ?? '')
  const node = (n: ChainNode): string => n.kind === 'effect' ? `${n.id}:${n.type}${latency(n)}${lanes(n)}${n.sidechain ? `~${n.sidechain.track}${n.sidechain.point}${n.sidechain.branch ?? ''}` : ''}`
    : n.kind === 'split' ? `${n.id}:${n.mode}${isLinear(n) ? '-linear' : ''}(${n.branches.map((b) => `${b.id}[${b.nodes.map(node).join()}]`).join('|')})`
      : `${n.id}:${n.kind}[${n.nodes.map(node).join()}]`
  const modulator = (m: Modulator): string => `${m.id}:${m.type}${lanes(m)}${m.inputs.map((i) => (i ? `${i.source}.${i.output}` : '-')).join()}${m.listens ? `~${m.listens.track}${m.listens.point}${m.listens.branch ?? ''}` : ''}`
  return `${t.id}<${t.source?.id ?? ''}:${t.source?.type ?? ''}:${t.source?.audio ?? ''}>${heardChain(t).nodes.map(node).join()};${t.modulators.map(modulator).join()}`
}

const linksText = (links: readonly Link[]): string =>
  links.map((l) => `${l.id}${l.source}.${l.output}>${l.target.owner}.${pathOf(l.target)}${l.fan ? `${l.fan.phase},${l.fan.rate},${l.fan.random}` : ''}`).join()

/** Whether a split's bands are in linear phase. Set values alone say so: a link does not change when sound arrives. */
export const isLinear = (split: Split): boolean => split.mode === 'bands' && (split.params.phase ?? 0) >= 0.5
