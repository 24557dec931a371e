import { isArchive } from '@oleaje/core/formats/archive'
import { packBundle, readBundle } from '@oleaje/core/formats/bundle'
import { formerNames } from '@oleaje/core/formats/former-hash'
import { audioHash } from '@oleaje/core/formats/hash'
import { type MidiFile, readMidiFile } from '@oleaje/core/formats/midi'
import { resample } from '@oleaje/core/formats/resample'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import { StoredPieces, importSound, storedAudio } from '@oleaje/core/formats/stored-sound'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { chainResponse } from '@oleaje/core/analysis/chain-response'
import type { MeasuredResponse } from '@oleaje/core/analysis/measured-response'
import { impulseNamed } from '@oleaje/core/dsp/impulses'
import { type ImpulseShape, shapeImpulse } from '@oleaje/core/effects/convolver'
import { checkBudget } from '@oleaje/core/project/budget'
import { arpeggiated } from '@oleaje/core/engine/arpeggiated'
import type { Arpeggio, ChainNode, Note, NoteLine, Project, Track } from '@oleaje/core/project/schema'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { apply, together } from '@oleaje/core/project/edit'
import { setParam } from '@oleaje/core/project/value-edits'
import { type Preset, takePresetInto } from '@oleaje/core/project/preset'
import { type SoundFigures, framesOf, soundFigures, truePeakOf } from '@oleaje/core/analysis/sound-figures'
import { type DiceThrow, tracksOf } from '@oleaje/core/variation/dice'
import { type LevelledThrow, levelledThrow } from '@oleaje/core/variation/levelled-throw'
import { isPack, readPack, writePack } from '@oleaje/core/formats/pack'
import { type Phrase, phraseOf, phraseThrough } from '@oleaje/core/render/phrase'
import { auditioned } from '@oleaje/core/project/replace-chain'
import { addNode } from '@oleaje/core/project/chain-edits'
import { newEffect, newId } from '@oleaje/core/project/new'
import { heardChain, mixOf } from '@oleaje/core/project/walk'
import {
  type RenderFigures,
  type RenderOptions,
  planRender,
  render,
  renderWav,
} from '@oleaje/core/render/render'
import { type Hits, hitsOf } from '@oleaje/core/dsp/hits'
import { type FoundTempo, findTempo } from '@oleaje/core/analysis/tempo'
import { printLoop } from '@oleaje/core/render/print'
import { expose, transfer } from 'comlink'
import type { AudioData } from '@oleaje/core/contract/audio'
import type { ByteSource } from '@oleaje/core/formats/byte-asks'
import type { DecodedAudio } from '@oleaje/core/formats/audio-file'
import type { LongSound, Sound } from '../contract/messages'
import { LongSoundWriter } from '../storage/long-sounds'
import { type BroughtBack, exportEverything, importEverything } from '../storage/everything'
import { renameFormerSounds } from '../storage/former-sound-names'
import { removeForNow, unlessForNow } from '../storage/removals'
import { sweepSounds } from '../storage/sweep'
import { type SpectrogramPair, spectrogramOf } from './spectrogram-picture'
import { PICTURED_SECONDS, type PicturedSound, pictureOf } from './preset-picture'

/** Final processing of a render. */
export type Finish = { readonly gain?: number; readonly ceiling?: number } | undefined

/** Bytes of a file that are made at a time. */
const FILE_PART = 1 << 22

const running = new Set<number>()
/** Sounds that were brought in and have not been seen in a project yet. */
const onTheirWay = new Set<string>()

