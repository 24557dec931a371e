import type { EngineHost } from '../audio/host'
import type { useDocument } from '../stores/document'
import type { Stores } from '../stores/index'

const LOOK_MS = 500
/** Level of the mix above which something still sounds clearly, as a factor: −26 dBFS. */
const LOUD = 0.05
/** Time in ms after Stop for which a tail may be that loud. */
const PATIENCE_MS = 4000

/** Tells when a feedback loop goes on sounding after Stop, which no tail that decays does. */
export class RingingWatch {
  private loudSince = NaN

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices' | 'monitoring' | 'devices'>,
    private readonly host: EngineHost,
  ) {}

  /** Looks from now on. */
  begin(): void {
    setInterval(() => this.look(performance.now()), LOOK_MS)
  }

  private look(now: number): void {
    const { monitoring, notices, devices } = this.stores
    const mix = this.doc.project?.tracks.at(-1)
    const isSource = monitoring.playing || monitoring.starting || devices.openInput !== null
    const isLoud = !!mix && !isSource && this.host.telemetry.get(`peak:track:${mix.id}`) > LOUD
    if (!isLoud) this.loudSince = NaN
    else if (Number.isNaN(this.loudSince)) this.loudSince = now
    notices.rings = isLoud && now - this.loudSince >= PATIENCE_MS
  }
}
