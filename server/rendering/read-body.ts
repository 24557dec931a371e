import type { IncomingMessage } from 'node:http'
import { limits } from '@oleaje/core/limits'
import { UploadError } from './upload-error'
import type { Uploads } from './uploads'

/** After so long without enough bytes, an upload is given up. */
const STALL_MS = 8000
/** Bytes that must come within that time. */
const LEAST = 64 * 1024

/**
 * Reads the body of a request as long as it keeps coming: some bytes every few seconds, all of them within a
 * minute.
 * @param length bytes that were promised
 * @param uploads where it counts among those that are coming
 * @throws UploadError
 */
export function readBody(req: IncomingMessage, length: number, uploads: Uploads): Promise<Uint8Array> {
  return new Promise((resolve, reject) => {
    // room is taken as it fills, and not for what is only promised
    let parts: Buffer[] = []
    let got = 0
    let before = 0
    const end = (error: Error | null): void => {
      clearInterval(stall)
      clearTimeout(whole)
      req.off('data', take).off('end', done).off('close', gone).off('error', gone)
      upload.leave()
      if (error) reject(error)
      else resolve(Buffer.concat(parts))
      parts = []
    }
    const take = (part: Buffer): void => {
      const rest = part.subarray(0, length - got)
      got += rest.length
      parts.push(rest)
      upload.took(rest.length)
    }
    const done = (): void =>
      end(got === length ? null : new UploadError(400, 'The request is shorter than its content-length.'))
    const gone = (): void => end(new UploadError(400, 'The client disconnected.'))
    const stall = setInterval(() => {
      if (got - before < Math.min(LEAST, length - before)) end(new UploadError(408, 'The upload stopped.'))
      before = got
    }, STALL_MS)
    const whole = setTimeout(
      () => end(new UploadError(408, limits.uploadTime.sentence)),
      limits.uploadTime.most * 1000,
    )
    const upload = uploads.enter(end)
    req.on('data', take).on('end', done).on('close', gone).on('error', gone)
  })
}
