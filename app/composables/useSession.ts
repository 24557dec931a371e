import { readProject } from '@oleaje/core/project/read'
import { addAudioTrack, addTrack } from '@oleaje/core/project/chain-edits'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newId, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { gaugeKey } from '@oleaje/core/project/param-path'
import type { Listen, Project } from '@oleaje/core/project/schema'
import { findOwner, heardChain, nodesIn } from '@oleaje/core/project/walk'
import type { RenderOptions } from '@oleaje/core/render/render'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { proxy, wrap, type Remote } from 'comlink'
import { nextTick, watch } from 'vue'
import { DeviceRouter } from '../devices/device-router'
import { openMidi } from '../devices/midi-input'
import { type Buffering, EngineHost, buffers } from '../audio/host'
import { LevelMatch } from '../audio/level-match'
import type { Sound } from '../audio/messages'
import { loadSetting, loadSound, saveSetting, saveSound } from '../storage/database'
import { useBench } from '../stores/bench'
import { useDocument } from '../stores/document'
import type { Heavy } from '../workers/heavy'
import { RideRecorder } from './ride-recorder'
import { giveWayTo, onFrame } from './useFrame'

const LONGEST_FILE = 400 * 1024 * 1024

let session: Session | null = null

/** The one session of this tab: document, engine, storage and workers, tied together. */
export function useSession(): Session {
  session ??= new Session()
  return session
}

class Session {
  readonly host = new EngineHost()
  readonly doc = useDocument()
  readonly bench = useBench()
  readonly devices = new DeviceRouter(this.doc, this.bench, this.host)
  readonly rides = new RideRecorder(this.doc, this.bench, this.host)
  /** Goes to another view; set by the layout, which knows the router. */
  go: (view: string) => Promise<void> = async () => {}
  private worker: Worker | null = null
  private remote: Remote<Heavy> | null = null
  private readonly match = new LevelMatch()
  private lineStream: MediaStream | null = null

  constructor() {
    const { doc, bench, host } = this
    host.onTrouble = (sentence) => { doc.trouble = sentence }
    host.onLate = (ids) => { bench.late = ids }
    giveWayTo(() => host.telemetry.fixed('missed'))
    host.onState = (state) => { if (state === 'failed') bench.playing = false }
    doc.onPatches((project, patches) => host.patch(project, patches))
    doc.onLoad((project) => {
      host.load(project)
      bench.playing = false
      bench.selectTrack(project.tracks.find((t) => t.id === 'pad')?.id ?? project.tracks[0]?.id ?? '')
    })
    watch(() => bench.monitor, (monitor) => host.setMonitor(monitor))
    watch(() => [bench.track?.id, bench.track?.heard, bench.hearDry] as const, ([id, heard]) => {
      this.match.turnTo(id ?? '', performance.now())
      this.setMatch(heard ?? 'a')
    })
    watch(() => bench.night, (night) => {
      document.documentElement.classList.toggle('night', night)
      void saveSetting('night', night).catch(() => {})
    })
    addEventListener('visibilitychange', () => { if (document.visibilityState === 'hidden') void doc.save() })
    addEventListener('pagehide', () => void doc.save())
    let measured = 0
    onFrame((now) => {
      if (!bench.playing || now - measured < 500) return
      measured = now
      const t = host.telemetry
      const gain = bench.monitor.match ? bench.matchDb : 0
      if (!bench.hearDry) this.match.note(bench.track?.heard ?? 'a', t.fixed('wet short') - gain, t.fixed('dry short'), now)
      if (bench.hearDry) this.setMatch(bench.track?.heard ?? 'a')
    })
  }

  private setMatch(heard: 'a' | 'b'): void {
    this.bench.matchDb = Math.round(this.match.gainDb(heard, this.bench.hearDry) * 10) / 10
  }

  get heavy(): Remote<Heavy> {
    if (!this.remote) {
      this.worker = new Worker(new URL('../workers/heavy.ts', import.meta.url), { type: 'module' })
      this.worker.onerror = () => { this.doc.trouble = 'The background worker could not be started, so sounds cannot be read or rendered. Reload the page; your project is kept.' }
      this.remote = wrap<Heavy>(this.worker)
    }
    return this.remote
  }

