import { dearestEffect } from '@oleaje/core/engine/cost-lines'
import { effectDefinition } from '@oleaje/core/effects/index'
import { ownerName } from '@oleaje/core/project/targets'
import type { EngineHost } from '../audio/host'
import type { useDocument } from '../stores/document'
import type { Stores } from '../stores/index'
import { Overload } from './overload'

const LOOK_MS = 250

/**
 * Tells when the engine has had too much to do for two seconds: what costs most, and how it could cost less.
 * Nothing is done unasked.
 */
export class OverloadWatch {
  private readonly overload = new Overload()
  private measures = false
  /** Put away by hand: not told again before it has been well in between. */
  private dismissed = false

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices' | 'monitoring'>,
    private readonly host: EngineHost,
  ) {}

  /** Looks from now on. */
  begin(): void {
    setInterval(() => {
      this.look()
    }, LOOK_MS)
    this.doc.onLoad(() => {
      this.overload.forget()
      this.stores.notices.overload = null
    })
  }

  dismiss(): void {
    this.dismissed = true
    this.stores.notices.overload = null
  }

  private look(): void {
    const { overload, host } = this
    const { monitoring, notices } = this.stores
    if (!monitoring.playing) overload.forget()
    else overload.take(performance.now(), host.telemetry.fixed('load'))
    if (!overload.isOn) this.dismissed = false
    this.measure(monitoring.playing && (overload.isNear || overload.isOn))
    notices.overload = overload.isOn && !this.dismissed ? this.dearest() : null
  }

  private dearest(): Stores['notices']['overload'] {
    const { project } = this.doc
    const found = project && dearestEffect(project, (key) => this.host.telemetry.cost(key))
    if (!found) return null
    const { node, track, share } = found
    const quality = node.kind === 'effect' ? effectDefinition(node.type)?.params.quality : undefined
    const now = Math.round(node.params.quality ?? quality?.default ?? 0)
    return {
      node: node.id,
      name: ownerName({ kind: 'node', node, track }),
      track: { id: track.id, name: track.name },
      share,
      better: quality?.choices && now > 0 ? { value: now - 1, name: quality.choices[now - 1] ?? '' } : null,
    }
  }

  private measure(on: boolean): void {
    if (on === this.measures) return
    this.measures = on
    this.host.watchCosts(on)
  }
}