/** Everything that takes long, off the main thread. Errors carry their sentence as message. */
const heavy = {
  /**
   * Reads a file of sound piece by piece and brings it to the project's rate. A long one is put away
   * meanwhile, and is kept when this ends. Gives null when cancelled.
   */
  async readSound(
    job: number,
    file: Blob,
    sampleRate: number,
    onProgress: (done: number) => void,
  ): Promise<Sound | null> {
    running.add(job)
    let told = 0
    const plain = sourceOf(file)
    const source: ByteSource = {
      size: file.size,
      read: (from, to) => {
        if (!running.has(job)) throw new Cancelled()
        if (to / file.size - told >= 0.005) onProgress((told = to / file.size))
        return plain.read(from, to)
      },
    }
    try {
      return await bringIn(audioPieces(source), sampleRate)
    } catch (error) {
      if (error instanceof Cancelled) return null
      throw error
    } finally {
      running.delete(job)
    }
  },

  /** Samples of a piece of a long sound at a rate of the engine's that is not its own. */
  async piece(long: LongSound, sampleRate: number, n: number): Promise<Float32Array<ArrayBuffer>[]> {
    const pieces = new StoredPieces(long, sampleRate)
    const channels = pieces.piece(
      n,
      new Uint8Array(await long.data.slice(...pieces.bytesOf(n)).arrayBuffer()),
    )
    return transfer(
      channels,
      channels.map((c) => c.buffer),
    )
  },

  /**
   * Gives back the room of sounds that nothing uses; gives whether some were left that came just now, or all
   * were, as something removed may still be taken back.
   * @param inUse names that are in use beside what is kept
   * @param arrived names that have come into a project, and are known by that
   */
  sweep(inUse: string[], arrived: string[]): Promise<boolean> {
    for (const name of arrived) onTheirWay.delete(name)
    return unlessForNow(() => sweepSounds([...inUse, ...onTheirWay]), true)
  },

  /** Reads a Standard MIDI File. */
  async readMidi(file: Blob): Promise<MidiFile> {
    return readMidiFile(new Uint8Array(await file.arrayBuffer()))
  },

  /** The tempo of a loop by its hits, and where these are. */
  findTempo(channels: Float32Array[], sampleRate: number): FoundTempo & Hits {
    const hits = hitsOf({ sampleRate, channels })
    return { ...findTempo(channels[0]?.length ?? 0, sampleRate, hits), ...hits }
  },

  /** The names that a held sound may have in older projects. */
  formerNames(channels: Float32Array[], sampleRate: number): string[] {
    return formerNames({ sampleRate, channels })
  },

  /** Gives sounds that are kept under former names the names of today, in one tab at a time. */
  async renameFormerSounds(): Promise<number> {
    if (!('locks' in navigator)) return renameFormerSounds()
    let renamed = 0
    await navigator.locks.request('oleaje-renaming', async () => {
      renamed = await renameFormerSounds()
    })
    return renamed
  },

  /**
   * Takes sound that was decoded or recorded here. What cannot be put away, as there is no room, is held: it
   * is nowhere else.
   */
  async takeSound(channels: Float32Array[], from: number, sampleRate: number): Promise<Sound> {
    try {
      return await bringIn(
        (async function* () {
          yield { sampleRate: from, channels }
        })(),
        sampleRate,
      )
    } catch {
      const sound = { sampleRate, channels: channels.map((c) => resample(c, from, sampleRate)) }
      return { hash: await audioHash(sound), ...sound }
    }
  },

  /** The notes that an arpeggio plays of a line; a long line takes most of a second. */
  arpeggioNotes: (line: NoteLine, arpeggio: Arpeggio, tempo: number): Note[] =>
    arpeggiated(line, arpeggio, tempo),

  /** Largest sample over all channels in each of `buckets` equal stretches, for drawing a wave. */
  peaks(channels: readonly Float32Array[], buckets: number): Float32Array {
    const out = new Float32Array(buckets)
    for (const channel of channels) {
      for (let i = 0; i < channel.length; i++) {
        const b = Math.min(buckets - 1, Math.floor((i / channel.length) * buckets))
        out[b] = Math.max(out[b] as number, Math.abs(channel[i] as number))
      }
    }
    return out
  },

  /** A response as a Convolver uses it: its peaks for drawing, and its length. */
  impulsePeaks(
    shape: ImpulseShape,
    channels: Float32Array[] | null,
    sampleRate: number,
    places: number,
  ): { peaks: Float32Array; seconds: number } {
    const left = channels?.[0]
    const raw = left
      ? { left: new Float32Array(left), right: new Float32Array(channels?.[1] ?? left) }
      : impulseNamed(shape.name, sampleRate)
    const made = shapeImpulse(raw, shape, sampleRate)
    return { peaks: heavy.peaks([made.left, made.right], places), seconds: made.left.length / sampleRate }
  },

  /** Frequency response of a chain, measured by an impulse. */
  chainResponse(nodes: ChainNode[], sampleRate: number): MeasuredResponse {
    return chainResponse(nodes, sampleRate)
  },

  /**
   * A project with its sounds as one file. Long sounds are read from where they are kept, at the rate they
   * have there.
   */
  async pack(project: Project, sounds: Sound[]): Promise<Blob> {
    const file = new Parts()
    await packBundle(
      {
        project,
        audio: new Map(sounds.map((s) => [s.hash, s.long ? readAsNeeded(s.long, s.long.sampleRate) : s])),
      },
      (part) => file.add(part),
    )
    return file.blob('application/zip')
  },

  /** A project with its sounds from one file. Its long sounds are put away on the way, and are kept. */
  async unpack(file: Blob): Promise<{ project: Project; sounds: Sound[] }> {
    const long = new Map<string, Sound>()
    const { project, audio } = await readBundle(sourceOf(file), undefined, () => {
      const parts = new Parts()
      return {
        write: (part) => parts.add(part),
        end: async () => {
          const { formerHash, ...sound } = await bringIn(
            audioPieces(sourceOf(parts.blob('audio/wav'))),
            null,
            true,
          )
          long.set(sound.hash, sound)
          return {
            hash: sound.hash,
            formerHash,
            sound: sound.long ? readAsNeeded(sound.long, sound.sampleRate) : sound,
          }
        },
      }
    })
    return {
      project,
      sounds: [...audio].map(([hash, { sampleRate, channels }]) => ({
        ...long.get(hash),
        hash,
        sampleRate,
        channels: [...channels],
      })),
    }
  },

  /** All that this browser keeps as one file. */
  async exportEverything(): Promise<Blob> {
    const file = new Parts()
    await exportEverything((part) => file.add(part))
    return file.blob('application/zip')
  },

  /** Whether a zip file is such a one. */
  isArchive(file: Blob): Promise<boolean> {
    return isArchive(sourceOf(file))
  },

  /** Brings back what such a file holds. */
  async importEverything(file: Blob): Promise<BroughtBack> {
    // sounds come before the projects that use them: none is swept away meanwhile, here or by another tab
    const letGo = await removeForNow(() => Promise.resolve())
    try {
      return await importEverything(sourceOf(file), newId)
    } finally {
      letGo()
    }
  },

  /**
   * A preset over the sound of a track, from the loop's start, brought to the loudness that the sound has by
   * itself.
   */
  preview(project: Project, sounds: Sound[], track: string, preset: Preset, seconds: number): Sound {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const dry = renderPart(bare, audio, track, from, seconds)
    const { channels, loudness } = renderPart(
      apply(bare, takePresetInto(track, preset, { chainOf: track })).next,
      audio,
      track,
      from,
      seconds,
    )
    const gain =
      loudness > -70 && dry.loudness > -70
        ? 10 ** (Math.max(-24, Math.min(24, dry.loudness - loudness)) / 20)
        : 1
    for (const c of channels) for (let i = 0; i < c.length; i++) c[i] = (c[i] ?? 0) * gain
    return { hash: '', sampleRate: project.sampleRate, channels }
  },

  /**
   * By how many LU a preset on a track is softer than its dry sound, over the first seconds of the loop; 0
   * where either is silent.
   */
  levelOf(project: Project, sounds: Sound[], track: string, preset: Preset, seconds: number): number {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const dry = renderPart(bare, audio, track, from, seconds).loudness
    const through = apply(bare, auditioned(track, preset, 0)).next
    const { loudness } = renderPart(through, audio, track, from, seconds)
    return loudness > -70 && dry > -70 ? Math.max(-24, Math.min(24, dry - loudness)) : 0
  },

  /**
   * Integrated loudness in LUFS of a track with its chain A, with its chain B and without a chain, each over
   * the same stretch from the start of the loop; −Infinity where nothing is above the gate. Effects of the
   * mix are left out, as they come after the comparison.
   * @param seconds length of the stretch at most
   */
  loudnessOf(
    project: Project,
    sounds: Sound[],
    track: string,
    seconds: number,
  ): Record<'a' | 'b' | 'dry', number> {
    const audio = audioOf(sounds)
    const { loop, tempo } = project
    const from = (loop.start * 60) / tempo
    const length = Math.min(seconds, ((loop.end - loop.start) * 60) / tempo)
    const of = (change: (t: Track) => Track): number =>
      renderPart(
        {
          ...project,
          tracks: project.tracks.map((t) =>
            t.kind === 'mix'
              ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const }
              : t.id === track
                ? change(t)
                : t,
          ),
        },
        audio,
        track,
        from,
        length,
      ).loudness
    const a = of((t) => ({ ...t, heard: 'a' }))
    const hasB = project.tracks.some((t) => t.id === track && t.b)
    return {
      a,
      b: hasB ? of((t) => ({ ...t, heard: 'b' })) : a,
      dry: of((t) => ({ ...t, a: { nodes: [] }, b: null, heard: 'a' })),
    }
  },

  /** Picture data of a preset on the sound of a track: dry and processed. */
  presetPicture(
    project: Project,
    sounds: Sound[],
    track: string,
    preset: Preset,
  ): { dry: PicturedSound; wet: PicturedSound } {
    const audio = audioOf(sounds)
    const bare = bareTrack(project, track)
    const from = (project.loop.start * 60) / project.tempo
    const made = apply(bare, takePresetInto(track, preset, { chainOf: track })).next
    const picture = (p: Project): PicturedSound =>
      pictureOf(renderPart(p, audio, track, from, PICTURED_SECONDS).channels, project.sampleRate)
    return { dry: picture(bare), wet: picture(made) }
  },

  /** Some seconds of one track from the start of the loop: figures and a spectrogram. */
  tryOut(project: Project, sounds: Sound[], track: string, seconds: number): TriedOut {
    const from = (project.loop.start * 60) / project.tempo
    const { channels } = renderPart(withoutMix(project), audioOf(sounds), track, from, seconds)
    const frames = framesOf(channels, project.sampleRate)
    return { figures: soundFigures(channels, project.sampleRate, frames), picture: spectrogramOf(frames) }
  },

  /** A throw of the dice after which the sound is as loud as before; null where none is found. */
  levelledThrow(project: Project, sounds: Sound[], thrown: DiceThrow, seconds: number): LevelledThrow | null {
    const audio = audioOf(sounds)
    const from = (project.loop.start * 60) / project.tempo
    const [alone] = thrown.scope.kind === 'project' ? [] : tracksOf(project, thrown.scope)
    return levelledThrow(alone ? withoutMix(project) : project, thrown, (p) => {
      const { channels, loudness } = renderPart(p, audio, alone?.id, from, seconds)
      return { loudness, truePeak: truePeakOf(channels) }
    })
  },

  /** Spectrograms of a phrase, made of sounds or a sine without any, before and after a preset. */
  phrasePicture(preset: Preset, phrase: Phrase, sounds: Sound[]): SpectrogramPair {
    const audio = sounds.length ? phraseOf(sounds) : null
    const picture = (through: Preset | null): Uint8Array => {
      const sound = phraseThrough(phrase, through, {}, () => audio)
      return spectrogramOf(framesOf(sound, audio?.sampleRate ?? 48_000))
    }
    return { dry: picture(null), wet: picture(preset) }
  },

  /** Presets with their sounds as one file. */
  async writePack(name: string, presets: Preset[], sounds: Sound[]): Promise<Blob> {
    return new Blob([await writePack({ name, presets, audio: audioOf(sounds) })], { type: 'application/zip' })
  },

  /** Whether a zip file is a pack. */
  isPack(file: Blob): Promise<boolean> {
    return isPack(sourceOf(file))
  },

  /** What a pack holds, and what of it could not be read. */
  async readPack(
    file: Blob,
  ): Promise<{ name: string; presets: Preset[]; sounds: Sound[]; refused: string[] }> {
    const { name, presets, audio, refused } = await readPack(sourceOf(file))
    const sounds = [...audio].map(([hash, { sampleRate, channels }]) => ({
      hash,
      sampleRate,
      channels: [...channels],
    }))
    return { name, presets: [...presets], sounds, refused: [...refused] }
  },

  /**
   * Renders to WAV parts, with progress 0…1, and says what was measured. Gives null when cancelled.
   * @param finish a factor on all of it, or a limiter at the end of the mix, with its ceiling in dBTP
   */
  async render(
    job: number,
    project: Project,
    sounds: Sound[],
    options: RenderOptions,
    depth: WavDepth,
    finish: Finish,
    onProgress: (done: number) => void,
  ): Promise<{ blob: Blob; figures: RenderFigures } | null> {
    running.add(job)
    const audio = audioOf(sounds)
    const plan = planRender(
      finish?.ceiling === undefined ? project : limited(project, finish.ceiling),
      options,
    )
    checkBudget(plan.project, plan.frames / plan.sampleRate)
    const parts: BlobPart[] = []
    let told = 0
    const rendering = renderWav(plan, (hash) => audio.get(hash) ?? null, depth, finish?.gain)
    let next = rendering.next()
    for (; !next.done; next = rendering.next()) {
      const { bytes, done } = next.value
      parts.push(bytes)
      if (done - told > plan.sampleRate) {
        told = done
        onProgress(done / plan.frames)
        await new Promise((resolve) => setTimeout(resolve))
        if (!running.has(job)) return null
      }
    }
    running.delete(job)
    return { blob: new Blob(parts, { type: 'audio/wav' }), figures: next.value }
  },

  /** Prints a track or the mix over the loop, with progress 0…1. Gives null when cancelled. */
  async print(
    job: number,
    project: Project,
    sounds: Sound[],
    track: string | null,
    tail: 'folded' | 'kept',
    onProgress: (done: number) => void,
  ): Promise<readonly [Float32Array, Float32Array] | null> {
    running.add(job)
    const audio = audioOf(sounds)
    const work = printLoop(project, track, tail, (hash) => audio.get(hash) ?? null)
    let told = 0
    for (;;) {
      const piece = work.next()
      if (piece.done) {
        running.delete(job)
        return transfer(
          piece.value,
          piece.value.map((c) => c.buffer),
        )
      }
      if (piece.value - told < 0.02) continue
      told = piece.value
      onProgress(told)
      await new Promise((resolve) => setTimeout(resolve))
      if (!running.has(job)) return null
    }
  },

  cancel(job: number): void {
    running.delete(job)
  },
}