  private begun: Promise<void> | null = null
  /** Opens what was open last, or the demo. */
  begin(): Promise<void> {
    this.begun ??= this.openFirst()
    return this.begun
  }

  private async openFirst(): Promise<void> {
    const night = await loadSetting<boolean>('night').catch(() => undefined)
    this.bench.night = night ?? matchMedia('(prefers-color-scheme: dark)').matches
    document.documentElement.classList.toggle('night', this.bench.night)
    const buffer = await loadSetting<Buffering>('buffer').catch(() => undefined)
    if (buffer && buffer in buffers) this.bench.buffer = buffer
    await this.host.setBuffer(this.bench.buffer)
    const last = await loadSetting<string>('last').catch(() => undefined)
    try {
      if (last && await this.doc.openStored(last)) await this.fetchSounds()
      else await this.openDemo()
    } catch (error) {
      await this.openDemo()
      this.doc.trouble = `The project that was open last could not be read (${sentence(error)}) It is still kept; the demo is open instead.`
    }
    const project = this.doc.project
    if (project) void this.host.start(project).catch(() => {})
  }

  private async remember(id: string): Promise<void> { await saveSetting('last', id).catch(() => {}) }

  /** Opens the demo project, as it was left or afresh. */
  async openDemo(afresh = false, id = 'night-ferry'): Promise<void> {
    if (!afresh && await this.doc.openStored(id).catch(() => false)) {
      await this.fetchSounds()
      await this.remember(id)
      return
    }
    const response = await fetch(`/api/demo/projects/${id}`)
    if (!response.ok) throw new Error('The demo could not be loaded from the server.')
    const project = readProject(await response.text())
    const fresh = afresh ? { ...project, id: newId(), name: `${project.name}, afresh` } : project
    await this.doc.open(fresh, undefined, true)
    await this.remember(fresh.id)
    await this.fetchSounds()
  }

  private fetching: Promise<void> = Promise.resolve()

  /** Brings all sounds of the project to the engine: from this browser, or for the demo from the server. */
  private fetchSounds(): Promise<void> {
    this.fetching = this.bringSounds()
    return this.fetching
  }

  private async bringSounds(): Promise<void> {
    const project = this.doc.project
    if (!project) return
    const missing: string[] = []
    const sounds = await Promise.all(Object.entries(project.audio).map(async ([hash, ref]) => {
      const known = this.host.sound(hash) ?? await loadSound(hash).catch(() => undefined)
      if (known) return known
      const response = await fetch(`/api/demo/sounds/${hash}`)
      if (!response.ok) {
        missing.push(ref.name)
        return undefined
      }
      const sound = await this.heavy.readSound(await response.arrayBuffer(), project.sampleRate)
      await saveSound(sound).catch(() => {})
      return sound
    }))
    this.host.addSounds(sounds.filter((s): s is Sound => s !== undefined))
    if (missing.length) this.doc.trouble = `Missing sound: ${missing.join(', ')}. Drop the files here to bring them back; the rest plays.`
  }

  async openStored(id: string): Promise<void> {
    if (await this.doc.openStored(id)) {
      await this.remember(id)
      await this.fetchSounds()
    }
  }

  async newProject(): Promise<void> {
    const project = newProject('Untitled')
    await this.doc.open(project, undefined, true)
    await this.remember(project.id)
  }

  /** Takes dropped or chosen files: bundles and projects open, sounds become tracks. Bad files change nothing. */
  async takeFiles(files: readonly File[]): Promise<void> {
    for (const file of files) {
      try {
        if (file.size > LONGEST_FILE) throw new Error(`it is ${Math.round(file.size / 1e6)} MB large; at most ${LONGEST_FILE / 1024 / 1024} MB can be taken.`)
        if (file.size === 0) throw new Error('it is empty.')
        if (/\.zip$/i.test(file.name)) await this.takeBundle(await file.arrayBuffer())
        else if (/\.json$/i.test(file.name)) await this.takeProject(readProject(await file.text()), [])
        else await this.takeSound(file)
      } catch (error) {
        this.doc.trouble = `“${file.name}” was not taken: ${sentence(error)}`
      }
    }
  }

