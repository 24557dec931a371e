import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { MessageChannel, type MessagePort } from 'node:worker_threads'
import { Reel, Reels, type Wire, recordShare, recordersFor } from '@oleaje/core/render/reels'
import { type RenderOptions, planRender } from '@oleaje/core/render/render'
import { Piscina } from 'piscina'
import { type Loaded, loadProject } from './load'

/** Some tracks of a render, to be recorded for the thread that mixes. */
export interface RecordJob {
  readonly project: string
  readonly options: RenderOptions
  readonly share: number
  readonly workers: number
  readonly port: MessagePort
}

/** Records them until the last block is taken. What fails is told over the port. */
export async function runRecordJob({ project: path, options, port, ...which }: RecordJob): Promise<void> {
  const { project, audio } = await loadProject(path)
  await recordShare(planRender(project, options), (hash) => audio.get(hash) ?? null, which, wire(port))
}

/**
 * Threads that record tracks of a render for this one; null where it does everything itself.
 * @param path of the project
 * @param workers threads with this one; one for each core where it is 0
 */
export function recordersOf(
  path: string,
  options: RenderOptions,
  { project, audio }: Pick<Loaded, 'project' | 'audio'>,
  workers: number,
): { readonly reels: Reels; readonly end: () => Promise<void> } | null {
  const threads = Math.min(MOST, workers || availableParallelism())
  const count = recordersFor(planRender(project, options), (hash) => audio.get(hash) ?? null, threads)
  if (count === 0) return null
  // this program itself, which is a worker where it runs in a thread
  const pool = new Piscina<RecordJob>({ filename: fileURLToPath(import.meta.url), minThreads: count })
  const ports: MessagePort[] = []
  const reels = Array.from({ length: count }, (_, share) => {
    const { port1, port2 } = new MessageChannel()
    ports.push(port2)
    const reel = new Reel(wire(port2))
    pool
      .run({ project: path, options, share, workers: threads, port: port1 }, { transferList: [port1] })
      // it could not begin
      .catch((error: unknown) => reel.stop(error instanceof Error ? error.message : String(error)))
    return reel
  })
  return {
    reels: new Reels(reels, threads),
    end: async () => {
      for (const port of ports) port.close()
      await pool.destroy()
    },
  }
}

/** Most threads of one render: each has the sounds of the project in memory. */
const MOST = 8

/** Node's types do not say that a message carries data. */
const wire = (port: MessagePort): Wire => port as unknown as Wire
