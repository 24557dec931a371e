import type { MessagePort } from 'node:worker_threads'
import { readBundle } from '@oleaje/core/formats/bundle'
import { planRender, renderWav } from '@oleaje/core/render/render'
import type { RenderJob } from './queue'

/** What the worker says: the size first, then the parts, then that it is done; or a sentence. */
export type RenderMessage =
  | { readonly type: 'size', readonly bytes: number }
  | { readonly type: 'part', readonly bytes: Uint8Array }
  | { readonly type: 'done' }
  | { readonly type: 'refused', readonly message: string }

/** Bytes that a bundle may unpack to, and seconds that may be rendered, in one request. */
const UNPACKED = 512 * 1024 * 1024
const LONGEST = 3600
/** Parts that may be on their way before the client has taken them. */
const AHEAD = 16

export default async function renderJob({ bundle, options, depth, port }: RenderJob & { port: MessagePort }): Promise<void> {
  const send = (message: RenderMessage): void => port.postMessage(message)
  let taken = 0
  let wake = (): void => {}
  port.on('message', () => {
    taken++
    wake()
  })
  try {
    const { project, audio } = readBundle(bundle, { unpacked: UNPACKED, files: 512 })
    const plan = planRender(project, options)
    if (plan.frames / plan.sampleRate > LONGEST) throw new Error(`At most ${LONGEST / 60} minutes can be rendered in one request; this would be ${Math.round(plan.frames / plan.sampleRate / 60)}.`)
    send({ type: 'size', bytes: 44 + plan.frames * 2 * depth / 8 })
    let sent = 0
    for (const { bytes } of renderWav(plan, (hash) => audio.get(hash) ?? null, depth)) {
      send({ type: 'part', bytes })
      sent++
      while (sent - taken > AHEAD) await new Promise<void>((resolve) => { wake = resolve })
    }
    send({ type: 'done' })
  } catch (error) {
    send({ type: 'refused', message: error instanceof Error ? error.message : 'This bundle cannot be rendered.' })
  } finally {
    port.close()
  }
}