  private async takeBundle(bytes: ArrayBuffer): Promise<void> {
    const { project, sounds } = await this.heavy.unpack(bytes)
    await this.takeProject(project, sounds)
  }

  private async takeProject(project: Project, sounds: readonly Sound[]): Promise<void> {
    // a project from a file is a new one here: it never overwrites the one it came from
    const own = { ...project, id: newId() }
    for (const sound of sounds) await saveSound(sound).catch(() => {})
    this.host.addSounds(sounds)
    await this.doc.open(own, undefined, true)
    await this.remember(own.id)
    await this.fetchSounds()
  }

  /** Reads a sound file, whatever the browser can decode, and keeps its sound for the engine and in this browser. Throws what is wrong with it. */
  async readFile(file: File): Promise<{ sound: Sound, ref: Project['audio'][string] }> {
    if (file.size > LONGEST_FILE) throw new Error(`it is ${Math.round(file.size / 1e6)} MB large; at most ${LONGEST_FILE / 1024 / 1024} MB can be taken.`)
    if (file.size === 0) throw new Error('it is empty.')
    const rate = this.doc.project?.sampleRate ?? 48_000
    const bytes = await file.arrayBuffer()
    const head = new Uint8Array(bytes.slice(0, 4))
    let sound: Sound
    if (String.fromCharCode(...head) === 'RIFF') sound = await this.heavy.readSound(bytes, rate)
    else {
      let decoded: AudioBuffer
      try {
        decoded = await new OfflineAudioContext(2, 1, rate).decodeAudioData(bytes)
      } catch {
        throw new Error('this browser finds no sound in it that it can decode.')
      }
      if (decoded.numberOfChannels > 2) throw new Error(`it has ${decoded.numberOfChannels} channels; mono and stereo can be taken. Mix it down first.`)
      if (decoded.duration > 1800) throw new Error(`it is ${Math.round(decoded.duration / 60)} minutes long; at most 30 can be taken.`)
      sound = await this.heavy.takeSound(Array.from({ length: decoded.numberOfChannels }, (_, i) => decoded.getChannelData(i)), decoded.sampleRate, rate)
    }
    await saveSound(sound).catch(() => {})
    this.host.addSounds([sound])
    const name = file.name.replace(/\.[^.]+$/, '').slice(0, 60)
    return { sound, ref: { name, frames: sound.channels[0]?.length ?? 1, channels: sound.channels.length, sampleRate: rate } }
  }

  private async takeSound(file: File): Promise<void> {
    const { sound, ref } = await this.readFile(file)
    const id = newId()
    this.doc.edit(`Add track ${ref.name}`, addAudioTrack(ref.name, newSource('loop', { tempo: this.doc.project?.tempo ?? 120 }, sound.hash), sound.hash, ref, id))
    this.bench.selectTrack(id)
  }

  addTone(): void {
    const id = newId()
    this.doc.edit('Add tone track', addTrack(newTrack('Tone', newSource('tone'), id)))
    this.bench.selectTrack(id)
  }