/** What is measured of a try-out. */
export interface TriedOut {
  readonly figures: SoundFigures
  readonly picture: Uint8Array
}

export type Heavy = typeof heavy

/** A project with a limiter at the end of its mix, behind the mix's own level where nothing moves that. */
function limited(project: Project, ceiling: number): Project {
  const mix = mixOf(project)
  const last = heardChain(mix).nodes.at(-1)
  const level = newEffect('gain', { level: mix.params.level ?? 0 })
  const isMoved = project.links.some((l) => l.target.owner === mix.id && l.target.param === 'level')
  return apply(
    project,
    together(
      addNode(level, last ? { after: last.id } : { startOf: mix.id }),
      addNode(newEffect('limiter', { ceiling }), { after: level.id }),
      isMoved ? setParam(level.id, 'level', 0) : setParam(mix.id, 'level', 0),
    ),
  ).next
}

/** A project whose mix has no effects. */
const withoutMix = (project: Project): Project => ({
  ...project,
  tracks: project.tracks.map((t) =>
    t.kind === 'mix' ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const } : t,
  ),
})

/** A project in which a track and the mix have no effects. */
const bareTrack = (project: Project, track: string): Project => ({
  ...project,
  tracks: project.tracks.map((t) =>
    t.id === track || t.kind === 'mix' ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const } : t,
  ),
})

