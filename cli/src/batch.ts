import { existsSync, readdirSync, statSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { basename, dirname, extname, join, relative, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { audioFileNames } from '@oleaje/core/formats/read-audio'
import type { DeliveryOrder } from '@oleaje/core/render/delivery'
import { SingleBar } from 'cli-progress'
import { Piscina } from 'piscina'
import type { BatchJob, BatchResult } from './batch-job'
import type { Shard } from './shard'

/** What is put through a chain, and where it goes. */
export interface Batch {
  /** Files and folders. */
  readonly inputs: readonly string[]
  readonly out: string
  readonly preset: string
  readonly tempo: number
  readonly order: DeliveryOrder
  readonly resume: boolean
  readonly shard: Shard
  /** Processes at once; one for each core where it is 0. */
  readonly workers: number
  readonly quiet: boolean
}

/** Most failures that an exit code counts. */
const MOST_COUNTED = 100
/** Folder beside the outputs with a note for each. */
const NOTES = '.oleaje'

/**
 * Runs a batch on all cores: a progress bar on a terminal, a line of JSON for each file otherwise. One that
 * fails leaves the others alone.
 * @returns how many failed, at most 100
 * @throws with a sentence where nothing can be begun
 */
export async function runBatch(batch: Batch): Promise<number> {
  const jobs = jobsOf(batch)
  const threads = Math.max(1, Math.min(jobs.length, batch.workers || availableParallelism()))
  const pool = new Piscina<BatchJob, BatchResult>({
    // this program itself, which is a worker where it runs in a thread
    filename: fileURLToPath(import.meta.url),
    minThreads: threads,
    maxThreads: threads,
  })
  const isShown = process.stderr.isTTY && !batch.quiet
  const bar = isShown
    ? new SingleBar({ format: '{bar} {value}/{total} files, {eta_formatted} left', stream: process.stderr })
    : null
  const say = (line: object): void => {
    if (!bar && !batch.quiet) console.log(JSON.stringify(line))
  }
  const failures: { input: string; message: string }[] = []
  const counts = { done: 0, skipped: 0, elsewhere: 0 }
  bar?.start(jobs.length, 0)
  await Promise.all(
    jobs.map(async (job) => {
      const { input, out } = job
      try {
        const result = await pool.run(job)
        counts[result.state]++
        if (result.state === 'done') say({ input, out, state: 'done', ...result.figures })
        else if (result.state === 'skipped') say({ input, out, state: 'skipped' })
      } catch (error) {
        const message = error instanceof Error ? error.message : String(error)
        failures.push({ input, message })
        say({ input, state: 'failed', message })
      }
      bar?.increment()
    }),
  )
  bar?.stop()
  await pool.destroy()
  failures.sort((a, b) => a.input.localeCompare(b.input))
  for (const { input, message } of failures) console.error(`✗ ${input}: ${message}`)
  if (!batch.quiet)
    console.error(
      `${counts.done} rendered, ${counts.skipped} skipped, ${failures.length} failed${counts.elsewhere ? `, ${counts.elsewhere} belong to other shards` : ''}.`,
    )
  return Math.min(MOST_COUNTED, failures.length)
}

/** All sounds of a batch with the file that each becomes; the same list on every machine. */
function jobsOf({ inputs, out, preset, tempo, order, resume, shard }: Batch): BatchJob[] {
  const folder = resolve(out)
  const taken = new Map<string, string>()
  const found = inputs.flatMap((input): { input: string; name: string }[] => {
    const there = statSync(input, { throwIfNoEntry: false })
    if (!there) throw new Error(`There is no file or folder “${input}”.`)
    if (!there.isDirectory()) return [{ input, name: basename(input) }]
    return soundsIn(input).map((path) => ({ input: path, name: relative(input, path) }))
  })
  if (found.length === 0) throw new Error('No sounds were found in the given files and folders.')
  return found.map(({ input, name }) => {
    const stem = join(dirname(name), basename(name, extname(name)))
    const file = `${stem}.${order.format}`
    const before = taken.get(file.toLowerCase())
    if (before !== undefined)
      throw new Error(`“${before}” and “${input}” would both be written to “${file}”. Render them apart.`)
    taken.set(file.toLowerCase(), input)
    const target = join(folder, file)
    if (existsSync(target) && resolve(input) === target)
      throw new Error(`“${input}” would be written over. Choose another folder with --out.`)
    const note = join(folder, NOTES, `${file}.json`)
    return { input: resolve(input), out: target, note, preset, tempo, order, resume, shard }
  })
}

/** Files of sound below a folder, in the order of their names; hidden ones are left. */
function soundsIn(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true })
    .filter((e) => !e.name.startsWith('.'))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((e) => {
      const path = join(folder, e.name)
      return e.isDirectory() ? soundsIn(path) : audioFileNames.test(e.name) ? [path] : []
    })
}
