import type { SongBlock } from '../contract/block'
import { AlignedInput } from './aligned-input'
import type { FaderStep } from './fader-step'
import { LateSong } from './late-song'
import type { MergeStep } from './merge-step'
import { type KeptSteps, stepAt } from './plan'
import type { SoundStep, Step } from './step'

/** A step on its way into a plan. */
export interface Draft {
  readonly key: string
  readonly step: Step
  /** Whether it was made for this plan and so does not play yet. */
  readonly fresh: boolean
  readonly edges: Edge[]
  /** Samples from its input to its output. */
  readonly latency: number
  /** Samples that its input comes after the song. */
  arrival: number
}

/** A connection from one step to another. */
export interface Edge {
  /** Where it comes from, asked when all steps are there; undefined where there is no such step. */
  readonly from: () => Draft | undefined
  /** The link, effect or modulator that it is part of. */
  readonly id: string
  /** Goes from one track to another. */
  readonly crossing: boolean
  /** Makes the connection as far as that does not change the playing plan. */
  readonly attach: (source: Draft, delay: number) => void
  /** Closes a circle, so it reads the block before. */
  isFeedback: boolean
}

/** A draft together with its step, which keeps its type. */
export interface Made<S extends Step> {
  readonly draft: Draft
  readonly step: S
}

/**
 * The steps of a plan that is being made and how they will be connected. Steps that play already are part of
 * it, and stay as they are: what changes in them waits for {@link exchange}.
 */
export class PlanDraft {
  readonly drafts = new Map<string, Draft>()
  readonly steps = new Map<string, Step>()
  readonly inputs = new Map<string, AlignedInput>()
  readonly songs = new Map<number, LateSong>()
  /** Runs when all connections are known. */
  readonly finishing: (() => void)[] = []
  /** Runs after {@link finishing}. */
  readonly settling: (() => void)[] = []
  /** Changes of playing steps, made when the plan is exchanged. */
  readonly exchange: (() => void)[] = []

  /**
   * New steps that hear what plays, a block at each call, until they have heard enough: each gives whether it
   * wants more.
   */
  readonly rehearsals: (() => boolean)[] = []

  constructor(readonly kept: KeptSteps) {}

  /** The song as it is where sound comes so many frames late: the clock of everything that stands there. */
  songAt(song: SongBlock, late: number): SongBlock {
    if (late <= 0) return song
    const at = this.songs.get(late) ?? this.kept.songs.get(late) ?? new LateSong(song, late)
    this.songs.set(late, at)
    return at.song
  }

  /** A step: the one that plays under this key where it is of that kind and fits, else a new one. */
  add<S extends Step>(
    key: string,
    type: abstract new (...args: never[]) => S,
    fits: (s: S) => boolean,
    make: () => S,
    latency = 0,
  ): Made<S> {
    const old = stepAt(this.kept, key, type)
    const fresh = !(old && fits(old))
    const step = fresh ? make() : old
    const draft: Draft = { key, step, fresh, edges: [], latency, arrival: 0 }
    this.drafts.set(key, draft)
    this.steps.set(key, step)
    return { draft, step }
  }

  /** Changes a step: at once where it does not play yet, else with the exchange. */
  change(draft: Draft, how: () => void): void {
    if (draft.fresh) how()
    else this.exchange.push(how)
  }

  /** Sets a field of a step, where it differs. */
  give<S extends Step, K extends keyof S>(made: Made<S>, name: K, value: S[K]): void {
    if (made.step[name] !== value)
      this.change(made.draft, () => {
        made.step[name] = value
      })
  }

  /** Has a step run after another, of which it reads what it knows already. */
  after(draft: Draft, id: string, from: () => Draft | undefined): void {
    draft.edges.push({ id, from, isFeedback: false, crossing: false, attach: () => {} })
  }

  /** Connects sound from one step to an input of another. `set` must not change the playing plan. */
  connect(
    draft: Draft,
    name: string,
    from: () => Draft | undefined,
    set: (input: AlignedInput) => void,
    o: { crossing?: boolean; id?: string; quiet?: boolean; before?: boolean } = {},
  ): void {
    const key = `${draft.key}<${name}`
    draft.edges.push({
      from,
      isFeedback: false,
      crossing: o.crossing ?? false,
      id: o.id ?? draft.key,
      attach: (source, delay) => {
        const block = o.before ? (source.step as FaderStep).before : (source.step as SoundStep).out
        const old = this.kept.inputs.get(key)
        const same = old && old.source === block && old.delay === delay
        const input = same ? old : new AlignedInput(block, delay)
        if (!same && !source.fresh)
          this.exchange.push(() => {
            input.remember()
          })
        if (!same && !o.quiet && !draft.fresh)
          this.exchange.push(() => {
            draft.step.cut()
          })
        this.inputs.set(key, input)
        set(input)
      },
    })
  }

  /** Connects all that is added up in one place. */
  meet(
    merge: Made<MergeStep>,
    ends: readonly Draft[],
    o: { selects?: boolean; crossing?: boolean } = {},
  ): void {
    const { draft, step } = merge
    const selects = o.selects ?? false
    const inputs: AlignedInput[] = []
    for (const end of ends)
      this.connect(
        draft,
        end.key,
        () => end,
        (i) => {
          inputs.push(i)
        },
        { crossing: o.crossing },
      )
    this.finishing.push(() => {
      const known = step.inputs
      if (selects === step.selects && sameItems(inputs, known)) return
      this.change(draft, () => {
        if (!draft.fresh && (known.length !== inputs.length || selects !== step.selects)) step.cut()
        step.inputs = inputs
        step.selects = selects
      })
    })
  }
}

export const sameItems = <T>(a: readonly T[], b: readonly T[]): boolean =>
  a.length === b.length && a.every((x, i) => x === b[i])
