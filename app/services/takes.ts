import { addTrack } from '@oleaje/core/project/chain-edits'
import { together } from '@oleaje/core/project/edit'
import { freeName } from '@oleaje/core/project/free-name'
import { newId, newSource, newTrack } from '@oleaje/core/project/new'
import { presetOfTrack, takePresetInto } from '@oleaje/core/project/preset'
import type { Project, Take, Track } from '@oleaje/core/project/schema'
import { dropUnusedSounds } from '@oleaje/core/project/target-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { EngineHost } from '../audio/host'
import { RunningTake, type TakeHead, type TakePart, cutOffTakes, dropTake } from '../storage/running-takes'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { PART } from '../worklet/recorder'
import { sentence } from './sentence'
import type { Sounds } from './sounds'
import type { TransportService } from './transport'

/** Shortest take that is kept, in seconds. */
const SHORTEST = 0.05

/** Recordings of what goes into the chain of a track and what comes out of it, aligned to the song. */
export class Takes {
  private parts: TakePart[] = []
  private head: Omit<TakeHead, 'id'> | null = null
  private running: RunningTake | null = null
  private listening: { readonly stop: () => void } | null = null

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'monitoring' | 'preferences' | 'recording' | 'selection'>,
    private readonly host: EngineHost,
    private readonly sounds: Sounds,
    private readonly transport: TransportService,
  ) {}

  /** Begins a recording of a track, and plays where nothing plays yet; or ends the one under way. */
  async toggle(track: Track): Promise<void> {
    const { doc, host } = this
    const { monitoring, preferences, recording } = this.stores
    if (recording.recordingTrack) {
      const same = recording.recordingTrack === track.id
      await this.end()
      if (same) return
    }
    if (!doc.project) return
    await host.start(doc.project).catch(() => {})
    this.parts = []
    const running = (this.running = new RunningTake())
    const project = doc.project.id
    recording.recordingTrack = track.id
    host.record(track.id, ({ part, frames, from, beat, latency, heard }) => {
      // what comes in was played to what was heard, which had left the engine so much later and the output so
      // much earlier
      const way = track.source?.device ? preferences.roundTrips[track.source.device] : undefined
      this.head = { project, track: track.id, beat, latency, round: way === undefined ? 0 : way + heard }
      // the part goes back to be written again
      const kept = { from, frames, sides: [0, 1, 2, 3].map((i) => part.slice(i * PART, i * PART + frames)) }
      this.parts.push(kept)
      running.add(kept, this.head)
    })
    if (!monitoring.playing && !monitoring.starting) await this.transport.toggle()
  }

  /** Ends the recording under way: dry and wet become a take of its track, as one step. */
  async end(): Promise<void> {
    const { host, running } = this
    const { recording } = this.stores
    recording.recordingTrack = null
    this.running = null
    await host.endRecording()
    const { parts, head } = this
    this.parts = []
    this.head = null
    if (!head || (await this.join(head, parts))) await running?.drop()
    else await running?.leave()
  }

  /** Makes takes of recordings of the open project that were cut off, by a page that was left or killed. */
  async recover(): Promise<void> {
    const { doc } = this
    const { project } = doc
    if (!project || doc.readOnly) return
    for (const { head, parts } of await cutOffTakes(project.id).catch(() => [])) {
      const last = parts.at(-1)
      if (last && !(await this.join(head, parts))) continue
      await dropTake(head.id).catch(() => {})
      const seconds = last ? (last.from + last.frames) / project.sampleRate : 0
      const track = project.tracks.find((t) => t.id === head.track)
      if (track && seconds > SHORTEST)
        doc.trouble = `The recording of ${track.name} was interrupted. ${seconds.toFixed(1)} s were kept as a take.`
    }
  }

  /** Makes a take of what was recorded. False where its project is not open, so that it waits for it. */
  private async join(head: Omit<TakeHead, 'id'>, parts: readonly TakePart[]): Promise<boolean> {
    const { doc, sounds } = this
    const { beat, latency, round } = head
    if (doc.project?.id !== head.project) return false
    const track = doc.project.tracks.find((t) => t.id === head.track)
    if (!track) return true
    const last = parts.at(-1)
    const recorded = last ? last.from + last.frames : 0
    const frames = recorded - round - latency
    const { sampleRate } = doc.project
    if (frames < SHORTEST * sampleRate) return true
    const missing = recorded - parts.reduce((sum, p) => sum + p.frames, 0)
    try {
      const take = (what: 'dry' | 'wet', from: number) =>
        [0, 1].map((side) => {
          const all = new Float32Array(recorded)
          for (const part of parts) all.set(part.sides[side + (what === 'wet' ? 2 : 0)] ?? [], part.from)
          return all.slice(from, from + frames)
        })
      const name = freeTakeName(track)
      const [dry, wet] = [
        await sounds.takeSamples(soundName(name, 'dry', track), take('dry', round)),
        await sounds.takeSamples(soundName(name, 'wet', track), take('wet', round + latency)),
      ]
      if (doc.project?.id !== head.project) return false
      const made: Take = { id: newId(), name, at: beat, dry: dry.sound.hash, wet: wet.sound.hash }
      doc.edit(`Record ${name}`, (p) => {
        const t = p.tracks.find((x) => x.id === track.id)
        if (!t) return
        p.audio[made.dry] = dry.ref
        p.audio[made.wet] = wet.ref
        t.takes = [...(t.takes ?? []), made]
      })
      // where there is no room for another take, it waits until there is
      if (!doc.project.tracks.some((t) => t.takes?.some((x) => x.id === made.id))) return false
      if (missing > 0)
        doc.trouble = `The page was too busy to record all of “${name}”: ${(missing / sampleRate).toFixed(2)} s of it are silent. Close other pages and record it again.`
      return true
    } catch (error) {
      doc.trouble = sentence(error)
      return false
    }
  }

  /** Previews a take, or stops the preview. */
  async hear(take: Take, what: 'dry' | 'wet'): Promise<void> {
    this.listening?.stop()
    this.listening = null
    const key = `${take.id} ${what}`
    if (this.stores.monitoring.heardTake === key) {
      this.stores.monitoring.heardTake = ''
      return
    }
    const sound = this.host.sound(take[what])
    if (!sound) return
    this.stores.monitoring.heardTake = key
    this.listening = await this.host.listen(sound)
  }

  /**
   * Puts sides of a take on new tracks, where the song was when it was recorded: the wet side as it is, the
   * dry side through the same chain, with its modulators and links.
   */
  keep(track: Track, take: Take, ...sides: readonly ('dry' | 'wet')[]): void {
    const { project } = this.doc
    if (!project) return
    const made = sides.map((what) => {
      const ref = project.audio[take[what]]
      const source = newSource('loop', { tempo: project.tempo, at: take.at }, take[what])
      const kept = newTrack(ref?.name ?? take.name, source, newId())
      const chain = what === 'dry' ? presetOfTrack(project, track.id) : undefined
      return { kept, edits: chain ? [takePresetInto(kept.id, chain, { chainOf: kept.id })] : [] }
    })
    this.doc.edit(
      `Keep ${take.name} ${sides.join(' and ')}`,
      together(
        ...made.flatMap(({ kept, edits }) => [addTrack(kept), ...edits]),
        setParam(track.id, 'mute', 1),
      ),
    )
    const last = made.at(-1)
    if (last) this.stores.selection.selectTrack(last.kept.id)
  }

  /**
   * Cuts a take where the song's loop begins and ends: the last whole pass stays in its place, or each pass
   * becomes a take of its own. Says so where there is no whole pass.
   */
  async cutToLoop(track: Track, take: Take, keeps: 'last' | 'each'): Promise<void> {
    const { doc, host, sounds } = this
    const { project } = doc
    const heard = { dry: host.sound(take.dry), wet: host.sound(take.wet) }
    if (!project || !heard.dry || !heard.wet) return
    const passes = loopPasses(take.at, heard.wet.channels[0]?.length ?? 0, project)
    const kept = keeps === 'last' ? passes.filter((p) => p.isWhole).slice(-1) : passes
    if (kept.length === 0 || (keeps === 'each' && passes.length < 2)) {
      doc.trouble = `${take.name} holds no whole pass of the loop. Set a shorter loop, or record longer.`
      return
    }
    try {
      const made: { take: Take; refs: Project['audio'] }[] = []
      for (const [i, pass] of kept.entries()) {
        const name = keeps === 'last' ? take.name : `${take.name}, pass ${i + 1}`
        const side = (what: 'dry' | 'wet') =>
          sounds.takeSamples(
            soundName(name, what, track),
            (heard[what]?.channels ?? []).map((c) => c.slice(pass.from, pass.to)),
          )
        const [dry, wet] = [await side('dry'), await side('wet')]
        const both = { dry: dry.sound.hash, wet: wet.sound.hash }
        made.push({
          take: { id: newId(), name, at: pass.at, ...both },
          refs: { [both.dry]: dry.ref, [both.wet]: wet.ref },
        })
      }
      doc.edit(keeps === 'last' ? `Cut ${take.name} to the loop` : `Split ${take.name} into passes`, (p) => {
        const t = p.tracks.find((x) => x.id === track.id)
        const at = t?.takes?.findIndex((x) => x.id === take.id) ?? -1
        if (!t?.takes || at < 0) return
        for (const { refs } of made) Object.assign(p.audio, refs)
        t.takes.splice(at, 1, ...made.map((m) => m.take))
        dropUnusedSounds(p)
      })
    } catch (error) {
      doc.trouble = sentence(error)
    }
  }

  remove(track: Track, take: Take): void {
    this.doc.edit(`Remove ${take.name}`, (p) => {
      const t = p.tracks.find((x) => x.id === track.id)
      if (t?.takes) t.takes = t.takes.filter((x) => x.id !== take.id)
      dropUnusedSounds(p)
    })
  }
}

