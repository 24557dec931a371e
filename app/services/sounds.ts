import { limits, sentenceOf } from '@oleaje/core/limits'
import type { Project } from '@oleaje/core/project/schema'
import { isFormerName } from '@oleaje/core/formats/former-hash'
import { HEAD_BYTES, isReadable } from '@oleaje/core/formats/read-audio'
import { StoredPieces } from '@oleaje/core/formats/stored-sound'
import type { EngineHost } from '../audio/host'
import type { Sound } from '../contract/messages'
import { namesInTab, saveSound } from '../storage/database'
import { loadLong } from '../storage/long-sounds'
import type { Shipped, ShippedSound } from '../storage/shipped'
import { FRESH_MS } from '../storage/sweep'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import { StallWatch } from './stall-watch'

/** Sounds that are looked for at once, and those that are named where they are missing. */
const AT_ONCE = 8
const NAMED = 5
/** After so long, what could not be kept is tried again. */
const RETRY_MS = 4000
/** Sounds that nothing plays are held so many at most, the last ones, since a step may bring them back. */
const UNUSED = 8
/** Bringing a sound in is shown when it takes longer. */
const SHOWN_AFTER_MS = 400
/** After so long, sounds that no step brings back any more are looked for and their room is given back. */
const SWEEP_MS = 4000
/** A file that gives nothing for so long is given up. */
const READ_STALL_MS = 60_000

/**
 * The sounds of projects: brought to the engine from this browser or from what ships, and read from files.
 */
