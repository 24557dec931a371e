import type { WavDepth } from '@oleaje/core/formats/wav'
import type { RenderOptions } from '@oleaje/core/render/render'
import { proxy } from 'comlink'
import type { useDocument } from '../stores/document'
import type { Finish } from '../workers/heavy'
import type { HeavyWorker } from '../workers/heavy-worker'
import type { Sounds } from './sounds'

/** Renders of the open project in the worker. */
export class Rendering {
  private jobs = 0

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly heavy: HeavyWorker,
    private readonly sounds: Sounds,
  ) {}

  /** Gives the file, or null when stopped. */
  start(
    options: RenderOptions,
    depth: WavDepth,
    finish: Finish,
    onProgress: (done: number) => void,
  ): { done: ReturnType<HeavyWorker['call']['render']>; stop: () => void } {
    const { project } = this.doc
    if (!project) throw new Error('No project is open.')
    const job = ++this.jobs
    const { call } = this.heavy
    return {
      done: this.sounds.there.then(() =>
        call.render(job, project, this.sounds.ofProject(), options, depth, finish, proxy(onProgress)),
      ),
      stop: () => void call.cancel(job),
    }
  }
}
