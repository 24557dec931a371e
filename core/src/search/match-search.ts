import { exp2, log } from '../dsp/math'
import { Random } from '../dsp/random'
import { CmaEs } from './cma-es'
import { FAILED_LOSS, type Moving, type Place } from './match'

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
  /** The parameters that are moved together at present; none while they are moved one by one. */
  readonly moving: readonly Moving[]
}

/** Nearest places that are kept; how far apart they are at least, summed over their parameters, and in dB. */
const KEPT = 8
const APART = 0.15
const ALIKE = 0.02

/** A part of a search. */
interface Stage {
  /** Whether it finds no more. */
  readonly isDone: boolean
  /** Numbers of the parameters that it moves together; none where it moves one at a time. */
  readonly together: readonly number[]
  /** The next places to be judged. */
  next(): readonly Place[]
  /** Takes what these places are, in their order. */
  take(found: readonly Candidate[]): void
}

/**
 * Looks for places near a reference. Few parameters are moved together from the start. Where there are more,
 * they are moved one after the other, then those that brought the sound nearer are moved together, and so on
 * in turn. Gives some places at a time, to be judged by any number of workers; the same seed and losses give
 * the same places.
 */
export class MatchSearch {
  private stage: Stage
  private asked: readonly Place[] = []
  private evaluations = 0
  private restarts = 0
  /** Rounds in which parameters were moved one by one. */
  private rounds = 0
  /** Numbers of the parameters that were heard in the last round. */
  private heard: readonly number[]
  private best: Candidate[] = []
  private readonly random: Random

  /**
   * @param base where it begins
   * @param most parameters that are moved together
   */
  constructor(
    private readonly moving: readonly Moving[],
    private readonly base: Place,
    private readonly seed: number,
    private readonly most = Infinity,
  ) {
    if (moving.length === 0) throw new Error('No parameter may be moved. Unlock some, or add an effect.')
    this.random = new Random(seed)
    this.heard = moving.map((_, i) => i)
    this.stage = this.isLarge ? this.coordinates() : this.jointly(this.heard)
  }

  private get isLarge(): boolean {
    return this.moving.length > this.most
  }

  /** The nearest place; of the first, nothing is known. */
  private get nearest(): Candidate {
    return this.best[0] ?? { place: this.base, loss: Infinity }
  }

  get state(): MatchState {
    const { evaluations, best, restarts } = this
    const moving = this.moving.filter((_, i) => this.stage.together.includes(i))
    return { evaluations, best, restarts, moving }
  }

  /** The next places to be judged; the first of all is where it begins. */
  next(): readonly Place[] {
    return (this.asked = this.stage.next())
  }

  /** Takes the losses of these places, in their order. */
  take(losses: readonly number[]): void {
    const found = this.asked.map((place, i): Candidate => ({ place, loss: losses[i] ?? FAILED_LOSS }))
    this.evaluations += found.length
    for (const candidate of found) this.keep(candidate)
    this.stage.take(found)
    if (this.stage.isDone) this.stage = this.after(this.stage)
  }

  private keep(candidate: Candidate): void {
    const apart = (other: Candidate): number =>
      candidate.place.reduce((sum, x, i) => {
        const d = Math.abs(x - (other.place[i] ?? 0))
        return sum + (this.moving[i]?.steps ? Math.min(1, d) : d)
      }, 0)
    // what differs only where nothing is heard is as far away
    const near = (other: Candidate): boolean =>
      Math.abs(other.loss - candidate.loss) < ALIKE || apart(other) < APART
    const beside = this.best.filter(near)
    if (beside.some((b) => b.loss <= candidate.loss)) return
    this.best = [...this.best.filter((b) => !beside.includes(b)), candidate]
      .sort((a, b) => a.loss - b.loss)
      .slice(0, KEPT)
  }

