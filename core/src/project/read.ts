import type { z } from 'zod'
import { PROJECT_VERSION, type Project, projectSchema } from './schema'
import { JsonTextError, readJson } from './json-text'
import { innerLists, kindOf } from './nodes/index'
import { soundsOf } from '../sources/index'
import { wrongRouting } from './routing'
import { overLimit } from './fullness'
import { idsOf, mixOf } from './walk'
import type { ChainNode } from './schema'

/** A project file that cannot be taken. The message is a sentence that says what is wrong and where. */
export class ProjectError extends Error {
  override name = 'ProjectError'
}

/** Reads the text of a project file. @throws ProjectError */
export function readProject(text: string): Project {
  try {
    return checkProject(readJson(text, 'project file'))
  } catch (error) {
    throw error instanceof JsonTextError ? new ProjectError(error.message) : error
  }
}

/** Checks a project that came as data. @throws ProjectError */
export function checkProject(raw: unknown): Project {
  if (typeof raw !== 'object' || raw === null || (raw as { format?: unknown }).format !== 'oleaje-project')
    throw new ProjectError('This is not an Oleaje project: its “format” field is missing or different.')
  const result = projectSchema.safeParse(migrate(raw as Record<string, unknown>))
  if (!result.success) throw new ProjectError(sentence(result.error.issues[0]))
  const project = result.data as Project
  checkWhole(project)
  return project
}

type Raw = Record<string, unknown>
const listOf = (raw: Raw, key: string): Raw[] =>
  Array.isArray(raw[key]) ? (raw[key] as Raw[]).filter((x) => typeof x === 'object' && x !== null) : []

/** Steps from each version to the next. */
const migrations: Record<number, (old: Raw) => Raw> = {
  // Notes became a line with its own length, quantising got a kind, and curve lanes became modulators.
  1: (old) => {
    const curves = listOf(old, 'curves')
    const rest = Object.fromEntries(Object.entries(old).filter(([key]) => key !== 'curves'))
    const tracks = listOf(old, 'tracks').map(({ notes, ...track }) => ({
      ...track,
      line: Array.isArray(notes) && notes.length ? { length: 0, notes } : null,
    }))
    const home = tracks[tracks.length - 1] as Raw | undefined
    if (home && curves.length) {
      home.modulators = [
        ...listOf(home, 'modulators'),
        ...curves.map((c, i) => ({
          id: c.id,
          type: 'curve',
          name: c.name,
          letter: '',
          hue: i % 8,
          params: { length: c.length },
          data: { points: listOf(c, 'points').map((p) => ({ x: p.beat, y: p.place, bend: p.bend })) },
        })),
      ]
    }
    const links = listOf(old, 'links').map((l) => ({
      ...l,
      quantise:
        typeof l.quantise === 'number' && l.quantise >= 1
          ? { to: 'steps', steps: Math.round(l.quantise) }
          : null,
      fan: null,
    }))
    const fromCurves = curves.map((c, i) => ({
      id: `curve-link-${i}`,
      source: c.id,
      output: 'curve',
      target: c.target,
      from: 0,
      to: 1,
      mode: 'fixed',
    }))
    return { ...rest, version: 2, tracks, links: [...links, ...fromCurves] }
  },
}

/** Brings a project of an older version up to this one. @throws ProjectError for one from the future */
export function migrate(raw: Record<string, unknown>): Record<string, unknown> {
  let project = raw
  const version = (p: Record<string, unknown>): number => (typeof p.version === 'number' ? p.version : NaN)
  if (!Number.isInteger(version(project)) || version(project) < 1)
    throw new ProjectError('This project has no version number.')
  if (version(project) > PROJECT_VERSION)
    throw new ProjectError(
      `This project was made by a newer Oleaje (version ${version(project)}); this version reads up to ${PROJECT_VERSION}.`,
    )
  while (version(project) < PROJECT_VERSION) {
    const step = migrations[version(project)]
    if (!step) throw new ProjectError(`Projects of version ${version(project)} cannot be converted.`)
    project = step(project)
  }
  return project
}

