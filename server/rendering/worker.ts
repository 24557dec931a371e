import type { MessagePort } from 'node:worker_threads'
import { readBundle } from '@oleaje/core/formats/bundle'
import { readPresetBatch } from '@oleaje/core/formats/preset-batch'
import { limits, sentenceOf } from '@oleaje/core/limits'
import { checkBudget } from '@oleaje/core/project/budget'
import { planRender, renderWav } from '@oleaje/core/render/render'
import type { RenderJob, RenderMessage } from './job'
import { renderBatch } from './preset-batch'

/** An intended error with a message for the user. */
const SENTENCES = new Set([
  'BundleError',
  'ProjectError',
  'AudioFormatError',
  'RenderError',
  'BudgetError',
  'PresetError',
])

export default async function renderJob({
  bundle,
  options,
  depth,
  port,
}: RenderJob & { port: MessagePort }): Promise<void> {
  const send = (message: RenderMessage): void => port.postMessage(message)
  let wake = (): void => {}
  port.on('message', () => wake())
  const give = async (bytes: Uint8Array): Promise<void> => {
    const taken = new Promise<void>((resolve) => {
      wake = resolve
    })
    send({ type: 'part', bytes })
    await taken
  }
  try {
    const batch = await readPresetBatch(bundle, limits.requestUnpacked.most)
    if (batch) {
      send({ type: 'begin', mime: 'application/zip' })
      // a part that is sent is the client's: the package uses its own again
      await renderBatch(batch, { depth, tail: options.tail ?? 'auto' }, (part) => give(part.slice()))
      send({ type: 'done' })
      return
    }
    const { project, audio } = await readBundle(bundle, {
      unpacked: limits.requestUnpacked.most,
      samples: limits.requestUnpacked.most,
    })
    const plan = planRender(project, options)
    const seconds = plan.frames / plan.sampleRate
    checkBudget(project, seconds, { bytes: limits.requestMemory.most, work: limits.work.most })
    if (seconds > limits.requestLength.most)
      send({ type: 'refused', message: sentenceOf('requestLength', Math.round(seconds / 60)) })
    else {
      send({ type: 'begin', mime: 'audio/wav', bytes: 44 + (plan.frames * 2 * depth) / 8 })
      for (const { bytes } of renderWav(plan, (hash) => audio.get(hash) ?? null, depth)) await give(bytes)
      send({ type: 'done' })
    }
  } catch (error) {
    send({
      type: 'refused',
      message:
        error instanceof Error && SENTENCES.has(error.name)
          ? error.message
          : 'This bundle cannot be rendered.',
    })
  } finally {
    port.close()
  }
}
