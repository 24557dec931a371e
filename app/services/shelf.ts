import { addTrack, removeNode } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { removeModulator } from '@oleaje/core/project/motion-edits'
import { newId, newSource, newTrack } from '@oleaje/core/project/new'
import {
  type PresetPlacing,
  type Preset,
  type Taken,
  duplicateTrack,
  listensTo,
  looksLikePreset,
  presetOfBranch,
  presetOfModulators,
  presetOfNodes,
  presetOfTrack,
  readPreset,
  takePresetInto,
  unknownEffects,
  upgraded,
} from '@oleaje/core/project/preset'
import type { Source, Track } from '@oleaje/core/project/schema'
import { replaceChain } from '@oleaje/core/project/replace-chain'
import { findOwner, heardChain } from '@oleaje/core/project/walk'
import { shallowRef } from 'vue'
import { regionOf } from '../focus/region'
import { type KeptPreset, deleteKept, listKept, saveKept } from '../storage/database'
import { removeForNow } from '../storage/removals'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

/** Ways in which something is taken from the shelf. */
export type TakingWay = 'after' | 'around' | 'instead' | 'chain' | 'new track'

const copyOf = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T

/**
 * What is kept in this browser, and what is carried by the clipboard: chains, branches, modulators, as
 * presets.
 */
