import { arpeggiated } from '@oleaje/core/engine/arpeggiated'
import type { SoundFormat } from '@oleaje/core/formats/sound-encoder'
import type { Arpeggio, Note, NoteLine, Project } from '@oleaje/core/project/schema'
import { type DeliveredFigures, deliver, recordFor } from '@oleaje/core/render/deliver'
import { type DeliveryOrder, planDelivery } from '@oleaje/core/render/delivery'
import { printLoop } from '@oleaje/core/render/print'
import { Reel, Reels } from '@oleaje/core/render/reels'
import type { Stem } from '@oleaje/core/render/stems'
import { transfer } from 'comlink'
import type { Sound } from '../contract/messages'
import { audioOf } from './audio-of'
import { Parts } from './blob-bytes'
import { running } from './jobs'

/** Progress is told so often. */
const TELL_MS = 60
const mimeTypes: Readonly<Record<SoundFormat, string>> = {
  wav: 'audio/wav',
  flac: 'audio/flac',
  mp3: 'audio/mpeg',
}

/** Renders, prints, and notes that are written down. */
export const renderWork = {
  /** The notes that an arpeggio plays of a line; a long line takes most of a second. */
  arpeggioNotes: (line: NoteLine, arpeggio: Arpeggio, tempo: number): Note[] =>
    arpeggiated(line, arpeggio, tempo),

  /**
   * Makes one file of a delivery, with progress 0…1, and says what was measured. Gives null when cancelled.
   * @param n which of its files
   * @param stems what is heard, in place of what the order names
   * @param ports to workers that record tracks of it meanwhile
   */
  async deliver(
    job: number,
    project: Project,
    sounds: Sound[],
    order: DeliveryOrder,
    n: number,
    stems: Stem[] | null,
    ports: MessagePort[],
    onProgress: (done: number) => void,
  ): Promise<{ blob: Blob; figures: DeliveredFigures } | null> {
    running.add(job)
    const audio = audioOf(sounds)
    const file = planDelivery(project, order, stems ?? undefined)[n]
    if (!file) throw new Error('There is no such file in this delivery.')
    const parts = new Parts()
    let told = performance.now()
    const reels = ports.length ? new Reels(ports.map((port) => new Reel(port))) : undefined
    const work = deliver(file, (hash) => audio.get(hash) ?? null, reels)
    for (;;) {
      const step = await work.next()
      if (step.done) {
        running.delete(job)
        return { blob: parts.blob(mimeTypes[order.format]), figures: step.value }
      }
      parts.add(step.value.bytes)
      if (performance.now() - told < TELL_MS) continue
      told = performance.now()
      onProgress(step.value.done)
      await new Promise((resolve) => setTimeout(resolve))
      if (!running.has(job)) return null
    }
  },

  /**
   * Records some tracks of the first file of a delivery for the worker that makes it.
   * @param which of the shares, and how many workers there are with the one that makes the file
   */
  async record(
    project: Project,
    sounds: Sound[],
    order: DeliveryOrder,
    stems: Stem[] | null,
    which: { share: number; workers: number },
    port: MessagePort,
  ): Promise<void> {
    const audio = audioOf(sounds)
    const [file] = planDelivery(project, order, stems ?? undefined)
    if (file) await recordFor(file, (hash) => audio.get(hash) ?? null, which, port)
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
}