  /** Of few parameters, every other start looks around the best place again, and the others anywhere. */
  private after(stage: Stage): Stage {
    if (stage instanceof CoordinateSearch) {
      const { heard } = stage
      if (heard.length > 0) this.heard = heard
      // later there are places to show, and those that were heard before may be heard again elsewhere
      else if (this.restarts === 0) throw new Error('No parameter changes this sound. It may be silent.')
      return this.jointly(this.heard.slice(0, this.most))
    }
    this.restarts++
    return this.isLarge ? this.coordinates() : this.jointly(stage.together, this.restarts % 2 === 0)
  }

  /**
   * Every third round tries all parameters: one that had no effect may have one where others have moved. The
   * rounds between try those that were heard, nearer and nearer.
   */
  private coordinates(): CoordinateSearch {
    const { moving, heard, nearest } = this
    const fine = this.rounds++ % 3
    return new CoordinateSearch(moving, fine ? heard : moving.map((_, i) => i), nearest, 1 / (1 + fine))
  }

  /** Begins about the nearest place, or anywhere. */
  private jointly(together: readonly number[], anywhere = false): JointSearch {
    const { moving, restarts, random, nearest, isLarge } = this
    const ranges = together.filter((i) => moving[i]?.steps === 0)
    return new JointSearch(moving, together, nearest, {
      middle: ranges.map((i) => (anywhere ? random.next() : (nearest.place[i] ?? 0.5))),
      spread: anywhere ? WIDE : Math.min(WIDE, NEAR * Math.sqrt(12 / Math.max(1, ranges.length))),
      patience: isLarge ? 10 : 30,
      seed: this.seed + 7919 * restarts,
      // those that follow look at more places at once
      growth: exp2(Math.min(3, restarts / 2)),
      random,
    })
  }
}

/**
 * How far it looks at first, in shares of a range: about the nearest place where there are 12 ranges, with
 * steps as long where there are fewer; and about any other.
 */
const NEAR = 0.12
const WIDE = 0.25

/**
 * Coordinate search (Hooke & Jeeves, *“Direct Search” Solution of Numerical and Statistical Problems*, 1961):
 * tries parameters one after the other, each at some values near and far, with the others where they are
 * best, and goes to the best of these values. A time that is heard is tried over its whole range, and then
 * close by.
 */
class CoordinateSearch implements Stage {
  readonly together = []
  private at = 0
  /** Times at which the parameter whose turn it is has been tried. */
  private turn = 0
  private readonly found: Heard[]

  /**
   * @param order numbers of the parameters
   * @param reach share of the usual distances at which values are tried
   */
  constructor(
    private readonly moving: readonly Moving[],
    order: readonly number[],
    private best: Candidate,
    private readonly reach: number,
  ) {
    this.found = order.map((i) => ({ i, gain: 0, change: 0 }))
  }

  get isDone(): boolean {
    return this.at >= this.found.length
  }

  /** Numbers of the parameters that changed the sound: those that brought it nearest first. */
  get heard(): number[] {
    return this.found
      .filter(({ change }) => change > LEAST_GAIN)
      .sort((a, b) => b.gain - a.gain || b.change - a.change)
      .map(({ i }) => i)
  }

  next(): Place[] {
    const { place, loss } = this.best
    const i = this.found[this.at]?.i ?? 0
    const tries = this.valuesOf(i, place[i] ?? 0).map((x) => place.map((was, k) => (k === i ? x : was)))
    return loss < Infinity ? tries : [[...place], ...tries]
  }

  private valuesOf(i: number, x: number): number[] {
    const steps = this.moving[i]?.steps ?? 0
    if (steps > 0 && steps <= MOST_CHOICES)
      return Array.from({ length: steps }, (_, v) => v).filter((v) => v !== x)
    if (this.turn === 1) return Array.from({ length: SCANNED }, (_, n) => n / (SCANNED - 1))
    const last = steps ? steps - 1 : 1
    const values = (this.turn ? CLOSE : DISTANCES).map((d) => {
      const y = steps ? Math.round(x + d * this.reach * last) : x + d * this.reach
      return Math.min(last, Math.max(0, y))
    })
    return [...new Set(values)].filter((y) => y !== x)
  }