  /** Shows a parameter's gauge on the Bench and puts the focus on it. */
  async showGauge(owner: string, path: string): Promise<void> {
    const found = this.doc.project && findOwner(this.doc.project, owner)
    if (!found) return
    await this.go('/')
    const { bench } = this
    if (found.kind !== 'link' && bench.track?.id !== found.track.id) bench.selectTrack(found.track.id)
    if (found.kind === 'node') bench.select(found.node.id)
    if (found.kind === 'branch') {
      const split = [...nodesIn(heardChain(found.track).nodes)].find((n) => n.kind === 'split' && n.branches.some((b) => b.id === owner))
      if (split) bench.select(split.id)
    }
    if (found.kind === 'modulator' && !bench.openModulators.includes(owner)) bench.openModulators = [...bench.openModulators, owner]
    await nextTick()
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-gauge="${gaugeKey(owner, path)}"]`)?.focus())
  }

  /** Opens real MIDI inputs beside the simulated controller. */
  async openMidi(): Promise<string[]> {
    const { names } = await openMidi((m) => this.devices.take(m))
    return names()
  }

  /** Adds a modulator to the selected track, opened; a follower starts on the first track. */
  addModulator(type: string): void {
    const track = this.bench.track
    if (!track) return
    const id = newId()
    this.doc.edit(`Add ${type}`, addModulator(track.id, type, { id, listens: firstListen(this.doc.project, type) }))
    this.bench.openModulators = [...this.bench.openModulators, id]
    this.bench.traced = id
  }

  private soundsOfProject(): Sound[] {
    return Object.keys(this.doc.project?.audio ?? {}).flatMap((hash) => this.host.sound(hash) ?? [])
  }

  /** The project with its sounds as one file. */
  async pack(): Promise<Blob> {
    await this.fetching
    if (!this.doc.project) throw new Error('There is no project open.')
    return new Blob([await this.heavy.pack(this.doc.project, this.soundsOfProject())], { type: 'application/zip' })
  }

  private jobs = 0
  /** Renders in the worker. Gives the file, or null when stopped. */
  render(options: RenderOptions, depth: WavDepth, onProgress: (done: number) => void): { done: Promise<Blob | null>, stop: () => void } {
    if (!this.doc.project) throw new Error('There is no project open.')
    const job = ++this.jobs
    const project = this.doc.project
    return { done: this.fetching.then(() => this.heavy.render(job, project, this.soundsOfProject(), options, depth, proxy(onProgress))), stop: () => void this.heavy.cancel(job) }
  }

  async togglePlay(): Promise<void> {
    if (this.bench.playing) return this.stop()
    await this.begun
    await this.play(this.doc.project?.loop.on ? this.doc.project.loop.start : 0)
  }

  async play(beat: number): Promise<void> {
    if (!this.doc.project) return
    // asked before the sounds are there, it starts as soon as they are
    await this.fetching
    try {
      await this.host.play(this.doc.project, beat)
      this.bench.playing = true
    } catch {
      this.bench.playing = false
    }
  }

  /** Keeps more or less sound ready at the output, here and when the app is opened again. */
  async setBuffer(buffer: Buffering): Promise<void> {
    this.bench.buffer = buffer
    await saveSetting('buffer', buffer).catch(() => {})
    await this.host.setBuffer(buffer)
  }

  stop(): void {
    this.rides.end()
    this.host.stop()
    this.bench.playing = false
  }

  /** Opens the live input of a track, simulated or real; null closes it. */
  async openInput(device: 'simulated' | 'microphone' | null): Promise<void> {
    this.lineStream?.getTracks().forEach((t) => t.stop())
    this.lineStream = null
    const project = this.doc.project
    if (!project) return
    await this.host.start(project)
    if (device === null) return this.host.connectInput(null)
    if (device === 'simulated') {
      const catalogue = await (await fetch('/api/demo')).json() as { sounds: { file: string, hash: string }[] }
      const hash = catalogue.sounds.find((s) => s.file === 'line-in')?.hash
      const bytes = hash && await (await fetch(`/api/demo/sounds/${hash}`)).arrayBuffer()
      if (bytes) await this.host.connectInput(await this.heavy.readSound(bytes, project.sampleRate))
      return
    }
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } })
      stream.getAudioTracks()[0]?.addEventListener('ended', () => {
        this.doc.trouble = 'The input was unplugged. Plug it in again and open it anew; everything else plays on.'
        void this.host.connectInput(null)
      })
      this.lineStream = stream
      await this.host.connectInput(stream)
    } catch (error) {
      const denied = error instanceof DOMException && error.name === 'NotAllowedError'
      throw new Error(denied ? 'The browser was not allowed to use the microphone. Allow it beside the address, then try again; or use the simulated line.' : 'No input was found. Plug one in and try again; or use the simulated line.')
    }
  }
}

/** What a new modulator listens to: a follower starts on the first track, others on their own. */
export const firstListen = (project: Project | null, type: string): Listen | null => (type === 'follower' && project?.tracks[0] ? { track: project.tracks[0].id, point: 'before' } : null)

/** What went wrong, as one sentence. */
export function sentence(error: unknown): string {
  const text = error instanceof Error ? error.message : String(error)
  return text.replace(/^(Error|TypeError): /, '')
}
