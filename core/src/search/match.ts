import {
  type Distance,
  type Traits,
  distance,
  mainDistance,
  textureDistance,
  traitsOf,
} from '../analysis/distance'
import type { AudioData, Stereo } from '../contract/audio'
import { exp2, log, toDb } from '../dsp/math'
import { Random } from '../dsp/random'
import { type Edit, apply } from '../project/edit'
import type { Project } from '../project/schema'
import { nameAmong, paramName, pathsOf, specAt, valueAt, writeValue } from '../project/targets'
import { type Owner, findOwner, ownerId } from '../project/walk'
import { Replay } from '../render/replay'
import { isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import { diceKindOf, diceOwners, isLocked } from '../variation/dice'
import { CmaEs } from './cma-es'
import { type Excerpt, draftOf, excerptPlan } from './excerpt'

/** A parameter that a search may move. */
export interface Moving {
  readonly owner: string
  readonly path: string
  /** Values of a choice or a switch; 0 for a range. */
  readonly steps: number
}

/** A place in the search: 0…1 for ranges, the number of the value for choices; one for each that moves. */
export type Place = readonly number[]

/** Whether the reference is the same performance, moment by moment, or only sounds like what is wanted. */
export type MatchKind = 'aligned' | 'texture'

/** One place that was tried. */
export interface Candidate {
  readonly place: Place
  /** Distance from the reference in dB, penalties included. */
  readonly loss: number
}

/** How far a search is. */
export interface MatchState {
  readonly evaluations: number
  /** The nearest places, none beside another, the nearest first. */
  readonly best: readonly Candidate[]
  readonly restarts: number
}

/** Nearest places that are kept, and how far apart they are in one parameter at least. */
const KEPT = 8
const APART = 0.04
/** What is silent, or fails, is this many dB away. */
const SILENT_LOSS = 100
const FAILED_LOSS = 200
/** LU by which the sound may become quieter or louder before that counts against a place. */
const LEVEL_RANGE = 18
const FIRST_SPREAD = 0.25

/**
 * Parameters of a chain that may be moved towards a reference: of its effects, of its modulators, and ranges
 * of its links; nothing that is locked, and no level of the track.
 */
export function movable(project: Project, track: string): Moving[] {
  return diceOwners(project, { kind: 'chain', id: track }).flatMap((owner) =>
    pathsOf(owner).flatMap((path): Moving[] => {
      const spec = specAt(owner, path)
      const isRange = owner.kind === 'link' && (path === 'from' || path === 'to')
      if (!spec || isLocked(project, owner, path)) return []
      if (!isRange && diceKindOf(owner, path, spec) === null) return []
      const steps = isStepped(spec) ? Math.round(spec.max - spec.min) + 1 : 0
      return [{ owner: ownerId(owner), path, steps }]
    }),
  )
}

/** How far each parameter is moved to see whether it is heard. */
const PROBED = 0.15

/** Places that differ from a start in one parameter each, by which {@link mostHeard} chooses. */
export const probes = (moving: readonly Moving[], start: Place): Place[] =>
  moving.map((m, i) =>
    start.map((x, k) => (k !== i ? x : m.steps ? (x + 1) % m.steps : x > 0.5 ? x - PROBED : x + PROBED)),
  )

/** The parameters that change the sound most, in their order. @param losses of the {@link probes} */
export function mostHeard(
  moving: readonly Moving[],
  losses: readonly number[],
  first: number,
  most: number,
): Moving[] {
  const heard = moving.map((m, i) => ({ m, change: Math.abs((losses[i] ?? first) - first) }))
  const chosen = new Set(
    [...heard]
      .sort((a, b) => b.change - a.change)
      .slice(0, most)
      .filter(({ change }) => change > 0)
      .map(({ m }) => m),
  )
  return moving.filter((m) => chosen.has(m))
}

/** Ranges that ended at one of their borders, where more might have been wanted. */
export const atBorder = (moving: readonly Moving[], place: Place): Moving[] =>
  moving.filter((m, i) => !m.steps && ((place[i] ?? 0.5) < BORDER || (place[i] ?? 0.5) > 1 - BORDER))

const BORDER = 0.005

const ownerOf = (project: Project, { owner }: Moving): Owner => {
  const found = findOwner(project, owner)
  if (!found) throw new Error(`There is nothing called “${owner}” in this project.`)
  return found
}

/** Name of a parameter with that of its owner, for a person. */
export function movingName(project: Project, { owner, path }: Moving): string {
  const found = findOwner(project, owner)
  return found ? `${nameAmong(project, found)}, ${paramName(found, path).toLowerCase()}` : path
}

/** Where a project stands. @throws where it has no such parameter */
export const placeOf = (project: Project, moving: readonly Moving[]): Place =>
  moving.map((m) => {
    const owner = ownerOf(project, m)
    const [spec, value] = [specAt(owner, m.path), valueAt(owner, m.path)]
    if (!spec || value === undefined) throw new Error(`“${m.path}” is no parameter of “${m.owner}”.`)
    return m.steps ? Math.round(value - spec.min) : toNormalized(spec, value)
  })

/** Goes to a place. */
export const goTo =
  (moving: readonly Moving[], place: Place): Edit =>
  (p) => {
    for (const [i, m] of moving.entries()) {
      const owner = ownerOf(p, m)
      const spec = specAt(owner, m.path)
      const at = place[i] ?? 0
      if (spec) writeValue(owner, m.path, m.steps ? spec.min + Math.round(at) : fromNormalized(spec, at))
    }
  }

/** What places are tried on. */
interface Base {
  readonly project: Project
  readonly replay: Replay
}

/** Judges places by the sound of a track over an excerpt; one for each worker. */
export class MatchJudge {
  private readonly draft: Base
  private full: Base | null = null
  /** Loudness of the chain as it is in LUFS, by its draft; −120 where it is silent. */
  private loudness: number | null = null

  constructor(
    private readonly project: Project,
    private readonly track: string,
    private readonly excerpt: Excerpt,
    private readonly reference: Traits,
    private moving: readonly Moving[],
    private readonly kind: MatchKind,
    private readonly audio: (hash: string) => AudioData | null,
  ) {
    this.draft = this.base(draftOf(project))
  }

  /** Has places be about other parameters from now on. */
  move(moving: readonly Moving[]): void {
    this.moving = moving
  }

  private base(project: Project): Base {
    return { project, replay: new Replay(excerptPlan(project, this.track, this.excerpt), this.audio) }
  }

  private soundAt(place: Place, { project, replay }: Base): Stereo {
    const { next } = apply(project, goTo(this.moving, place))
    return replay.of(excerptPlan(next, this.track, this.excerpt))
  }

  /** LU beyond the range for levels: the distance itself is taken at one loudness. */
  private beyond(loudness: number): number {
    const { project, replay } = this.draft
    this.loudness ??= traitsOf(
      replay.of(excerptPlan(project, this.track, this.excerpt)),
      project.sampleRate,
    ).loudness
    return this.loudness <= -120 ? 0 : Math.max(0, Math.abs(loudness - this.loudness) - LEVEL_RANGE)
  }

  /**
   * Distance of a place from the reference in dB, by a draft of the chain, with penalties for silence, for
   * peaks over 0 dBFS, and for levels far from that of the chain as it is.
   */
  loss(place: Place): number {
    try {
      const sound = this.soundAt(place, this.draft)
      const traits = traitsOf(sound, this.project.sampleRate)
      if (traits.loudness <= -120) return SILENT_LOSS
      const { total } =
        this.kind === 'aligned'
          ? mainDistance(traits, this.reference)
          : textureDistance(traits, this.reference)
      const over = Math.max(0, toDb(peakOf(sound)))
      return Number.isFinite(total) ? total + over + this.beyond(traits.loudness) : FAILED_LOSS
    } catch {
      return FAILED_LOSS
    }
  }

  /** The distance of a place by its parts, and the sound there. */
  judged(place: Place): { readonly distance: Distance; readonly traits: Traits } {
    const sound = this.soundAt(place, (this.full ??= this.base(this.project)))
    const traits = traitsOf(sound, this.project.sampleRate)
    const of = this.kind === 'aligned' ? distance : textureDistance
    return { distance: of(traits, this.reference), traits }
  }
}

/**
 * Looks for places near a reference: covariance adaptation for ranges, learnt probabilities for choices, with
 * restarts of growing generations. Gives a generation at a time, to be judged by any number of workers; the
 * same seed and losses give the same places.
 */
export class MatchSearch {
  private cma: CmaEs
  private choices: Choices
  private readonly random: Random
  private asked: number[][] = []
  private evaluations = 0
  private restarts = 0
  private best: Candidate[] = []
  /** The least loss of this start, and generations since it fell. */
  private least = Infinity
  private since = 0

  constructor(
    private readonly moving: readonly Moving[],
    private readonly start: Place,
    private readonly seed: number,
  ) {
    if (moving.length === 0) throw new Error('No parameter may be moved. Unlock some, or add an effect.')
    this.random = new Random(seed)
    this.cma = this.begin(this.ranges(start), 0)
    this.choices = new Choices(moving, start)
  }

  get state(): MatchState {
    return { evaluations: this.evaluations, best: this.best, restarts: this.restarts }
  }

  /** The next places to be judged; the first of all is where it begins. */
  next(): Place[] {
    const points = this.cma.ask()
    this.asked = points.map((point, n) => {
      const chosen = this.choices.pick(this.random)
      let at = 0
      const place = this.moving.map((m, i) => (m.steps ? (chosen[i] ?? 0) : (point[at++] ?? 0)))
      return this.evaluations === 0 && n === 0 ? [...this.start] : place
    })
    return this.asked
  }

  /** Takes the losses of these places, in their order. */
  take(losses: readonly number[]): void {
    this.evaluations += losses.length
    const found = this.asked.map((place, i): Candidate => ({ place, loss: losses[i] ?? FAILED_LOSS }))
    for (const candidate of found) this.keep(candidate)
    this.cma.tell(losses)
    this.choices.learn([...found].sort((a, b) => a.loss - b.loss).slice(0, Math.ceil(found.length / 3)))
    const now = Math.min(...losses)
    this.since = now < this.least - SMALL ? 0 : this.since + 1
    this.least = Math.min(this.least, now)
    if (this.cma.isSettled || this.since > 10 + (30 * this.moving.length) / this.cma.size) this.restart()
  }

  private keep(candidate: Candidate): void {
    const near = (other: Candidate): boolean =>
      other.place.every(
        (x, i) => Math.abs(x - (candidate.place[i] ?? 0)) < (this.moving[i]?.steps ? 0.5 : APART),
      )
    const beside = this.best.filter(near)
    if (beside.some((b) => b.loss <= candidate.loss)) return
    this.best = [...this.best.filter((b) => !beside.includes(b)), candidate]
      .sort((a, b) => a.loss - b.loss)
      .slice(0, KEPT)
  }

  private restart(): void {
    this.restarts++
    this.least = Infinity
    this.since = 0
    // every other start looks around the best place again, the others anywhere
    const [best] = this.best
    const middle = this.ranges(best?.place ?? this.start)
    const isNear = this.restarts % 2 === 1
    this.cma = this.begin(isNear ? middle : middle.map(() => this.random.next()), this.restarts)
    this.choices = new Choices(this.moving, best?.place ?? this.start)
  }

  private begin(middle: readonly number[], restarts: number): CmaEs {
    // without ranges there are choices alone, and points of one dimension that count for nothing
    const at = middle.length ? middle : [0.5]
    const size = Math.floor((4 + 3 * log(at.length)) * exp2(Math.min(3, restarts / 2)))
    return new CmaEs({ middle: at, spread: FIRST_SPREAD, seed: this.seed + 7919 * restarts, size })
  }

  private ranges(place: Place): number[] {
    return place.filter((_, i) => this.moving[i]?.steps === 0)
  }
}

/** A fall of the loss in dB that counts as one. */
const SMALL = 0.005

/** Probabilities of the values of choices, which follow those of the best. */
class Choices {
  private readonly odds: Map<number, number[]>

  constructor(moving: readonly Moving[], start: Place) {
    this.odds = new Map(
      moving.flatMap((m, i) =>
        m.steps
          ? [
              [
                i,
                Array.from({ length: m.steps }, (_, v) => (v === start[i] ? 0.5 : 0) + 0.5 / m.steps),
              ] as const,
            ]
          : [],
      ),
    )
  }

  /** Values by the place of the parameter. */
  pick(random: Random): Record<number, number> {
    const found: Record<number, number> = {}
    for (const [i, odds] of this.odds) {
      let left = random.next() * odds.reduce((a, b) => a + b, 0)
      found[i] = Math.max(
        0,
        odds.findIndex((p) => (left -= p) < 0),
      )
    }
    return found
  }

  learn(best: readonly Candidate[]): void {
    for (const [i, odds] of this.odds)
      for (let v = 0; v < odds.length; v++) {
        const share = best.filter((c) => c.place[i] === v).length / Math.max(1, best.length)
        odds[v] = Math.max(LEAST_ODDS / odds.length, odds[v] + LEARNING * (share - odds[v]))
      }
  }
}

const LEARNING = 0.25
/** A value that was never among the best is still tried so often. */
const LEAST_ODDS = 0.1

function peakOf(sound: Stereo): number {
  let peak = 0
  for (const side of sound) for (let i = 0; i < side.length; i++) peak = Math.max(peak, Math.abs(side[i]))
  return peak
}
