import type { Stereo } from '../contract/audio'
import { Resampler, steep } from '../formats/resample'
import { soundEncoder } from '../formats/sound-encoder'
import { checkBudget } from '../project/budget'
import type { Project } from '../project/schema'
import type { DeliveryFile, Sounds } from './delivery'
import { LevelMeter, type LevelPlan, type RenderFigures, brought, levelPlan } from './level'
import { roundOf } from './print'
import { type Reels, type Wire, recordShare } from './reels'
import { type RenderPlan, planRender, render } from './render'

/** What was measured of a file that was written. */
export interface DeliveredFigures extends RenderFigures {
  readonly seconds: number
  readonly sampleRate: number
  readonly level: LevelPlan
}

/** Frames at most that are kept while a level is found; longer ones are rendered again each time. */
const KEPT_FRAMES = 1 << 24
/** Part of a file’s progress that is its sound, where more is measured behind it. */
const RENDERING = 0.9

/**
 * Makes one file of a delivery: renders it, brings it to its rate and level, and gives its bytes piece by
 * piece with progress 0…1.
 * @param reels tracks that other workers record with {@link recordFor}
 * @returns what was measured of what was written
 * @throws RenderError, BudgetError, AudioFormatError
 */
export async function* deliver(
  file: DeliveryFile,
  sounds: Sounds,
  reels?: Reels,
): AsyncGenerator<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly done: number }, DeliveredFigures> {
  const { order } = file
  const sound = new DeliveredSound(file, sounds, reels)
  const { sampleRate, frames } = sound
  const nothing = new Uint8Array(0)
  let plan: LevelPlan = { gain: 0, ceiling: null, missed: 0 }
  const isPlain = order.level.kind === 'as it is'
  if (!isPlain) {
    const meter = new LevelMeter(sampleRate)
    let at = 0
    for (const piece of sound.whole()) {
      meter.add(piece)
      at += piece[0].length
      if (!piece[0].length) await reels?.more()
      yield { bytes: nothing, done: (RENDERING * at) / frames }
    }
    plan = levelPlan(order.level, sampleRate, meter.figures, () => sound.whole())
  }
  const encoder = await soundEncoder({ format: order.format, depth: order.depth, sampleRate }, frames)
  const meter = new LevelMeter(sampleRate)
  let at = 0
  for (const piece of isPlain ? sound.once() : brought(sound.whole(), plan, sampleRate)) {
    meter.add(piece)
    at += piece[0].length
    if (!piece[0].length) await reels?.more()
    const part = at / frames
    yield {
      bytes: piece[0].length ? await encoder.add(piece) : nothing,
      done: isPlain ? part : RENDERING + (1 - RENDERING) * part,
    }
  }
  yield { bytes: await encoder.end(), done: 1 }
  return { ...meter.figures, seconds: frames / sampleRate, sampleRate, level: plan }
}

/**
 * Records a share of the tracks of a file for the worker that makes it: {@link recordShare}. Folded loops and
 * differences are made by one worker.
 */
export async function recordFor(
  file: DeliveryFile,
  sounds: Sounds,
  which: { readonly share: number; readonly workers: number },
  wire: Wire,
): Promise<void> {
  if (isShared(file)) await recordShare(planOf(file, file.stem.project), sounds, which, wire)
}

const isFolded = ({ order }: DeliveryFile): boolean => order.tail === 'folded'
const isShared = (file: DeliveryFile): boolean => !isFolded(file) && !file.stem.minus

function planOf({ order, range, stem }: DeliveryFile, project: Project): RenderPlan {
  const perBeat = 60 / project.tempo
  const plan = planRender(
    { ...project, loop: { ...project.loop, start: range.start, end: range.end } },
    {
      track: stem.track,
      from: range.start * perBeat,
      to: range.end * perBeat,
      tail: order.tail === 'folded' ? 'auto' : order.tail,
      begin: order.begin,
    },
  )
  checkBudget(plan.project, (plan.lead + plan.frames) / plan.sampleRate)
  return plan
}

/** The sound of a file, at its rate; the same each time it is asked for. */
class DeliveredSound {
  readonly sampleRate: number
  readonly frames: number
  private readonly plan: RenderPlan
  private readonly minus: RenderPlan | null
  private readonly resampler: Resampler
  private kept: Stereo[] | null = null

