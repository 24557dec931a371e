import { createError, defineEventHandler, getRouterParam, setHeader } from 'h3'
import { catalogue, demoBytes } from '../../../demo'

/** A sound by its content hash: it never changes, so it may be kept for ever. */
export default defineEventHandler(async (event) => {
  const hash = getRouterParam(event, 'hash')
  const sound = (await catalogue()).sounds.find((s) => s.hash === hash || s.formerly === hash)
  if (!sound) throw createError({ statusCode: 404, message: 'The demo has no sound of that hash.' })
  setHeader(event, 'content-type', 'audio/wav')
  setHeader(event, 'cache-control', 'public, max-age=31536000, immutable')
  return demoBytes(`${sound.file}.wav`)
})
