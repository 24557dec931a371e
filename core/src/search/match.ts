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
import { type ParamSpec, isStepped } from '../units/parameter'
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
  /** The parameters that are moved at present; none while each is tried by itself. */
  readonly moving: readonly Moving[]
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

/** A place that differs from another in one parameter. */
const probe = (moving: readonly Moving[], from: Place, k: number): Place =>
  from.map((x, i) => {
    const steps = moving[i]?.steps ?? 0
    return i !== k ? x : steps ? (x + 1) % steps : x > 0.5 ? x - PROBED : x + PROBED
  })

/**
 * Numbers of the parameters that change the sound most, in their order. Those that have just been moved stand
 * where they are best, so they count only where their probe comes nearer.
 * @param losses of the probes
 */
function mostHeard(
  losses: readonly number[],
  first: number,
  most: number,
  moved: readonly number[],
): number[] {
  const heard = losses.map((loss, i) => ({
    i,
    change: moved.includes(i) ? first - loss : Math.abs(loss - first),
  }))
  return heard
    .filter(({ change }) => change > 0)
    .sort((a, b) => b.change - a.change)
    .slice(0, most)
    .map(({ i }) => i)
    .sort((a, b) => a - b)
}

/** Ranges that were moved and ended at one of their borders, where more might have been wanted. */
export const atBorder = (moving: readonly Moving[], place: Place, start: Place): Moving[] =>
  moving.filter((m, i) => {
    const x = place[i] ?? 0.5
    return !m.steps && x !== start[i] && (x < BORDER || x > 1 - BORDER)
  })

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
  moving.map((m) => standing(ownerOf(project, m), m).at)

/** Goes to a place; a parameter that stands there already keeps its value to the bit. */
export const goTo =
  (moving: readonly Moving[], place: Place): Edit =>
  (p) => {
    for (const [i, m] of moving.entries()) {
      const owner = ownerOf(p, m)
      const { spec, at } = standing(owner, m)
      const to = place[i] ?? 0
      if (to === at) continue
      writeValue(owner, m.path, m.steps ? spec.min + Math.round(to) : fromNormalized(spec, to))
    }
  }

/** What a parameter is, and where it stands. */
function standing(owner: Owner, m: Moving): { readonly spec: ParamSpec; readonly at: number } {
  const [spec, value] = [specAt(owner, m.path), valueAt(owner, m.path)]
  if (!spec || value === undefined) throw new Error(`“${m.path}” is no parameter of “${m.owner}”.`)
  return { spec, at: m.steps ? Math.round(value - spec.min) : toNormalized(spec, value) }
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
    private readonly moving: readonly Moving[],
    private readonly kind: MatchKind,
    private readonly audio: (hash: string) => AudioData | null,
  ) {
    this.draft = this.base(draftOf(project))
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
 * restarts of growing generations. Where more parameters may be moved than it moves at once, each is tried
 * alone first, and those that change the sound most are moved; every other restart selects them again, around
 * the best place. Gives some places at a time, to be judged by any number of workers; the same seed and
 * losses give the same places.
 */
export class MatchSearch {
  /** None while parameters are tried by themselves. */
  private cma: CmaEs | null = null
  private choices: Choices
  private readonly random: Random
  /** Losses of the base and of the probes so far. */
  private probed: number[] = []
  private asked: Place[] = []
  /** Numbers of the parameters that are moved; the others stand as in the base. */
  private active: readonly number[] = []
  private evaluations = 0
  private restarts = 0
  private best: Candidate[] = []
  /** The least loss of this start, and generations since it fell. */
  private least = Infinity
  private since = 0

  /**
   * @param base where it begins
   * @param most parameters that are moved at once
   */
  constructor(
    private readonly moving: readonly Moving[],
    private base: Place,
    private readonly seed: number,
    private readonly most = Infinity,
  ) {
    if (moving.length === 0) throw new Error('No parameter may be moved. Unlock some, or add an effect.')
    this.random = new Random(seed)
    this.choices = new Choices(moving, base)
    if (moving.length <= most) this.begin(moving.map((_, i) => i))
  }

  get state(): MatchState {
    const moving = this.cma ? this.moving.filter((_, i) => this.active.includes(i)) : []
    return { evaluations: this.evaluations, best: this.best, restarts: this.restarts, moving }
  }

  /** The next places to be judged; the first of all is where it begins. */
  next(): readonly Place[] {
    return (this.asked = this.cma ? this.generation(this.cma) : this.probes())
  }

  /** Some of the base and the places that differ from it in one parameter. */
  private probes(): Place[] {
    const { moving, base, probed } = this
    const left = Math.min(PROBES, moving.length + 1 - probed.length)
    return Array.from({ length: left }, (_, n) => {
      const k = probed.length + n - 1
      return k < 0 ? base : probe(moving, base, k)
    })
  }

  private generation(cma: CmaEs): Place[] {
    const { moving, base, active } = this
    return cma.ask().map((point, n) => {
      const chosen = this.choices.pick(this.random)
      if (this.evaluations === 0 && n === 0) return base
      const place = [...base]
      let at = 0
      for (const i of active) place[i] = moving[i]?.steps ? (chosen[i] ?? 0) : (point[at++] ?? 0)
      return place
    })
  }

  /** Takes the losses of these places, in their order. */
  take(losses: readonly number[]): void {
    this.evaluations += losses.length
    const found = this.asked.map((place, i): Candidate => ({ place, loss: losses[i] ?? FAILED_LOSS }))
    for (const candidate of found) this.keep(candidate)
    if (!this.cma) {
      this.probed.push(...losses)
      const [first = 0, ...others] = this.probed
      if (others.length < this.moving.length) return
      const heard = mostHeard(others, first, this.most, this.active)
      if (heard.length > 0) this.begin(heard)
      else if (this.restarts > 0) this.begin(this.active, true)
      else throw new Error('No parameter changes this sound. It may be silent.')
      return
    }
    this.cma.tell(losses)
    this.choices.learn([...found].sort((a, b) => a.loss - b.loss).slice(0, Math.ceil(found.length / 3)))
    const now = Math.min(...losses)
    this.since = now < this.least - SMALL ? 0 : this.since + 1
    this.least = Math.min(this.least, now)
    if (this.cma.isSettled || this.since > 10 + (30 * this.active.length) / this.cma.size) this.restart()
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

  /** Every other start looks around the best place again, the others anywhere. */
  private restart(): void {
    this.restarts++
    this.base = this.best[0]?.place ?? this.base
    const isNear = this.restarts % 2 === 1
    if (isNear && this.moving.length > this.most) {
      this.cma = null
      this.probed = []
    } else this.begin(this.active, !isNear)
  }

  /** Begins about the base, or anywhere, with these parameters. */
  private begin(active: readonly number[], anywhere = false): void {
    const { moving, base, restarts, random } = this
    this.active = active
    this.least = Infinity
    this.since = 0
    const ranges = active.filter((i) => moving[i]?.steps === 0).map((i) => base[i] ?? 0.5)
    const from = anywhere ? ranges.map(() => random.next()) : ranges
    // without ranges there are choices alone, and points of one dimension that count for nothing
    const middle = from.length ? from : [0.5]
    const size = Math.floor((4 + 3 * log(middle.length)) * exp2(Math.min(3, restarts / 2)))
    this.cma = new CmaEs({ middle, spread: FIRST_SPREAD, seed: this.seed + 7919 * restarts, size })
    this.choices = new Choices(moving, base)
  }
}

/** Parameters that are tried by themselves in one step. */
const PROBES = 12
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
