import { gaugeKey, lanePlace } from '@oleaje/core/project/param-path'
import { trackOfOwner } from '@oleaje/core/project/routing'
import { findOwner } from '@oleaje/core/project/walk'
import { focusOfGauge, gaugeAt } from '../focus/focus-gauge'
import { focusWhenShown } from '../focus/focus-when-shown'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'

/** Ways to a view, and to one thing on it. */
export class Views {
  /** Goes to another view; set by who knows the router. */
  go: (view: string) => Promise<void> = async () => {}

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'selection'>,
  ) {}

  /** Shows a parameter's gauge on the Bench and puts the focus on it. */
  async showGauge(owner: string, path: string): Promise<void> {
    const { selection } = this.stores
    const found = this.doc.project && findOwner(this.doc.project, owner)
    if (!found) return
    await this.go('/')
    const home = this.doc.project && trackOfOwner(this.doc.project, found)
    if (home && selection.track?.id !== home.id) selection.selectTrack(home.id)
    if (found.kind === 'node' || found.kind === 'branch') selection.select(found.node.id)
    const place = lanePlace(path)
    if (place?.index !== undefined) selection.shownItem = place.index
    if (found.kind === 'source') selection.select(owner)
    if (found.kind === 'modulator' && !selection.openModulators.includes(owner))
      selection.openModulators = [...selection.openModulators, owner]
    await focusWhenShown(() => focusOfGauge(gaugeAt(gaugeKey(owner, path))))
  }
}
