import { textHash } from '@oleaje/core/formats/hash'
import { type Edit, apply, together } from '@oleaje/core/project/edit'
import { newEffect, newId } from '@oleaje/core/project/new'
import { presetOfTrack } from '@oleaje/core/project/preset'
import { AUDITION_LEVEL } from '@oleaje/core/project/replace-chain'
import type { Project } from '@oleaje/core/project/schema'
import type { Stem } from '@oleaje/core/render/stems'
import { heardChain, trackOf } from '@oleaje/core/project/walk'
import { type Variant, asItIs, bred, differenceInWords } from '@oleaje/core/variation/variants'
import { shallowRef } from 'vue'
import { computed } from '../storage/computed'
import type { Stores } from '../stores/index'
import { tabPreference } from '../stores/preference'
import type { useDocument } from '../stores/document'
import type { TriedOut } from '../workers/trial-work'
import { Dropped, type WorkerPool } from '../workers/worker-pool'
import type { Audition } from './audition'
import { relevant } from './relevant'
import { sentence } from './sentence'
import { soundsHeard } from './sounds-heard'
import type { Shelf } from './shelf'
import type { Sounds } from './sounds'
import { type TryOutKind, type TryOutVariants, nothingToTry } from './try-out-variants'

/** Seconds of each card, and cards at most. */
const CARD_SECONDS = 8
export const MOST_CARDS = 24
/** Seconds that are rendered so that the code of the workers is compiled. */
const WARM_SECONDS = 0.5
/** Changes where cards are measured another way. */
const VERSION = 1

/** One variant on the sheet. */
export interface Card {
  readonly id: string
  readonly name: string
  readonly edit: Edit
  /** The project with the variant in it. */
  readonly project: Project
  /** What differs from the first card. */
  readonly words: string
  /** What was measured; null before the first part is computed. */
  readonly result: TriedOut | null
  /** Whether all of it is computed. */
  readonly isWhole: boolean
  /** Whether its chain was put on the shelf. */
  readonly isKept: boolean
  /** Why it could not be computed. */
  readonly failed: string
}

