import type { Distance } from '@oleaje/core/analysis/distance'
import type { Edit } from '@oleaje/core/project/edit'
import type { Project } from '@oleaje/core/project/schema'
import { SNAPSHOTS, takeSnapshot } from '@oleaje/core/project/snapshots'
import { trackOf } from '@oleaje/core/project/walk'
import {
  type MatchKind,
  type Moving,
  type Place,
  atBorder,
  goTo,
  movable,
  movingName,
  placeOf,
} from '@oleaje/core/search/match'
import { type Candidate, MatchSearch } from '@oleaje/core/search/match-search'
import { shallowRef } from 'vue'
import { preference } from '../stores/preference'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { HeavyWorker } from '../workers/heavy-worker'
import type { MatchReference } from '../workers/match-work'
import { relevant } from './relevant'
import { sentence } from './sentence'
import type { Sounds } from './sounds'
import { soundsHeard } from './sounds-heard'
import type { TryOuts } from './try-outs'

/** Seconds of sound that are compared, and parameters that are moved together at most. */
const EXCERPT_SECONDS = 3
const MOST_MOVING = 12
/** Workers at most: each has the sounds and a recording of the chain in memory. */
const MOST_WORKERS = 8
/** Snapshots that are kept of a search at most. */
const MOST_SNAPSHOTS = 4

/** How far a search is. */
export interface MatchProgress {
  readonly evaluations: number
  /** Distance at the start, in dB. */
  readonly start: number
  readonly best: readonly Candidate[]
  /** Tries, and the least distance after each generation. */
  readonly history: readonly (readonly [number, number])[]
  /** Names of the parameters that are moved together; none while they are moved one by one. */
  readonly moving: readonly string[]
}

/** Figures and remarks on the nearest state. */
export interface MatchFindings {
  readonly distance: Distance
  readonly atBorder: readonly string[]
  readonly outOfReach: readonly string[]
}

/** What a search is about. */
interface Searched {
  readonly project: Project
  readonly track: string
  /** All parameters that may be moved. */
  readonly moving: readonly Moving[]
}

