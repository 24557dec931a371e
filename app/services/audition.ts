import { type Change, apply, changeTo } from '@oleaje/core/project/edit'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Preset } from '@oleaje/core/project/preset'
import { AUDITION_LEVEL, auditioned } from '@oleaje/core/project/replace-chain'
import type { Project } from '@oleaje/core/project/schema'
import { shallowRef } from 'vue'
import type { EngineHost } from '../audio/host'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import type { Shelf } from './shelf'
import type { TransportService } from './transport'

/** Longest wait for the next beat, or the next fraction of one, in seconds. */
const MOST_WAIT = 0.2
/** Time in ms in which the level may be measured before the sound begins. */
const MEASURE_MS = 90
/** Level in dB until it is known: nothing begins too loud. */
const UNKNOWN = -6
/** Seconds of sound whose loudness is compared. */
const MEASURED_SECONDS = 2

/**
 * The next beat, or the next half, quarter … of one where a whole one would be too long to wait.
 * @returns beats
 */
export function nextBeat(beat: number, tempo: number): number {
  let step = 1
  while ((step * 60) / tempo > MOST_WAIT) step /= 2
  return Math.ceil(beat / step + 1e-6) * step
}

/**
 * Lets a preset be heard on the selected track in place of its chain. Only the engine plays another project
 * than the document: nothing is written until it is taken.
 */
export class Audition {
  /** Id of what is heard; empty for none. */
  readonly heard = shallowRef('')
  /** Level in dB by which it is matched to the dry sound. */
  readonly level = shallowRef(0)
  /** The project that the engine plays meanwhile. */
  private played: Project | null = null
  private hasStarted = false
  /** Beat at which it begins; undefined for at once. */
  private beat: number | undefined
  private asked = 0
  /** Levels that were measured, by what is heard and on what. */
  private readonly levels = new Map<string, number>()

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'monitoring' | 'selection'>,
    private readonly host: EngineHost,
    /** A worker of its own, which never has others to wait for. */
    private readonly worker: HeavyWorker,
    private readonly shelf: Pick<Shelf, 'soundsFor'>,
    private readonly transport: TransportService,
  ) {
    transport.instead = () => this.played
  }

  /** Plays a preset from the next beat, as loud as the dry sound. The one before ends with it. */
  async begin(id: string, preset: Preset): Promise<void> {
    const { doc, stores } = this
    const mine = ++this.asked
    const { project } = doc
    const { track } = stores.selection
    if (!project || !track) return
    this.heard.value = id
    const key = `${id} ${track.id} ${JSON.stringify(track.source)}`
    const known = this.levels.get(key)
    const measured = known === undefined ? this.measure(preset, key) : Promise.resolve(known)
    const level = await Promise.race([
      measured,
      new Promise<number>((resolve) => setTimeout(() => resolve(UNKNOWN), MEASURE_MS)),
    ])
    if (mine !== this.asked || doc.project !== project) return
    this.play(project, apply(project, auditioned(track.id, preset, level)).next)
    this.level.value = level
    // measured later, it glides there
    void measured.then((found) => {
      if (mine === this.asked && found !== level) this.setLevel(found)
    })
  }

  /** Plays another state of the document from the next beat, its level already matched. */
  beginState(id: string, next: Project): void {
    const { project } = this.doc
    if (!project) return
    this.asked++
    this.heard.value = id
    this.play(project, next)
  }

  private play(document: Project, next: Project): void {
    const { host, stores } = this
    const { patches } = changeTo(this.played ?? document, next)
    this.played = next
    const { monitoring } = stores
    if (!monitoring.playing && !monitoring.starting) {
      host.patch(next, patches)
      this.beat = undefined
      this.hasStarted = true
      void this.transport.play(document.loop.on ? document.loop.start : 0)
      return
    }
    this.beat = nextBeat(host.telemetry.fixed('beat'), document.tempo)
    host.patch(next, patches, this.beat)
  }

  private setLevel(level: number): void {
    if (!this.played) return
    this.level.value = level
    const { next, patches }: Change = apply(this.played, setParam(AUDITION_LEVEL, 'level', level))
    this.played = next
    // not before the sound that it is for
    this.host.patch(next, patches, this.beat)
  }

  /** Difference in LU from the preset to the dry sound; 0 where it cannot be measured. */
  private async measure(preset: Preset, key: string): Promise<number> {
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track?.source) return 0
    const copy = JSON.parse(JSON.stringify({ project, preset })) as { project: Project; preset: Preset }
    const level = await this.worker.call
      .levelOf(copy.project, this.shelf.soundsFor(track, preset), track.id, copy.preset, MEASURED_SECONDS)
      .catch(() => 0)
    this.levels.set(key, level)
    return level
  }

  /** Back to the document. What was started for it stops. */
  end(): void {
    const { doc } = this
    this.asked++
    this.heard.value = ''
    if (doc.project) this.settle(doc.project)
    if (this.hasStarted) this.transport.stop()
    this.hasStarted = false
  }

  /** Another project is open: there is nothing to go back to. */
  forget(): void {
    this.asked++
    this.played = null
    this.hasStarted = false
    this.heard.value = ''
  }

  /** Has the engine play the document again. True where it did not. */
  settle(document: Project): boolean {
    const { played } = this
    if (!played) return false
    this.played = null
    this.asked++
    this.heard.value = ''
    this.host.patch(document, changeTo(played, document).patches)
    return true
  }
}