/** Some seconds of one track, or of all without one, with their loudness in LUFS. */
function renderPart(
  project: Project,
  audio: ReadonlyMap<string, AudioData>,
  track: string | undefined,
  from: number,
  seconds: number,
): { channels: [Float32Array, Float32Array]; loudness: number } {
  const plan = planRender(project, { track, from, to: from + seconds, tail: 0 })
  const channels: [Float32Array, Float32Array] = [
    new Float32Array(plan.frames),
    new Float32Array(plan.frames),
  ]
  const meter = new LoudnessMeter(plan.sampleRate)
  let at = 0
  for (const chunk of render(plan, (hash) => audio.get(hash) ?? null)) {
    const [left, right] = chunk.channels.map((c) => c.subarray(0, chunk.done - at)) as [
      Float32Array,
      Float32Array,
    ]
    channels[0].set(left, at)
    channels[1].set(right, at)
    meter.process(left, right)
    at = chunk.done
  }
  return { channels, loudness: meter.integrated }
}

const sourceOf = (file: Blob): ByteSource => ({
  size: file.size,
  read: async (from, to) => new Uint8Array(await file.slice(from, to).arrayBuffer()),
})

/**
 * A file that is made piece by piece. What is full goes to the browser, which puts it on disk where it is
 * much.
 */
