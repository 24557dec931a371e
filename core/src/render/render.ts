import { BLOCK } from '../contract/block'
import { Engine } from '../engine/engine'
import { type WavDepth, WavEncoder, wavHeader } from '../formats/wav'
import { limits } from '../limits'
import type { Project } from '../project/schema'
import { stepName } from '../project/targets'
import { LevelMeter, type RenderFigures } from './level'
import { tailOf } from './tail'
import { soloWays, waysOf } from '../project/routing'
import { mixOf, trackOf } from '../project/walk'
import type { Plan } from '../engine/plan'
import type { AudioData } from '../contract/audio'

/** A render that was asked for in a way that makes no sense. The message is a sentence for a person. */
export class RenderError extends Error {
  override name = 'RenderError'
}

export interface RenderOptions {
  /** Song range in seconds; the project's loop by default. */
  readonly from?: number
  readonly to?: number
  /** Id or name of the one track to hear, through the mix; all by default. */
  readonly track?: string
  /** Seconds after the range in which effects ring out; `auto` takes the longest tail, at most 30 s. */
  readonly tail?: number | 'auto'
  /** Frames in one chunk. */
  readonly chunkFrames?: number
  /**
   * `fresh` begins from silence; `song` plays from the start of the song and leaves out what comes before the
   * range, so that a part is that part of the whole.
   */
  readonly begin?: 'fresh' | 'song'
}

export interface RenderPlan {
  readonly project: Project
  readonly sampleRate: number
  readonly startBeat: number
  /** Frames that are played and left out before the first. */
  readonly lead: number
  /** Frames of song, and of all that will be written. */
  readonly songFrames: number
  readonly frames: number
  readonly chunkFrames: number
  /** Frames at the end over which an endless tail is faded out; 0 for none. */
  readonly fadeFrames: number
}

/** Works out what a render will be. @throws RenderError */
export function planRender(project: Project, options: RenderOptions = {}): RenderPlan {
  const { sampleRate, tempo, loop } = project
  const secondsPerBeat = 60 / tempo
  const from = options.from ?? loop.start * secondsPerBeat
  const to = options.to ?? loop.end * secondsPerBeat
  if (!Number.isFinite(from) || !Number.isFinite(to) || from < 0)
    throw new RenderError('The range to render must be in seconds, 0 or more.')
  if (to <= from) throw new RenderError(`The range to render is empty: it goes from ${from} s to ${to} s.`)
  if (to - from > limits.renderLength.most) throw new RenderError(limits.renderLength.sentence)
  let alone = project
  if (options.track !== undefined) {
    const track =
      trackOf(project, options.track) ??
      project.tracks.find((t) => t.name.toLowerCase() === options.track?.toLowerCase())
    if (!track)
      throw new RenderError(
        `There is no track called “${options.track}”. There are: ${project.tracks.map((t) => t.name).join(', ')}.`,
      )
    if (track.kind !== 'mix') alone = aloneIn(project, track)
  }
  const wanted = options.tail === undefined || options.tail === 'auto' ? tailOf(heardIn(alone)) : options.tail
  if (!(wanted >= 0)) throw new RenderError('The tail must be in seconds, 0 or more.')
  if (typeof options.tail === 'number' && wanted > limits.tail.most)
    throw new RenderError(limits.tail.sentence)
  const tail = Math.min(
    wanted,
    options.tail === 'auto' || options.tail === undefined ? limits.autoTail.most : limits.tail.most,
  )
  const songFrames = Math.round((to - from) * sampleRate)
  return {
    project: alone,
    sampleRate,
    startBeat: options.begin === 'song' ? 0 : from / secondsPerBeat,
    lead: options.begin === 'song' ? Math.round(from * sampleRate) : 0,
    songFrames,
    frames: songFrames + Math.round(tail * sampleRate),
    chunkFrames: options.chunkFrames ?? 1 << 14,
    fadeFrames: wanted > tail ? Math.round(Math.min(3, tail) * sampleRate) : 0,
  }
}

/**
 * A project in which one track, or what goes through one bus, is heard alone through all that it goes on to.
 */
function aloneIn(project: Project, track: Project['tracks'][number]): Project {
  const isOpen = soloWays(project, [track.id])
  const open = waysOf(project).filter(isOpen)
  return {
    ...project,
    sends: project.sends.filter((send) => open.some((way) => way.send === send)),
    tracks: project.tracks.map((t) => {
      if (t.kind === 'mix' || open.some((way) => way.from === t.id && !way.send)) return t
      return open.some((way) => way.from === t.id)
        ? { ...t, output: null }
        : { ...t, params: { ...t.params, mute: 1 } }
    }),
  }
}

/** A project without the tracks whose sound goes nowhere: their tails are not waited for. */
function heardIn(project: Project): Project {
  const silent = new Set(
    project.tracks
      .filter(
        (t) =>
          (t.params.mute ?? 0) >= 0.5 &&
          !project.links.some((l) => l.target.owner === t.id && l.target.param === 'mute'),
      )
      .map((t) => t.id),
  )
  const ways = waysOf(project).filter((way) => way.send?.before || !silent.has(way.from))
  const heard = new Set([mixOf(project).id])
  for (let before = 0; before < heard.size;) {
    before = heard.size
    for (const way of ways) if (heard.has(way.to)) heard.add(way.from)
  }
  return { ...project, tracks: project.tracks.filter((t) => heard.has(t.id)) }
}

