import { addAudioTrack, addTrack, replaceSound } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { addPad, kitWith } from '@oleaje/core/project/kit-edits'
import { freeName } from '@oleaje/core/project/free-name'
import { addBus } from '@oleaje/core/project/routing'
import { soundsOf, sourceDefinition, usualSource } from '@oleaje/core/sources/index'
import { limits, sentenceOf } from '@oleaje/core/limits'
import { fileSave } from 'browser-fs-access'
import { setTempo } from '@oleaje/core/project/song-edits'
import { newId, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { mendProject } from '@oleaje/core/project/mend'
import { readProject } from '@oleaje/core/project/read'
import {
  type Preset,
  looksLikePreset,
  presetOfTrack,
  readPreset,
  takePresetInto,
} from '@oleaje/core/project/preset'
import type { Project, Source, Track } from '@oleaje/core/project/schema'
import type { EngineHost } from '../audio/host'
import type { Sound } from '../contract/messages'
import {
  deleteProject,
  keepsFormerNames,
  lastOpened,
  loadMoment,
  noteOpened,
  saveMoment,
} from '../storage/database'
import { ProjectLock } from '../storage/project-lock'
import { removeForNow } from '../storage/removals'
import type { Shipped, ShippedSound, StartingChain } from '../storage/shipped'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { preference, tabPreference } from '../stores/preference'
import type { HeavyWorker } from '../workers/heavy-worker'
import { LiveInput } from './live-input'
import { sentence } from './sentence'
import { type Sounds, refOf } from './sounds'
import type { TransportService } from './transport'

/** Use of the next chosen sound, with its track and project. */
interface Wish {
  /** A kind of source, or `pad` for another pad of a kit. */
  as: string
  replaces: string | null
  readonly project: string | undefined
}

interface Takers {
  readonly preset: (preset: Preset) => Promise<void>
  readonly pack: (file: File) => Promise<void>
  readonly archive: (file: File) => Promise<string>
  readonly midi: (file: File) => Promise<void>
}

/** Length of the preview of a chain, in seconds. */
const PREVIEW_SECONDS = 5

/**
 * Projects: opened, made, brought in from files and taken out again. One after the other, however fast they
 * are asked for.
 */
export class Library {
  private queue: Promise<unknown> = Promise.resolve()
  private begun: Promise<void> | null = null
  /** Project that this tab had open last: a tab that is reloaded opens its own again. */
  private readonly last = tabPreference('open', '')
  /** Which kept project each shipped one became: opened, it is a copy with an id of its own. */
  private readonly copies = preference<Record<string, string>>('shipped-copies', {})

  /** Who takes files of other kinds than projects and sounds; the archive's answers with a message. */
  takers: Takers = {
    preset: () => Promise.resolve(),
    pack: () => Promise.resolve(),
    archive: () => Promise.resolve(''),
    midi: () => Promise.resolve(),
  }

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices' | 'offers' | 'preferences' | 'screen' | 'selection'>,
    private readonly host: EngineHost,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
    private readonly transport: TransportService,
    private readonly ships: Shipped,
  ) {}

  /** Opens what was open last, or the demo. */
  begin(): Promise<void> {
    this.begun ??= this.next(() => this.openFirst())
    return this.begun
  }

  /** Does one thing after the others that were asked for before. */
  private next<T>(what: () => Promise<T>): Promise<T> {
    const done = this.queue.then(what, what)
    this.queue = done.catch(() => {})
    return done
  }

  private async openFirst(): Promise<void> {
    const { host, doc, heavy } = this
    const { preferences } = this.stores
    await host.setBuffer(preferences.buffer)
    await host.setOutput(preferences.outputDevice)
    // what cannot be renamed is found under its former name all the same
    if (await keepsFormerNames().catch(() => false)) await heavy.call.renameFormerSounds().catch(() => 0)
    try {
      const last = this.last.value || (await lastOpened()) || ''
      if (!last || !(await this.openKept(last))) await this.openShipped('night-ferry')
    } catch (error) {
      // what cannot be read stays as it is: the demo is another project
      await this.openShipped('night-ferry', true)
      doc.trouble = `The last project could not be read (${sentence(error)}) It is still under Projects; a new demo is open instead.`
    }
    // what can go wrong has been said by the host
    if (doc.project) void host.start(doc.project).catch(() => {})
  }

  /** Opens a project; what plays stops. */
  private async show(
    project: Project,
    history: {
      undo?: NonNullable<Awaited<ReturnType<typeof loadMoment>>>['undo']
      redo?: NonNullable<Awaited<ReturnType<typeof loadMoment>>>['redo']
    } = {},
    isNew = false,
  ): Promise<void> {
    // the first one to be opened leaves a Play alone that waits for it
    if (this.doc.project) this.transport.stop()
    this.sounds.hush()
    await this.doc.open({ project, undo: history.undo ?? [], redo: history.redo ?? [] }, isNew)
    this.last.value = project.id
    void noteOpened(project.id).catch(() => {})
    void this.sounds.bring()
  }

  /**
   * Opens a project that this browser keeps. False where it keeps none of that id. The one that is open stays
   * as it is.
   */
  private async openKept(id: string): Promise<boolean> {
    if (this.doc.project?.id === id) return true
    const kept = await loadMoment(id)
    if (!kept) return false
    const { project, mended } = mendProject(kept.project)
    // steps that were made over what has been mended would not fit it
    await this.show(project, mended.length ? {} : kept, kept.isUnwritten || mended.length > 0)
    if (mended.length)
      this.doc.trouble = `Part of “${project.name}” could not be read and was repaired: ${mended.slice(0, 3).join(' ')}`
    return true
  }

  openStored(id: string): Promise<void> {
    return this.next(async () => {
      if (!(await this.openKept(id))) throw new Error('That project is no longer stored in this browser.')
    })
  }

  /** Opens a shipped project, as it was left or reset. */
  openDemo(afresh = false, id = 'night-ferry'): Promise<void> {
    return this.next(() => this.openShipped(id, afresh))
  }

  private async openShipped(id: string, afresh = false): Promise<void> {
    // one that was opened before copies had ids of their own has that of the shipped one
    if (!afresh && (await this.openKept(this.copies.value[id] ?? id).catch(() => false))) return
    const project = readProject(await this.ships.project(id))
    const copy = { ...project, id: newId(), name: afresh ? `${project.name}, new` : project.name }
    if (!afresh) this.copies.value = { ...this.copies.value, [id]: copy.id }
    await this.show(copy, {}, true)
  }

  newProject(): Promise<void> {
    return this.next(() => this.show(newProject('Untitled'), {}, true))
  }

  /**
   * Removes a kept project. The open one stays. While it can be taken back, its sounds stay too; then their
   * room is given back.
   */
  remove(id: string): Promise<void> {
    return this.next(async () => {
      const kept = id === this.doc.project?.id ? undefined : await loadMoment(id)
      if (!kept) return
      const lock = await ProjectLock.claim(id)
      if (!lock.isHeld) throw new Error('This project is open in another tab. Close it there first.')
      const letGo = await removeForNow(() => deleteProject(id).finally(() => lock.release()))
      const { name } = kept.project as { name?: string }
      this.stores.offers.offerUndo(
        `“${name ?? 'A project'}” was removed.`,
        () => saveMoment({ ...kept, project: kept.project as Project }).finally(letGo),
        () => {
          letGo()
          return this.sounds.sweep()
        },
      )
    })
  }

  /**
   * Takes dropped or chosen files: bundles and projects open, sounds become tracks. Bad files change nothing.
   */
  async takeFiles(files: readonly File[]): Promise<void> {
    // the page goes on while a long sound comes in: what it becomes is what was asked for now
    const wish = this.wish()
    for (const file of files) {
      try {
        if (file.size === 0) throw new Error('it is empty.')
        if (/\.zip$/i.test(file.name)) {
          if (await this.heavy.call.isArchive(file)) {
            this.stores.notices.spoken = await this.takers.archive(file)
            continue
          }
          if (await this.heavy.call.isPack(file)) {
            await this.takers.pack(file)
            continue
          }
          if (file.size > limits.bundleFile.most)
            throw new Error(sentenceOf('bundleFile', Math.round(file.size / 1e6)))
          const { project, sounds } = await this.heavy.call.unpack(file)
          await this.takeProject(project, sounds)
        } else if (/\.json$/i.test(file.name)) {
          if (file.size > limits.projectText.most) throw new Error(sentenceOf('projectText', 'file is'))
          const text = await file.text()
          if (looksLikePreset(text)) await this.takers.preset(readPreset(text))
          else await this.takeProject(readProject(text), [])
        } else if (/\.midi?$/i.test(file.name)) await this.takers.midi(file)
        else await this.takeSound(file, wish)
      } catch (error) {
        this.doc.trouble = `“${file.name}” was not imported: ${sentence(error)}`
      }
    }
  }

  private takeProject(project: Project, sounds: Parameters<Sounds['take']>[0]): Promise<void> {
    return this.next(async () => {
      await this.sounds.take(sounds)
      // a project from a file is a new one here: it never overwrites the one it came from
      await this.show({ ...project, id: newId() }, {}, true)
    })
  }

  private wish(): Wish {
    return {
      as: this.stores.screen.takeAs,
      replaces: this.stores.screen.replacing,
      project: this.doc.project?.id,
    }
  }

  private async takeSound(file: File, wish: Wish): Promise<void> {
    const read = await this.sounds.readFile(file)
    if (!read) return
    if (read.isBack && this.isOpen(wish.project))
      this.doc.trouble = `“${this.doc.project?.audio[read.sound.hash]?.name ?? read.ref.name}” was restored.`
    else
      await this.inTurn(
        Promise.resolve(),
        () => this.addSound(read.ref.name, read.sound, read.ref, wish),
        wish.project,
      )
  }

  /** A new track that loops a shipped sound, or another sound for the track whose sound is being replaced. */
  addShipped({ title, hash }: ShippedSound): Promise<void> {
    return this.inTurn(this.sounds.takeShipped(hash), (sound) =>
      this.addSound(title, sound, refOf(title, sound), this.wish()),
    )
  }

  /** The chains to begin with. */
  async startingChains(): Promise<readonly StartingChain[]> {
    return (await this.ships.catalogue()).chains ?? []
  }

  /** A new track with a starting chain and the sound that it was made for. */
  async addStartingChain(chain: StartingChain): Promise<void> {
    const opened = this.doc.project?.id
    const { track, preset, from } = await this.chainOf(chain)
    if (!this.isOpen(opened)) return
    const source = track.source ? { ...structuredClone(track.source), id: newId() } : null
    const made = newTrack(chain.name, source, newId())
    const isFirst = this.doc.project?.tracks.every((t) => !t.source) ?? false
    this.doc.edit(
      `Add ${chain.name}`,
      together(
        (p) => {
          for (const hash of source ? soundsOf(source) : []) {
            const ref = from.audio[hash]
            if (ref) p.audio[hash] ??= ref
          }
        },
        addTrack(made),
        takePresetInto(made.id, preset, { chainOf: made.id }),
      ),
    )
    this.stores.selection.selectTrack(made.id)
    await this.sounds.bring()
    if (isFirst && source?.params.tempo) this.offerTempo(chain.name, source.params.tempo)
  }

  /** Plays a starting chain over its sound; the one before ends. */
  async listenToChain(chain: StartingChain): Promise<void> {
    const { track, preset, from } = await this.chainOf(chain)
    const sounds = await Promise.all(
      [...new Set(track.source ? soundsOf(track.source) : [])].map((h) => this.sounds.takeShipped(h)),
    )
    await this.sounds.listenTo(() =>
      this.heavy.call.preview(structuredClone(from), sounds, track.id, preset, PREVIEW_SECONDS),
    )
  }

  private async chainOf(chain: StartingChain): Promise<{ track: Track; preset: Preset; from: Project }> {
    const from = readProject(await this.ships.project(chain.project))
    const track = from.tracks.find((t) => t.id === chain.track)
    const preset = track && presetOfTrack(from, track.id)
    if (!track || !preset) throw new Error(`${chain.name} is missing from the demo. Reload the page.`)
    return { track, preset, from }
  }

  /**
   * Adds what was chosen in the order of the choices, whichever sound is there first: the first makes the kit
   * that the next is a pad of.
   */
  private inTurn<T>(
    coming: Promise<T>,
    add: (come: T) => Promise<void>,
    project = this.doc.project?.id,
  ): Promise<void> {
    const added = Promise.all([coming, this.adding]).then(([come]) => {
      if (!this.isOpen(project))
        throw new Error('Another project was opened meanwhile. Open the one it was for and choose it again.')
      return add(come)
    })
    this.adding = Promise.allSettled([added, this.adding])
    return added
  }
  private adding: Promise<unknown> = Promise.resolve()

  private isOpen(project: string | undefined): boolean {
    return this.doc.project?.id === project
  }

  /**
   * What becomes of a sound that was chosen: a track that loops it or plays it by notes, a pad, or another
   * sound for a track.
   */
  private async addSound(
    name: string,
    sound: Sound,
    ref: Project['audio'][string],
    wish: Wish,
  ): Promise<void> {
    const { doc } = this
    const { selection, screen } = this.stores
    const replaced = wish.replaces
    const { hash } = sound
    // a pad is called by the last part of its sound’s name: “Deck kit, snare”
    const padName = name.split(', ').at(-1) ?? name
    const kit = doc.project?.tracks.find((t) => t.id === (replaced ?? ''))?.source
    const before = doc.project?.tracks.find((t) => t.id === replaced)?.source
    // what plays by notes goes on to, with the new sound
    const kept = before && sourceDefinition(before.type)?.audio ? before.type : usualSource
    const becomes = wish.as === usualSource ? kept : wish.as
    const definition = sourceDefinition(becomes)
    if (sound.long && !definition?.inPieces) throw new Error(sentenceOf('heldSound', `“${name}”`))
    if (wish.as === 'pad' && kit)
      return doc.edit(`Add pad ${name}`, addPad(kit.id, { name: padName, audio: hash }, ref))
    if (replaced) {
      screen.replacing = wish.replaces = null
      return doc.edit(
        `Replace sound with ${name}`,
        replaceSound(replaced, newSource(kept, await this.setUp(kept, sound), hash), ref),
      )
    }
    const id = newId()
    if (definition?.pads) {
      doc.edit(
        'Add kit',
        together(
          (p) => {
            p.audio[hash] = ref
          },
          addTrack(
            newTrack(definition.name, kitWith(newSource(becomes), [{ name: padName, audio: hash }]), id),
          ),
        ),
      )
      screen.takeAs = wish.as = 'pad'
      screen.replacing = wish.replaces = id
    } else {
      const set = await this.setUp(becomes, sound)
      const names = doc.project?.tracks.map((t) => t.name) ?? []
      const trackName = names.includes(name) ? freeName(name, names) : name
      const isFirst = doc.project?.tracks.every((t) => !t.source) ?? false
      doc.edit(
        `Add track ${trackName}`,
        addAudioTrack(trackName, newSource(becomes, set, hash), hash, ref, id),
      )
      if (isFirst && set.tempo) this.offerTempo(name, set.tempo)
    }
    selection.selectTrack(id)
  }

  /** The tempo of the first loop, for the song. */
  private offerTempo(name: string, tempo: number): void {
    const bpm = Math.round(tempo * 100) / 100
    if (Math.abs(tempo - (this.doc.project?.tempo ?? tempo)) < 0.05) return
    this.stores.offers.offer({
      text: `${name} runs at ${bpm} bpm.`,
      button: `Set song tempo to ${bpm} bpm`,
      tip: 'Sets the tempo of the song to that of the loop',
      accept: () => this.doc.edit('Set tempo', setTempo(bpm)),
    })
  }

  /** How a new source is set up for a sound: at the tempo that its hits say it has. */
  private async setUp(type: string, sound: Sound): Promise<Record<string, number>> {
    if (!sourceDefinition(type)?.ownTempo) return {}
    // a long recording is not a loop with a tempo of its own
    const found = sound.long
      ? undefined
      : await this.heavy.call.findTempo([...sound.channels], sound.sampleRate).catch(() => undefined)
    return { tempo: found?.tempo ?? this.doc.project?.tempo ?? 120 }
  }

  /** A new track that loops what the buffer of an effect holds now. */
  async keepHeld(node: string, name: string): Promise<void> {
    const channels = await this.host.held(node)
    if (!channels || channels[0].length < 64) {
      this.doc.trouble = `${name} has an empty buffer. Play something through it first.`
      return
    }
    const { sound, ref } = await this.sounds.takeSamples(`Buffer of ${name}`, channels)
    await this.inTurn(Promise.resolve(), () => this.addSound(ref.name, sound, ref, this.wish()))
  }

  /**
   * A new track with a source as it begins; one that hears another track hears the selected one, before its
   * chain.
   */
  addSource(type: string): void {
    const { begins, listens, device } = sourceDefinition(type) ?? {}
    if (!begins) return
    const { selection } = this.stores
    const heard = listens && selection.track?.kind !== 'mix' ? selection.track : undefined
    const id = newId()
    const source: Source = {
      ...newSource(type, begins.params),
      ...(device ? { device: LiveInput.simulated[0]?.id } : {}),
      ...(heard ? { listens: { track: heard.id, point: 'before' } } : {}),
    }
    this.doc.edit(
      `Add ${begins.label}`,
      addTrack(newTrack(heard ? `${heard.name}, again`.slice(0, 120) : begins.track, source, id)),
    )
    selection.selectTrack(id)
  }

  /** A new bus, to be sent to. */
  addBus(): void {
    const id = newId()
    const count = this.doc.project?.tracks.filter((t) => t.kind === 'bus').length ?? 0
    this.doc.edit('Add bus', addBus(`Bus ${count + 1}`, id))
    this.stores.selection.selectTrack(id)
  }

  /** The project with its sounds as one file. */
  async pack(): Promise<Blob> {
    await this.sounds.there
    if (!this.doc.project) throw new Error('No project is open.')
    return this.heavy.call.pack(this.doc.project, this.sounds.ofProject())
  }

  /** Saves the project with its sounds as a zip file that the user places. */
  async saveToFile(): Promise<void> {
    try {
      await fileSave(await this.pack(), {
        fileName: `${this.doc.project?.name ?? 'project'}.zip`,
        extensions: ['.zip'],
        description: 'Oleaje bundle',
      })
    } catch (error) {
      if (error instanceof DOMException && error.name === 'AbortError') return
      this.doc.trouble = sentence(error)
    }
  }
}
