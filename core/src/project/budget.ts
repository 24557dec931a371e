import type { Load } from '../contract/load'
import { effectDefinition } from '../effects/index'
import { limits, sentenceOf } from '../limits'
import { modulatorDefinition } from '../modulators/index'
import { sourceDefinition } from '../sources/index'
import { BLOCK, NOTE_EVENTS } from '../contract/block'
import { type ChainNode, LEAST_LINE, type Project } from './schema'
import { branchesOf, innerLists } from './nodes/index'
import { heardChain, nodesIn } from './walk'

/** A project that would take more than there is. The message is a sentence with both figures. */
export class BudgetError extends Error {
  override name = 'BudgetError'
}

/** Needs of a project: bytes of memory, and work as a multiple of its playing time. */
export interface Weight {
  readonly bytes: number
  readonly work: number
}

/** The allowed memory and work. */
export interface Budget {
  readonly bytes: number
  readonly work: number
}

/** The budget of a page and of the command line. */
export const ownBudget: Budget = { bytes: limits.memory.most, work: limits.work.most }

const FRAME_NS = 1e9
/** Containers, branches, faders and links, as they are: blocks, declicking, lining up. */
const CONTAINER: Load = { kB: 24, ns: 60 }
const LINK: Load = { kB: 3, ns: 12 }

/**
 * Adds up loads at a rate. What is held of the past counts as far as it is written within so many seconds of
 * playing.
 */
class Scale {
  private bytes = 0
  private ns = 0
  constructor(
    private readonly sampleRate: number,
    private readonly seconds: number,
  ) {}

  add(load: Load): void {
    this.bytes +=
      1024 * load.kB +
      8 * Math.min(ringFrames(load.ring ?? 0, this.sampleRate), this.seconds * this.sampleRate)
    this.ns += load.ns
  }

  get weight(): Weight {
    return { bytes: this.bytes, work: (this.ns * this.sampleRate) / FRAME_NS }
  }

  copy(): Scale {
    const scale = new Scale(this.sampleRate, this.seconds)
    scale.bytes = this.bytes
    scale.ns = this.ns
    return scale
  }
}

/** Frames of a ring buffer: the next power of two, since rings wrap by masks. */
function ringFrames(seconds: number, sampleRate: number): number {
  if (seconds === 0) return 0
  let size = 16
  while (size < seconds * sampleRate) size *= 2
  return size
}

/** Everything that a node consists of. */
function* loadsOf(node: ChainNode): Generator<Load> {
  if (node.kind === 'effect') yield effectDefinition(node.type)?.load ?? CONTAINER
  else for (let i = 0; i <= branchesOf(node).length; i++) yield CONTAINER
  for (const inner of innerLists(node)) for (const n of inner) yield* loadsOf(n)
}

/** Needs of a project that plays for so many seconds, from its definitions, without creating anything. */
export function weigh(project: Project, seconds = Infinity): Weight {
  const scale = new Scale(project.sampleRate, seconds)
  for (const track of project.tracks) {
    scale.add(CONTAINER)
    if (track.source) scale.add(sourceDefinition(track.source.type)?.load ?? CONTAINER)
    for (const node of heardChain(track).nodes) for (const load of loadsOf(node)) scale.add(load)
    for (const m of track.modulators) scale.add(modulatorDefinition(m.type)?.load ?? CONTAINER)
    scale.add({ kB: 0, ns: eventLoad(track, project) })
  }
  for (let i = 0; i < project.links.length; i++) scale.add(LINK)
  return scale.weight
}

/**
 * Work of the notes of a track, in ns a frame: so many begin and end in a second, at most as many as blocks
 * take.
 */
function eventLoad({ line }: Project['tracks'][number], { tempo, sampleRate }: Project): number {
  if (!line || line.notes.length === 0) return 0
  const beats =
    line.length > 0
      ? Math.max(LEAST_LINE, line.length)
      : Math.max(1, ...line.notes.map((n) => n.start + n.length))
  const events = Math.min(
    ((2 * line.notes.length) / beats) * (tempo / 60),
    (NOTE_EVENTS * sampleRate) / BLOCK,
  )
  return (events * EVENT_NS) / sampleRate
}
const EVENT_NS = 1500

/** The message for a weight over the budget; undefined if it fits. */
export function overBudget({ bytes, work }: Weight, budget: Budget): string | undefined {
  if (bytes > budget.bytes)
    return sentenceOf(
      budget.bytes < limits.memory.most ? 'requestMemory' : 'memory',
      Math.round(bytes / 1024 / 1024),
    )
  return work > budget.work ? sentenceOf('work', Math.round(work)) : undefined
}

/** @throws BudgetError for a project that would take more than there is when it plays for so many seconds */
export function checkBudget(project: Project, seconds: number, budget: Budget = ownBudget): void {
  const wrong = overBudget(weigh(project, seconds), budget)
  if (wrong) throw new BudgetError(wrong)
}

/**
 * The part of a project that is within a budget, track by track and in the order of the chain, and how many
 * effects and modulators were left out of it, with what is wrong. The document stays as it is; this is what
 * the engine is given.
 */
export function withinBudget(
  project: Project,
  budget: Budget = ownBudget,
): { readonly project: Project; readonly left: number; readonly wrong?: string } {
  const wrong = overBudget(weigh(project), budget)
  if (!wrong) return { project, left: 0 }
  let scale = new Scale(project.sampleRate, Infinity)
  let left = 0
  const fits = (loads: Iterable<Load>): boolean => {
    const trial = scale.copy()
    for (const load of loads) trial.add(load)
    if (overBudget(trial.weight, budget)) {
      left++
      return false
    }
    scale = trial
    return true
  }
  for (let i = 0; i < project.links.length; i++) scale.add(LINK)
  const tracks = project.tracks.map((track) => {
    scale.add(CONTAINER)
    if (track.source) scale.add(sourceDefinition(track.source.type)?.load ?? CONTAINER)
    const nodes = heardChain(track).nodes.filter((node) => fits(loadsOf(node)))
    const modulators = track.modulators.filter((m) => fits([modulatorDefinition(m.type)?.load ?? CONTAINER]))
    return { ...track, a: { nodes }, b: null, heard: 'a' as const, modulators }
  })
  const there = new Set(tracks.flatMap((t) => t.modulators.map((m) => m.id)))
  const nodes = new Set(tracks.flatMap((t) => [...nodesIn(heardChain(t).nodes)].map((n) => n.id)))
  return {
    project: {
      ...project,
      tracks: tracks.map((t) => ({
        ...t,
        modulators: t.modulators.map((m) => ({
          ...m,
          inputs: m.inputs.map((input) =>
            input && (there.has(input.source) || nodes.has(input.source)) ? input : null,
          ),
        })),
      })),
      links: project.links.filter((l) => there.has(l.source)),
    },
    left,
    wrong,
  }
}