/**
 * Renders a project chunk by chunk: stereo, at the project's rate, the mix before the monitor stage. Latency
 * is taken off the front, so the first frame is the first of the song. The same engine as live, and the same
 * bits. The arrays of a chunk are used again for the next one.
 * @param tapes tracks that others work out; while the next block of them is missing, a chunk has no frames
 * @param engineOf gives the engine, a new one or one that is {@link sparing}
 */
export function* render(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
  tapes?: Tapes,
  engineOf: EngineOf = ready,
): Generator<{ readonly channels: readonly [Float32Array, Float32Array]; readonly done: number }> {
  const { engine, begin, check } = engineOf(plan, audio)
  tapes?.thread(engine)
  begin()
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  const chunk: [Float32Array, Float32Array] = [
    new Float32Array(plan.chunkFrames),
    new Float32Array(plan.chunkFrames),
  ]
  let skip = engine.latency + plan.lead
  let filled = 0
  let done = 0
  while (done + filled < plan.frames) {
    if (tapes) while (!tapes.isThere()) yield { channels: nothing, done }
    engine.process(left, right)
    tapes?.next()
    check()
    const from = Math.min(skip, BLOCK)
    skip -= from
    for (let i = from; i < BLOCK && done + filled < plan.frames; i++) {
      const at = done + filled
      const fade = at >= plan.frames - plan.fadeFrames ? (plan.frames - at) / plan.fadeFrames : 1
      chunk[0][filled] = fade === 1 ? (left[i] as number) : (left[i] as number) * fade
      chunk[1][filled] = fade === 1 ? (right[i] as number) : (right[i] as number) * fade
      if (++filled === plan.chunkFrames) {
        done += filled
        filled = 0
        yield { channels: chunk, done }
      }
    }
  }
  if (filled) {
    done += filled
    yield { channels: [chunk[0].subarray(0, filled), chunk[1].subarray(0, filled)], done }
  }
}

/** Tracks that others work out; see `reels.ts`. */
export interface Tapes {
  /** Has an engine that is loaded play them. */
  thread(engine: Engine): void
  /** Whether the next block of all of them is there. @throws where it never will be */
  isThere(): boolean
  /** That block has been played. */
  next(): void
}

const nothing = [new Float32Array(0), new Float32Array(0)] as const

/** Blocks that are played for a render. */
export const blocksOf = ({ lead, frames }: RenderPlan, latency: number): number =>
  Math.ceil((latency + lead + frames) / BLOCK)

/** An engine with the project of a render. */
export interface Ready {
  readonly engine: Engine
  readonly begin: () => void
  /** @throws where something in it has failed */
  readonly check: () => void
}

type EngineOf = (plan: RenderPlan, audio: (hash: string) => AudioData | null) => Ready

/** Engines for one render after another: those that differ in values alone get the same one. */
export function sparing(): EngineOf {
  let kept: { readonly ready: Ready; readonly whole: Plan | null; readonly rate: number } | null = null
  return (plan, audio) => {
    if (kept?.whole && kept.rate === plan.sampleRate && kept.ready.engine.reload(plan.project, kept.whole)) {
      const { engine, check } = kept.ready
      return { engine, check, begin: beginning(engine, plan) }
    }
    const made = ready(plan, audio)
    const check = (): void => {
      try {
        made.check()
      } catch (error) {
        // an error of one render must not be reported for the next
        kept = null
        throw error
      }
    }
    kept = { ready: { ...made, check }, whole: made.engine.whole, rate: plan.sampleRate }
    return kept.ready
  }
}

const beginning =
  (engine: Engine, plan: RenderPlan): (() => void) =>
  () => {
    engine.play(plan.startBeat)
    // what is cut off at the end plays on past it, as effects look ahead
    if (plan.frames > plan.songFrames) engine.stopAfter(plan.lead + plan.songFrames)
  }

/** A new engine with the project of a render. */
export function ready(plan: RenderPlan, audio: (hash: string) => AudioData | null): Ready {
  let failed = ''
  const engine = new Engine({
    sampleRate: plan.sampleRate,
    audio,
    looping: false,
    onFault: (key) => {
      failed ||= key
    },
  })
  engine.load(plan.project)
  return {
    engine,
    begin: beginning(engine, plan),
    check: () => {
      // what is cut live, so that the rest plays on, would be missing here without a word
      if (failed)
        throw new RenderError(
          `${stepName(plan.project, failed)} failed, so the render would be incomplete. Remove it or turn it off.`,
        )
    },
  }
}

/**
 * Renders straight into the bytes of a WAV file, header first.
 * @param gain linear, on all of it
 * @returns what was measured, the gain included
 */
export function* renderWav(
  plan: RenderPlan,
  audio: (hash: string) => AudioData | null,
  depth: WavDepth,
  gain = 1,
): Generator<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly done: number }, RenderFigures> {
  yield {
    bytes: wavHeader({ channels: 2, sampleRate: plan.sampleRate, depth, frames: plan.frames }),
    done: 0,
  }
  const encoder = new WavEncoder(depth)
  const meter = new LevelMeter(plan.sampleRate)
  let at = 0
  for (const { channels, done } of render(plan, audio)) {
    const parts = channels.map((c) => c.subarray(0, done - at)) as [Float32Array, Float32Array]
    for (const part of parts) for (let i = 0; i < part.length; i++) part[i] *= gain
    meter.add(parts)
    at = done
    yield { bytes: encoder.encode(channels), done }
  }
  return meter.figures
}