/** “Take 3”, the first number that the track has not used. */
const freeTakeName = (track: Track): string => {
  const names = (track.takes ?? []).map((t) => t.name)
  return names.includes('Take 1') ? freeName('Take 1', names) : 'Take 1'
}

const soundName = (take: string, side: string, track: Track): string =>
  `${take} ${side}, ${track.name}`.slice(0, 100)

interface Pass {
  /** First frame, and the one after the last. */
  readonly from: number
  readonly to: number
  /** Place in the song, in quarter notes. */
  readonly at: number
  readonly isWhole: boolean
}

/** The passes of the song's loop that a recording of so many frames from a place on holds. */
export function loopPasses(
  at: number,
  frames: number,
  { loop, tempo, sampleRate }: Pick<Project, 'loop' | 'tempo' | 'sampleRate'>,
): Pass[] {
  const perBeat = (60 / tempo) * sampleRate
  const length = loop.end - loop.start
  if (!loop.on || length <= 0 || at >= loop.end) return []
  const passes: Pass[] = []
  // begun before the loop, the first pass begins with the loop
  const first = (Math.max(at, loop.start) - at) * perBeat
  let [from, place] = [first, Math.max(at, loop.start)]
  while (from < frames - 1) {
    const end = from + (loop.end - place) * perBeat
    passes.push({
      from: Math.round(from),
      to: Math.min(frames, Math.round(end)),
      at: place,
      isWhole: place === loop.start && end <= frames + 1,
    })
    from = end
    place = loop.start
  }
  return passes
}
