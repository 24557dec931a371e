import type { Project } from '@oleaje/core/project/schema'
import type { EngineHost } from '../audio/host'
import type { AutomationRecorder } from './automation-recorder'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'

/**
 * Play and stop. The button is true: it says that it plays, stands, or waits for what has to be there first.
 */
export class TransportService {
  /**
   * What has to be over before anything can play: the first opening, and sounds on their way. Asked anew each
   * time.
   */
  ready: () => Promise<unknown> = () => Promise.resolve()
  /** Told when it stops. */
  ended: () => void = () => {}
  /** A project that is heard instead of the document, as in an audition. */
  instead: () => Project | null = () => null
  /** Counts what was asked for: an older wish that is still waiting gives way to a newer one. */
  private wish = 0

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'monitoring'>,
    private readonly host: EngineHost,
    private readonly automation: AutomationRecorder,
  ) {}

  /** Plays from the cue or the start of the loop, or stops; pressed while it waits to play, it does not. */
  async toggle(): Promise<void> {
    if (this.stores.monitoring.playing || this.stores.monitoring.starting) return this.stop()
    const loop = this.doc.project?.loop
    await this.play(this.stores.monitoring.cue ?? (loop?.on ? loop.start : 0))
  }

  /** Moves the playhead: the song goes on from there, or starts there when it is played next. */
  async goTo(beat: number): Promise<void> {
    this.stores.monitoring.cue = beat
    if (this.stores.monitoring.playing) await this.play(beat)
  }

  /** The place of the playhead in beats. */
  place(): number {
    const { cue, playing } = this.stores.monitoring
    return playing || cue === null ? this.host.telemetry.fixed('beat') : cue
  }

  async play(beat: number): Promise<void> {
    const { host } = this
    const { monitoring } = this.stores
    const wish = ++this.wish
    monitoring.starting = true
    try {
      // asked before the sounds are there, it starts as soon as they are
      await this.ready()
      if (wish !== this.wish || !this.doc.project) return
      await host.play(this.instead() ?? this.doc.project, beat)
      // stopped while the output was opened
      if (wish === this.wish) monitoring.playing = true
      else host.stop()
    } catch {
      // the host has said what went wrong
      if (wish === this.wish) monitoring.playing = false
    } finally {
      if (wish === this.wish) monitoring.starting = false
    }
  }

  stop(): void {
    this.wish++
    this.automation.end()
    this.ended()
    this.host.stop(this.stores.monitoring.stopCuts)
    this.stores.monitoring.playing = this.stores.monitoring.starting = false
  }
}
