import { createError, defineEventHandler, getHeader, getQuery, getRequestIP, setHeader } from 'h3'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { limits } from '@oleaje/core/limits'
import { z } from 'zod'
import { RenderFailure, runJob } from '../rendering/job'
import { type Place, QueueFullError, queue } from '../rendering/queue'
import { readBody } from '../rendering/read-body'
import { UploadError } from '../rendering/upload-error'
import { uploads } from '../rendering/uploads'

/** How long what is sent to a refused request is let run into nothing, in ms. */
const LINGER_MS = 1500

/** A number that is written out: nothing at all is none. */
const number = z
  .string()
  .regex(/^\d+(\.\d+)?$/, 'a number of seconds, 0 or more, is expected')
  .transform(Number)
const querySchema = z
  .object({
    from: number.optional(),
    to: number.optional(),
    track: z.string().min(1).max(120).optional(),
    tail: z.union([z.literal('auto'), number]).optional(),
    depth: z.enum(['16', '24', '32']).default('24'),
  })
  .strict()

/**
 * A project bundle in, a WAV file out; or a zip of `preset.json` and sounds in, a zip of renders out.
 * Streamed as it is rendered and no faster than it is read. A client
 * that leaves ends its job. What fails before the file has begun is a status with a sentence; what fails
 * after ends the connection.
 */
export default defineEventHandler(async (event) => {
  const { req, res } = event.node
  // what is not read of a refused request must not keep its connection
  const refuse = (statusCode: number, message: string): Error => {
    setHeader(event, 'connection', 'close')
    return createError({ statusCode, message })
  }
  /**
   * Refuses what was not read: a client that is still sending gets its sentence, and not a broken connection.
   */
  const unread = async (statusCode: number, message: string): Promise<Error> => {
    await drained(req)
    return refuse(statusCode, message)
  }
  const query = querySchema.safeParse(getQuery(event))
  if (!query.success) {
    const issue = query.error.issues[0]
    throw await unread(
      400,
      `The request is wrong at “${issue?.path.join('.') || 'its query'}”: ${issue?.message ?? 'it cannot be read'}.`,
    )
  }
  const type = (getHeader(event, 'content-type') ?? '').split(';')[0]?.trim().toLowerCase()
  if (type !== 'application/zip' && type !== 'application/octet-stream')
    throw await unread(415, 'Send a project bundle as application/zip.')
  const length = Number(getHeader(event, 'content-length') ?? NaN)
  if (!Number.isSafeInteger(length))
    throw await unread(411, 'Send the length of the bundle (content-length).')
  if (length > limits.requestBody.most) throw await unread(413, limits.requestBody.sentence)
  if (length === 0) throw await unread(400, 'The request contains no bundle.')

  const left = new AbortController()
  res.on('close', () => {
    if (!res.writableFinished) left.abort(new Error('The client disconnected.'))
  })
  let place: Place | undefined
  try {
    queue.check(length)
    const bundle = await readBody(req, length, uploads)
    // a place is taken by the whole request
    place = queue.enter(getRequestIP(event) ?? '', length)
    await place.turn(left.signal)
    const { from, to, track, tail, depth } = query.data
    await runJob(
      { bundle, options: { from, to, track, tail }, depth: Number(depth) as 16 | 24 | 32 },
      left.signal,
      {
        begin: (mime, bytes) => {
          res.writeHead(200, {
            'content-type': mime,
            ...(bytes !== undefined && { 'content-length': bytes }),
            'content-disposition': `attachment; filename="render.${mime === 'audio/wav' ? 'wav' : 'zip'}"`,
          })
        },
        part: (bytes) => written(res, bytes),
      },
    )
    res.end()
  } catch (error) {
    if (res.headersSent) res.destroy()
    else if (error instanceof QueueFullError) {
      setHeader(event, 'retry-after', error.retryAfter)
      // a client in the middle of sending reads its sentence, and not a broken connection
      throw await unread(429, error.message)
    } else if (error instanceof UploadError || error instanceof RenderFailure)
      throw refuse(error.status, error.message)
    else throw refuse(503, 'The render was stopped: it could not be carried out here.')
  } finally {
    place?.leave()
  }
})

/** Lets a client finish sending for a short while; the data is discarded. */
function drained(req: IncomingMessage): Promise<void> {
  if (req.readableEnded) return Promise.resolve()
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, LINGER_MS)
    req
      .once('close', resolve)
      .once('end', () => {
        clearTimeout(timer)
        resolve()
      })
      .resume()
  })
}

/**
 * Writes to a client, and waits until it has read enough of it. @throws where it reads nothing for too long
 */
function written(res: ServerResponse, bytes: Uint8Array): Promise<void> {
  return new Promise((resolve, reject) => {
    if (res.destroyed) return reject(new Error('The client disconnected.'))
    if (res.write(bytes)) return resolve()
    const end = (error?: Error): void => {
      clearTimeout(idle)
      res.off('drain', drained).off('close', gone)
      if (error) reject(error)
      else resolve()
    }
    const drained = (): void => end()
    const gone = (): void => end(new Error('The client disconnected.'))
    const idle = setTimeout(() => end(new Error(limits.idleReader.sentence)), limits.idleReader.most * 1000)
    res.on('drain', drained).on('close', gone)
  })
}
