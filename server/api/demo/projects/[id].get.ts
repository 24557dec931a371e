import { createError, defineEventHandler, getRouterParam, setHeader } from 'h3'
import { catalogue, demoText } from '../../../demo'

export default defineEventHandler(async (event) => {
  const id = getRouterParam(event, 'id')
  const project = (await catalogue()).projects.find((p) => p.id === id)
  if (!project) throw createError({ statusCode: 404, message: 'The demo has no project of that name.' })
  setHeader(event, 'content-type', 'application/json; charset=utf-8')
  setHeader(event, 'cache-control', 'no-cache')
  return demoText(project.file)
})