/** Checks beyond the schema: unique ids, exactly one mix at the end, existing references. */
function checkWhole(project: Project): void {
  const tooMuch = overLimit(project)
  if (tooMuch) throw new ProjectError(tooMuch)
  for (const [i, track] of project.tracks.entries()) {
    const last = i === project.tracks.length - 1
    if ((track.kind === 'mix') !== last)
      throw new ProjectError(
        last
          ? 'The last track of the project is not its mix.'
          : `The mix stands before the last track, as track ${i + 1}.`,
      )
  }
  const trackIds = new Set(project.tracks.map((t) => t.id))
  const ids = new Set<string>()
  const once = (id: string, what: string) => {
    if (ids.has(id)) throw new ProjectError(`Two things in this project have the same id, “${id}” (${what}).`)
    ids.add(id)
  }
  const known = new Set<string>()
  const heardBranches: [string, string][] = []
  const walk = (list: readonly ChainNode[], state: Set<string>, where: string) => {
    for (const node of list) {
      for (const id of idsOf(node)) {
        if (state.has(id))
          throw new ProjectError(`Two things in the chain of ${where} have the same id, “${id}”.`)
        state.add(id)
        known.add(id)
      }
      const listens = kindOf(node).listens?.(node)
      if (listens && !trackIds.has(listens.track))
        throw new ProjectError(
          `The sidechain of an effect in ${where} names a track that does not exist, “${listens.track}”.`,
        )
      if (listens?.branch) heardBranches.push([listens.branch, `The sidechain of an effect in ${where}`])
      for (const inner of innerLists(node)) walk(inner, state, where)
    }
  }
  const modulators = new Set<string>()
  for (const track of project.tracks) {
    once(track.id, `track ${track.name}`)
    known.add(track.id)
    if (track.source) {
      once(track.source.id, `source of ${track.name}`)
      known.add(track.source.id)
      const { listens } = track.source
      for (const hash of soundsOf(track.source))
        if (!(hash in project.audio))
          throw new ProjectError(`${track.name} plays audio that the project does not list, “${hash}”.`)
      if (listens && !trackIds.has(listens.track))
        throw new ProjectError(
          `The source of ${track.name} is a track that does not exist, “${listens.track}”.`,
        )
    }
    for (const take of track.takes ?? [])
      for (const hash of [take.dry, take.wet])
        if (!(hash in project.audio))
          throw new ProjectError(
            `A take of ${track.name} is of a sound that the project does not list, “${hash}”.`,
          )
    for (const m of track.modulators) {
      once(m.id, `modulator ${m.name}`)
      known.add(m.id)
      modulators.add(m.id)
      if (m.listens && !trackIds.has(m.listens.track))
        throw new ProjectError(
          `The modulator ${m.name} listens to a track that does not exist, “${m.listens.track}”.`,
        )
      if (m.listens?.branch) heardBranches.push([m.listens.branch, `The modulator ${m.name}`])
    }
    // A and B share ids where they hold the same effect, so each state is held for itself
    const a = new Set<string>()
    walk(track.a.nodes, a, track.name)
    const b = new Set<string>()
    if (track.b) walk(track.b.nodes, b, track.name)
    for (const id of new Set([...a, ...b])) once(id, `chain of ${track.name}`)
  }
  for (const [branch, who] of heardBranches)
    if (!known.has(branch)) throw new ProjectError(`${who} names a branch that does not exist, “${branch}”.`)
  for (const send of project.sends) {
    once(send.id, 'send')
    known.add(send.id)
  }
  const routing = wrongRouting(project)
  if (routing) throw new ProjectError(routing)
  for (const link of project.links) {
    once(link.id, 'link')
    known.add(link.id)
  }
  for (const track of project.tracks) {
    for (const m of track.modulators) {
      for (const input of m.inputs)
        if (input && !known.has(input.source))
          throw new ProjectError(`The input of the modulator ${m.name} does not exist, “${input.source}”.`)
    }
  }
  for (const control of project.controls)
    if (!known.has(control.target.owner))
      throw new ProjectError(
        `A controller is assigned to something that does not exist, “${control.target.owner}”.`,
      )
  for (const link of project.links) {
    if (!modulators.has(link.source))
      throw new ProjectError(`A link comes from a modulator that does not exist, “${link.source}”.`)
    if (!known.has(link.target.owner))
      throw new ProjectError(`A link goes to something that does not exist, “${link.target.owner}”.`)
  }
  mixOf(project)
}

const sentence = (issue: z.core.$ZodIssue | undefined): string => issueSentence(issue, 'project')

/** The message for a schema error, with its place. */
export function issueSentence(issue: z.core.$ZodIssue | undefined, what: string): string {
  if (!issue) return `This ${what} cannot be read.`
  const where = issue.path
    .map((k) => (typeof k === 'number' ? `[${k}]` : `.${String(k)}`))
    .join('')
    .replace(/^\./, '')
  if (issue.code === 'invalid_type' && issue.message.endsWith('received undefined'))
    return `This ${what} cannot be read: at ${where || 'its top'}, something is missing.`
  return `This ${what} cannot be read: at ${where || 'its top'}, ${issue.message.charAt(0).toLowerCase()}${issue.message.slice(1)}.`
}