/** Steers the chain of the selected track towards a reference, in workers; shown as cards. */
export class Matching {
  /** The sound of a file, or a track of this project. */
  readonly reference = shallowRef<{ readonly name: string; readonly of: MatchReference } | null>(null)
  readonly kind = preference<MatchKind>('match-kind', 'texture')
  readonly seconds = preference('match-seconds', 60)
  readonly state = shallowRef<'idle' | 'running' | 'paused'>('idle')
  readonly progress = shallowRef<MatchProgress | null>(null)
  readonly findings = shallowRef<MatchFindings | null>(null)
  readonly said = shallowRef('')
  private of: Searched | null = null
  private workers: HeavyWorker[] = []
  private runs = 0
  private goOn: () => void = () => {}

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
    private readonly sounds: Sounds,
    private readonly tryOuts: TryOuts,
  ) {}

  /** Takes a sound file as the reference. */
  async take(file: File): Promise<void> {
    try {
      const read = await this.sounds.readFile(file)
      if (!read) return
      if (read.sound.long)
        this.said.value = 'This sound is too long for a reference. Use a few seconds of it.'
      else this.reference.value = { name: read.ref.name, of: { sound: read.sound } }
    } catch (error) {
      this.said.value = `${file.name} could not be read: ${sentence(error)}`
    }
  }

  /** Begins a search from the chain as it is. */
  async start(seed = 1): Promise<void> {
    const { project } = this.doc
    const { track } = this.stores.selection
    const reference = this.reference.value
    if (!project || !track || !reference || this.state.value !== 'idle') return
    const run = ++this.runs
    this.said.value = ''
    this.findings.value = null
    this.progress.value = null
    this.state.value = 'running'
    try {
      await this.sounds.there
      const moving = movable(project, track.id)
      const search = new MatchSearch(moving, placeOf(project, moving), seed, MOST_MOVING)
      this.of = { project, track: track.id, moving }
      await this.begin(this.of, reference.of)
      if (run !== this.runs) return
      await this.search(search, run)
      if (run === this.runs) await this.end()
    } catch (error) {
      if (run !== this.runs) return
      this.said.value = sentence(error)
      this.dismiss()
    }
  }

  /** Makes the workers. */
  private async begin({ project, track, moving }: Searched, reference: MatchReference): Promise<void> {
    const count = Math.min(MOST_WORKERS, Math.max(1, navigator.hardwareConcurrency || 1))
    this.workers = Array.from({ length: count }, () => new HeavyWorker())
    const heard = new Set([
      ...soundsHeard(project, track),
      ...('track' in reference ? soundsHeard(project, reference.track) : []),
    ])
    const text = JSON.stringify(relevant(project, track))
    const { kind } = this
    await Promise.all(
      this.workers.map(({ call }) =>
        call.beginMatch(
          JSON.parse(text) as Project,
          this.sounds.named(heard),
          track,
          EXCERPT_SECONDS,
          reference,
          kind.value,
          moving,
        ),
      ),
    )
  }

  /** Losses of places: each worker takes the next one as soon as it is free. */
  private async judged(places: readonly Place[]): Promise<number[]> {
    const losses: number[] = []
    let next = 0
    await Promise.all(
      this.workers.map(async ({ call }) => {
        while (next < places.length) {
          const n = next++
          losses[n] = await call.matchLoss(places[n] ?? [])
        }
      }),
    )
    return losses
  }

  private async search(search: MatchSearch, run: number): Promise<void> {
    let left = this.seconds.value * 1000
    while (left > 0 && run === this.runs) {
      const began = performance.now()
      const losses = await this.judged(search.next())
      if (run !== this.runs) return
      search.take(losses)
      left -= performance.now() - began
      this.show(search, losses[0] ?? 0)
      if (this.state.value === 'paused') {
        await this.tell()
        await new Promise<void>((resolve) => {
          this.goOn = resolve
        })
      }
    }
  }

  /** @param first loss of the first place that was judged last: at first, of the chain as it is */
  private show({ state }: MatchSearch, first: number): void {
    const { of } = this
    if (!of) return
    const { evaluations, best, moving } = state
    const { start, history } = this.progress.value ?? { start: first, history: [[0, first] as const] }
    this.progress.value = {
      start,
      evaluations,
      best,
      history: [...history, [evaluations, best[0]?.loss ?? start]],
      moving: moving.map((m) => movingName(of.project, m)),
    }
  }

  /** Shows the best as cards, and what is to be said of the nearest. */
  private async tell(): Promise<void> {
    const { of, progress } = this
    const best = progress.value?.best ?? []
    const [nearest] = best
    const [worker] = this.workers
    if (!of || !nearest || !worker) return
    const { distance, outOfReach } = await worker.call.matchParts(nearest.place)
    this.findings.value = {
      distance,
      outOfReach,
      atBorder: atBorder(of.moving, nearest.place, placeOf(of.project, of.moving)).map((m) =>
        movingName(of.project, m),
      ),
    }
    this.showCards()
  }

  private showCards(): void {
    const { of } = this
    if (!of) return
    this.tryOuts.show(
      of.project,
      of.track,
      (this.progress.value?.best ?? []).map(({ place, loss }, n) => ({
        name: `Match ${n + 1}, ${loss.toFixed(1)} dB away`,
        edit: goTo(of.moving, place),
      })),
    )
  }

  pause(): void {
    if (this.state.value === 'running') this.state.value = 'paused'
  }

  resume(): void {
    if (this.state.value !== 'paused') return
    this.state.value = 'running'
    this.goOn()
  }

  /** Ends the search; the best so far is shown. */
  async stop(): Promise<void> {
    if (this.state.value === 'idle') return
    this.runs++
    this.goOn()
    await this.end()
  }

  private async end(): Promise<void> {
    try {
      await this.tell()
    } catch (error) {
      this.said.value = sentence(error)
    }
    this.dismiss()
  }

  private dismiss(): void {
    for (const worker of this.workers) worker.end()
    this.workers = []
    this.state.value = 'idle'
  }

  /** Keeps the best states as snapshots of the track, to morph between; one step of the history. */
  keepAsSnapshots(): void {
    const { of } = this
    const best = this.progress.value?.best ?? []
    const track = of && trackOf(of.project, of.track)
    if (!of || !track || best.length === 0) return
    if (this.doc.project !== of.project) {
      this.said.value = 'The project has changed since this search. Run it again.'
      return
    }
    const taken = new Set(track.snapshots.map((s) => s.id))
    const free = Array.from({ length: SNAPSHOTS }, (_, i) => i + 1).filter((n) => !taken.has(String(n)))
    const start = placeOf(of.project, of.moving)
    const kept = best.slice(0, Math.min(MOST_SNAPSHOTS, free.length))
    const edit: Edit = (p) => {
      for (const [n, { place }] of kept.entries()) {
        goTo(of.moving, place)(p)
        takeSnapshot(of.track, free[n] ?? 0, `Match ${n + 1}`)(p)
      }
      goTo(of.moving, start)(p)
    }
    this.doc.edit('Keep matches as snapshots', edit)
    // the cards are of the project as it is now
    if (this.doc.project) this.of = { ...of, project: this.doc.project }
    this.showCards()
    this.said.value = kept.length
      ? `${kept.length} snapshots were added to ${track.name}.`
      : 'All snapshots of this track are taken. Remove some first.'
  }

  /** Another project is open. */
  forget(): void {
    this.runs++
    this.goOn()
    this.dismiss()
    this.progress.value = null
    this.findings.value = null
    this.reference.value = null
    this.of = null
    this.said.value = ''
  }
}
