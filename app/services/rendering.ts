import type { DeliveredFigures } from '@oleaje/core/render/deliver'
import { type DeliveryFile, type DeliveryOrder, planDelivery, usualOrder } from '@oleaje/core/render/delivery'
import type { Project } from '@oleaje/core/project/schema'
import type { Stem } from '@oleaje/core/render/stems'
import { fileSave } from 'browser-fs-access'
import { transfer } from 'comlink'
import { computed, shallowRef } from 'vue'
import type { Sound } from '../contract/messages'
import { preference } from '../stores/preference'
import type { useDocument } from '../stores/document'
import { Dropped, type WorkerPool } from '../workers/worker-pool'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { Sounds } from './sounds'

/** What of the try-outs can be rendered: the cards that were kept. */
export type RenderWish = DeliveryOrder['what'] | 'kept'

/** One file in the queue. */
export interface QueuedFile {
  readonly name: string
  readonly state: 'waiting' | 'rendering' | 'done' | 'failed' | 'cancelled'
  /** Progress 0…1. */
  readonly done: number
  readonly bytes: number
  readonly figures: DeliveredFigures | null
  /** Why it could not be made, in a sentence. */
  readonly failed: string
}

/** Places that files are written to: a folder that was chosen, or a download. */
type Folder = {
  getFileHandle(
    name: string,
    o: { create: true },
  ): Promise<{
    createWritable(): Promise<{ write(data: Blob): Promise<void>; close(): Promise<void> }>
  }>
}
type FolderPicker = (o: { id: string; mode: 'readwrite' }) => Promise<Folder>

/** Renders of the open project: several files at once, one worker for each core. */
export class Rendering {
  /** The order as it was chosen last, in this browser. */
  readonly order = preference<DeliveryOrder>('render', usualOrder, (kept) => kept.level !== undefined)
  /** Cards of the try-outs that were kept, as they are to be rendered; null where the order says what. */
  readonly kept = shallowRef<readonly Stem[] | null>(null)
  readonly queue = shallowRef<readonly QueuedFile[]>([])
  readonly running = shallowRef(false)
  readonly said = shallowRef('')
  /** When the files were begun, in ms since 1970. */
  began = 0
  private runs = 0

  /** The files that the order stands for, or why there are none. */
  readonly plan = computed((): { files: readonly DeliveryFile[]; refused: string } => {
    const { project } = this.doc
    if (!project) return { files: [], refused: '' }
    try {
      return { files: planDelivery(project, this.order.value, this.kept.value ?? undefined), refused: '' }
    } catch (error) {
      return { files: [], refused: sentence(error) }
    }
  })