export class Shelf {
  readonly items = shallowRef<readonly KeptPreset[]>([])
  /** The last copy, for browsers whose clipboard cannot be read. */
  private carried = ''

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'offers' | 'selection'>,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
  ) {}

  async open(): Promise<void> {
    const kept = await listKept().catch(() => [])
    this.items.value = kept.map((k) => ({ ...k, preset: upgraded(k.preset) as Preset }))
  }

  /**
   * What is to be kept: what has the focus; where that is nothing that can be kept, what is selected, or the
   * whole chain.
   */
  presetToKeep(el: Element | null): Preset | undefined {
    return this.presetAt(el) ?? this.presetAt(null)
  }

  /** The preset of an element of the page: effects, a branch, a modulator, a whole chain. */
  private presetAt(el: Element | null): Preset | undefined {
    const { project } = this.doc
    const { track, selected } = this.stores.selection
    if (!project || !track) return undefined
    const region = regionOf(el)
    const data = el?.closest<HTMLElement>('[data-modulator], [data-track], [data-branch]')?.dataset ?? {}
    if (region === 'modulators') {
      const m = project.tracks.flatMap((t) => t.modulators).find((x) => x.id === data.modulator)
      return m && presetOfModulators(project, [m.id], m.name)
    }
    if (region === 'tracks') return presetOfTrack(project, data.track ?? track.id)
    const branch = data.branch ?? selected.find((id) => findOwner(project, id)?.kind === 'branch')
    if (branch) return presetOfBranch(project, branch)
    const nodes = selected.filter((id) => findOwner(project, id)?.kind === 'node')
    return nodes.length ? presetOfNodes(project, nodes, this.nameOf(nodes)) : presetOfTrack(project, track.id)
  }

  /** The whole chain of a track, with its modulators and links, as a preset. */
  chainToKeep(track: string): Preset | undefined {
    return this.doc.project ? presetOfTrack(this.doc.project, track) : undefined
  }

  private nameOf(nodes: readonly string[]): string {
    const found =
      nodes.length === 1 && this.doc.project ? findOwner(this.doc.project, nodes[0] ?? '') : undefined
    if (found?.kind !== 'node') return this.stores.selection.track?.name ?? 'Chain'
    return found.node.name ?? (found.node.kind === 'effect' ? found.node.type : found.node.kind)
  }

  /**
   * Puts what has the focus onto the clipboard, and where `cut` takes it out. False where there is nothing to
   * copy.
   */
  copy(clipboard: DataTransfer, el: Element | null, cut: boolean): boolean {
    const preset = this.presetAt(el)
    if (!preset) return false
    this.carried = JSON.stringify(preset)
    clipboard.setData('text/plain', this.carried)
    if (cut) this.cut(el)
    return true
  }

  private cut(el: Element | null): void {
    const { doc } = this
    const modulator =
      regionOf(el) === 'modulators'
        ? el?.closest<HTMLElement>('[data-modulator]')?.dataset.modulator
        : undefined
    if (modulator) return doc.edit('Cut modulator', removeModulator(modulator))
    const ids = regionOf(el) === 'tracks' ? [] : [...this.stores.selection.selected]
    if (ids.length)
      doc.edit(ids.length > 1 ? `Cut ${ids.length} effects` : 'Cut effect', together(...ids.map(removeNode)))
  }

  /** Inserts the clipboard. False where it holds no preset. */
  paste(text: string, el: Element | null): boolean {
    const from = looksLikePreset(text) ? text : text === '' ? this.carried : ''
    if (!from) return false
    try {
      const track = el?.closest<HTMLElement>('[data-track]')?.dataset.track
      const preset = readPreset(from)
      if (track) this.stores.selection.selectTrack(track)
      this.take(preset, 'after', 'Paste', preset.kind !== 'modulators')
    } catch (error) {
      this.doc.trouble = `The clipboard was not pasted: ${sentence(error)}`
    }
    return true
  }

  /** Takes a preset into the selected track, or onto a new one. */
  take(preset: Preset, way: TakingWay = 'after', label = 'Insert', shares = false): void {
    const { doc } = this
    const { selection } = this.stores
    const { track } = selection
    if (!doc.project || !track) return
    let made: Taken = { nodes: [], modulators: [] }
    const taken = (t: Taken): void => {
      made = t
    }
    if (way === 'new track') {
      const next = this.trackLike(track)
      doc.edit(
        `${label} ${preset.name} onto a new track`,
        together(
          addTrack({ ...next, name: preset.name.slice(0, 120) }),
          takePresetInto(next.id, preset, { chainOf: next.id }, taken),
        ),
      )
      selection.selectTrack(next.id)
    } else if (way === 'chain' && preset.kind === 'chain')
      doc.edit(`Replace chain with ${preset.name}`, replaceChain(track.id, preset, taken))
    else
      doc.edit(
        `${label} ${preset.name}`,
        takePresetInto(track.id, preset, this.placing(track, preset, way), taken, shares),
      )
    if (made.nodes.length) selection.selected = [...made.nodes.slice(-1)]
    if (made.modulators.length) selection.traced = made.modulators[0] ?? null
    if (preset.kind === 'modulators')
      selection.openModulators = [...selection.openModulators, ...made.modulators]
    const strange = unknownEffects(preset)
    if (strange.length)
      doc.trouble = `This version of Oleaje does not know ${strange.join(', ')}; it stays in the chain and passes sound unchanged.`
    void this.sounds.bring()
  }

  private placing(track: Track, preset: Preset, way: Exclude<TakingWay, 'new track'>): PresetPlacing {
    const { doc } = this
    const { selection } = this.stores
    const nodes = selection.selected.filter(
      (id) => doc.project && findOwner(doc.project, id)?.kind === 'node',
    )
    const last = nodes[nodes.length - 1]
    const chosen = last && doc.project ? findOwner(doc.project, last) : undefined
    if (preset.kind === 'branch' && last && chosen?.kind === 'node' && chosen.node.kind === 'split')
      return { intoSplit: last }
    if (nodes.length && way === 'around') return { around: nodes }
    if (nodes.length && (way === 'instead' || way === 'chain')) return { instead: nodes }
    if (heardChain(track).nodes.length === 0) return { chainOf: track.id }
    return { at: last ? { after: last } : { startOf: track.id } }
  }

  /** A new track with the sound of another. */
  private trackLike(track: Track): Track {
    const source: Source = track.source ? { ...copyOf(track.source), id: newId() } : newSource('tone')
    return newTrack(track.name, source)
  }

  duplicateTrack(id: string): void {
    const copy = newId()
    this.doc.edit('Duplicate track', duplicateTrack(id, copy))
    this.stores.selection.selectTrack(copy)
  }

  async keep(preset: Preset): Promise<void> {
    await saveKept({ id: newId(), saved: Date.now(), preset: copyOf(preset) })
    await this.open()
  }

  /** Changes what a kept preset is called, tagged with, made for, or said to do. */
  async change(
    kept: KeptPreset,
    to: Partial<Pick<Preset, 'name' | 'tags' | 'materials' | 'about'>>,
  ): Promise<void> {
    const name = to.name?.trim().slice(0, 120) || kept.preset.name
    await saveKept({ ...kept, preset: { ...kept.preset, ...to, name } })
    await this.open()
  }

  /** Keeps the present chain of the selected track in place of what was kept, under its name and tags. */
  async update(kept: KeptPreset): Promise<void> {
    const { track } = this.stores.selection
    const preset = track && this.chainToKeep(track.id)
    if (!preset) return
    const { name, tags, materials, about } = kept.preset
    await saveKept({
      ...kept,
      saved: Date.now(),
      preset: copyOf({ ...preset, name, tags, materials, about }),
    })
    this.stores.offers.offerUndo(`“${name}” was updated.`, async () => {
      await saveKept(kept)
      await this.open()
    })
    await this.open()
  }

  async remove(kept: KeptPreset): Promise<void> {
    const letGo = await removeForNow(() => deleteKept(kept.id))
    this.stores.offers.offerUndo(
      `“${kept.preset.name}” was removed from the shelf.`,
      async () => {
        await saveKept(kept).finally(letGo)
        await this.open()
      },
      letGo,
    )
    await this.open()
  }

  /** Picture data of a preset on the sound of the selected track; null without a source. */
  async pictureOf(preset: Preset) {
    const { project } = this.doc
    const { track } = this.stores.selection
    if (!project || !track?.source) return null
    return this.heavy.call.presetPicture(
      copyOf(project),
      this.soundsFor(track, preset),
      track.id,
      copyOf(preset),
    )
  }

  /**
   * The sounds that a measurement needs: those of the track, of the preset, and of the tracks it listens to.
   * Each is copied on its way.
   */
  soundsFor(track: Track, preset: Preset): ReturnType<Sounds['ofProject']> {
    const tracks =
      this.doc.project?.tracks.filter((t) => t.id === track.id || listensTo(preset).includes(t.id)) ?? []
    const needed = new Set([...tracks.map((t) => t.source?.audio), ...Object.keys(preset.audio)])
    return this.sounds.ofProject().filter((s) => needed.has(s.hash))
  }
}
