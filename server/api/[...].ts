import { createError, defineEventHandler, setHeader } from 'h3'

/** The routes below /api and their methods. */
const routes: readonly [RegExp, string][] = [
  [/^\/api\/render$/, 'POST'],
  [/^\/api\/(health|schemas\/[^/]+)$/, 'GET'],
]

/** Everything below /api that no other file answers. */
export default defineEventHandler((event) => {
  const path = event.path.split('?')[0] ?? ''
  const method = routes.find(([known]) => known.test(path))?.[1]
  if (!method) throw createError({ statusCode: 404, message: 'Not found.' })
  setHeader(event, 'allow', method)
  throw createError({ statusCode: 405, message: `Use the method ${method}.` })
})