  constructor(
    private readonly file: DeliveryFile,
    private readonly sounds: Sounds,
    private reels?: Reels,
  ) {
    const { order, stem } = file
    this.plan = planOf(file, stem.project)
    this.minus = stem.minus ? planOf(file, stem.minus) : null
    this.sampleRate = order.rate || this.plan.sampleRate
    this.resampler = new Resampler(this.plan.sampleRate, this.sampleRate, steep)
    this.frames = this.resampler.framesOf(this.isFolded ? this.plan.songFrames : this.plan.frames)
  }

  private get isFolded(): boolean {
    return isFolded(this.file)
  }

  /** All of it, piece by piece, in arrays that stay; kept where it is not too long. */
  *whole(): Generator<Stereo> {
    if (this.kept) return yield* this.kept
    const kept: Stereo[] | null = this.frames <= KEPT_FRAMES ? [] : null
    for (const piece of this.once()) {
      if (piece[0].length) kept?.push(piece)
      yield piece
    }
    this.kept = kept
  }

  /** The same, not kept. */
  *once(): Generator<Stereo> {
    if (this.isFolded) return yield* this.folded()
    const source = this.rendered()
    yield* this.sampleRate === this.plan.sampleRate ? source : converted(source, this.resampler, this.frames)
  }

  private *rendered(): Generator<Stereo> {
    const less = this.minus && piecesOf(this.minus, this.sounds)
    // they are there once: where it is rendered again, all is worked out here
    const reels = isShared(this.file) ? this.reels : undefined
    this.reels = undefined
    for (const piece of piecesOf(this.plan, this.sounds, reels)) {
      const taken = less?.next().value as Stereo | undefined
      if (taken) subtract(piece, taken)
      yield piece
    }
  }

  /** Once round the loop. At another rate it is preceded and followed by itself there too. */
  private *folded(): Generator<Stereo> {
    const round = yield* roundIn(roundOf(this.plan, this.sounds))
    if (this.minus) subtract(round, yield* roundIn(roundOf(this.minus, this.sounds)))
    if (this.sampleRate === this.plan.sampleRate) return yield round
    const [first, end] = this.resampler.reach(0, this.frames)
    yield round.map((side) => {
      const around = Float32Array.from({ length: end - first }, (_, i) => {
        const n = side.length
        return side[(((first + i) % n) + n) % n] ?? 0
      })
      return this.resampler.read(around, first, 0, this.frames)
    }) as unknown as Stereo
  }
}

/** Between two steps of work that gives all at its end: nothing, so that it can be stopped there. */
const nothingYet: Stereo = [new Float32Array(0), new Float32Array(0)]

function* roundIn(work: Generator<unknown, Stereo>): Generator<Stereo, Stereo> {
  for (let step = work.next(); ; step = work.next()) {
    if (step.done) return step.value
    yield nothingYet
  }
}

function subtract(from: Stereo, taken: Stereo): void {
  from.forEach((side, k) => {
    const other = taken[k as 0]
    for (let i = 0; i < side.length; i++) side[i] = (side[i] ?? 0) - (other[i] ?? 0)
  })
}

/** A sound at another rate, piece by piece; silence before and after it. */
function* converted(source: Iterable<Stereo>, resampler: Resampler, frames: number): Generator<Stereo> {
  let held: Stereo = [new Float32Array(0), new Float32Array(0)]
  let start = 0
  let gone = 0
  const given = function* (until: number): Generator<Stereo> {
    if (until <= gone) return
    yield held.map((side) => resampler.read(side, start, gone, until)) as unknown as Stereo
    gone = until
    const needed = Math.max(start, resampler.reach(gone, gone + 1)[0])
    held = held.map((side) => side.slice(needed - start)) as unknown as Stereo
    start = needed
  }
  for (const piece of source) {
    if (!piece[0].length) yield piece
    held = held.map((side, k) => joined(side, piece[k as 0])) as unknown as Stereo
    const there = start + held[0].length
    let until = gone
    while (until < frames && resampler.reach(until, until + STEP)[1] <= there) until += STEP
    yield* given(Math.min(frames, until))
  }
  yield* given(frames)
}

/** Frames of output that are made at a time at least. */
const STEP = 64

function joined(a: Float32Array, b: Float32Array): Float32Array {
  const all = new Float32Array(a.length + b.length)
  all.set(a)
  all.set(b, a.length)
  return all
}

/** A render in arrays that stay. */
function* piecesOf(plan: RenderPlan, sounds: Sounds, reels?: Reels): Generator<Stereo> {
  let at = 0
  for (const { channels, done } of render(plan, sounds, reels)) {
    yield channels.map((c) => c.slice(0, done - at)) as unknown as Stereo
    at = done
  }
}