export class Sounds {
  private bringing: Promise<void> = Promise.resolve()

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'notices' | 'offers'>,
    private readonly host: EngineHost,
    private readonly heavy: HeavyWorker,
    private readonly ships: Shipped,
  ) {
    host.sounds.bring = (sound, n) => this.piece(sound, n)
  }

  /** Resolves when all available sounds of the project are loaded. Never rejects. */
  get there(): Promise<void> {
    return this.bringing
  }

  /**
   * Brings all sounds of the open project to the engine, together. One that cannot be had leaves the others
   * alone.
   */
  bring(): Promise<void> {
    const { project } = this.doc
    this.bringing = project ? this.bringAll(project) : Promise.resolve()
    return this.bringing
  }

  private async bringAll(project: Project): Promise<void> {
    const missing: string[] = []
    const waiting = Object.entries(project.audio)
    const found: Sound[] = []
    await Promise.all(
      Array.from({ length: AT_ONCE }, async () => {
        for (let next = waiting.shift(); next; next = waiting.shift()) {
          const [hash, ref] = next
          const sound = await this.find(hash, project.sampleRate).catch(() => undefined)
          if (sound) found.push(sound)
          else missing.push(ref.name)
        }
      }),
    )
    this.host.addSounds(found)
    if (missing.length === 0 || this.doc.project?.id !== project.id) return
    const more = missing.length > NAMED ? ` and ${missing.length - NAMED} more` : ''
    this.doc.trouble = `Missing sound${missing.length > 1 ? 's' : ''}: ${missing.slice(0, NAMED).join(', ')}${more}. Drop the files here to restore them.`
  }

  /**
   * Loads sounds that the project uses again, as after an undo, and unloads those unused for long.
   */
  settle(project: Project): void {
    const unused = this.host.sounds.hashes.filter((hash) => !(hash in project.audio))
    if (unused.length > UNUSED) this.host.forget(unused.slice(0, unused.length - UNUSED))
    if (Object.keys(project.audio).some((hash) => !this.host.sound(hash))) void this.bring()
    for (const hash of Object.keys(project.audio)) this.arrived.add(hash)
    this.sweeping ??= setTimeout(() => void this.sweep(), SWEEP_MS)
  }
  private sweeping: ReturnType<typeof setTimeout> | undefined
  /** Sounds that were in a project since the last sweep. */
  private readonly arrived = new Set<string>()

  /** Gives back the room of sounds that no project, no step and nothing on the shelf uses. */
  async sweep(): Promise<void> {
    clearTimeout(this.sweeping)
    this.sweeping = undefined
    // what has just been removed may still be taken back, with its sounds
    if (this.stores.offers.standing) {
      this.sweeping = setTimeout(() => void this.sweep(), SWEEP_MS)
      return
    }
    // what a step would bring back is known by what is kept
    await this.doc.save()
    const arrived = [...this.arrived]
    this.arrived.clear()
    const left = await this.heavy.call
      .sweep([...Object.keys(this.doc.project?.audio ?? {}), ...this.unkept.keys(), ...namesInTab()], arrived)
      .catch(() => false)
    if (left) this.sweeping ??= setTimeout(() => void this.sweep(), FRESH_MS)
  }

  /**
   * A piece of a long sound for the engine. At its own rate it is only read; at another it is worked out
   * beside the page.
   */
  private async piece({ long, sampleRate }: Sound, n: number): Promise<Float32Array<ArrayBuffer>[]> {
    if (!long) return []
    if (long.sampleRate !== sampleRate) return this.heavy.call.piece(long, sampleRate, n)
    const pieces = new StoredPieces(long, sampleRate)
    return pieces.piece(n, new Uint8Array(await long.data.slice(...pieces.bytesOf(n)).arrayBuffer()))
  }

  /**
   * A sound by its hash: what is there already, what this browser keeps, or what ships; undefined where
   * nobody has it.
   */
  private async find(hash: string, sampleRate: number): Promise<Sound | undefined> {
    const known =
      this.host.sound(hash) ?? this.unkept.get(hash) ?? (await loadLong(hash).catch(() => undefined))
    if (!known) return this.fetchShipped(hash, sampleRate)
    if (known.sampleRate === sampleRate) return known
    // a project of another rate uses the same sound: it knows it by the same name
    if (known.long) return { ...known, sampleRate }
    return { ...(await this.heavy.call.takeSound([...known.channels], known.sampleRate, sampleRate)), hash }
  }

  private async fetchShipped(hash: string, sampleRate: number): Promise<Sound | undefined> {
    const file = await this.ships.sound(hash)
    if (!file) return undefined
    const sound = await this.heavy.call.readSound(++this.jobs, file, sampleRate, () => {})
    if (!sound) return undefined
    // brought to another rate it is another sound, which the project knows by the name of the first
    return sound.hash === hash ? this.keep(sound) : { ...sound, hash }
  }

  private readonly unkept = new Map<string, Sound>()
  private trying: ReturnType<typeof setTimeout> | undefined

  /** Keeps a sound in this browser. Where that fails, the header says so, and it is tried again. */
  private async keep(sound: Sound): Promise<Sound> {
    try {
      await saveSound(sound)
      this.unkept.delete(sound.hash)
    } catch {
      this.unkept.set(sound.hash, sound)
      this.trying ??= setTimeout(() => void this.keepAgain(), RETRY_MS)
    }
    this.doc.unkeptSounds = this.unkept.size
    return sound
  }

  private async keepAgain(): Promise<void> {
    this.trying = undefined
    for (const sound of [...this.unkept.values()]) await this.keep(sound)
  }

  /** The sounds that ship with Oleaje. */
  async shipped(): Promise<readonly ShippedSound[]> {
    return (await this.ships.catalogue()).sounds
  }

  /** A shipped sound, at the project's rate and known to the engine. */
  async takeShipped(hash: string): Promise<Sound> {
    const sound = await this.read(hash)
    this.host.addSounds([sound])
    return sound
  }

  /** A sound at the project's rate for work beside the engine, which is not given it. */
  async read(hash: string): Promise<Sound> {
    const sound = await this.find(hash, this.doc.project?.sampleRate ?? 48_000)
    if (!sound) throw new Error('This sound could not be loaded from the server.')
    return sound
  }

  /** Takes sounds that came with a project file. */
  async take(sounds: readonly Sound[]): Promise<void> {
    for (const sound of sounds) await this.keep(sound)
    this.host.addSounds(sounds)
  }

  private jobs = 0

  /**
   * Reads a sound file, whatever core or the browser can decode, and keeps its sound for the engine and in
   * this browser. Null where somebody stops it. Throws what is wrong with it. `isBack` says that the project
   * plays it already and had missed it.
   */
  async readFile(
    file: File,
  ): Promise<{ sound: Sound; ref: Project['audio'][string]; isBack: boolean } | null> {
    if (file.size > limits.soundFile.most)
      throw new Error(sentenceOf('soundFile', Math.round(file.size / 1e6)))
    if (file.size === 0) throw new Error('it is empty.')
    const rate = this.doc.project?.sampleRate ?? 48_000
    const head = new Uint8Array(await file.slice(0, HEAD_BYTES).arrayBuffer())
    const read = isReadable(head) ? await this.readInPieces(file, rate) : await this.decode(file, rate)
    if (!read) return null
    const sound = await this.keep(await this.asMissed(read))
    const isBack = sound.hash in (this.doc.project?.audio ?? {}) && !this.host.sound(sound.hash)
    this.host.addSounds([sound])
    return { sound, isBack, ref: refOf(file.name.replace(/\.[^.]+$/, '').slice(0, 60), sound) }
  }

  /** A sound under the former name by which the project misses it; as it is where it does not. */
  private async asMissed(sound: Sound): Promise<Sound> {
    const missed = Object.keys(this.doc.project?.audio ?? {}).filter(
      (hash) => isFormerName(hash) && !this.host.sound(hash),
    )
    if (missed.length === 0 || sound.long) return sound
    const hash = (await this.heavy.call.formerNames([...sound.channels], sound.sampleRate)).find((name) =>
      missed.includes(name),
    )
    return hash ? { ...sound, hash } : sound
  }

  /**
   * Reads a file beside the page, piece by piece; where it takes long, the page says how far it is, and it
   * can be stopped.
   */
  private async readInPieces(file: File, rate: number): Promise<Sound | null> {
    const { heavy } = this
    const { notices } = this.stores
    const job = ++this.jobs
    let done = 0
    const show = (): void => {
      notices.bringing = { name: file.name, done, stop: () => void heavy.call.cancel(job) }
    }
    const tell = (now: number): void => {
      done = now
      if (notices.bringing) show()
    }
    const shown = setTimeout(show, SHOWN_AFTER_MS)
    const watch = new StallWatch(READ_STALL_MS, () => heavy.end())
    try {
      return await heavy.call.readSound(job, file, rate, (now) => {
        watch.moved()
        tell(now)
      })
    } catch (error) {
      throw watch.isStalled
        ? new Error('reading took too long. The file is damaged, or too large for this computer.')
        : error
    } finally {
      watch.end()
      clearTimeout(shown)
      notices.bringing = null
    }
  }

  /** Keeps samples that were made here as a sound of the project. */
  async takeSamples(
    name: string,
    channels: readonly Float32Array[],
  ): Promise<{ sound: Sound; ref: Project['audio'][string] }> {
    const rate = this.doc.project?.sampleRate ?? 48_000
    const sound = await this.keep(await this.heavy.call.takeSound([...channels], rate, rate))
    this.host.addSounds([sound])
    return { sound, ref: refOf(name, sound) }
  }

  /** Formats that the browser decodes. */
  private async decode(file: File, rate: number): Promise<Sound> {
    if (file.size > limits.decodedFile.most)
      throw new Error(sentenceOf('decodedFile', Math.round(file.size / 1e6)))
    const bytes = await file.arrayBuffer()
    let decoded: AudioBuffer
    try {
      decoded = await new OfflineAudioContext(2, 1, rate).decodeAudioData(bytes)
    } catch {
      throw new Error('this browser finds no sound in it that it can decode.')
    }
    if (decoded.numberOfChannels > limits.channels.most)
      throw new Error(sentenceOf('channels', `file has ${decoded.numberOfChannels}`))
    if (decoded.duration > limits.soundLength.most)
      throw new Error(sentenceOf('soundLength', Math.round(decoded.duration / 60)))
    return this.heavy.call.takeSound(
      Array.from({ length: decoded.numberOfChannels }, (_, i) => decoded.getChannelData(i)),
      decoded.sampleRate,
      rate,
    )
  }

  /** Sounds of these names that are there. */
  named(hashes: Iterable<string>): Sound[] {
    return [...hashes].flatMap((hash) => this.host.sound(hash) ?? [])
  }

  /** All sounds of the open project that are there. */
  ofProject(): Sound[] {
    return Object.keys(this.doc.project?.audio ?? {}).flatMap((hash) => this.host.sound(hash) ?? [])
  }

  private listening: { readonly stop: () => void } | null = null
  /** Previews a shipped sound, in place of the one before. */
  async listen(hash: string): Promise<void> {
    await this.listenTo(() => this.takeShipped(hash))
  }

  /** Previews a sound as soon as it is loaded, unless another was requested meanwhile. */
  async listenTo(sound: () => Promise<Sound>): Promise<void> {
    this.hush()
    const listen = ++this.listens
    const made = await sound()
    if (listen === this.listens) this.listening = await this.host.listen(made)
  }
  private listens = 0

  hush(): void {
    this.listens++
    this.listening?.stop()
    this.listening = null
  }
}

/** The entry of a sound in a project. */
export const refOf = (name: string, { channels, long, sampleRate }: Sound): Project['audio'][string] => ({
  name,
  frames: (long ? new StoredPieces(long, sampleRate).frames : channels[0]?.length) ?? 1,
  channels: long?.channelCount ?? channels.length,
  sampleRate,
})
