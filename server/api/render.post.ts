import { createError, defineEventHandler, getHeader, getQuery, readRawBody, sendStream, setHeader } from 'h3'
import { z } from 'zod'
import { QueueFullError, queue } from '../rendering/queue'
import type { RenderMessage } from '../rendering/worker'

/** Bytes of a bundle that are taken. */
const LARGEST = 128 * 1024 * 1024

const querySchema = z.object({
  from: z.coerce.number().min(0).optional(),
  to: z.coerce.number().min(0).optional(),
  track: z.string().max(120).optional(),
  tail: z.union([z.literal('auto'), z.coerce.number().min(0).max(600)]).optional(),
  depth: z.enum(['16', '24', '32']).default('24'),
}).strict()

/** A project bundle in, a WAV file out, streamed as it is rendered. A client that leaves ends its job. */
export default defineEventHandler(async (event) => {
  const query = querySchema.safeParse(getQuery(event))
  if (!query.success) {
    const issue = query.error.issues[0]
    throw createError({ statusCode: 400, message: `The request is wrong at “${issue?.path.join('.') || 'its query'}”: ${issue?.message ?? 'it cannot be read'}.` })
  }
  const type = getHeader(event, 'content-type') ?? ''
  if (!/^application\/(zip|octet-stream)/.test(type)) throw createError({ statusCode: 415, message: 'Send a project bundle as application/zip.' })
  const length = Number(getHeader(event, 'content-length') ?? NaN)
  if (!Number.isFinite(length)) throw createError({ statusCode: 411, message: 'Say how long the bundle is (content-length).' })
  if (length > LARGEST) throw createError({ statusCode: 413, message: `A bundle may have ${LARGEST / 1024 / 1024} MB at most.` })
  const body = await readRawBody(event, false)
  if (!body || body.length === 0) throw createError({ statusCode: 400, message: 'There is no bundle in the request.' })

  const { from, to, track, tail, depth } = query.data
  const leave = new AbortController()
  const { port1, port2 } = new MessageChannel()
  const res = event.node.res
  res.on('close', () => {
    if (!res.writableFinished) leave.abort()
  })
  let started: (bytes: number) => void = () => {}
  let refused: (error: unknown) => void = () => {}
  const size = new Promise<number>((resolve, reject) => {
    started = resolve
    refused = reject
  })
  let out: ReadableStreamDefaultController<Uint8Array> | undefined
  let ended = false
  const stream = new ReadableStream<Uint8Array>({
    start(controller) { out = controller },
    // the worker runs only so far ahead of what has been taken
    pull() { port1.postMessage('taken') },
    cancel() { leave.abort() },
  }, { highWaterMark: 4 })
  const fail = (error: unknown): void => {
    refused(error)
    if (!ended) {
      ended = true
      out?.error(error)
    }
  }
  port1.onmessage = ({ data }: MessageEvent<RenderMessage>) => {
    if (data.type === 'size') started(data.bytes)
    else if (data.type === 'part') {
      if (!ended) out?.enqueue(data.bytes)
    } else if (data.type === 'refused') fail(createError({ statusCode: 422, message: data.message }))
    else if (!ended) {
      ended = true
      out?.close()
    }
  }
  queue.run({ bundle: body, options: { from, to, track, tail }, depth: Number(depth) as 16 | 24 | 32 }, port2, leave.signal).catch((error: unknown) => {
    if (error instanceof QueueFullError) {
      setHeader(event, 'retry-after', error.retryAfter)
      fail(createError({ statusCode: 429, message: error.message }))
    } else fail(createError({ statusCode: 503, message: 'The render was stopped: it took too long, or could not be carried out here.' }))
  }).finally(() => setTimeout(() => port1.close(), 1000))
  const bytes = await size
  setHeader(event, 'content-type', 'audio/wav')
  setHeader(event, 'content-length', bytes)
  setHeader(event, 'content-disposition', 'attachment; filename="render.wav"')
  return sendStream(event, stream)
})
