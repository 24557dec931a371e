import { sourceDefinition } from '@oleaje/core/sources/index'
import type { Track } from '@oleaje/core/project/schema'
import { trackOfOwner } from '@oleaje/core/project/routing'
import { ownerName } from '@oleaje/core/project/targets'
import { findOwner } from '@oleaje/core/project/walk'
import type { EngineHost } from '../audio/host'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { Views } from './views'

/** The key of a step begins with its kind and may end with the copy it is; its node stands between. */
const nodeOf = (key: string): string => key.slice(key.indexOf(':') + 1).replace(/[#~].*$/, '')

/** Unstable, failed and howling parts: their names on every view, and ways to show and resume them. */
export class Guards {
  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices' | 'selection'>,
    private readonly host: EngineHost,
    private readonly views: Views,
  ) {}

  /** Takes note of a step that its guard has cut. */
  trip(key: string): void {
    const { notices } = this.stores
    const node = nodeOf(key)
    if (this.placeOf(node)) notices.cut = [node, ...notices.cut.filter((id) => id !== node)]
  }

  /** Takes note of a step that failed and was cut. */
  fail(key: string): void {
    const node = nodeOf(key)
    if (this.placeOf(node)) this.stores.notices.failed = node
    else this.doc.trouble = 'A part of the engine failed and was bypassed. Undo the last change.'
  }

  /** The last failed part that still exists, with its track. */
  get failed(): { readonly node: string; readonly name: string; readonly track: string } | undefined {
    const node = this.stores.notices.failed
    const place = node && this.placeOf(node)
    return node && place ? { node, ...place } : undefined
  }

  /** The track whose live input howls. */
  get howling(): Track | undefined {
    const { notices } = this.stores
    return notices.howls
      ? this.doc.project?.tracks.find((t) => t.source && sourceDefinition(t.source.type)?.device)
      : undefined
  }

  /** The node that was cut last and is still there, with its track. */
  get last(): { readonly node: string; readonly name: string; readonly track: string } | undefined {
    for (const node of this.stores.notices.cut) {
      const place = this.placeOf(node)
      if (place) return { node, ...place }
    }
    return undefined
  }

  /** Lets a node sound again. */
  letGo(node: string): void {
    const { notices } = this.stores
    if (!notices.cut.includes(node)) return
    this.host.acknowledge(node)
    notices.cut = notices.cut.filter((id) => id !== node)
  }

  /** Shows a node on the chart of its track. */
  async show(node: string): Promise<void> {
    const { selection } = this.stores
    const track = this.trackOf(node)
    if (!track) return
    await this.views.go('/')
    if (selection.track?.id !== track.id) selection.selectTrack(track.id)
    selection.select(node)
  }

  /** Shows a track on its chart. */
  async showTrack(id: string): Promise<void> {
    await this.views.go('/')
    this.stores.selection.selectTrack(id)
  }

  private trackOf(node: string) {
    const owner = this.doc.project && findOwner(this.doc.project, node)
    return owner && this.doc.project ? trackOfOwner(this.doc.project, owner) : undefined
  }

  private placeOf(node: string): { name: string; track: string } | undefined {
    const owner = this.doc.project && findOwner(this.doc.project, node)
    const track = this.trackOf(node)
    return owner && track ? { name: ownerName(owner), track: track.name } : undefined
  }
}