  take(found: readonly Candidate[]): void {
    const [before, tries] =
      this.best.loss < Infinity ? [this.best, found] : [found[0] ?? this.best, found.slice(1)]
    const nearest = tries.reduce((a, b) => (b.loss < a.loss ? b : a), before)
    const gain = before.loss - nearest.loss
    const isNearer = gain > LEAST_GAIN
    this.best = isNearer ? nearest : before
    const of = this.found[this.at]
    if (!of) return
    if (isNearer) of.gain += gain
    of.change = Math.max(of.change, ...tries.map((c) => Math.abs(c.loss - before.loss)))
    const isScanned = this.moving[of.i]?.isTime === true && this.reach === 1 && of.change > SCAN_FROM
    this.turn = isScanned && this.turn < 2 ? this.turn + 1 : 0
    if (this.turn === 0) this.at++
  }
}

/** How far a parameter was heard: dB that it brought the sound nearer, and by which it changes it. */
interface Heard {
  readonly i: number
  gain: number
  change: number
}

/** Where values are tried, in shares of a range. */
const DISTANCES = [-0.3, -0.08, 0.08, 0.3]
/** Values over the whole range of a time, and where it is tried beside the best of them. */
const SCANNED = 64
const CLOSE = [-0.008, -0.004, 0.004, 0.008]
/** dB by which a time must change the sound to be tried over its whole range. */
const SCAN_FROM = 0.3
/** Choices of more values are tried like ranges. */
const MOST_CHOICES = 8
/** dB by which a value must come nearer to be taken: what is not heard stays as it was. */
const LEAST_GAIN = 0.005

/** Where and how parameters are moved together. */
interface JointStart {
  /** Of the ranges, 0…1. */
  readonly middle: readonly number[]
  /** Share of a range. */
  readonly spread: number
  /** Places for each parameter that may come no nearer before it ends. */
  readonly patience: number
  readonly seed: number
  /** Places of a generation, as a multiple of what suits the number of ranges. */
  readonly growth: number
  readonly random: Random
}

/** Moves some parameters together: covariance adaptation for ranges, learnt probabilities for choices. */
class JointSearch implements Stage {
  private readonly cma: CmaEs
  private readonly choices: Choices
  private isFirst: boolean
  /** The least loss, and generations since it fell. */
  private least = Infinity
  private since = 0

  constructor(
    private readonly moving: readonly Moving[],
    readonly together: readonly number[],
    private readonly from: Candidate,
    private readonly start: JointStart,
  ) {
    // without ranges there are choices alone, and points of one dimension that count for nothing
    const middle = start.middle.length ? start.middle : [0.5]
    const size = Math.floor((4 + 3 * log(middle.length)) * start.growth)
    this.cma = new CmaEs({ middle, spread: start.spread, seed: start.seed, size })
    this.choices = new Choices(moving, from.place)
    this.isFirst = from.loss === Infinity
  }

  get isDone(): boolean {
    const { cma, since, together, start } = this
    return cma.isSettled || since > 10 + (start.patience * together.length) / cma.size
  }

  next(): Place[] {
    const { moving, from, together, start } = this
    const places = this.cma.ask().map((point) => {
      const chosen = this.choices.pick(start.random)
      const place = [...from.place]
      let at = 0
      for (const i of together) place[i] = moving[i]?.steps ? (chosen[i] ?? 0) : (point[at++] ?? 0)
      return place
    })
    if (this.isFirst) places[0] = [...from.place]
    this.isFirst = false
    return places
  }

  take(found: readonly Candidate[]): void {
    const losses = found.map((c) => c.loss)
    this.cma.tell(losses)
    this.choices.learn([...found].sort((a, b) => a.loss - b.loss).slice(0, Math.ceil(found.length / 3)))
    const now = Math.min(...losses)
    this.since = now < this.least - SMALL ? 0 : this.since + 1
    this.least = Math.min(this.least, now)
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