/** A sheet of variants of one track: computed beside the page, heard in time with the song, applied. */
export class TryOuts {
  readonly cards = shallowRef<readonly Card[]>([])
  readonly running = shallowRef(false)
  /** What cannot be tried out, in a sentence. */
  readonly said = shallowRef('')
  /** The project and the track that the sheet was made of. */
  private of: { readonly project: Project; readonly track: string } | null = null
  private runs = 0
  /** The sheet that was made last in this tab: it is there again when the view is opened. */
  private readonly last = tabPreference('try-outs', {
    project: '',
    track: '',
    kind: 'dice' as TryOutKind,
    count: 12,
    seed: 0,
  })

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
    private readonly pool: WorkerPool,
    private readonly sounds: Sounds,
    private readonly variants: TryOutVariants,
    private readonly shelf: Shelf,
    private readonly audition: Audition,
  ) {}

  /** Makes a new sheet. */
  async run(kind: TryOutKind, count: number, seed = Math.floor(Math.random() * 0xffffffff)): Promise<void> {
    // workers at the first card go on
    if (this.running.value) this.cancel()
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track) return
    this.last.value = { project: project.id, track: track.id, kind, count, seed }
    const run = ++this.runs
    this.running.value = true
    this.said.value = ''
    try {
      const variants = (await this.variants.of(kind, project, track.id, count, seed)).slice(0, MOST_CARDS)
      if (run !== this.runs) return
      this.of = { project, track: track.id }
      this.cards.value = []
      if (variants.length < 2) this.said.value = nothingToTry[kind]
      const work: Promise<void>[] = []
      for (const v of variants) {
        // a card with each turn: the page goes on meanwhile
        await new Promise((resolve) => setTimeout(resolve))
        if (run !== this.runs) return
        const card = cardOf(v, project, track.id)
        this.cards.value = [...this.cards.value, card]
        work.push(this.compute(card, track.id, run))
      }
      await Promise.all(work)
    } catch (error) {
      if (run === this.runs) this.said.value = `The try-outs could not be made: ${sentence(error)}`
    } finally {
      if (run === this.runs) this.running.value = false
    }
  }

  /**
   * Shows the sheet that was made last of the selected track, which is kept; or the track as it is, which is
   * the first card of most sheets. The workers are ready then before a sheet is asked for.
   */
  async begin(): Promise<void> {
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track || this.running.value || this.cards.value.length > 1) return
    const { last } = this
    if (project.id === last.value.project && last.value.track === track.id)
      return this.run(last.value.kind, last.value.count, last.value.seed)
    if (this.of?.project === project && this.of.track === track.id) return
    this.of = { project, track: track.id }
    const card = cardOf(asItIs, project, track.id)
    this.cards.value = [card]
    const work = this.compute(card, track.id, this.runs)
    const text = JSON.stringify(relevant(project, track.id))
    for (let i = 1; i < this.pool.size; i++)
      void this.pool
        .run((call) =>
          call.tryOut(
            JSON.parse(text) as Project,
            this.sounds.named(soundsHeard(project, track.id)),
            track.id,
            WARM_SECONDS,
          ),
        )
        .catch(() => {})
    await work
  }

  private async compute(card: Card, track: string, run: number): Promise<void> {
    try {
      await this.sounds.there
      const text = JSON.stringify(relevant(card.project, track))
      const heard = soundsHeard(card.project, track)
      const there = this.sounds.named(heard)
      // without one of its sounds it is another card
      const missing = heard.size - there.length
      const result = await computed(
        `try-out ${VERSION} ${CARD_SECONDS} ${missing} ${await textHash(unnamed(text))}`,
        () =>
          this.pool.run((call) =>
            call.tryOut(JSON.parse(text) as Project, there, track, CARD_SECONDS, (part) => {
              if (run === this.runs) this.change(card.id, { result: part })
            }),
          ),
      )
      if (run === this.runs) this.change(card.id, { result, isWhole: true })
    } catch (error) {
      if (run === this.runs && !(error instanceof Dropped)) this.change(card.id, { failed: sentence(error) })
    }
  }

  private change(id: string, to: Partial<Card>): void {
    this.cards.value = this.cards.value.map((c) => (c.id === id ? { ...c, ...to } : c))
  }

  /** Stops what is being computed; cards that are there stay. */
  cancel(): void {
    this.runs++
    this.pool.cancel()
    this.running.value = false
  }

  /** Lets a card be heard in time with the song, as loud as the first. */
  play(card: Card): void {
    const { of } = this
    if (!of || this.doc.project !== of.project) return this.stale()
    const first = this.cards.value[0]?.result?.figures.loudness
    const own = card.result?.figures.loudness
    const level =
      first !== undefined && own !== undefined && own > -70 ? Math.max(-24, Math.min(24, first - own)) : 0
    const next = apply(card.project, (p) => {
      const t = trackOf(p, of.track)
      if (t) heardChain(t).nodes.push(newEffect('gain', { level }, AUDITION_LEVEL))
    }).next
    this.audition.beginState(card.id, next)
  }

  private stale(): void {
    this.said.value = 'The project has changed since this sheet was made. Run it again.'
  }

  /** Makes a card the state of the track, as one step of the history. False where the project has changed. */
  apply(card: Card): boolean {
    const { of } = this
    if (!of || this.doc.project !== of.project) {
      this.stale()
      return false
    }
    this.audition.end()
    this.doc.edit(`Apply try-out ${card.name}`, card.edit)
    void this.sounds.bring()
    return true
  }

  discard(card: Card): void {
    if (this.audition.heard.value === card.id) this.audition.end()
    this.cards.value = this.cards.value.filter((c) => c !== card)
  }

  /** Makes a sheet of variants that come from elsewhere, after the track as it is. */
  show(project: Project, track: string, variants: readonly Variant[]): void {
    if (this.running.value) this.cancel()
    const run = ++this.runs
    this.of = { project, track }
    this.said.value = ''
    const cards = [asItIs, ...variants].map((v) => cardOf(v, project, track))
    this.cards.value = cards
    for (const card of cards) void this.compute(card, track, run)
  }

  /** Adds a child of two cards: the structure of the first, each parameter from one of them. */
  async breed(a: Card, b: Card): Promise<void> {
    const { of } = this
    if (!of || this.cards.value.length >= MOST_CARDS) return
    const edit = together(bred(of.project, of.track, a.edit, b.edit, Math.floor(Math.random() * 0xffffffff)))
    const card = cardOf({ name: `${a.name} × ${b.name}`.slice(0, 60), edit }, of.project, of.track)
    this.cards.value = [...this.cards.value, card]
    await this.compute(card, of.track, this.runs)
  }

  /** Keeps the chain of a card on the shelf. */
  async keep(card: Card): Promise<void> {
    const preset = this.of && presetOfTrack(card.project, this.of.track, card.name)
    if (preset) await this.shelf.keep(preset)
    this.change(card.id, { isKept: true })
    this.said.value = `“${card.name}” is on the shelf.`
  }

  /** The cards that were kept, to be rendered. */
  keptStems(): Stem[] {
    const track = this.of?.track
    return this.cards.value.flatMap((c) => (c.isKept ? [{ name: c.name, project: c.project, track }] : []))
  }

  /** Another project is open. */
  forget(): void {
    this.cancel()
    this.cards.value = []
    this.variants.forget()
    this.of = null
    this.said.value = ''
  }
}

/** A card that is not computed yet. */
function cardOf(variant: Variant, of: Project, track: string): Card {
  const project = apply(of, variant.edit).next
  const words = differenceInWords(of, project, track)
  return { ...variant, id: newId(), project, words, result: null, isWhole: false, isKept: false, failed: '' }
}

/** A project’s text with numbers for ids: what is inserted twice has other ids and sounds the same. */
function unnamed(text: string): string {
  const ids = new Map<string, number>()
  for (const [, id = ''] of text.matchAll(/"id":"([^"]+)"/g)) if (!ids.has(id)) ids.set(id, ids.size)
  return text.replace(/"([A-Za-z0-9_-]{1,40})(\.[^"]*)?"/g, (whole, id: string, rest = '') =>
    ids.has(id) ? `"#${ids.get(id)}${rest}"` : whole,
  )
}
