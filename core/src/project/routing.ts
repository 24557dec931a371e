import type { Edit } from './edit'
import { newId, newTrack } from './new'
import type { Project, Send, Track } from './schema'
import { dropStrayLinks } from './target-edits'
import { sendParams } from './targets'
import { branchesOf } from './nodes/index'
import { type Owner, mixOf, nodesIn, trackOf } from './walk'

/** One way of sound from a track to another: its output, or a send of it. */
export interface Way {
  readonly from: string
  readonly to: string
  /** The send; none for an output. */
  readonly send?: Send
}

/** Track that an id lies in: its own, or that of a branch in either state of its chain. */
export const homeOf = (project: Project, id: string): Track | undefined =>
  trackOf(project, id) ??
  project.tracks.find((t) =>
    [...nodesIn(t.a.nodes), ...(t.b ? nodesIn(t.b.nodes) : [])].some((n) =>
      branchesOf(n).some((b) => b.id === id),
    ),
  )

/** Track that an owner lies in; of a send, the one that it leaves. Links lie in none. */
export const trackOfOwner = (project: Project, owner: Owner): Track | undefined =>
  owner.kind === 'link' ? undefined : owner.kind === 'send' ? homeOf(project, owner.send.from) : owner.track

/** Where the output of a track goes; undefined for nowhere. */
export const outputOf = (project: Project, track: Track): Track | undefined =>
  track.kind === 'mix' || track.output === null
    ? undefined
    : ((track.output !== undefined ? trackOf(project, track.output) : undefined) ?? mixOf(project))

/** All ways of sound between tracks. */
export function waysOf(project: Project): Way[] {
  const outputs = project.tracks.flatMap((t): Way[] => {
    const to = outputOf(project, t)
    return to ? [{ from: t.id, to: to.id }] : []
  })
  const sends = project.sends.flatMap((send): Way[] => {
    const home = homeOf(project, send.from)
    return home && trackOf(project, send.to) ? [{ from: home.id, to: send.to, send }] : []
  })
  return [...outputs, ...sends]
}

/** Tracks along which sound already goes from one to another, both ends named; undefined where none does. */
export function wayBetween(project: Project, from: string, to: string): string[] | undefined {
  const ways = waysOf(project)
  const seen = new Set<string>()
  const search = (at: string): string[] | undefined => {
    const track = trackOf(project, at)
    if (!track || seen.has(at)) return undefined
    seen.add(at)
    if (at === to) return [track.name]
    for (const way of ways) {
      if (way.from !== at) continue
      const rest = search(way.to)
      if (rest) return [track.name, ...rest]
    }
    return undefined
  }
  return search(from)
}

/** Why sound cannot go from a track to a bus, as a sentence; undefined where it can. */
export function refusedWay(project: Project, from: string, to: string): string | undefined {
  const [source, bus] = [homeOf(project, from), trackOf(project, to)]
  if (!source || bus?.kind !== 'bus') return 'There is no such bus.'
  if (source.kind === 'mix') return 'The mix has no output of its own to route.'
  const back = wayBetween(project, to, source.id)
  return (
    back &&
    `“${source.name}” cannot be routed to “${bus.name}”: this would create a feedback loop, ${[...back, bus.name].map((n) => `“${n}”`).join(' to ')}.`
  )
}

/** The message for wrong routing in a project; undefined if it is right. */
export function wrongRouting(project: Project): string | undefined {
  for (const t of project.tracks)
    if (typeof t.output === 'string' && trackOf(project, t.output)?.kind !== 'bus')
      return `The output of ${t.name} goes to a bus that does not exist, “${t.output}”.`
  for (const send of project.sends) {
    if (!homeOf(project, send.from))
      return `A send leaves from something that does not exist, “${send.from}”.`
    if (trackOf(project, send.to)?.kind !== 'bus')
      return `A send goes to a bus that does not exist, “${send.to}”.`
    if (homeOf(project, send.from)?.kind === 'mix') return 'A send leaves from the mix, which is the end.'
  }
  const ways = waysOf(project)
  const state = new Map<string, 'open' | 'done'>()
  let wrong: string | undefined
  const visit = (id: string, path: readonly string[]): void => {
    if (wrong || state.get(id) === 'done') return
    if (state.get(id) === 'open') {
      const round = path.slice(path.indexOf(id)).map((x) => `“${trackOf(project, x)?.name ?? x}”`)
      wrong = `This project contains a feedback loop: ${[...round, round[0]].join(' to ')}.`
      return
    }
    state.set(id, 'open')
    for (const way of ways) if (way.from === id) visit(way.to, [...path, id])
    state.set(id, 'done')
  }
  for (const t of project.tracks) visit(t.id, [])
  return wrong
}

/** A new bus, before the mix. */
export const addBus =
  (name: string, id = newId()): Edit =>
  (p) => {
    p.tracks.splice(p.tracks.length - 1, 0, { ...newTrack(name, null, id), kind: 'bus' })
  }

/**
 * Where a track goes: a bus, the mix (undefined), or nowhere but along its sends (null). What would go round
 * is left as it is.
 */
export const setOutput =
  (track: string, to: string | null | undefined): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (!t || t.kind === 'mix' || (typeof to === 'string' && refusedWay(p, track, to))) return
    if (to === undefined) delete t.output
    else t.output = to
  }

/** A send from a track or a branch to a bus. What would form a loop is left out. */
export const addSend =
  (from: string, to: string, o: { id?: string; before?: boolean; level?: number } = {}): Edit =>
  (p) => {
    if (refusedWay(p, from, to)) return
    p.sends.push({
      id: o.id ?? newId(),
      from,
      to,
      before: o.before ?? false,
      params: { level: o.level ?? sendParams.level.default, on: 1 },
    })
  }

export const setSend =
  (id: string, change: Partial<Pick<Send, 'before'>>): Edit =>
  (p) => {
    const send = p.sends.find((s) => s.id === id)
    if (send) Object.assign(send, change)
  }

export const removeSend =
  (id: string): Edit =>
  (p) => {
    p.sends = p.sends.filter((s) => s.id !== id)
    dropStrayLinks(p)
  }

/**
 * Which ways are heard while some tracks are heard alone: those that these lie on, or that lead on from them,
 * or to them.
 */
export function soloWays(project: Project, alone: readonly string[]): (way: Way) => boolean {
  const ways = waysOf(project)
  const spread = (next: (way: Way, reached: ReadonlySet<string>) => string | undefined): Set<string> => {
    const reached = new Set(alone)
    for (let before = -1; before !== reached.size;) {
      before = reached.size
      for (const way of ways) {
        const more = next(way, reached)
        if (more !== undefined) reached.add(more)
      }
    }
    return reached
  }
  const fed = spread((way, reached) => (reached.has(way.from) ? way.to : undefined))
  const mix = mixOf(project).id
  const feeds = spread((way, reached) => (reached.has(way.to) && way.to !== mix ? way.from : undefined))
  return (way) => alone.length === 0 || fed.has(way.from) || (way.to !== mix && feeds.has(way.to))
}
