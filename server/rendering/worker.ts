import type { MessagePort } from 'node:worker_threads'
import { readBundle } from '@oleaje/core/formats/bundle'
import { limits, sentenceOf } from '@oleaje/core/limits'
import { checkBudget } from '@oleaje/core/project/budget'
import { planRender, renderWav } from '@oleaje/core/render/render'
import type { RenderJob, RenderMessage } from './job'

/** An intended error with a message for the user. */
const SENTENCES = new Set(['BundleError', 'ProjectError', 'AudioFormatError', 'RenderError', 'BudgetError'])

export default async function renderJob({
  bundle,
  options,
  depth,
  port,
}: RenderJob & { port: MessagePort }): Promise<void> {
  const send = (message: RenderMessage): void => port.postMessage(message)
  let wake = (): void => {}
  port.on('message', () => wake())
  try {
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
      send({ type: 'size', bytes: 44 + (plan.frames * 2 * depth) / 8 })
      for (const { bytes } of renderWav(plan, (hash) => audio.get(hash) ?? null, depth)) {
        const taken = new Promise<void>((resolve) => {
          wake = resolve
        })
        send({ type: 'part', bytes })
        await taken
      }
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