  /** Progress of all, 0…1. */
  readonly done = computed(() => {
    const all = this.queue.value
    return (
      all.reduce((sum, f) => sum + (f.state === 'done' || f.state === 'failed' ? 1 : f.done), 0) / all.length
    )
  })

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly pool: WorkerPool,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
  ) {}

  /** Renders all files of the order and writes them: one by itself, more to a folder or as one zip. */
  async start(): Promise<void> {
    const { project } = this.doc
    const { files } = this.plan.value
    if (!project || files.length === 0 || this.running.value) return
    const order = this.order.value
    const stems = this.kept.value
    const run = ++this.runs
    try {
      const folder = files.length > 1 ? await chosenFolder() : null
      this.said.value = ''
      this.running.value = true
      this.began = Date.now()
      this.queue.value = files.map(({ name }) => ({
        name,
        state: 'waiting',
        done: 0,
        bytes: 0,
        figures: null,
        failed: '',
      }))
      await this.sounds.there
      const sounds = [...this.sounds.ofProject(), ...(await this.soundsOf(stems))]
      const text = JSON.stringify({ project, order, stems })
      /** A copy without the marks of what the page watches. */
      const orderOf = (): { project: typeof project; order: DeliveryOrder; stems: Stem[] | null } =>
        JSON.parse(text)
      const made: { name: string; blob: Blob }[] = []
      // one track and the mix have nothing to divide
      const ports = files.length === 1 && project.tracks.length > 2 ? this.record(orderOf, sounds) : []
      await Promise.all(
        files.map(async ({ name }, n) => {
          const change = (to: Partial<QueuedFile>): void => {
            if (run === this.runs)
              this.queue.value = this.queue.value.map((f, i) => (i === n ? { ...f, ...to } : f))
          }
          try {
            const found = await this.pool.run((call) => {
              change({ state: 'rendering' })
              const copy = orderOf()
              return call.deliver(
                n,
                copy.project,
                sounds,
                copy.order,
                n,
                copy.stems,
                transfer(ports, ports),
                (done: number) => change({ done }),
              )
            })
            if (!found || run !== this.runs) return
            if (folder) await written(folder, name, found.blob)
            else made.push({ name, blob: found.blob })
            change({ state: 'done', done: 1, bytes: found.blob.size, figures: found.figures })
          } catch (error) {
            if (!(error instanceof Dropped)) change({ state: 'failed', failed: sentence(error) })
          }
        }),
      )
      if (run !== this.runs) return
      await this.save(made, project.name, order)
      this.report(made, folder !== null)
    } catch (error) {
      if (run === this.runs)
        this.said.value =
          error instanceof DOMException && error.name === 'AbortError'
            ? 'No file was written, because no location was chosen.'
            : sentence(error)
    } finally {
      if (run === this.runs) this.running.value = false
    }
  }

  /**
   * Has other workers record tracks of the one file: they are busy with nothing else.
   * @returns the ways to them
   */
  private record(
    orderOf: () => { project: Project; order: DeliveryOrder; stems: Stem[] | null },
    sounds: Sound[],
  ): MessagePort[] {
    const workers = this.pool.size
    return Array.from({ length: workers - 1 }, (_, share) => {
      const { port1, port2 } = new MessageChannel()
      const { project, order, stems } = orderOf()
      const recorded = this.pool.run((call) =>
        call.record(project, sounds, order, stems, { share, workers }, transfer(port1, [port1])),
      )
      // it tells by its port what fails in it; one that dies tells nothing, so the file cannot be made
      recorded.catch((error: unknown) => {
        if (!(error instanceof Dropped)) this.pool.cancel()
      })
      return port2
    })
  }

  /** Sounds of try-outs that the project itself has not. */
  private soundsOf(stems: readonly Stem[] | null): Promise<Sound[]> {
    const own = this.doc.project?.audio ?? {}
    const more = new Set((stems ?? []).flatMap((s) => Object.keys(s.project.audio)))
    return Promise.all([...more].filter((hash) => !(hash in own)).map((hash) => this.sounds.read(hash)))
  }

  /** Saves what was made and is not in a folder yet. */
  private async save(
    made: { name: string; blob: Blob }[],
    name: string,
    { format }: DeliveryOrder,
  ): Promise<void> {
    const [only] = made
    if (!only) return
    if (made.length === 1) {
      await fileSave(only.blob, { fileName: only.name, extensions: [`.${format}`] })
      return
    }
    made.sort((a, b) => a.name.localeCompare(b.name))
    const blob = await this.heavy.call.zipOf(made)
    await fileSave(blob, { fileName: `${name}.zip`, extensions: ['.zip'], description: 'Rendered files' })
  }

  private report(made: readonly { name: string }[], inFolder: boolean): void {
    const done = this.queue.value.filter((f) => f.state === 'done')
    const failed = this.queue.value.length - done.length
    const size = `${(done.reduce((sum, f) => sum + f.bytes, 0) / 1e6).toFixed(1)} MB`
    const where = inFolder ? ' to the folder' : made.length > 1 ? ' as one zip file' : ''
    this.said.value =
      (done.length === 1 && failed === 0
        ? `Saved ${done[0]?.name}, ${size}.`
        : `Saved ${done.length} files${where}, ${size}.`) +
      (failed ? ` ${failed} could not be made; the table says why.` : '')
  }

  /** Stops at once. Files that are in a folder already stay there. */
  cancel(): void {
    if (!this.running.value) return
    this.runs++
    this.pool.cancel()
    this.running.value = false
    this.queue.value = this.queue.value.map((f) => (f.state === 'done' ? f : { ...f, state: 'cancelled' }))
    this.said.value = 'Render cancelled.'
  }

  /** Another project is open. */
  forget(): void {
    this.cancel()
    this.queue.value = []
    this.kept.value = null
    this.said.value = ''
    this.order.value = { ...this.order.value, track: undefined, range: 'loop', what: 'mix' }
  }
}

/** A folder that the user chooses, where this browser can write to one; null otherwise. */
async function chosenFolder(): Promise<Folder | null> {
  const pick = (globalThis as { showDirectoryPicker?: FolderPicker }).showDirectoryPicker
  return pick ? pick({ id: 'oleaje-renders', mode: 'readwrite' }) : null
}

async function written(folder: Folder, name: string, blob: Blob): Promise<void> {
  const file = await (await folder.getFileHandle(name, { create: true })).createWritable()
  await file.write(blob)
  await file.close()
}
