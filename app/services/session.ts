import { addModulator } from '@oleaje/core/project/motion-edits'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { newId } from '@oleaje/core/project/new'
import type { Listen, Project } from '@oleaje/core/project/schema'
import { watch } from 'vue'
import type { Buffering } from '../audio/buffering'
import { EngineHost } from '../audio/host'
import { Audition } from './audition'
import { AutomationRecorder } from './automation-recorder'
import { wake } from '../drawing/frames'
import { DeviceRouter } from './device-router'
import { TapTempo } from './tap-tempo'
import { whenBlocked } from '../storage/database'
import { Shipped } from '../storage/shipped'
import { useStores } from '../stores/index'
import { ChainExporting } from './chain-exporting'
import { Dice } from './dice'
import { Guards } from './guards'
import { heedEngine } from './engine-events'
import { HeavyWorker } from '../workers/heavy-worker'
import { WorkerPool } from '../workers/worker-pool'
import { Keeping } from './keeping'
import { watchFirstSteps } from './first-steps'
import { matchLevels } from './level-matching'
import { Lab } from './lab'
import { Library } from './library'
import { LiveInput } from './live-input'
import { OverloadWatch } from './overload-watch'
import { RingingWatch } from './ringing-watch'
import { Printing } from './printing'
import { Matching } from './matching'
import { MidiFiles } from './midi-files'
import { MidiInputs } from './midi-inputs'
import { Notes } from './notes'
import { Rendering } from './rendering'
import { Packs } from './packs'
import { Shelf } from './shelf'
import { ShelfEntries } from './shelf-entries'
import { Takes } from './takes'
import { Snapshots } from './snapshots'
import { Sounds } from './sounds'
import { TransportService } from './transport'
import { TryOutVariants } from './try-out-variants'
import { TryOuts } from './try-outs'
import { Views } from './views'
import { WhatMatters } from './what-matters'

/**
 * All services of this tab, made once and connected to the stores. The plugin `session` provides them.
 */
/** @param base path of the app on its host, with a slash at its end */
export function createSession(base: string) {
  const stores = useStores()
  const { doc, selection, monitoring, preferences, recording, screen, devices, notices } = stores
  const host = new EngineHost()
  const heavy = new HeavyWorker()
  const ships = new Shipped(base)
  const automation = new AutomationRecorder(doc, stores, host)
  const router = new DeviceRouter(doc, stores, host)
  const transport = new TransportService(doc, stores, host, automation)
  const sounds = new Sounds(doc, stores, host, heavy, ships)
  const library = new Library(doc, stores, host, heavy, sounds, transport, ships)
  const input = new LiveInput(doc, stores, host, sounds)
  const shelf = new Shelf(doc, stores, heavy, sounds)
  const audition = new Audition(doc, stores, host, new HeavyWorker(), shelf, transport)
  const entries = new ShelfEntries(shelf, ships, sounds, heavy)
  const packs = new Packs(doc, stores, heavy, sounds, shelf)
  const dice = new Dice(doc, stores, heavy, sounds)
  const variants = new TryOutVariants(sounds, ships, entries, dice)
  const tryOuts = new TryOuts(doc, stores, new WorkerPool(), sounds, variants, shelf, audition)
  const matching = new Matching(doc, stores, sounds, tryOuts)
  const snapshots = new Snapshots(doc, stores)
  const rendering = new Rendering(doc, new WorkerPool(), heavy, sounds)
  const chainExporting = new ChainExporting(doc, heavy, sounds, base)
  const lab = new Lab(doc, stores, new WorkerPool(), sounds)
  const matters = new WhatMatters(doc, stores, new WorkerPool(), sounds)
  const views = new Views(doc, stores)
  const keeping = new Keeping(doc, heavy)
  const notes = new Notes(doc, stores, host, transport, heavy)
  const tempo = new TapTempo(doc)
  const takes = new Takes(doc, stores, host, sounds, transport)
  const printing = new Printing(doc, stores, heavy, sounds)
  const midiFiles = new MidiFiles(doc, stores)
  const guards = new Guards(doc, stores, host, views)
  const overload = new OverloadWatch(doc, stores, host)
  const midiInputs = new MidiInputs(doc, stores, host, { router, transport, snapshots })

  transport.ended = () => {
    if (recording.recordingNotes) notes.end()
    if (recording.recordingTrack) void takes.end()
  }
  library.takers = {
    preset: (preset) => shelf.keep(preset),
    pack: (file) => packs.take(file),
    archive: (file) => keeping.take(file),
    midi: (file) => midiFiles.offer(file, null),
  }
  doc.onPatches(() => void keeping.ask())
  transport.ready = () => library.begin().then(() => sounds.there)
  whenBlocked(() => {
    doc.trouble =
      'An older version of Oleaje is open in another tab and locks the storage. Close that tab; this one then continues.'
  })
  overload.begin()
  new RingingWatch(doc, stores, host).begin()
  heedEngine(stores, host, guards)
  host.rehearses = preferences.rehearses
  let { audio } = doc.project ?? {}
  doc.onPatches((project, patches) => {
    wake()
    if (!audition.settle(project)) host.patch(project, patches)
    if (project.audio !== audio) sounds.settle(project)
    audio = project.audio
  })
  doc.onLoad((project) => {
    audition.forget()
    dice.forget()
    tryOuts.forget()
    matching.forget()
    rendering.forget()
    lab.forget()
    matters.forget()
    host.load(project)
    for (const store of [selection, monitoring, screen, devices, recording, notices]) store.clear()
    selection.selectTrack(project.tracks.find((t) => t.id === 'pad')?.id ?? project.tracks[0]?.id ?? '')
    // after the project has been opened
    setTimeout(() => void takes.recover())
  })
  watch(
    () => monitoring.monitor,
    (monitor) => host.setMonitor(monitor),
  )
  watch(
    () => preferences.night,
    (night) => document.documentElement.classList.toggle('night', night),
    { immediate: true },
  )
  watchFirstSteps(stores, doc, shelf)
  matchLevels(stores, doc, sounds, heavy, host)
  addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') void doc.save()
  })
  addEventListener('pagehide', () => void doc.save())

  return {
    ...stores,
    host,
    heavy,
    ships,
    automation,
    router,
    transport,
    sounds,
    library,
    input,
    shelf,
    audition,
    dice,
    tryOuts,
    matching,
    variants,
    entries,
    packs,
    snapshots,
    rendering,
    chainExporting,
    lab,
    matters,
    views,
    keeping,
    notes,
    midiFiles,
    printing,
    takes,
    guards,
    overload,
    midiInputs,
    tempo,

    /** Adds a modulator to the selected track, opened. */
    addModulator(type: string): void {
      const track = selection.track?.id
      if (!track) return
      const id = newId()
      doc.edit(`Add ${type}`, addModulator(track, type, { id, listens: firstListen(doc.project, type) }))
      selection.openModulators = [...selection.openModulators, id]
      selection.traced = id
    },

    /** Keeps more or less sound ready at the output, here and when the app is opened again. */
    async setBuffer(buffer: Buffering): Promise<void> {
      preferences.buffer = buffer
      await host.setBuffer(buffer)
    },
  }
}

export type Session = ReturnType<typeof createSession>

/**
 * What a new modulator listens to: one that follows others starts on the first track, the rest on their own.
 */
export const firstListen = (project: Project | null, type: string): Listen | null => {
  const first = project?.tracks[0]
  return first && modulatorDefinition(type)?.followsOthers ? { track: first.id, point: 'before' } : null
}
