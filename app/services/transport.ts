import type { EngineHost } from '../audio/host'
import type { AutomationRecorder } from '../composables/automation-recorder'
import type { useBench } from '../stores/bench'
import type { useDocument } from '../stores/document'

/** Play and stop. The button is true: it says that it plays, stands, or waits for what has to be there first. */
export class Transport {
  /** What has to be over before anything can play: the first opening, and sounds on their way. Asked anew each time. */
  ready: () => Promise<unknown> = () => Promise.resolve()
  /** Told when it stops. */
  ended: () => void = () => {}
  /** Counts what was asked for: an older wish that is still waiting gives way to a newer one. */
  private wish = 0

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly bench: ReturnType<typeof useBench>,
    private readonly host: EngineHost,
    private readonly automation: AutomationRecorder,
  ) {}

  /** Plays from the start of the loop, or stops; pressed while it waits to play, it does not. */
  async toggle(): Promise<void> {
    if (this.bench.playing || this.bench.starting) return this.stop()
    const loop = this.doc.project?.loop
    await this.play(loop?.on ? loop.start : 0)
  }

  async play(beat: number): Promise<void> {
    const { bench, host } = this
    const wish = ++this.wish
    bench.starting = true
    try {
      // asked before the sounds are there, it starts as soon as they are
      await this.ready()
      if (wish !== this.wish || !this.doc.project) return
      await host.play(this.doc.project, beat)
      // stopped while the output was opened
      if (wish === this.wish) bench.playing = true
      else host.stop()
    } catch {
      // the host has said what went wrong
      if (wish === this.wish) bench.playing = false
    } finally {
      if (wish === this.wish) bench.starting = false
    }
  }

  stop(): void {
    this.wish++
    this.automation.end()
    this.ended()
    this.host.stop(this.bench.stopCuts)
    this.bench.playing = this.bench.starting = false
  }
}
