import {
  createReadStream,
  existsSync,
  mkdirSync,
  openSync,
  closeSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs'
import { dirname } from 'node:path'
import { createBLAKE3 } from 'hash-wasm'
import { textHash } from '@oleaje/core/formats/hash'
import { readPreset } from '@oleaje/core/project/preset'
import { type DeliveredFigures, deliver } from '@oleaje/core/render/deliver'
import { type DeliveryOrder, planDelivery } from '@oleaje/core/render/delivery'
import { soundThrough } from '@oleaje/core/render/sound-through'
import { readSound } from './load'
import { type Shard, isInShard } from './shard'

/** One sound to be put through a chain. */
export interface BatchJob {
  readonly input: string
  readonly out: string
  /** The file that notes what the output was made of. */
  readonly note: string
  /** Text of the preset. */
  readonly preset: string
  readonly tempo: number
  readonly order: DeliveryOrder
  readonly resume: boolean
  readonly shard: Shard
}

export type BatchResult =
  | { readonly state: 'done'; readonly figures: DeliveredFigures }
  | { readonly state: 'skipped' }
  /** Belongs to another part. */
  | { readonly state: 'elsewhere' }

/** Changes where the same order gives other bytes. */
const VERSION = 1

/**
 * Puts one sound through a chain and writes what comes out: under another name first, so that a file that is
 * there is whole. Beside it, a note keeps the hash of all that it was made of, and of its bytes; where both
 * hold already, it is left as it is.
 * @throws with a sentence
 */
export async function runBatchJob(job: BatchJob): Promise<BatchResult> {
  const content = await fileHash(job.input)
  if (!isInShard(content, job.shard)) return { state: 'elsewhere' }
  const { preset, order, tempo } = job
  const key = await textHash(JSON.stringify({ VERSION, content, preset, order, tempo }))
  if (job.resume && (await isDone(job, key))) return { state: 'skipped' }
  const { hash, sound } = await readSound(job.input, false)
  const { project, audio } = await soundThrough(readPreset(preset), hash, sound, tempo)
  const [file] = planDelivery(project, order)
  if (!file) throw new Error('There is nothing to render.')
  mkdirSync(dirname(job.out), { recursive: true })
  mkdirSync(dirname(job.note), { recursive: true })
  const part = `${job.out}.part`
  const opened = openSync(part, 'w')
  const written = (await createBLAKE3(160)).init()
  try {
    const work = deliver(file, (h) => audio.get(h) ?? null)
    for (;;) {
      const step = await work.next()
      if (step.done) {
        writeFileSync(job.note, JSON.stringify({ key, bytes: written.digest() }))
        renameSync(part, job.out)
        return { state: 'done', figures: step.value }
      }
      writeSync(opened, step.value.bytes)
      written.update(step.value.bytes)
    }
  } catch (error) {
    rmSync(part, { force: true })
    throw error
  } finally {
    closeSync(opened)
  }
}

async function isDone({ note, out }: BatchJob, key: string): Promise<boolean> {
  if (!existsSync(note) || !existsSync(out)) return false
  try {
    const noted = JSON.parse(readFileSync(note, 'utf8')) as { key?: string; bytes?: string }
    return noted.key === key && noted.bytes === (await fileHash(out))
  } catch {
    return false
  }
}

async function fileHash(path: string): Promise<string> {
  const hasher = (await createBLAKE3(160)).init()
  for await (const part of createReadStream(path)) hasher.update(part as Uint8Array)
  return hasher.digest()
}