class Parts {
  private readonly done: Blob[] = []
  private part = new Uint8Array(FILE_PART)
  private filled = 0

  add(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length;) {
      const n = Math.min(bytes.length - at, FILE_PART - this.filled)
      this.part.set(bytes.subarray(at, at + n), this.filled)
      at += n
      this.filled += n
      if (this.filled === FILE_PART) this.put()
    }
  }

  blob(type: string): Blob {
    this.put()
    return new Blob(this.done, { type })
  }

  private put(): void {
    this.done.push(new Blob([this.part.subarray(0, this.filled)]))
    this.filled = 0
  }
}

/** Somebody does not want it any more. */
class Cancelled extends Error {}

/** Brings a sound to a rate; a long one is put away in pieces. */
async function bringIn(
  pieces: AsyncIterable<DecodedAudio>,
  sampleRate: number | null,
  former = false,
): Promise<Sound & { readonly formerHash?: string }> {
  const writer = new LongSoundWriter()
  try {
    const found = await importSound(pieces, sampleRate, (bytes) => writer.write(bytes), former)
    onTheirWay.add(found.hash)
    return 'stored' in found
      ? { ...(await writer.end(found.hash, found.stored)), formerHash: found.formerHash }
      : found
  } catch (error) {
    await writer.drop()
    throw error
  }
}

/**
 * Sounds for a render: held ones as they are, long ones read from where they are kept as the render comes to
 * them.
 */
function audioOf(sounds: readonly Sound[]): Map<string, AudioData> {
  return new Map(sounds.map((s) => [s.hash, s.long ? readAsNeeded(s.long, s.sampleRate) : s]))
}

function readAsNeeded(long: LongSound, sampleRate: number): AudioData {
  const reader = new FileReaderSync()
  return storedAudio(
    long,
    sampleRate,
    (from, to) => new Uint8Array(reader.readAsArrayBuffer(long.data.slice(from, to))),
  )
}

// Errors are thrown as plain ones: a class of its own would lose its message on the way through the port.
expose(
  Object.fromEntries(
    Object.entries(heavy).map(([name, f]) => [
      name,
      async (...args: never[]) => {
        try {
          return await (f as (...a: never[]) => unknown)(...args)
        } catch (error) {
          throw new Error(error instanceof Error ? error.message : String(error))
        }
      },
    ]),
  ),
)
