import { textHash } from '@oleaje/core/formats/hash'
import { type Edit, apply, together } from '@oleaje/core/project/edit'
import { newEffect, newId, newSource } from '@oleaje/core/project/new'
import { listensTo, presetOfTrack } from '@oleaje/core/project/preset'
import { AUDITION_LEVEL } from '@oleaje/core/project/replace-chain'
import type { Project } from '@oleaje/core/project/schema'
import { heardChain, trackOf } from '@oleaje/core/project/walk'
import { soundsOf, sourceDefinition } from '@oleaje/core/sources/index'
import {
  type Variant,
  bred,
  diceVariants,
  differenceInWords,
  morphVariants,
  orderVariants,
  presetVariants,
  snapshotVariants,
  sourceVariants,
} from '@oleaje/core/variation/variants'
import { shallowRef } from 'vue'
import { computed } from '../storage/computed'
import type { Shipped } from '../storage/shipped'
import type { Stores } from '../stores/index'
import { tabPreference } from '../stores/preference'
import type { useDocument } from '../stores/document'
import type { TriedOut } from '../workers/heavy'
import { Dropped, type WorkerPool } from '../workers/worker-pool'
import type { Audition } from './audition'
import type { Dice } from './dice'
import { sentence } from './sentence'
import type { Shelf } from './shelf'
import type { ShelfEntries } from './shelf-entries'
import { type Sounds, refOf } from './sounds'

/** Seconds of each card, and cards at most. */
const CARD_SECONDS = 8
export const MOST_CARDS = 24
/** Seconds that are rendered so that the code of the workers is compiled. */
const WARM_SECONDS = 0.5
/** Changes where cards are measured another way. */
const VERSION = 1

export const tryOutKinds = [
  { value: 'dice', text: 'Throws of the dice' },
  { value: 'sources', text: 'Other sounds' },
  { value: 'shipped', text: 'Shipped chains' },
  { value: 'snapshots', text: 'Snapshots' },
  { value: 'morph', text: 'Places of a morph' },
  { value: 'orders', text: 'Orders of effects' },
] as const
export type TryOutKind = (typeof tryOutKinds)[number]['value']

