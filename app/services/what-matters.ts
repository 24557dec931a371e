import type { Distance } from '@oleaje/core/analysis/distance'
import { textHash } from '@oleaje/core/formats/hash'
import type { Project } from '@oleaje/core/project/schema'
import { type Contribution, type Part, partsOf, withoutParts } from '@oleaje/core/search/what-matters'
import type { Excerpt } from '@oleaje/core/search/excerpt'
import { computed as derived, shallowRef } from 'vue'
import { computed } from '../storage/computed'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { Dropped, type WorkerPool } from '../workers/worker-pool'
import { relevant } from './relevant'
import { sentence } from './sentence'
import type { Sounds } from './sounds'
import { soundsHeard } from './sounds-heard'

/** Seconds of sound by which parts are judged. */
const SECONDS = 4
/** Changes where they are judged another way. */
const VERSION = 2

/** What each part of the selected track contributes to its sound: measured in workers when asked. */
export class WhatMatters {
  /** By id of the part. */
  readonly found = shallowRef<ReadonlyMap<string, Contribution>>(new Map())
  /** Share of a core, by id. */
  readonly costs = shallowRef<ReadonlyMap<string, number>>(new Map())
  /** Parts that a run measures; 0 before the first run and after one that was cancelled. */
  readonly count = shallowRef(0)
  readonly running = shallowRef(false)
  readonly said = shallowRef('')
  /** What leaving out all idle parts would change, once that is measured. */
  readonly offered = shallowRef<{ readonly parts: readonly Part[]; readonly change: Distance } | null>(null)
  private of: { readonly project: Project; readonly track: string; readonly excerpt: Excerpt } | null = null
  private runs = 0

  /** Whether there are figures, and of the project as it is. */
  readonly isCurrent = derived(() => this.found.value.size > 0 && this.isOfProject)
  private readonly measured = shallowRef<{ readonly project: Project; readonly track: string } | null>(null)

  readonly idle = derived(() => [...this.found.value.values()].filter((c) => c.isIdle))

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
    private readonly pool: WorkerPool,
    private readonly sounds: Sounds,
  ) {}

  /** Whether the run is one of the project as it is, even if it has found nothing yet. */
  get isOfProject(): boolean {
    const { project } = this.doc
    const { value } = this.measured
    return project !== null && value?.project === project && value.track === this.stores.selection.track?.id
  }

  /** Measures all parts of the selected track; what is known of the same chain is not measured again. */
  async run(): Promise<void> {
    this.cancel()
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track) return
    const run = ++this.runs
    const isWanted = (): boolean => run === this.runs
    const parts = partsOf(project, track.id)
    this.found.value = new Map()
    this.offered.value = null
    this.count.value = parts.length
    this.said.value = parts.length ? '' : 'This track has no effects, links or modulators.'
    if (parts.length === 0) return
    this.running.value = true
    this.measured.value = { project, track: track.id }
    try {
      await this.sounds.there
      const text = JSON.stringify(relevant(project, track.id))
      const sounds = this.sounds.named(soundsHeard(project, track.id))
      const key = `matters ${VERSION} ${SECONDS} ${sounds.length} ${await textHash(text)}`
      const { excerpt, costs } = await computed(key, () =>
        this.pool.run((call) => call.excerptOf(JSON.parse(text) as Project, sounds, track.id, SECONDS)),
      )
      if (!isWanted()) return
      this.of = { project, track: track.id, excerpt }
      this.costs.value = costs
      const take = (c: Contribution): void => {
        if (isWanted()) this.found.value = new Map([...this.found.value, [c.id, c]])
      }
      await Promise.all(
        shared(parts, this.pool.size).map(async (some, n) => {
          const all = await computed(`${key} ${n} of ${this.pool.size}`, () =>
            this.pool.run((call) =>
              call.contributions(JSON.parse(text) as Project, sounds, track.id, excerpt, some, take),
            ),
          )
          for (const c of all) take(c)
        }),
      )
    } catch (error) {
      if (isWanted() && !(error instanceof Dropped)) this.said.value = sentence(error)
    } finally {
      if (isWanted()) this.running.value = false
    }
  }

  /** Stops measuring; the figures that are there stay. */
  cancel(): void {
    this.runs++
    if (this.running.value) this.pool.cancel()
    this.running.value = false
    this.count.value = 0
  }

  /** Works out what changes without the idle parts, before anything is done. */
  async offerRemoval(): Promise<void> {
    const { of } = this
    const parts = this.idle.value.map(({ id, kind }): Part => ({ id, kind }))
    if (!of || parts.length === 0 || !this.isCurrent.value) return
    const run = this.runs
    try {
      const text = JSON.stringify(relevant(of.project, of.track))
      const sounds = this.sounds.named(soundsHeard(of.project, of.track))
      const change = await this.pool.run((call) =>
        call.withoutAll(JSON.parse(text) as Project, sounds, of.track, of.excerpt, parts),
      )
      if (run === this.runs) this.offered.value = { parts, change }
    } catch (error) {
      if (!(error instanceof Dropped)) this.said.value = sentence(error)
    }
  }

  /** Leaves out what was offered, as one step of the history. */
  removeIdle(): void {
    const offered = this.offered.value
    if (!offered || !this.isCurrent.value) return
    const count = offered.parts.length
    this.doc.edit(
      count === 1 ? 'Remove an idle part' : `Remove ${count} idle parts`,
      withoutParts(offered.parts),
    )
    this.offered.value = null
    void this.run()
  }

  /** Another project is open. */
  forget(): void {
    this.cancel()
    this.found.value = new Map()
    this.offered.value = null
    this.measured.value = null
    this.of = null
    this.said.value = ''
  }
}

/** A list in so many parts, neighbours apart, so that each has as many late effects as early ones. */
const shared = <T>(all: readonly T[], parts: number): T[][] =>
  Array.from({ length: Math.min(parts, all.length) }, (_, n) => all.filter((_, i) => i % parts === n))
