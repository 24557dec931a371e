import { packSchema } from '@oleaje/core/formats/pack'
import { presetSchema } from '@oleaje/core/project/preset'
import { projectSchema } from '@oleaje/core/project/schema'
import { createError, defineEventHandler, getRouterParam } from 'h3'
import { z } from 'zod'

const schemas = new Map<string, z.ZodType>([
  ['project', projectSchema],
  ['preset', presetSchema],
  ['pack', packSchema],
])

/** The JSON Schemas of the files that Oleaje writes. */
export default defineEventHandler((event) => {
  const schema = schemas.get(getRouterParam(event, 'name') ?? '')
  if (!schema)
    throw createError({
      statusCode: 404,
      message: `There are schemas of: ${[...schemas.keys()].join(', ')}.`,
    })
  return z.toJSONSchema(schema, { io: 'input' })
})
