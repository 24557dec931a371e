import { audioHash } from '@oleaje/core/formats/hash'
import { type Bundle, readBundle, writeBundle } from '@oleaje/core/formats/bundle'
import { resample } from '@oleaje/core/formats/resample'
import { readAnyAudio } from '@oleaje/core/formats/read-audio'
import type { WavDepth } from '@oleaje/core/formats/wav'
import { chainResponse } from '@oleaje/core/analysis/chain-response'
import type { MeasuredResponse } from '@oleaje/core/analysis/measured-response'
import { impulseNamed } from '@oleaje/core/dsp/impulses'
import { type ImpulseShape, shapeImpulse } from '@oleaje/core/effects/convolver'
import { checkBudget } from '@oleaje/core/project/budget'
import type { ChainNode, Project } from '@oleaje/core/project/schema'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { apply, together } from '@oleaje/core/project/edit'
import { setParam } from '@oleaje/core/project/value-edits'
import { type Preset, takePresetInto } from '@oleaje/core/project/preset'
import { addNode } from '@oleaje/core/project/chain-edits'
import { newEffect } from '@oleaje/core/project/new'
import { heardChain, mixOf } from '@oleaje/core/project/walk'
import { type RenderFigures, type RenderOptions, planRender, render, renderWav } from '@oleaje/core/render/render'
import { type Hits, hitsOf } from '@oleaje/core/dsp/hits'
import { type FoundTempo, findTempo } from '@oleaje/core/analysis/tempo'
import { printLoop } from '@oleaje/core/render/print'
import { expose, transfer } from 'comlink'
import type { Sound } from '../audio/messages'

/** What is done to a render at its end. */
export type Finish = { readonly gain?: number; readonly ceiling?: number } | undefined

const running = new Set<number>()

/** Everything that takes long, off the main thread. Errors carry their sentence as message. */
const heavy = {
  /** Reads a file of sound and brings it to the project's rate. */
  async readSound(file: ArrayBuffer, sampleRate: number): Promise<Sound> {
    const { channels, sampleRate: from } = await readAnyAudio(new Uint8Array(file))
    return finish(channels, from, sampleRate)
  },

  /** The tempo of a loop by its hits, and where these are. */
  findTempo(channels: Float32Array[], sampleRate: number): FoundTempo & Hits {
    const hits = hitsOf({ sampleRate, channels })
    return { ...findTempo(channels[0]?.length ?? 0, sampleRate, hits), ...hits }
  },

  /** Takes sound that the browser has decoded. */
  takeSound(channels: Float32Array[], from: number, sampleRate: number): Sound {
    return finish(channels, from, sampleRate)
  },

  /** Largest sample of each of `buckets` equal stretches, for drawing a wave. */
  peaks(channel: Float32Array, buckets: number): Float32Array {
    const out = new Float32Array(buckets)
    for (let i = 0; i < channel.length; i++) {
      const b = Math.min(buckets - 1, Math.floor((i / channel.length) * buckets))
      out[b] = Math.max(out[b] ?? 0, Math.abs(channel[i] ?? 0))
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
    return { peaks: heavy.peaks(made.left, places), seconds: made.left.length / sampleRate }
  },

  /** What a chain does to each frequency, by an impulse through it. */
  chainResponse(nodes: ChainNode[], sampleRate: number): MeasuredResponse {
    return chainResponse(nodes, sampleRate)
  },

  async pack(project: Project, sounds: Sound[]): Promise<Uint8Array<ArrayBuffer>> {
    const bytes = await writeBundle({ project, audio: new Map(sounds.map((s) => [s.hash, s])) })
    return transfer(bytes, [bytes.buffer])
  },

  async unpack(file: ArrayBuffer): Promise<{ project: Project; sounds: Sound[] }> {
    const bundle: Bundle = await readBundle(new Uint8Array(file))
    return {
      project: bundle.project,
      sounds: [...bundle.audio].map(([hash, a]) => ({ hash, sampleRate: a.sampleRate, channels: [...a.channels] })),
    }
  },

  /** A preset over the sound of a track, from the loop's start, brought to the loudness that the sound has by itself. */
  preview(project: Project, sounds: Sound[], track: string, preset: Preset, seconds: number): Sound {
    const audio = new Map(sounds.map((s) => [s.hash, s]))
    const bare = {
      ...project,
      tracks: project.tracks.map((t) =>
        t.id === track || t.kind === 'mix' ? { ...t, a: { nodes: [] }, b: null, heard: 'a' as const } : t,
      ),
    }
    const from = (project.loop.start * 60) / project.tempo
    const dry = renderPart(bare, audio, track, from, seconds)
    const { channels, loudness } = renderPart(
      apply(bare, takePresetInto(track, preset, { chainOf: track })).next,
      audio,
      track,
      from,
      seconds,
    )
    const gain = loudness > -70 && dry.loudness > -70 ? 10 ** (Math.max(-24, Math.min(24, dry.loudness - loudness)) / 20) : 1
    for (const c of channels) for (let i = 0; i < c.length; i++) c[i] = (c[i] ?? 0) * gain
    return { hash: '', sampleRate: project.sampleRate, channels }
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
    const audio = new Map(sounds.map((s) => [s.hash, s]))
    const plan = planRender(finish?.ceiling === undefined ? project : limited(project, finish.ceiling), options)
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
    const audio = new Map(sounds.map((s) => [s.hash, s]))
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

/** Some seconds of one track, with their loudness in LUFS. */
function renderPart(
  project: Project,
  audio: ReadonlyMap<string, Sound>,
  track: string,
  from: number,
  seconds: number,
): { channels: [Float32Array, Float32Array]; loudness: number } {
  const plan = planRender(project, { track, from, to: from + seconds, tail: 0 })
  const channels: [Float32Array, Float32Array] = [new Float32Array(plan.frames), new Float32Array(plan.frames)]
  const meter = new LoudnessMeter(plan.sampleRate)
  let at = 0
  for (const chunk of render(plan, (hash) => audio.get(hash) ?? null)) {
    const [left, right] = chunk.channels.map((c) => c.subarray(0, chunk.done - at)) as [Float32Array, Float32Array]
    channels[0].set(left, at)
    channels[1].set(right, at)
    meter.process(left, right)
    at = chunk.done
  }
  return { channels, loudness: meter.integrated }
}

function finish(channels: Float32Array[], from: number, to: number): Sound {
  const sound = { sampleRate: to, channels: channels.map((c) => resample(c, from, to)) }
  return { hash: audioHash(sound), ...sound }
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