/** One variant on the sheet. */
export interface Card {
  readonly id: string
  readonly name: string
  readonly edit: Edit
  /** The project with the variant in it. */
  readonly project: Project
  /** What differs from the first card. */
  readonly words: string
  /** What was measured; null while it is computed. */
  readonly result: TriedOut | null
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
    private readonly ships: Shipped,
    private readonly entries: ShelfEntries,
    private readonly shelf: Shelf,
    private readonly dice: Dice,
    private readonly audition: Audition,
  ) {}

  /** Makes a new sheet. */
  async run(kind: TryOutKind, count: number, seed = Math.floor(Math.random() * 0xffffffff)): Promise<void> {
    // workers that are being warmed go on
    if (this.running.value) this.cancel()
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track) return
    this.last.value = { project: project.id, track: track.id, kind, count, seed }
    const run = ++this.runs
    this.running.value = true
    this.said.value = ''
    try {
      const variants = (await this.variantsOf(kind, project, track.id, count, seed)).slice(0, MOST_CARDS)
      if (run !== this.runs) return
      this.of = { project, track: track.id }
      const blank: Card = { id: '', name: '', edit: () => {}, project, words: '', result: null, failed: '' }
      this.cards.value = []
      if (variants.length < 2) this.said.value = nothingToTry[kind]
      const work: Promise<void>[] = []
      for (const v of variants) {
        // a card with each turn: the page goes on meanwhile
        await new Promise((resolve) => setTimeout(resolve))
        if (run !== this.runs) return
        const next = apply(project, v.edit).next
        const words = differenceInWords(project, next, track.id)
        const card: Card = { ...blank, ...v, id: newId(), project: next, words }
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

  /** Makes the sheet again that was made last of the selected track; what was computed is kept. */
  reopen(): void {
    const { last } = this
    const { track } = this.stores.selection
    if (this.cards.value.length || !track) return
    const { project, kind, count, seed } = last.value
    if (project === this.doc.project?.id && last.value.track === track.id) void this.run(kind, count, seed)
  }

  /** Has the workers ready before the first sheet is asked for. */
  warm(): void {
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track) return
    const text = JSON.stringify(relevant(project, track.id))
    for (let i = 0; i < this.pool.size; i++)
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
  }

  private async variantsOf(
    kind: TryOutKind,
    project: Project,
    id: string,
    count: number,
    seed: number,
  ): Promise<Variant[]> {
    const track = trackOf(project, id)
    if (!track) return []
    switch (kind) {
      case 'dice':
        return diceVariants(id, count, seed, this.dice.amount.value, this.dice.kinds.value)
      case 'orders':
        return orderVariants(project, id, count, seed)
      case 'snapshots':
        return snapshotVariants(track)
      case 'morph':
        return morphVariants(track, count)
      case 'shipped': {
        await this.entries.open()
        const all = this.entries.all.value.filter((e) => e.shipped)
        const first = all.length ? seed % all.length : 0
        return presetVariants(
          id,
          Array.from(
            { length: Math.min(count - 1, all.length) },
            (_, i) => all[(first + 7 * i) % all.length]?.preset,
          ).filter((p) => p !== undefined),
        )
      }
      case 'sources':
        return sourceVariants(id, await this.otherSources(project, id, count - 1))
    }
  }

  /** Sources of the other tracks, then shipped sounds. */
  private async otherSources(project: Project, id: string, count: number) {
    const own = project.tracks
      .filter(
        (t) =>
          t.id !== id && t.source && !sourceDefinition(t.source.type)?.device && t.source.type !== 'track',
      )
      .flatMap((t) => (t.source ? [{ name: t.name, source: t.source, audio: {} as Project['audio'] }] : []))
    const known = new Set([...own.flatMap((s) => soundsOf(s.source)), trackOf(project, id)?.source?.audio])
    const { sounds } = await this.ships.catalogue()
    const more = sounds.filter((s) => !known.has(s.hash)).slice(0, Math.max(0, count - own.length))
    const shipped = await Promise.all(
      more.map(async ({ title, hash }) => {
        const sound = await this.sounds.takeShipped(hash)
        return {
          name: title,
          source: newSource('loop', { tempo: 96 }, hash),
          audio: { [hash]: refOf(title, sound) },
        }
      }),
    )
    return [...own, ...shipped].slice(0, count)
  }

  private async compute(card: Card, track: string, run: number): Promise<void> {
    try {
      const text = JSON.stringify(relevant(card.project, track))
      const result = await computed(
        `try-out ${VERSION} ${CARD_SECONDS} ${await textHash(unnamed(text))}`,
        () =>
          this.pool.run((call) => {
            const project = JSON.parse(text) as Project
            return call.tryOut(project, this.sounds.named(soundsHeard(project, track)), track, CARD_SECONDS)
          }),
      )
      if (run === this.runs) this.change(card.id, { result })
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

  /** Adds a child of two cards: the structure of the first, each parameter from one of them. */
  async breed(a: Card, b: Card): Promise<void> {
    const { of } = this
    if (!of || this.cards.value.length >= MOST_CARDS) return
    const edit = together(bred(of.project, of.track, a.edit, b.edit, Math.floor(Math.random() * 0xffffffff)))
    const project = apply(of.project, edit).next
    const card: Card = {
      id: newId(),
      name: `${a.name} × ${b.name}`.slice(0, 60),
      edit,
      project,
      words: differenceInWords(of.project, project, of.track),
      result: null,
      failed: '',
    }
    this.cards.value = [...this.cards.value, card]
    await this.compute(card, of.track, this.runs)
  }

  /** Keeps the chain of a card on the shelf. */
  async keep(card: Card): Promise<void> {
    const preset = this.of && presetOfTrack(card.project, this.of.track, card.name)
    if (preset) await this.shelf.keep(preset)
    this.said.value = `“${card.name}” is on the shelf.`
  }

  /** Another project is open. */
  forget(): void {
    this.cancel()
    this.cards.value = []
    this.of = null
    this.said.value = ''
  }
}

const nothingToTry: Readonly<Record<TryOutKind, string>> = {
  dice: 'Nothing may change. Turn on at least one kind in the dice (Shift+X).',
  sources: 'There are no other sounds to try.',
  shipped: 'The shipped chains could not be loaded.',
  snapshots: 'This track has no snapshots. Shift+1 to Shift+9 store some.',
  morph: 'This track has no morph. Add one under Modulators.',
  orders: 'This chain has no two effects to swap.',
}

/** Sounds that one track needs: its own, those of its effects, and those of tracks that it listens to. */
function soundsHeard(p: Project, track: string): Set<string> {
  const preset = presetOfTrack(p, track)
  const tracks = new Set([track, ...(preset ? listensTo(preset) : [])])
  return new Set([
    ...p.tracks
      .filter((t) => tracks.has(t.id) && t.source)
      .flatMap((t) => (t.source ? soundsOf(t.source) : [])),
    ...Object.keys(preset?.audio ?? {}),
  ])
}

/** A project’s text with numbers for ids: what is inserted twice has other ids and sounds the same. */
function unnamed(text: string): string {
  const ids = new Map<string, number>()
  for (const [, id = ''] of text.matchAll(/"id":"([^"]+)"/g)) if (!ids.has(id)) ids.set(id, ids.size)
  return text.replace(/"([A-Za-z0-9_-]{1,40})(\.[^"]*)?"/g, (whole, id: string, rest = '') =>
    ids.has(id) ? `"#${ids.get(id)}${rest}"` : whole,
  )
}

/** What of a project a card follows from. */
const relevant = (p: Project, track: string): Project => ({
  ...p,
  id: 'try-out',
  name: '',
  snapshots: [],
  sections: [],
  controls: [],
  tracks: p.tracks.map((t) => ({ ...t, takes: undefined, name: t.id === track ? '' : t.name })),
})
